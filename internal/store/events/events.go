// Package events keeps what happened on visitors' pages, month by month, and the totals
// it comes to (core/tally).
package events

import (
	"cmp"
	"context"
	"errors"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/tally"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct {
	db     *pg.DB
	intake intake
}

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db, newIntake()} }

// batch is events of visitors of one bucket, with the site they are of.
type batch struct {
	site   int64
	zone   *time.Location
	bucket int
	events []tally.Event
	done   chan error
}

// intake gathers batches that come at once into one transaction: what arrives
// while one commits goes into the next. Each of a few writers has its visitors,
// so that no two count one at once, and counts in rows of its own, so that pages
// of one piece do not wait for each other.
type intake struct {
	writers [intakeWriters]*writer
	events  *atomic.Int64 // that wait
}

type writer struct {
	shard   int16
	mu      sync.Mutex
	waiting []*batch
	busy    bool
}

const (
	intakeWriters  = 2
	intakeBuckets  = 64     // of visitors; see lockBuckets
	intakeShards   = 64     // over all servers
	intakeAtOnce   = 4_000  // events in a transaction
	intakeWaiting  = 40_000 // events that may wait
	intakePatience = 8 * time.Second
)

// AnyShard is one of those that no intake takes.
func AnyShard() int16 { return int16(intakeShards + rand.IntN(intakeShards)) }

func newIntake() intake {
	in := intake{events: &atomic.Int64{}}
	first := rand.IntN(intakeShards)
	for i := range in.writers {
		in.writers[i] = &writer{shard: int16((first + i) % intakeShards)}
	}
	return in
}

// bucketOf is the bucket of a visitor, the same in every process.
func bucketOf(visitor string) int {
	h := fnv.New32a()
	h.Write([]byte(visitor))
	return int(h.Sum32() % intakeBuckets)
}

