package accounts

import (
	"context"
	"crypto/sha256"
	"errors"
	"time"

	limiter "github.com/ulule/limiter/v3"

	"gobbet/core/fault"
	"gobbet/internal/store/pg"
)

// Tries counts tries against a limit for all processes together. It is a store
// of package limiter: a fixed span begins with the first try.
func (s *Store) Tries() limiter.Store { return triesStore{s} }

type triesStore struct{ *Store }

func triesKey(key string, rate limiter.Rate) []byte {
	sum := sha256.Sum256([]byte(rate.Formatted + "\x00" + key))
	return sum[:]
}

// Get counts one try.
func (t triesStore) Get(ctx context.Context, key string, rate limiter.Rate) (limiter.Context, error) {
	return t.Increment(ctx, key, 1, rate)
}

// Increment counts several tries.
func (t triesStore) Increment(ctx context.Context, key string, n int64, rate limiter.Rate) (limiter.Context, error) {
	var row struct {
		Count int64     `db:"count"`
		Ends  time.Time `db:"ends"`
	}
	err := t.db.GetContext(ctx, &row, `
		insert into tries as t (key, count, ends) values ($1, $2, now() + make_interval(secs => $3))
		on conflict (key) do update set count = case when t.ends > now() then t.count else 0 end + excluded.count, ends = case when t.ends > now() then t.ends else excluded.ends end
		returning count, ends`, triesKey(key, rate), n, rate.Period.Seconds())
	return countOf(rate, row.Count, row.Ends), err
}

// Peek looks at the count and leaves it as it is.
func (t triesStore) Peek(ctx context.Context, key string, rate limiter.Rate) (limiter.Context, error) {
	var row struct {
		Count int64     `db:"count"`
		Ends  time.Time `db:"ends"`
	}
	err := pg.Found(t.db.GetContext(ctx, &row, `select count, ends from tries where key = $1 and ends > now()`, triesKey(key, rate)))
	if errors.Is(err, fault.ErrNotFound) {
		row.Ends, err = time.Now().Add(rate.Period), nil
	}
	return countOf(rate, row.Count, row.Ends), err
}

// Reset begins anew.
func (t triesStore) Reset(ctx context.Context, key string, rate limiter.Rate) (limiter.Context, error) {
	_, err := t.db.ExecContext(ctx, `delete from tries where key = $1`, triesKey(key, rate))
	return countOf(rate, 0, time.Now().Add(rate.Period)), err
}

func countOf(rate limiter.Rate, count int64, ends time.Time) limiter.Context {
	return limiter.Context{Limit: rate.Limit, Remaining: max(0, rate.Limit-count), Reset: ends.Unix(), Reached: count > rate.Limit}
}
