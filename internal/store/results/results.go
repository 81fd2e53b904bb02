// Package results reads totals, as questions about a site are put.
package results

import (
	"context"
	"time"

	"gobbet/core/compare"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// Tally is what a variant was seen to do over some days: visitors counted once
// a piece, on the day they first saw it, and whether those visitors ever
// converted; showings on the day they were.
type Tally struct {
	Piece       string    `db:"piece_id"`
	Variant     string    `db:"variant"`
	Day         time.Time `db:"day"`
	Visitors    int       `db:"visitors"`
	Showings    int       `db:"showings"`
	Conversions int       `db:"conversions"`
}

// Days gives a site's tallies by day since a day, or one piece's where piece is
// not empty; without visitors who are held back.
func (s *Store) Days(ctx context.Context, site int64, piece string, since time.Time) (days []Tally, err error) {
	err = s.db.SelectContext(ctx, &days, `
		select piece_id, variant, day, sum(visitors) as visitors, sum(showings) as showings, sum(conversions) as conversions from day_totals
		where site_id = $1 and ($2 = '' or piece_id = $2) and cut = '' and goal = '' and day >= $3 and variant <> ''
		group by piece_id, variant, day order by piece_id, variant, day`, site, piece, since.Format(time.DateOnly))
	return days, err
}

// RunTotals gives a piece's totals by day, run, variant and goal; for a cut also
// by its values. They come by day.
func (s *Store) RunTotals(ctx context.Context, site int64, piece, cut string) (totals []compare.Total, err error) {
	err = s.db.SelectContext(ctx, &totals, `
		select piece_id as piece, run, variant, goal, cut, value, day, sum(visitors) as visitors, sum(conversions) as conversions, sum(showings) as showings, sum(several) as several,
			sum(amount) as amount, sum(squares)::float8 as squares
		from day_totals where site_id = $1 and piece_id = $2 and cut = $3
		group by piece_id, run, variant, goal, cut, value, day order by day, run, variant, goal, value`, site, piece, cut)
	return totals, err
}

// RunSums gives what came of every piece of a site in all its time, by run, variant
// and goal.
func (s *Store) RunSums(ctx context.Context, site int64) (totals []compare.Total, err error) {
	err = s.db.SelectContext(ctx, &totals, `
		select piece_id as piece, run, variant, goal, cut, value, max(day) as day, sum(visitors) as visitors, sum(conversions) as conversions, sum(showings) as showings,
			sum(several) as several, sum(amount) as amount, sum(squares)::float8 as squares
		from day_totals where site_id = $1 and cut = '' group by piece_id, run, variant, goal, cut, value order by piece_id, run, variant, goal`, site)
	return totals, err
}

// RangeTotals gives what came of all pieces in some days, by piece, run, variant
// and goal, and for a cut also by its values; of one piece where piece is not
// empty. Day is the first of the range.
func (s *Store) RangeTotals(ctx context.Context, site int64, piece string, from, to time.Time, cut string) (totals []compare.Total, err error) {
	err = s.db.SelectContext(ctx, &totals, `
		select piece_id as piece, run, variant, goal, cut, value, $3::date as day, sum(visitors) as visitors, sum(conversions) as conversions, sum(showings) as showings,
			sum(several) as several, sum(amount) as amount, sum(squares)::float8 as squares
		from day_totals where site_id = $1 and ($2 = '' or piece_id = $2) and cut = $5 and day between $3 and $4
		group by piece_id, run, variant, goal, cut, value order by piece_id, run, variant, goal, value`, site, piece, from, to, cut)
	return totals, err
}

// StepTotals gives the visitors and conversions of those shown a piece and those
// held back, by goal and by steps of some days from the first.
func (s *Store) StepTotals(ctx context.Context, site int64, piece string, from, to time.Time, step int) (totals []compare.Total, err error) {
	err = s.db.SelectContext(ctx, &totals, `
		select piece_id as piece, run, variant, goal, cut, '' as value, ($3::date + (day - $3::date) / $5::int * $5::int) as day, sum(visitors) as visitors, sum(conversions) as conversions,
			sum(showings) as showings, sum(several) as several, sum(amount) as amount, sum(squares)::float8 as squares
		from day_totals where site_id = $1 and ($2 = '' or piece_id = $2) and cut = '' and day between $3 and $4
		group by 1, 2, 3, 4, 5, 7 order by 7, 1, 2, 3, 4`, site, piece, from, to, step)
	return totals, err
}

// HourTotal is what happened in an hour, over all variants shown, or of those held back.
type HourTotal struct {
	Piece     string    `db:"piece_id"`
	Held      bool      `db:"held"`
	Hour      time.Time `db:"hour"`
	Visitors  int       `db:"visitors"`
	Converted int       `db:"converted"`
	Showings  int       `db:"showings"`
	Closes    int       `db:"closes"`
	Quick     int       `db:"quick"`
	Lefts     int       `db:"lefts"`
}

// HourSums gives what happened on each weekday and hour of the site's clock, as
// hours of the first week of 2024, which began on a Monday.
func (s *Store) HourSums(ctx context.Context, site int64, piece string, from, to time.Time, zone string) (sums []HourTotal, err error) {
	err = s.db.SelectContext(ctx, &sums, `
		select '' as piece_id, false as held, timestamptz '2024-01-01 00:00Z' + make_interval(hours => (extract(isodow from hour at time zone $5)::int - 1) * 24 + extract(hour from hour at time zone $5)::int) as hour,
			sum(visitors) as visitors, sum(converted) as converted, sum(showings) as showings, sum(closes) as closes, sum(quick) as quick, sum(lefts) as lefts
		from (
			select hour, sum(visitors) as visitors, sum(converted) as converted, sum(showings) as showings, sum(closes) as closes, sum(quick) as quick, sum(lefts) as lefts
			from hour_totals where site_id = $1 and ($2 = '' or piece_id = $2) and hour >= $3 and hour < $4 and variant <> '' group by hour
		) by_hour
		group by 3 order by 3`, site, piece, from, to, zone)
	return sums, err
}

// PieceSums gives what happened to each piece in a time, those shown it and those
// held back apart.
func (s *Store) PieceSums(ctx context.Context, site int64, piece string, from, to time.Time) (sums []HourTotal, err error) {
	err = s.db.SelectContext(ctx, &sums, `
		select piece_id, variant = '' as held, min(hour) as hour, sum(visitors) as visitors, sum(converted) as converted, sum(showings) as showings,
			sum(closes) as closes, sum(quick) as quick, sum(lefts) as lefts
		from hour_totals where site_id = $1 and ($2 = '' or piece_id = $2) and hour >= $3 and hour < $4
		group by piece_id, variant = '' order by piece_id`, site, piece, from, to)
	return sums, err
}

// GoalSum is how often a goal was reached, and when last.
type GoalSum struct {
	Goal   string    `db:"goal"`
	Times  int       `db:"times"`
	Amount int64     `db:"amount"` // in hundredths
	Last   time.Time `db:"last"`
}

// GoalsReached gives how often each goal was reached in a time, by anybody.
func (s *Store) GoalsReached(ctx context.Context, site int64, from, to time.Time) (sums []GoalSum, err error) {
	err = s.db.SelectContext(ctx, &sums, `
		select goal, sum(times) as times, sum(amount) as amount, max(hour) as last from goal_hours where site_id = $1 and hour >= $2 and hour < $3 group by goal`, site, from, to)
	return sums, err
}

// LeadsOf is the leads that came from a channel, and how many of them reached a
// goal after they left their address.
type LeadsOf struct {
	Channel string `db:"channel"`
	Leads   int    `db:"leads"`
	Ordered int    `db:"ordered"`
	Amount  int64  `db:"amount"` // in hundredths
}

const mostQuality = 50_000

// of the latest leads

// LeadQuality gives that of the leads who left their address in a time, each by
// the channel of their first submission; of the latest, where there are very many.
func (s *Store) LeadQuality(ctx context.Context, site int64, piece string, from, to time.Time, goal string) (all []LeadsOf, err error) {
	err = s.db.SelectContext(ctx, &all, `
		with sent as (
			select lead_id, channel, visitor, at from submissions
			where site_id = $1 and at >= $3 and at < $4 and lead_id is not null and ($2 = '' or piece_id = $2) order by at desc limit $6
		), came as (
			select distinct on (lead_id) lead_id, channel, visitor, at from sent order by lead_id, at
		)
		select coalesce(nullif(c.channel, ''), 'direct') as channel, count(*) as leads, count(*) filter (where g.times > 0) as ordered, coalesce(sum(g.amount), 0)::bigint as amount
		from came c left join lateral (
			select count(*) as times, sum(amount) as amount from goals_reached r where r.site_id = $1 and r.visitor = c.visitor and r.goal = $5 and r.at >= c.at
		) g on true
		group by 1 order by leads desc, 1`, site, piece, from, to, goal, mostQuality)
	return all, err
}