// Add stores events and counts them, and returns only once that is
// committed. An event that came before changes nothing. Days are in zone. It
// fails with ErrBusy where too many wait already. Where ctx ends first, or some
// fail, others may still be stored: sent again, they count once.
func (s *Store) Add(ctx context.Context, site int64, zone *time.Location, events []tally.Event) error {
	if len(events) == 0 {
		return nil
	}
	in := &s.intake
	if in.events.Add(int64(len(events))) > intakeWaiting {
		in.events.Add(-int64(len(events)))
		return fault.ErrBusy
	}
	var batches []*batch
	byBucket := map[int]*batch{}
	for i := range events {
		bucket := bucketOf(events[i].Visitor)
		b := byBucket[bucket]
		if b == nil {
			b = &batch{site: site, zone: zone, bucket: bucket, done: make(chan error, 1)}
			byBucket[bucket] = b
			batches = append(batches, b)
		}
		b.events = append(b.events, events[i])
	}
	for _, b := range batches {
		s.hand(in.writers[b.bucket%intakeWriters], b)
	}
	var errs []error
	for _, b := range batches {
		select {
		case err := <-b.done:
			errs = append(errs, err)
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return errors.Join(errs...)
}

// hand gives a batch to its writer, who begins unless already at work.
func (s *Store) hand(w *writer, b *batch) {
	w.mu.Lock()
	w.waiting = append(w.waiting, b)
	begins := !w.busy
	w.busy = true
	w.mu.Unlock()
	if begins {
		go s.write(w)
	}
}

// write stores what waits until nothing does.
func (s *Store) write(w *writer) {
	for {
		batches := w.take()
		if batches == nil {
			return
		}
		s.store(batches, w.shard)
	}
}

// take gives what goes into one transaction; nil ends the writer's work.
func (w *writer) take() (batches []*batch) {
	w.mu.Lock()
	defer w.mu.Unlock()
	n, events := 0, 0
	for n < len(w.waiting) && (n == 0 || events+len(w.waiting[n].events) <= intakeAtOnce) {
		events += len(w.waiting[n].events)
		n++
	}
	if n == 0 {
		w.busy = false
		return nil
	}
	batches = slices.Clone(w.waiting[:n])
	w.waiting = slices.Delete(w.waiting, 0, n)
	return batches
}

// store commits batches together; where that fails for a reason of theirs,
// each by itself, so that one cannot lose the others.
func (s *Store) store(batches []*batch, shard int16) {
	defer func() {
		for _, b := range batches {
			s.intake.events.Add(-int64(len(b.events)))
		}
	}()
	ctx, cancel := context.WithTimeout(context.Background(), intakePatience)
	defer cancel()
	err := s.storeTogether(ctx, shard, batches...)
	if err != nil && len(batches) > 1 && !pg.Unreachable(err) {
		for _, b := range batches {
			b.done <- s.storeTogether(ctx, shard, b)
		}
		return
	}
	for _, b := range batches {
		b.done <- err
	}
}

const storeTries = 3

// storeTogether commits batches, again where another server was in the way.
func (s *Store) storeTogether(ctx context.Context, shard int16, batches ...*batch) (err error) {
	for range storeTries {
		if err = s.db.Tx(ctx, func(tx *sqlx.Tx) error { return addEvents(ctx, tx, shard, batches...) }); !pg.IsDeadlock(err) {
			return err
		}
	}
	return err
}

func addEvents(ctx context.Context, tx *sqlx.Tx, shard int16, batches ...*batch) error {
	if err := lockBuckets(ctx, tx, batches); err != nil {
		return err
	}
	fresh, err := insertEvents(ctx, tx, batches)
	if err != nil {
		return err
	}
	return count(ctx, tx, shard, fresh)
}

// AddWithin stores an event as part of a transaction that stores more.
func AddWithin(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, e tally.Event) error {
	return addEvents(ctx, tx, AnyShard(), &batch{site: site, zone: zone, bucket: bucketOf(e.Visitor), events: []tally.Event{e}})
}

const bucketLocks = 0x60BBE7

// lockBuckets keeps what one visitor does on two servers at once in turn. A goal
// counts for the pieces that its visitor saw, and a first sight has the goals
// that were reached after it: of two transactions that each add one of these,
// neither would see the other's.
func lockBuckets(ctx context.Context, tx *sqlx.Tx, batches []*batch) error {
	goals := false
	var buckets []int
	var sites []int32
	for _, b := range batches {
		buckets, sites = append(buckets, b.bucket), append(sites, lockOf(b.site))
		goals = goals || slices.ContainsFunc(b.events, func(e tally.Event) bool { return e.Kind == tally.Reached })
	}
	slices.Sort(buckets)
	slices.Sort(sites)
	lock := `pg_advisory_xact_lock_shared($1::int, b)`
	if goals {
		lock = `pg_advisory_xact_lock($1::int, b)`
	}
	// A plan that was made while a table was empty reads all of it for good: what is
	// asked for from here on is always found by its key.
	_, err := tx.ExecContext(ctx, `
		select set_config('enable_seqscan', 'off', true), set_config('enable_hashjoin', 'off', true), set_config('enable_mergejoin', 'off', true),
			(select count(locked) from (select pg_advisory_xact_lock_shared($3::int, s) is null as locked from unnest($4::int[]) s) all_sites),
			(select count(locked) from (select `+lock+` is null as locked from unnest($2::int[]) b) all_of_them)`, bucketLocks, slices.Compact(buckets), siteLocks, slices.Compact(sites))
	return err
}

// placed is an event with its site.
type placed struct {
	Site int64
	tally.Event
	zone *time.Location
}

// siteID is an id within a site.
type siteID struct {
	site int64
	id   string
}

// insertEvents gives the events that were not there yet. Like all rows here
// they go in sorted: two transactions with rows in common then wait for each
// other in one direction, and never in a circle.
func insertEvents(ctx context.Context, tx *sqlx.Tx, batches []*batch) (fresh []placed, err error) {
	var events []placed
	for _, b := range batches {
		for _, e := range b.events {
			e.At = e.At.Truncate(time.Microsecond) // as it is kept
			events = append(events, placed{b.site, e, b.zone})
		}
	}
	slices.SortStableFunc(events, func(a, b placed) int { return cmp.Or(cmp.Compare(a.Site, b.Site), cmp.Compare(a.ID, b.ID)) })
	// Of two with one id the first is stored.
	events = slices.CompactFunc(events, func(a, b placed) bool { return a.Site == b.Site && a.ID == b.ID })
	var c pg.Columns
	for i := range events {
		e := &events[i]
		c.Add(e.Site, e.ID, e.At, e.Kind, e.Piece, e.Variant, e.Run, e.Visitor, e.Visit, e.Page, e.Channel, e.Device, e.Country, e.Known, e.After, e.Goal.Goal, e.Amount, e.Within)
	}
	var taken []struct {
		Site int64  `db:"site_id"`
		ID   string `db:"id"`
	}
	err = tx.SelectContext(ctx, &taken, `
		insert into events (site_id, id, at, kind, piece_id, variant, run, visitor, visit, page, channel, device, country, known, after_ms, goal, amount, within_days)
		select * from unnest($1::bigint[], $2::uuid[], $3::timestamptz[], $4::text[], $5::text[], $6::text[], $7::int[], $8::text[], $9::text[], $10::text[],
			$11::text[], $12::text[], $13::text[], $14::text[], $15::int[], $16::text[], $17::bigint[], $18::int[])
		on conflict do nothing
		returning site_id, id`, c.Lists(18)...)
	if err != nil || len(taken) == len(events) {
		return events, err
	}
	isNew := make(map[siteID]bool, len(taken))
	for _, row := range taken {
		isNew[siteID{row.Site, row.ID}] = true
	}
	for _, e := range events {
		if isNew[siteID{e.Site, e.ID}] {
			fresh = append(fresh, e)
		}
	}
	return fresh, nil
}
