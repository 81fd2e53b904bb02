package accounts

import (
	"context"
	"errors"
	"time"

	"gobbet/core/fault"
	"gobbet/internal/store/pg"
)

// Sessions keeps the studio's sessions. It is scs.CtxStore: every question has
// a deadline, so that a database that hangs does not hang its askers.
type Sessions struct{ s *Store }

// Sessions gives the store of sessions.
func (s *Store) Sessions() Sessions { return Sessions{s} }

const sessionPatience = 4 * time.Second

var errNoContext = errors.New("sessions are asked for within a context")

// Find implements scs.Store; FindCtx is what is used.
func (Sessions) Find(string) ([]byte, bool, error) { return nil, false, errNoContext }

// Commit implements scs.Store; CommitCtx is what is used.
func (Sessions) Commit(string, []byte, time.Time) error { return errNoContext }

// Delete implements scs.Store; DeleteCtx is what is used.
func (Sessions) Delete(string) error { return errNoContext }

// FindCtx gives the data of a session that has not ended.
func (x Sessions) FindCtx(ctx context.Context, token string) (data []byte, ok bool, err error) {
	ctx, cancel := context.WithTimeout(ctx, sessionPatience)
	defer cancel()
	err = pg.Found(x.s.db.GetContext(ctx, &data, `select data from sessions where token = $1 and expiry > now()`, token))
	if errors.Is(err, fault.ErrNotFound) {
		return nil, false, nil
	}
	return data, err == nil, x.s.db.Freshen(err)
}

// CommitCtx keeps a session.
func (x Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	ctx, cancel := context.WithTimeout(ctx, sessionPatience)
	defer cancel()
	_, err := x.s.db.ExecContext(ctx, `
		insert into sessions (token, data, expiry) values ($1, $2, $3)
		on conflict (token) do update set data = excluded.data, expiry = excluded.expiry`, token, data, expiry)
	return err
}

// DeleteCtx ends a session.
func (x Sessions) DeleteCtx(ctx context.Context, token string) error {
	ctx, cancel := context.WithTimeout(ctx, sessionPatience)
	defer cancel()
	_, err := x.s.db.ExecContext(ctx, `delete from sessions where token = $1`, token)
	return err
}
