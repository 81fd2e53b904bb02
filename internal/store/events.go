package store

import (
	"cmp"
	"context"
	"slices"
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

// AddEvents stores a batch and counts it, and returns only once that is
// committed. An event that came before changes nothing. Days are in zone.
func (s *Store) AddEvents(ctx context.Context, site int64, zone *time.Location, events []Event) error {
	if len(events) == 0 {
		return nil
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error { return addEvents(ctx, tx, site, zone, events) })
}

func addEvents(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, events []Event) error {
	fresh, err := insertEvents(ctx, tx, site, events)
	if err != nil {
		return err
	}
	return count(ctx, tx, site, zone, fresh)
}

// insertEvents gives the events that were not there yet. Like all rows here
// they go in sorted, so that two batches never wait for each other.
func insertEvents(ctx context.Context, tx *sqlx.Tx, site int64, events []Event) (fresh []Event, err error) {
	events = slices.SortedFunc(slices.Values(events), func(a, b Event) int { return cmp.Compare(a.ID, b.ID) })
	n := len(events)
	ids, ats := make([]string, n), make([]time.Time, n)
	kinds, pieces, variants := make([]string, n), make([]string, n), make([]string, n)
	visitors, visits, pages := make([]string, n), make([]string, n), make([]string, n)
	for i, e := range events {
		ids[i], ats[i], kinds[i], pieces[i], variants[i] = e.ID, e.At, e.Kind, e.Piece, e.Variant
		visitors[i], visits[i], pages[i] = e.Visitor, e.Visit, e.Page
	}
	err = tx.SelectContext(ctx, &fresh, `
		insert into events (site_id, id, at, kind, piece_id, variant, visitor, visit, page)
		select $1, * from unnest($2::uuid[], $3::timestamptz[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[])
		on conflict do nothing
		returning id, at, kind, piece_id, variant, visitor, visit, page`,
		site, ids, ats, kinds, pieces, variants, visitors, visits, pages)
	return fresh, err
}

// sighting is what a batch says of one visitor of one variant.
type sighting struct {
	piece, variant, visitor string
	first                   time.Time
	showings                int
	converted               *time.Time
	convertedBy             *string // the event
}

// gather folds a batch into sightings, sorted.
func gather(events []Event) []*sighting {
	type key struct{ piece, variant, visitor string }
	byKey := map[key]*sighting{}
	var all []*sighting
	for _, e := range events {
		if e.Kind == Closed {
			continue
		}
		k := key{e.Piece, e.Variant, e.Visitor}
		seen := byKey[k]
		if seen == nil {
			seen = &sighting{piece: e.Piece, variant: e.Variant, visitor: e.Visitor, first: e.At}
			byKey[k] = seen
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
		return cmp.Or(cmp.Compare(a.piece, b.piece), cmp.Compare(a.variant, b.variant), cmp.Compare(a.visitor, b.visitor))
	})
	return all
}

// count keeps seen and piece_days in step with the events. A conversion whose
// showing never arrived counts its visitor too: nobody converts unseen. The
// event that first converted a visitor is kept, so that of two batches at once
// exactly one counts it.
func count(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, events []Event) error {
	all := gather(events)
	if len(all) == 0 {
		return nil
	}
	n := len(all)
	pieces, variants, visitors := make([]string, n), make([]string, n), make([]string, n)
	firsts, days, showings := make([]time.Time, n), make([]string, n), make([]int, n)
	converted, convertedBy := make([]*time.Time, n), make([]*string, n)
	for i, seen := range all {
		pieces[i], variants[i], visitors[i], firsts[i] = seen.piece, seen.variant, seen.visitor, seen.first
		days[i], showings[i] = seen.first.In(zone).Format(time.DateOnly), seen.showings
		converted[i], convertedBy[i] = seen.converted, seen.convertedBy
	}
	_, err := tx.ExecContext(ctx, `
		with given as (
			select * from unnest($2::text[], $3::text[], $4::text[], $5::timestamptz[], $6::date[], $7::int[], $8::timestamptz[], $9::uuid[])
				with ordinality as g (piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by, n)
		), kept as (
			insert into seen as s (site_id, piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by)
			select $1, piece_id, variant, visitor, first_at, day, showings, converted_at, converted_by from given order by n
			on conflict (site_id, piece_id, variant, visitor) do update
				set showings = s.showings + excluded.showings,
					converted_at = coalesce(s.converted_at, excluded.converted_at),
					converted_by = coalesce(s.converted_by, excluded.converted_by)
			returning s.piece_id, s.variant, s.visitor, s.day, s.xmax = 0 as fresh, s.converted_by
		)
		insert into piece_days as d (site_id, piece_id, variant, day, visitors, showings, conversions)
		select $1, k.piece_id, k.variant, k.day,
			count(*) filter (where k.fresh), sum(g.showings), count(*) filter (where k.converted_by = g.converted_by)
		from kept k join given g using (piece_id, variant, visitor)
		group by k.piece_id, k.variant, k.day
		order by k.piece_id, k.variant, k.day
		on conflict (site_id, piece_id, variant, day) do update
			set visitors = d.visitors + excluded.visitors, showings = d.showings + excluded.showings, conversions = d.conversions + excluded.conversions`,
		site, pieces, variants, visitors, firsts, days, showings, converted, convertedBy)
	return err
}
