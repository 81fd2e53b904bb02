package parts

import (
	"slices"
	"time"

	"gobbet/core/compare"
	"gobbet/core/weigh"
	"gobbet/internal/store/results"
)

// ShareOf gives a part of a whole with its bounds; nil of nothing.
func ShareOf(part, whole int) (*float64, weigh.Bounds) {
	n := weigh.Count{Visitors: whole, Conversions: max(0, part)}
	share, ok := n.Rate()
	if !ok {
		return nil, weigh.Wilson(n, Confidence)
	}
	return &share, weigh.Wilson(n, Confidence)
}

const Confidence = compare.Confidence

// Tallied sums tallies to a rate with its bounds.
func Tallied(tallies []results.Tally) Measure {
	var m Measure
	for _, t := range tallies {
		m.Visitors += t.Visitors
		m.Showings += t.Showings
		m.Conversions += t.Conversions
	}
	if rate, ok := m.Count().Rate(); ok {
		m.Rate = &rate
	}
	m.Interval = weigh.Wilson(m.Count(), Confidence)
	return m
}

// Count is what it is a rate of.
func (m Measure) Count() weigh.Count {
	return weigh.Count{Visitors: m.Visitors, Conversions: m.Conversions}
}

// Line sums tallies by day.
func Line(tallies []results.Tally) []DayCount {
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

// MeasureOf is a count as it is shown.
func MeasureOf(count weigh.Count) Measure {
	m := Measure{Visitors: count.Visitors, Conversions: count.Conversions, Interval: weigh.Wilson(count, Confidence)}
	if rate, ok := count.Rate(); ok {
		m.Rate = &rate
	}
	return m
}

// The board, and what is done to pieces from it.
