package store

import (
	"context"
	"time"
)

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

// RunTotal is what came of a variant in a run on a day.
type RunTotal struct {
	Piece       string    `db:"piece_id"`
	Run         int       `db:"run"`
	Variant     string    `db:"variant"` // empty: held back
	Goal        string    `db:"goal"`    // empty: the piece's own conversion
	Cut         string    `db:"cut"`
	Value       string    `db:"value"`
	Day         time.Time `db:"day"`
	Visitors    int       `db:"visitors"`
	Conversions int       `db:"conversions"`
	Showings    int       `db:"showings"`
	Several     int       `db:"several"`
	Amount      int64     `db:"amount"`  // in hundredths
	Squares     float64   `db:"squares"` // of each visitor's amount, in hundredths squared
}

// RunTotals gives a piece's totals by day, run, variant and goal; for a cut also
// by its values. They come by day.
func (s *Store) RunTotals(ctx context.Context, site int64, piece, cut string) (totals []RunTotal, err error) {
	err = s.db.SelectContext(ctx, &totals, `
		select piece_id, run, variant, goal, cut, value, day, sum(visitors) as visitors, sum(conversions) as conversions, sum(showings) as showings, sum(several) as several,
			sum(amount) as amount, sum(squares)::float8 as squares
		from day_totals where site_id = $1 and piece_id = $2 and cut = $3
		group by piece_id, run, variant, goal, cut, value, day order by day, run, variant, goal, value`, site, piece, cut)
	return totals, err
}
