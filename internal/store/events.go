package store

import (
	"cmp"
	"context"
	"errors"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"
)

// Event is something that happened to a piece on a visitor's page. Its fields
// are checked before they come here.
type Event struct {
	ID      string    `db:"id"` // a UUID of the page's making
	At      time.Time `db:"at"`
	Kind    string    `db:"kind"` // shown, closed or converted
	Piece   string    `db:"piece_id"`
	Variant string    `db:"variant"`
	Visitor string    `db:"visitor"`
	Visit   string    `db:"visit"`
	Page    string    `db:"page"`
}

// Kinds of event.
const (
	Shown     = "shown"
	Closed    = "closed"
	Converted = "converted"
)

// ErrBusy is that more is asked for at once than can be done.
var ErrBusy = errors.New("more at once than can be done")

// batch is events of one page, with the site they are of.
type batch struct {
	site   int64
	zone   *time.Location
	events []Event
	done   chan error
}

// intake gathers batches that come at once into one transaction: what arrives
// while one commits goes into the next. Few write at a time, each counting in
// rows of its own, so that pages of one piece do not wait for each other.
type intake struct {
	mu      *sync.Mutex
	waiting *[]*batch
	events  *int // in waiting
	shards  chan int16
}

const (
	intakeWriters  = 4
	intakeShards   = 64     // over all servers
	intakeAtOnce   = 4_000  // events in a transaction
	intakeWaiting  = 40_000 // events that may wait
	intakePatience = 8 * time.Second
)

// anyShard is one of those that no intake takes.
func anyShard() int16 { return int16(intakeShards + rand.IntN(intakeShards)) }

func newIntake() intake {
	in := intake{mu: &sync.Mutex{}, waiting: new([]*batch), events: new(int), shards: make(chan int16, intakeWriters)}
	first := rand.IntN(intakeShards)
	for i := range intakeWriters {
		in.shards <- int16((first + i) % intakeShards)
	}
	return in
}

// AddEvents stores a batch and counts it, and returns only once that is
// committed. An event that came before changes nothing. Days are in zone. It
// fails with ErrBusy where too many wait already. Where ctx ends first, the
// batch may still be stored.
func (s *Store) AddEvents(ctx context.Context, site int64, zone *time.Location, events []Event) error {
	if len(events) == 0 {
		return nil
	}
	b := &batch{site, zone, events, make(chan error, 1)}
	in := &s.intake
	in.mu.Lock()
	if *in.events+len(events) > intakeWaiting {
		in.mu.Unlock()
		return ErrBusy
	}
	*in.waiting = append(*in.waiting, b)
	*in.events += len(events)
	in.mu.Unlock()
	select {
	case shard := <-in.shards:
		go s.write(shard)
	default: // those who write take it with them
	}
	select {
	case err := <-b.done:
		return err
	case <-ctx.Done():
		return ctx.Err()
	}
}

// write stores what waits until nothing does.
func (s *Store) write(shard int16) {
	for {
		batches := s.intake.take()
		if batches == nil {
			s.intake.shards <- shard
			// One may have come between the look and the giving back.
			if !s.intake.any() {
				return
			}
			select {
			case shard = <-s.intake.shards:
				continue
			default:
				return
			}
		}
		s.store(batches, shard)
	}
}

func (in *intake) any() bool {
	in.mu.Lock()
	defer in.mu.Unlock()
	return len(*in.waiting) > 0
}

func (in *intake) take() (batches []*batch) {
	in.mu.Lock()
	defer in.mu.Unlock()
	n, events := 0, 0
	for n < len(*in.waiting) && (n == 0 || events+len((*in.waiting)[n].events) <= intakeAtOnce) {
		events += len((*in.waiting)[n].events)
		n++
	}
	if n == 0 {
		return nil
	}
	batches = slices.Clone((*in.waiting)[:n])
	*in.waiting = slices.Delete(*in.waiting, 0, n)
	*in.events -= events
	return batches
}

// store commits batches together; where that fails for a reason of theirs,
// each by itself, so that one cannot lose the others.
func (s *Store) store(batches []*batch, shard int16) {
	ctx, cancel := context.WithTimeout(context.Background(), intakePatience)
	defer cancel()
	err := s.tx(ctx, func(tx *sqlx.Tx) error { return addEvents(ctx, tx, shard, batches...) })
	if err != nil && len(batches) > 1 && !Unreachable(err) {
		for _, b := range batches {
			b.done <- s.tx(ctx, func(tx *sqlx.Tx) error { return addEvents(ctx, tx, shard, b) })
		}
		return
	}
	for _, b := range batches {
		b.done <- err
	}
}

func addEvents(ctx context.Context, tx *sqlx.Tx, shard int16, batches ...*batch) error {
	fresh, err := insertEvents(ctx, tx, batches)
	if err != nil {
		return err
	}
	return count(ctx, tx, shard, fresh)
}

// placed is an event with its site.
type placed struct {
	Site int64 `db:"site_id"`
	Event
	zone *time.Location
}

