package events

import (
	"context"
	"time"

	"gobbet/core/tally"
)

// Query picks raw events of a site, the latest first.
type Query struct {
	From, To time.Time
	Piece    string // empty: any
	Variant  string // empty: any
	Kind     string // empty: any
	Cut      string // one of tally.AllCuts, or empty
	Value    string // of the cut
	Before   string // where to look on; empty: from the latest
	Limit    int
}

// Page is events, the latest first.
type Page struct {
	Events []tally.Event
	// Next is where to look on; empty: all of the time was looked at.
	Next string
	// Since is how far back was looked.
	Since time.Time
}

// cutColumns are where events keep what visitors are told apart by.
var cutColumns = map[string]string{tally.ByPage: "page", tally.ByChannel: "channel", tally.ByDevice: "device", tally.ByCountry: "country", tally.ByKnown: "known"}

const (
	eventsAStep  = 10_000                 // raw events looked at in one question
	lookPatience = 120 * time.Millisecond // after which the page ends
)

// List gives a page of raw events. They lie in the order of their ids, which
// begin with their time, and are looked through from the latest. Where few fit,
// the page ends with fewer than its limit, so that no question takes long
// however many events there are.
func (s *Store) List(ctx context.Context, site int64, q Query) (page Page, err error) {
	fits := `($5 = '' or piece_id = $5) and ($6 = '' or variant = $6) and ($7 = '' or kind = $7)`
	before := q.Before
	if before == "" {
		before = idFrom(q.To)
	}
	args := []any{site, idFrom(q.From), before, eventsAStep, q.Piece, q.Variant, q.Kind, q.Limit}
	if column := cutColumns[q.Cut]; column != "" {
		fits += ` and ` + column + ` = $9`
		args = append(args, q.Value)
	}
	query := `
		with looked as materialized (select * from events where site_id = $1 and id >= $2 and id < $3 order by id desc limit $4),
			oldest as (select id from looked order by id limit 1)
		select id, at, kind, piece_id, variant, run, visitor, visit, page, channel, device, country, known, after_ms, goal, amount, within_days, ` + fits + ` as fits
		from looked where (` + fits + `) or id = (select id from oldest)
		order by id desc limit $8`
	page.Since = q.To
	for began := time.Now(); time.Since(began) < lookPatience; {
		var rows []struct {
			tally.Event
			Fits bool `db:"fits"`
		}
		args[7] = q.Limit - len(page.Events)
		if err := s.db.SelectContext(ctx, &rows, query, args...); err != nil {
			return page, err
		}
		if len(rows) == 0 {
			page.Next, page.Since = "", q.From
			return page, nil
		}
		for _, r := range rows {
			if page.Next, page.Since = r.ID, r.At; r.Fits {
				page.Events = append(page.Events, r.Event)
			}
		}
		args[2] = page.Next
		if len(page.Events) == q.Limit {
			break
		}
	}
	return page, nil
}

// idFrom is the first id of a time.
func idFrom(at time.Time) string { return monthStart(at) }
