package store

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"

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

// HashPassword gives a password's argon2id hash in PHC form.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonLanes, argonKey)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonTime, argonLanes, b64(salt), b64(key))
}

func samePassword(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false
	}
	var memory, time uint32
	var lanes uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &time, &lanes); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if errors.Join(err1, err2) != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, time, memory, lanes, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1
}

// nobody's hash is compared against where there is no such account, so that
// the time it takes does not tell who has one.
var nobody = HashPassword(rand.Text())

// SignIn gives the account that an address and a password belong to, or ErrNotFound.
func (s *Store) SignIn(ctx context.Context, email, password string) (Account, error) {
	var a Account
	err := s.db.GetContext(ctx, &a, `select id, email, name, password from accounts where email = lower($1)`, email)
	if err = found(err); err != nil && !errors.Is(err, ErrNotFound) {
		return Account{}, err
	}
	if err != nil {
		samePassword(nobody, password)
		return Account{}, ErrNotFound
	}
	if !samePassword(a.Password, password) {
		return Account{}, ErrNotFound
	}
	return a, nil
}

// Account gives an account by its id.
func (s *Store) Account(ctx context.Context, id int64) (a Account, err error) {
	err = s.db.GetContext(ctx, &a, `select id, email, name, password from accounts where id = $1`, id)
	return a, found(err)
}

// AddAccount adds an account, or renews the password of one that is there.
func (s *Store) AddAccount(ctx context.Context, email, name, password string) (id int64, err error) {
	err = s.db.GetContext(ctx, &id, `
		insert into accounts (email, name, password) values (lower($1), $2, $3)
		on conflict (email) do update set name = excluded.name, password = excluded.password
		returning id`, email, name, HashPassword(password))
	return id, err
}
