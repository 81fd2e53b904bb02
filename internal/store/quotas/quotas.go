// Package quotas counts against limits for all processes together: wrong passwords
// one by one, and requests a few seconds later, many at once.
package quotas

import (
	"bytes"
	"context"
	"crypto/sha256"
	"errors"
	"slices"
	"time"

	limiter "github.com/ulule/limiter/v3"

	"gobbet/core/fault"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// Count is what one process has seen of a key.
type Count struct {
	Key  []byte // a digest of what is counted, and of the span of time
	Seen int64  // since it was last added
	Ends time.Time
}

// Add adds what this process has seen since, each count under its key and until its
// span ends, and gives what all processes have by now, in the same order.
func (s *Store) Add(ctx context.Context, counts []Count) (all []int64, err error) {
	// Sorted, as all rows: two processes then wait for each other in one direction.
	order := make([]int, len(counts))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return bytes.Compare(counts[a].Key, counts[b].Key) })
	var keys [][]byte
	var seen []int64
	var ends []time.Time
	for _, i := range order {
		keys, seen, ends = append(keys, counts[i].Key), append(seen, counts[i].Seen), append(ends, counts[i].Ends)
	}
	var rows []struct {
		Key   []byte
		Count int64
	}
	err = s.db.SelectContext(ctx, &rows, `
		insert into tries as t (key, count, ends) select * from unnest($1::bytea[], $2::bigint[], $3::timestamptz[])
		on conflict (key) do update set count = t.count + excluded.count returning key, count`, keys, seen, ends)
	if err != nil {
		return nil, err
	}
	together := map[string]int64{}
	for _, row := range rows {
		together[string(row.Key)] = row.Count
	}
	for _, c := range counts {
		all = append(all, together[string(c.Key)])
	}
	return all, nil
}

// Forget removes what is of spans that have ended.
func (s *Store) Forget(ctx context.Context) error {
	_, err := s.db.ExecContext(ctx, `delete from tries where ends < now()`)
	return err
}

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
