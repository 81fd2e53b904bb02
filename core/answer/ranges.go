package answer

import (
	"math"
	"strconv"

	"gobbet/core/piece"
	"gobbet/core/text"
)

// Range is a part of what a number may be, low included and high not, but for
// the last of a bounded one. Numbers are counted by the range they are in.
type Range struct {
	ID    string // its lower bound as it is written, or "under" below the first
	Label string
	Low   float64
	High  float64 // +Inf: no bound
}

const mostRanges = 8

// Ranges are those of a slider or number field, the lowest first: each value a
// range of its own where there are few, else at most eight of whole steps each;
// by their size where the field has no bounds. Nil for other fields.
func Ranges(f piece.Field) []Range {
	if f.Ask != piece.AskSlider && f.Ask != piece.AskNumber {
		return nil
	}
	least, hasLeast := text.Number(f.Least)
	most, hasMost := text.Number(f.Most)
	if !hasLeast || !hasMost || most < least {
		return bySize
	}
	step, ok := text.Number(f.Step)
	if !ok || step <= 0 {
		step = 1
	}
	values := math.Floor((most-least)/step+1e-9) + 1
	per := math.Ceil(values / mostRanges)
	if values <= mostRanges+2 {
		per = 1
	}
	var ranges []Range
	for first := 0.0; first < values; first += per {
		last := math.Min(first+per, values) - 1
		low, end := round(least+first*step), round(least+last*step)
		r := Range{ID: written(low), Label: written(low), Low: low, High: round(least + (last+1)*step)}
		if end > low {
			r.Label += " to " + written(end)
		}
		if r.High > most {
			r.High = math.Inf(1)
		}
		ranges = append(ranges, r)
	}
	return ranges
}

var bySize = []Range{
	{"under", "under 0", math.Inf(-1), 0}, {"0", "0 to under 10", 0, 10}, {"10", "10 to under 100", 10, 100}, {"100", "100 to under 1,000", 100, 1000},
	{"1000", "1,000 to under 10,000", 1000, 10_000}, {"10000", "10,000 and more", 10_000, math.Inf(1)},
}

// In gives the range that a number as it is kept is in; not ok for none.
func In(ranges []Range, given string) (r Range, ok bool) {
	n, ok := text.Number(given)
	if !ok {
		return r, false
	}
	for i := len(ranges) - 1; i >= 0; i-- {
		if n >= ranges[i].Low && (n < ranges[i].High || i == len(ranges)-1) {
			return ranges[i], true
		}
	}
	return r, false
}

// round takes off what binary fractions leave: a tenth ten times is one.
func round(x float64) float64 { return math.Round(x*1e9) / 1e9 }

func written(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
