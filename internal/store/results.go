package store

import (
	"context"
	"time"
)

// Tally is what a variant was seen to do over some days: visitors counted once,
// on the day they first saw it, and whether those visitors ever converted.
type Tally struct {
	Piece       string    `db:"piece_id"`
	Variant     string    `db:"variant"`
	Day         time.Time `db:"day"`
	Visitors    int       `db:"visitors"`
	Showings    int       `db:"showings"`
	Conversions int       `db:"conversions"`
}

// Days gives a site's tallies by day since a day, or one piece's where piece is not empty.
func (s *Store) Days(ctx context.Context, site int64, piece string, since time.Time) (days []Tally, err error) {
	err = s.db.SelectContext(ctx, &days, `
		select piece_id, variant, day, sum(visitors) as visitors, sum(showings) as showings, sum(conversions) as conversions from piece_days
		where site_id = $1 and ($2 = '' or piece_id = $2) and day >= $3
		group by piece_id, variant, day order by piece_id, variant, day`, site, piece, since.Format(time.DateOnly))
	return days, err
}

// SawBoth counts the visitors who saw more than one variant of a piece.
func (s *Store) SawBoth(ctx context.Context, site int64, piece string) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `
		select count(*) from (
			select 1 from seen where site_id = $1 and piece_id = $2
			group by visitor having count(*) > 1) both_seen`, site, piece)
	return n, err
}
