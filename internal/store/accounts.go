package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"golang.org/x/crypto/argon2"
)

// Account is someone who signs in to the studio.
type Account struct {
	ID       int64  `db:"id"`
	Email    string `db:"email"`
	Name     string `db:"name"`
	Password string `db:"password"`
}

// argon2id parameters: the second choice of RFC 9106, section 4.
const (
	argonTime   = 3
	argonMemory = 64 * 1024 // KiB
	argonLanes  = 4
	argonKey    = 32
)

const (
	hashesAtOnce  = 2 // 64 MB each
	hashesWaiting = 24
	hashPatience  = 5 * time.Second
)

// hashing lets few passwords be hashed at a time; the others wait their turn,
// and beyond those that may wait they are told to come back.
var hashing = struct{ turns, waiting chan struct{} }{make(chan struct{}, hashesAtOnce), make(chan struct{}, hashesAtOnce+hashesWaiting)}

func hashed(ctx context.Context, password string, salt []byte, times, memory uint32, lanes uint8, length uint32) ([]byte, error) {
	select {
	case hashing.waiting <- struct{}{}:
		defer func() { <-hashing.waiting }()
	default:
		return nil, ErrBusy
	}
	ctx, cancel := context.WithTimeout(ctx, hashPatience)
	defer cancel()
	select {
	case hashing.turns <- struct{}{}:
		defer func() { <-hashing.turns }()
	case <-ctx.Done():
		return nil, ErrBusy
	}
	return argon2.IDKey([]byte(password), salt, times, memory, lanes, length), nil
}

// HashPassword gives a password's argon2id hash in PHC form. It fails with
// ErrBusy where too many are hashed already.
func HashPassword(ctx context.Context, password string) (string, error) {
	salt := make([]byte, 16)
	rand.Read(salt)
	key, err := hashed(ctx, password, salt, argonTime, argonMemory, argonLanes, argonKey)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonLanes, b64(salt), b64(key)), err
}

func samePassword(ctx context.Context, hash, password string) (bool, error) {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false, nil
	}
	var memory, times uint32
	var lanes uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &times, &lanes); err != nil {
		return false, nil
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if errors.Join(err1, err2) != nil {
		return false, nil
	}
	got, err := hashed(ctx, password, salt, times, memory, lanes, uint32(len(want)))
	return err == nil && subtle.ConstantTimeCompare(got, want) == 1, err
}

// nobody is a hash that no password has. It is compared against where there is
// no such account, so that the time it takes does not tell who has one.
var nobody = func() string {
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonLanes, b64(make([]byte, 16)), b64(make([]byte, argonKey)))
}()

// SignIn gives the account that an address and a password belong to, or
// ErrNotFound, or ErrBusy where too many sign in at once.
func (s *Store) SignIn(ctx context.Context, email, password string) (Account, error) {
	var a Account
	err := found(s.db.GetContext(ctx, &a, `select id, email, name, password from accounts where email = lower($1)`, email))
	if err != nil && !errors.Is(err, ErrNotFound) {
		return Account{}, err
	}
	hash := a.Password
	if err != nil {
		hash = nobody
	}
	same, err := samePassword(ctx, hash, password)
	if err == nil && !same {
		err = ErrNotFound
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

// Account gives an account by its id.
func (s *Store) Account(ctx context.Context, id int64) (a Account, err error) {
	err = s.db.GetContext(ctx, &a, `select id, email, name, password from accounts where id = $1`, id)
	return a, found(err)
}

// AddAccount adds an account, or renews the password of one that is there.
func (s *Store) AddAccount(ctx context.Context, email, name, password string) (id int64, err error) {
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
