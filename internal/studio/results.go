package studio

import (
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/piece"
	"gobbet/core/weigh"
	"gobbet/internal/store"
)

const confidence = 0.95

// measure sums tallies to a rate with its bounds.
func measure(tallies []store.Tally) Measure {
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
func line(tallies []store.Tally) []DayCount {
	days := []DayCount{}
	for _, t := range slices.SortedStableFunc(slices.Values(tallies), func(a, b store.Tally) int { return a.Day.Compare(b.Day) }) {
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

// built measures tallies from the first day up to each.
func built(tallies []store.Tally) []BuiltDay {
	days := []BuiltDay{}
	for i, t := range tallies { // which come by day
		days = append(days, BuiltDay{t.Day.Format(time.DateOnly), measure(tallies[:i+1])})
	}
	return days
}

// measured reads the piece that is asked about as visitors have it; a draft as
// it is worked on.
func (s *Server) measured(c *gin.Context, site int64) (id string, p *piece.Piece, err error) {
	row, err := s.store.Piece(c, site, c.Param("piece"))
	if err != nil {
		return "", nil, err
	}
	doc := []byte(row.Draft)
	if row.State != "draft" {
		doc = row.Live
	}
	p, err = s.readPiece(c, doc)
	return row.ID, p, err
}

func (s *Server) split(c *gin.Context) error {
	site := siteOf(c)
	id, p, err := s.measured(c, site.ID)
	if err != nil {
		return err
	}
	tallies, err := s.store.Days(c, site.ID, id, time.Time{})
	if err != nil {
		return err
	}
	both := 0
	result := SplitResult{Confidence: confidence, Variants: variants(p.Split.Variants, tallies), SawSeveral: both}
	if days := line(tallies); len(days) > 0 {
		if first, err := time.ParseInLocation(time.DateOnly, days[0].Day, site.Location()); err == nil {
			result.Days = 1 + int(s.today(site).Sub(first)/(24*time.Hour))
		}
	}
	c.JSON(http.StatusOK, result)
	return nil
}

// variants holds each variant against the first. One that was taken out of the
// split is listed last as long as it has visitors.
func variants(asked []piece.Variant, tallies []store.Tally) []VariantResult {
	by := map[string][]store.Tally{}
	results := []VariantResult{}
	for _, t := range tallies {
		by[t.Variant] = append(by[t.Variant], t)
	}
	for _, v := range asked {
		results = append(results, VariantResult{ID: v.ID, Name: v.Name, Share: v.Share})
	}
	for _, t := range tallies {
		if !slices.ContainsFunc(results, func(r VariantResult) bool { return r.ID == t.Variant }) {
			results = append(results, VariantResult{ID: t.Variant, Name: "Taken out", Gone: true})
		}
	}
	for i := range results {
		r := &results[i]
		r.Measure, r.Built = measure(by[r.ID]), built(by[r.ID])
		r.DifferenceInterval = weigh.Bounds{-1, 1}
		if i == 0 {
			continue
		}
		if difference, bounds, ok := weigh.Newcombe(r.Measure.count(), results[0].Measure.count(), confidence); ok {
			r.Difference, r.DifferenceInterval = &difference, bounds
		}
	}
	return results
}
