// Package weigh measures the variants of a piece against each other, and plans
// how many visitors that takes.
//
// The unit is the visitor: a rate is visitors who converted over visitors who
// saw the variant, each counted once. Weigh takes the counts of a test and gives
// each rate with its bounds, each variant against the control, and one verdict:
//
//	report, err := weigh.Weigh(weigh.Test{Confidence: 0.95, Control: "A", Variants: []weigh.Arm{
//		{Name: "A", Share: 1, Count: weigh.Count{Visitors: 1688, Conversions: 118}},
//		{Name: "B", Share: 1, Count: weigh.Count{Visitors: 1702, Conversions: 146}},
//	}})
//
// Two kinds of bounds stand side by side. Those of Wilson and Newcombe hold for
// one look at counts whose size was fixed before. The safe ones (Safe) hold at
// every look, however often and whenever one stops, and the verdict rests on
// them alone.
package weigh

import (
	"encoding/json"
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

// Count is what one variant was seen to do.
type Count struct {
	Visitors    int `json:"visitors"`
	Conversions int `json:"conversions"` // at most Visitors
}

// Rate is conversions per visitor. It does not exist for no visitors.
func (c Count) Rate() (rate float64, ok bool) {
	if c.Visitors <= 0 {
		return math.NaN(), false
	}
	return float64(c.Conversions) / float64(c.Visitors), true
}

// Bounds is an interval, low to high.
type Bounds [2]float64

// Wilson bounds a rate at a confidence between 0 and 1. No visitors leave it
// anywhere between 0 and 1. (Wilson, 1927; method 3 of Newcombe, 1998a.)
func Wilson(c Count, confidence float64) Bounds {
	if c.Visitors <= 0 {
		return Bounds{0, 1}
	}
	n, x := float64(c.Visitors), float64(c.Conversions)
	p, z := x/n, quantile(confidence)
	middle := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	b := Bounds{max(0, middle-half), min(1, middle+half)}
	// At the ends the formula gives 0 and 1 but for rounding.
	if c.Conversions == 0 {
		b[0] = 0
	}
	if c.Conversions == c.Visitors {
		b[1] = 1
	}
	return b
}

// Newcombe bounds the difference a − b of two rates: the hybrid of their Wilson
// bounds, without continuity correction. (Newcombe, 1998b, method 10.)
func Newcombe(a, b Count, confidence float64) (difference float64, bounds Bounds, ok bool) {
	pa, okA := a.Rate()
	pb, okB := b.Rate()
	if !okA || !okB {
		return math.NaN(), Bounds{-1, 1}, false
	}
	wa, wb := Wilson(a, confidence), Wilson(b, confidence)
	difference = pa - pb
	return difference, Bounds{
		difference - math.Hypot(pa-wa[0], wb[1]-pb),
		difference + math.Hypot(wa[1]-pa, pb-wb[0]),
	}, true
}

// Maybe is a number that may not exist (0/0), which is NaN here and null in JSON.
type Maybe float64

// None is the number that does not exist.
var None = Maybe(math.NaN())

// Is reports whether the number exists.
func (n Maybe) Is() bool { return !math.IsNaN(float64(n)) && !math.IsInf(float64(n), 0) }

// MarshalJSON writes null for a number that does not exist.
func (n Maybe) MarshalJSON() ([]byte, error) {
	if !n.Is() {
		return []byte("null"), nil
	}
	return json.Marshal(float64(n))
}

// UnmarshalJSON reads null as the number that does not exist.
func (n *Maybe) UnmarshalJSON(text []byte) error {
	if string(text) == "null" {
		*n = None
		return nil
	}
	return json.Unmarshal(text, (*float64)(n))
}

// rate is Rate as a Maybe.
func (c Count) rate() Maybe {
	rate, _ := c.Rate()
	return Maybe(rate)
}

// quantile is the standard normal's point that leaves half the doubt above it.
func quantile(confidence float64) float64 {
	return distuv.UnitNormal.Quantile(1 - (1-confidence)/2)
}
