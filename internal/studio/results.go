package studio

import (
	"slices"
	"time"

	"gobbet/core/compare"

	"gobbet/internal/route"

	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"

	"gobbet/core/piece"
	"gobbet/core/weigh"
)

const confidence = compare.Confidence

// tallied sums tallies to a rate with its bounds.
func tallied(tallies []results.Tally) Measure {
	var m Measure
	for _, t := range tallies {
		m.Visitors += t.Visitors
		m.Showings += t.Showings
		m.Conversions += t.Conversions
	}
	if rate, ok := m.count().Rate(); ok {
		m.Rate = &rate
	}
	m.Interval = weigh.Wilson(m.count(), confidence)
	return m
}

func (m Measure) count() weigh.Count {
	return weigh.Count{Visitors: m.Visitors, Conversions: m.Conversions}
}

// line sums tallies by day.
func line(tallies []results.Tally) []DayCount {
	days := []DayCount{}
	for _, t := range slices.SortedStableFunc(slices.Values(tallies), func(a, b results.Tally) int { return a.Day.Compare(b.Day) }) {
		day := t.Day.Format(time.DateOnly)
		if n := len(days); n == 0 || days[n-1].Day != day {
			days = append(days, DayCount{Day: day})
		}
		last := &days[len(days)-1]
		last.Visitors += t.Visitors
		last.Conversions += t.Conversions
	}
	return days
}

// measured reads the piece that is asked about as visitors have it; a draft as
// it is worked on.
func (s *Server) measured(c *route.Call, site int64) (row pieces.Piece, p *piece.Piece, err error) {
	row, err = s.store.Pieces.Get(c, site, c.Param("piece"))
	if err != nil {
		return row, nil, err
	}
	doc := []byte(row.Draft)
	if row.State != "draft" {
		doc = row.Live
	}
	p, err = s.readPiece(c, doc)
	return row, p, err
}
