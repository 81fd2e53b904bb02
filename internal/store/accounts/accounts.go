// Package accounts keeps who may sign in: accounts, their sessions, and the browsers
// they are known in.
package accounts

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"time"

	"github.com/alexedwards/argon2id"
	"golang.org/x/sync/semaphore"

	"gobbet/core/fault"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// Account is someone who signs in to the studio.
type Account struct {
	ID       int64  `db:"id"`
	Email    string `db:"email"`
	Name     string `db:"name"`
	Password string `db:"password"`
}

// PasswordCost is what a password's hash costs: the second choice of RFC 9106,
// section 4. Tests that sign in by the hundred set a lesser one.
var PasswordCost = argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

const (
	hashesAtOnce  = 2 // 64 MB each
	hashesWaiting = 24
	hashPatience  = 5 * time.Second
)

// hashing lets few passwords be hashed at a time; the others wait their turn,
// and beyond those that may wait they are told to come back.
var hashing = struct{ turns, waiting *semaphore.Weighted }{semaphore.NewWeighted(hashesAtOnce), semaphore.NewWeighted(hashesAtOnce + hashesWaiting)}

// hash runs do when it is its turn; ErrBusy where too many wait already.
func hash(ctx context.Context, do func() error) error {
	if !hashing.waiting.TryAcquire(1) {
		return fault.ErrBusy
	}
	defer hashing.waiting.Release(1)
	ctx, cancel := context.WithTimeout(ctx, hashPatience)
	defer cancel()
	if hashing.turns.Acquire(ctx, 1) != nil {
		return fault.ErrBusy
	}
	defer hashing.turns.Release(1)
	return do()
}

// HashPassword gives a password's argon2id hash in PHC form. It fails with
// ErrBusy where too many are hashed already.
func HashPassword(ctx context.Context, password string) (phc string, err error) {
	err = hash(ctx, func() (err error) {
		phc, err = argon2id.CreateHash(password, &PasswordCost)
		return err
	})
	return phc, err
}

// samePassword compares a password with a hash; a hash that cannot be read is
// nobody's.
func samePassword(ctx context.Context, phc, password string) (same bool, err error) {
	err = hash(ctx, func() error {
		same, _ = argon2id.ComparePasswordAndHash(password, phc)
		return nil
	})
	return same, err
}

// nobody is a hash that no password has. It is compared against where there is
// no such account, so that the time it takes does not tell who has one.
func nobody() string {
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", PasswordCost.Memory, PasswordCost.Iterations, PasswordCost.Parallelism, b64(make([]byte, PasswordCost.SaltLength)), b64(make([]byte, PasswordCost.KeyLength)))
}

// SignIn gives the account that an address and a password belong to, or
// ErrNotFound, or ErrBusy where too many sign in at once.
func (s *Store) SignIn(ctx context.Context, email, password string) (Account, error) {
	var a Account
	err := pg.Found(s.db.GetContext(ctx, &a, `select id, email, name, password from accounts where email = lower($1)`, email))
	if err != nil && !errors.Is(err, fault.ErrNotFound) {
		return Account{}, err
	}
	phc := a.Password
	if err != nil {
		phc = nobody()
	}
	same, err := samePassword(ctx, phc, password)
	if err == nil && !same {
		err = fault.ErrNotFound
	}
	if err != nil {
		return Account{}, err
	}
	return a, nil
}

// KnownBrowser reports whether an account has signed in with this browser's token.
func (s *Store) KnownBrowser(ctx context.Context, email, token string) (known bool, err error) {
	hash := sha256.Sum256([]byte(token))
	err = s.db.GetContext(ctx, &known, `
		select exists (select 1 from known_browsers b join accounts a on a.id = b.account_id where b.token_hash = $1 and a.email = lower($2))`, hash[:], email)
	return known, err
}

// KeepBrowser remembers that an account has signed in with this browser's token.
func (s *Store) KeepBrowser(ctx context.Context, account int64, token string) error {
	hash := sha256.Sum256([]byte(token))
	_, err := s.db.ExecContext(ctx, `
		insert into known_browsers (token_hash, account_id) values ($1, $2)
		on conflict (token_hash) do update set account_id = excluded.account_id, used_at = now()`, hash[:], account)
	return err
}

// Get gives an account by its id.
func (s *Store) Get(ctx context.Context, id int64) (a Account, err error) {
	err = s.db.GetContext(ctx, &a, `select id, email, name, password from accounts where id = $1`, id)
	return a, pg.Found(err)
}

// Add adds an account, or renews the password of one that is there.
func (s *Store) Add(ctx context.Context, email, name, password string) (id int64, err error) {
	hash, err := HashPassword(ctx, password)
	if err != nil {
		return 0, err
	}
	err = s.db.GetContext(ctx, &id, `
		insert into accounts (email, name, password) values (lower($1), $2, $3)
		on conflict (email) do update set name = excluded.name, password = excluded.password
		returning id`, email, name, hash)
	return id, err
}
