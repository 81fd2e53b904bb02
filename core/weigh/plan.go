package weigh

import (
	"math"

	"gobbet/core/fault"
)

// Goal is what a test is planned to find.
type Goal struct {
	Baseline    float64 `json:"baseline"` // the control's rate, above 0 and below 1
	Lift        float64 `json:"lift"`     // the smallest worth having: 0.2 is a fifth more
	Confidence  float64 `json:"confidence"`
	Power       float64 `json:"power"`       // the chance to find it where it is there
	Comparisons int     `json:"comparisons"` // variants besides the control; 0 counts as 1
}

// check gives the rate to be found, or what is wrong.
func (g *Goal) check() (rate float64, err error) {
	var faults fault.Faults
	inside := func(at string, is float64) bool {
		if !(is > 0 && is < 1) {
			faults.Add(at, "should be above 0 and below 1")
			return false
		}
		return true
	}
	ok := inside("baseline", g.Baseline)
	rate = g.Baseline * (1 + g.Lift)
	switch {
	case g.Lift == 0 || math.IsNaN(g.Lift):
		faults.Add("lift", "should not be 0: no number of visitors tells equal rates apart")
	case ok && !(rate > 0 && rate < 1):
		faults.Add("lift", "takes the rate of %v to %v, which is no rate", g.Baseline, rate)
	}
	inside("confidence", g.Confidence)
	inside("power", g.Power)
	if g.Comparisons < 0 || g.Comparisons > mostArms {
		faults.Add("comparisons", "should be 1 to %d", mostArms)
	}
	if g.Comparisons == 0 {
		g.Comparisons = 1
	}
	return rate, faults.Err()
}

// Size is how many visitors a test takes.
type Size struct {
	// VisitorsPerVariant is for one look at the end.
	VisitorsPerVariant int `json:"visitors_per_variant"`
	// SafePerVariant is for looks as often as one likes: at so many the safe bounds
	// find the lift with the same power. Mostly they find it before.
	SafePerVariant int `json:"safe_visitors_per_variant"`
}

// Plan gives the visitors that each variant needs: the normal approximation for
// two proportions, two-sided, pooled under no difference and unpooled under the
// lift, at Bonferroni's level for several comparisons. (Fleiss, Levin and Paik,
// 2003, section 4.2, without continuity correction.)
func Plan(g Goal) (Size, error) {
	rate, err := g.check()
	if err != nil {
		return Size{}, err
	}
	doubt := (1 - g.Confidence) / float64(g.Comparisons)
	z, sure := quantile(1-doubt), quantile(2*g.Power-1)
	if g.Power < 0.5 {
		sure = -quantile(1 - 2*g.Power)
	}
	middle, difference := (g.Baseline+rate)/2, rate-g.Baseline
	none := math.Sqrt(2 * middle * (1 - middle))
	some := math.Sqrt(g.Baseline*(1-g.Baseline) + rate*(1-rate))
	once := math.Ceil(math.Pow((z*none+sure*some)/difference, 2))
	if once < 1 {
		once = 1
	}
	// The safe bounds' z grows with the visitors; the least that suffices is found by halving.
	enough := func(n float64) bool {
		return math.Abs(difference)*math.Sqrt(n) >= safeZ(doubt, middle, 2*middle*(1-middle)/n)*none+sure*some
	}
	low, high := once, once
	for !enough(high) && high < math.MaxInt32*1e6 {
		low, high = high, 2*high
	}
	for high-low > 0.5 {
		if between := (low + high) / 2; enough(between) {
			high = between
		} else {
			low = between
		}
	}
	return Size{whole(once), whole(math.Ceil(high))}, nil
}

func whole(n float64) int { return int(math.Min(n, math.MaxInt64/2)) }

// safeZ is by how many of its standard deviations a difference has to be off 0
// for safe bounds to exclude 0, where many have converted at a pooled rate: those
// bounds then are the normal mixture's. variance is the difference's.
func safeZ(doubt, pooled, variance float64) float64 {
	sigma := expected * pooled * (1 - pooled)
	ratio := sigma * sigma / variance
	return math.Sqrt((1 + 1/ratio) * (math.Log1p(ratio) + 2*math.Log(1/doubt)))
}

// Forecast is how many times the visitors so far a test takes until the safe
// bounds tell: until they exclude 0 where the difference is as it was seen, or
// leave no more than margin (0: there is none) on either side of 0, whichever
// comes first. It is infinite where neither does within a thousand times.
func Forecast(a, b Count, doubt, margin float64) float64 {
	pa, okA := a.Rate()
	pb, okB := b.Rate()
	if !okA || !okB || a.Conversions+b.Conversions == 0 {
		return math.Inf(1)
	}
	na, nb := float64(a.Visitors), float64(b.Visitors)
	pooled := float64(a.Conversions+b.Conversions) / (na + nb)
	variance := pooled * (1 - pooled) * (1/na + 1/nb)
	if variance == 0 {
		return math.Inf(1)
	}
	seen := math.Abs(pa - pb)
	detects := func(times float64) bool {
		v := variance / times
		reach := safeZ(doubt, pooled, v) * math.Sqrt(v)
		return reach < seen || seen+reach <= margin
	}
	const most = 1000
	if !detects(most) {
		return math.Inf(1)
	}
	low, high := 1.0, float64(most)
	for high/low > 1.001 {
		if between := math.Sqrt(low * high); detects(between) {
			high = between
		} else {
			low = between
		}
	}
	return high
}