// insertEvents gives the events that were not there yet. Like all rows here
// they go in sorted: two transactions with rows in common then wait for each
// other in one direction, and never in a circle.
func insertEvents(ctx context.Context, tx *sqlx.Tx, batches []*batch) (fresh []placed, err error) {
	var events []placed
	zones := map[int64]*time.Location{}
	for _, b := range batches {
		zones[b.site] = b.zone
		for _, e := range b.events {
			events = append(events, placed{b.site, e, nil})
		}
	}
	slices.SortStableFunc(events, func(a, b placed) int { return cmp.Or(cmp.Compare(a.Site, b.Site), cmp.Compare(a.ID, b.ID)) })
	n := len(events)
	sites, ids, ats := make([]int64, n), make([]string, n), make([]time.Time, n)
	kinds, pieces, variants := make([]string, n), make([]string, n), make([]string, n)
	visitors, visits, pages := make([]string, n), make([]string, n), make([]string, n)
	for i, e := range events {
		sites[i], ids[i], ats[i], kinds[i], pieces[i], variants[i] = e.Site, e.ID, e.At, e.Kind, e.Piece, e.Variant
		visitors[i], visits[i], pages[i] = e.Visitor, e.Visit, e.Page
	}
	var taken []struct {
		Site int64  `db:"site_id"`
		ID   string `db:"id"`
	}
	err = tx.SelectContext(ctx, &taken, `
		insert into events (site_id, id, at, kind, piece_id, variant, visitor, visit, page)
		select * from unnest($1::bigint[], $2::uuid[], $3::timestamptz[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[])
		on conflict do nothing
		returning site_id, id`,
		sites, ids, ats, kinds, pieces, variants, visitors, visits, pages)
	if err != nil {
		return nil, err
	}
	type key struct {
		site int64
		id   string
	}
	isNew := make(map[key]bool, len(taken))
	for _, row := range taken {
		isNew[key{row.Site, row.ID}] = true
	}
	for _, e := range events {
		k := key{e.Site, e.ID}
		if isNew[k] {
			delete(isNew, k) // of two with one id the first was stored
			e.zone = zones[e.Site]
			fresh = append(fresh, e)
		}
	}
	return fresh, nil
}

// sighting is what events say of one visitor of one variant.
type sighting struct {
	sighted
	zone        *time.Location
	first       time.Time
	showings    int
	converted   *time.Time
	convertedBy *string // the event
}

type sighted struct {
	site                    int64
	piece, variant, visitor string
}

// gather folds events into sightings, sorted.
func gather(events []placed) []*sighting {
	bySighted := map[sighted]*sighting{}
	var all []*sighting
	for _, e := range events {
		if e.Kind == Closed {
			continue
		}
		k := sighted{e.Site, e.Piece, e.Variant, e.Visitor}
		seen := bySighted[k]
		if seen == nil {
			seen = &sighting{sighted: k, zone: e.zone, first: e.At}
			bySighted[k] = seen
			all = append(all, seen)
		}
		if e.At.Before(seen.first) {
			seen.first = e.At
		}
		switch e.Kind {
		case Shown:
			seen.showings++
		case Converted:
			if seen.converted == nil || e.At.Before(*seen.converted) {
				at, id := e.At, e.ID
				seen.converted, seen.convertedBy = &at, &id
			}
		}
	}
	slices.SortFunc(all, func(a, b *sighting) int {
		return cmp.Or(cmp.Compare(a.site, b.site), cmp.Compare(a.piece, b.piece), cmp.Compare(a.variant, b.variant), cmp.Compare(a.visitor, b.visitor))
	})
	return all
}

// count keeps seen and piece_days in step with the events. A conversion whose
// showing never arrived counts its visitor too: nobody converts unseen. The
// event that first converted a visitor is kept, so that of two batches at once
// exactly one counts it. Each writer adds to the rows of its shard, and whoever
// reads adds the shards up.
func count(ctx context.Context, tx *sqlx.Tx, shard int16, events []placed) error {
	all := gather(events)
	if len(all) == 0 {
		return nil
	}
	n := len(all)
	sites := make([]int64, n)
	pieces, variants, visitors := make([]string, n), make([]string, n), make([]string, n)
	firsts, days, showings := make([]time.Time, n), make([]string, n), make([]int, n)
	converted, convertedBy := make([]*time.Time, n), make([]*string, n)
	for i, seen := range all {
		sites[i], pieces[i], variants[i], visitors[i], firsts[i] = seen.site, seen.piece, seen.variant, seen.visitor, seen.first
		days[i], showings[i] = seen.first.In(seen.zone).Format(time.DateOnly), seen.showings
		converted[i], convertedBy[i] = seen.converted, seen.convertedBy
	}
	_, err := tx.ExecContext(ctx, `
		with given as (
			select * from unnest($1::bigint[], $2::text[], $3::text[], $4::text[], $5::timestamptz[], $6::date[], $7::int[], $8::timestamptz[], $9::uuid[])
				with ordinality as g (site_id, piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by, n)
		), kept as (
			insert into seen as s (site_id, piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by)
			select site_id, piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by from given order by n
			on conflict (site_id, piece_id, variant, visitor) do update
				set showings = s.showings + excluded.showings,
					converted_at = coalesce(s.converted_at, excluded.converted_at),
					converted_by = coalesce(s.converted_by, excluded.converted_by)
			returning s.site_id, s.piece_id, s.variant, s.visitor, s.day, s.xmax = 0 as fresh, s.converted_by
		)
		insert into piece_days as d (site_id, piece_id, variant, day, shard, visitors, showings, conversions)
		select k.site_id, k.piece_id, k.variant, k.day, $10,
			count(*) filter (where k.fresh), sum(g.showings), count(*) filter (where k.converted_by = g.converted_by)
		from kept k join given g using (site_id, piece_id, variant, visitor)
		group by k.site_id, k.piece_id, k.variant, k.day
		order by k.site_id, k.piece_id, k.variant, k.day
		on conflict (site_id, piece_id, variant, day, shard) do update
			set visitors = d.visitors + excluded.visitors, showings = d.showings + excluded.showings, conversions = d.conversions + excluded.conversions`,
		sites, pieces, variants, visitors, firsts, days, showings, converted, convertedBy, shard)
	return err
}
