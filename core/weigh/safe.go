package weigh

import (
	"math"

	"gonum.org/v1/gonum/integrate/quad"
	"gonum.org/v1/gonum/stat/distuv"
)

// expected is the spread of the log odds ratio that the safe bounds are tuned
// to: they are tightest for lifts of some 15 to 40 %, and hold for all.
const expected = 0.25

// anywhere is the part of the mixture that is spread over all differences alike.
const anywhere = 0.1

// Safe bounds the difference a − b of two rates at every look at once: over any
// number of looks, whenever one stops, at most 1 − confidence of tests without a
// difference ever exclude 0. P is the smallest 1 − confidence at which these
// counts exclude 0.
//
// The construction is Robbins's mixture (1970) of the likelihood ratio, in the
// difference δ alone:
//
//	{δ : ∫ L(δ') π(δ') dδ' < L(δ) / (1 − confidence)}
//
// L is the likelihood of both counts where the rates differ by δ and, taken
// together in the proportion in which visitors came, convert at the pooled rate.
// Without a difference who converts says nothing of which variant they got, so
// that for a given pooled rate the ratio is a test martingale whatever the
// outcomes; Ville's inequality (1939) bounds it over all time. That the pooled
// rate is estimated is held against simulation (see docs/results.md). π is normal
// around 0, of a quarter of a log odds ratio, and was fixed before any data: the
// tuning costs least where lifts are of the size that tests are run for. Unlike
// bounds from a normal approximation (Johari et al., 2017; Howard et al., 2021),
// which they come to with many conversions, these hold from the first visitor on.
// A tenth of π is spread over all differences alike, for effects beyond that size.
func Safe(a, b Count, confidence float64) (bounds Bounds, p float64) {
	return SafeOver([][2]Count{{a, b}}, confidence)
}

// SafeOver is Safe for a difference that is the same in several layers, such as
// days on which visitors were split otherwise: each is compared within itself, so
// that what changes from one to the next favours neither variant. How a layer was
// split may hang on those before it.
func SafeOver(pairs [][2]Count, confidence float64) (bounds Bounds, p float64) {
	s, a, b := newSafe(pairs)
	if len(s.layers) == 0 {
		return withoutRate(a, b, confidence), 1
	}
	level := s.evidence + math.Log(1-confidence)
	bounds = Bounds{s.edge(s.least, level), s.edge(s.most, level)}
	return bounds, math.Min(1, math.Exp(s.log(0)-s.evidence))
}

// layer is counts that are compared within themselves.
type layer struct {
	a, b   Count
	pooled float64
	partA  float64 // of the visitors
}

// log is the likelihood's logarithm where the rates differ by so much and convert
// at the pooled rate, taken together in the proportion in which visitors came.
func (l *layer) log(difference float64) float64 {
	return binomialLog(l.a, l.pooled+(1-l.partA)*difference) + binomialLog(l.b, l.pooled-l.partA*difference)
}

// profile is the likelihood's logarithm at the pair of rates that is likeliest
// among those that differ by so much. It is log but where that has no such rates,
// as in a layer in which few converted.
func (l *layer) profile(difference float64) float64 {
	low, high := max(0, -difference), min(1, 1-difference) // for the rate of b
	slope := func(c Count, rate float64) float64 {
		sum := 0.0
		if c.Conversions > 0 {
			sum += float64(c.Conversions) / rate
		}
		if rest := c.Visitors - c.Conversions; rest > 0 {
			sum -= float64(rest) / (1 - rate)
		}
		return sum
	}
	for range 40 {
		middle := (low + high) / 2
		if slope(l.a, middle+difference)+slope(l.b, middle) > 0 {
			low = middle
		} else {
			high = middle
		}
	}
	rate := (low + high) / 2
	return binomialLog(l.a, rate+difference) + binomialLog(l.b, rate)
}

// safe is the likelihood of the difference of two rates.
type safe struct {
	layers      []layer
	pooled      float64 // of all layers
	least, most float64 // that the difference can be
	peak        float64 // the difference that is likeliest
	evidence    float64 // log ∫ L π
}

// newSafe leaves out layers that tell nothing of a difference: an arm is empty, or
// nobody or everybody converted. It gives the sums of all.
func newSafe(pairs [][2]Count) (s safe, a, b Count) {
	s.least, s.most = -1, 1
	var visitors, conversions float64
	for _, pair := range pairs {
		x, y := pair[0], pair[1]
		a, b = Count{a.Visitors + x.Visitors, a.Conversions + x.Conversions}, Count{b.Visitors + y.Visitors, b.Conversions + y.Conversions}
		n, c := float64(x.Visitors+y.Visitors), float64(x.Conversions+y.Conversions)
		if x.Visitors == 0 || y.Visitors == 0 || c == 0 || c == n {
			continue
		}
		s.layers = append(s.layers, layer{x, y, c / n, float64(x.Visitors) / n})
		visitors, conversions = visitors+n, conversions+c
	}
	if len(s.layers) == 0 {
		return s, a, b
	}
	s.pooled = conversions / visitors
	if only := s.layers[0]; len(s.layers) == 1 {
		s.least = -min(only.pooled/(1-only.partA), (1-only.pooled)/only.partA)
		s.most = min(only.pooled/only.partA, (1-only.pooled)/(1-only.partA))
		s.peak = float64(only.a.Conversions)/float64(only.a.Visitors) - float64(only.b.Conversions)/float64(only.b.Visitors)
	} else {
		s.peak = maximum(s.log, s.least, s.most)
	}
	s.weighEvidence()
	return s, a, b
}

// log is the likelihood's logarithm.
func (s *safe) log(difference float64) (sum float64) {
	if len(s.layers) == 1 {
		return s.layers[0].log(difference)
	}
	for i := range s.layers {
		sum += s.layers[i].profile(difference)
	}
	return sum
}

// binomialLog is how likely the count is at a rate, without the constant.
func binomialLog(c Count, rate float64) (sum float64) {
	if c.Conversions > 0 {
		sum += float64(c.Conversions) * math.Log(max(0, rate))
	}
	if rest := c.Visitors - c.Conversions; rest > 0 {
		sum += float64(rest) * math.Log(max(0, 1-rate))
	}
	return sum
}

func (s *safe) weighEvidence() {
	prior := distuv.Normal{Mu: 0, Sigma: expected * s.pooled * (1 - s.pooled)}
	within := prior.CDF(s.most) - prior.CDF(s.least)
	near := s.integrate(func(x float64) float64 { return s.log(x) + prior.LogProb(x) }, 0) + math.Log((1-anywhere)/within)
	far := s.integrate(s.log, s.peak) + math.Log(anywhere/(s.most-s.least))
	top := max(near, far)
	s.evidence = top + math.Log(math.Exp(near-top)+math.Exp(far-top))
}

// integrate gives the logarithm of ∫ exp(log), where log is concave and peaks
// between what was seen and another point.
func (s *safe) integrate(log func(float64) float64, other float64) float64 {
	peak := other
	if other != s.peak {
		peak = maximum(log, min(other, s.peak), max(other, s.peak))
	}
	top := log(peak)
	f := func(x float64) float64 { return math.Exp(log(x) - top) }
	sum := 0.0
	for _, end := range []float64{s.least, s.most} {
		edge := drop(log, peak, end, top+negligible)
		sum += quad.Fixed(f, min(edge, peak), max(edge, peak), 80, quad.Legendre{}, 0)
	}
	return top + math.Log(sum)
}

// edge is where, going from the peak to an end, the likelihood falls to a level;
// the end where it does not.
func (s *safe) edge(end, level float64) float64 {
	if s.log(end) > level || s.log(s.peak) < level {
		return end
	}
	return drop(s.log, s.peak, end, level)
}

// drop finds, between a point where f is above a level and an end beyond which it
// only falls, where it comes to the level; the end where it does not.
func drop(f func(float64) float64, above, end, level float64) float64 {
	if f(end) > level {
		return end
	}
	for range 100 {
		middle := (above + end) / 2
		if middle == above || middle == end {
			break
		}
		if f(middle) > level {
			above = middle
		} else {
			end = middle
		}
	}
	return end
}

// maximum finds the peak of a concave function by golden sections.
func maximum(f func(float64) float64, low, high float64) float64 {
	const golden = 0.6180339887498949
	c, d := high-golden*(high-low), low+golden*(high-low)
	fc, fd := f(c), f(d)
	for range 60 {
		if fc > fd {
			high, d, fd = d, c, fc
			c = high - golden*(high-low)
			fc = f(c)
		} else {
			low, c, fc = c, d, fd
			d = low + golden*(high-low)
			fd = f(d)
		}
	}
	return (low + high) / 2
}

// withoutRate bounds a difference where nobody or everybody converted, or an arm
// is empty, by bounds of each arm that hold at every look: the likelihood ratio
// mixed over all rates alike, each at half of what may go wrong.
func withoutRate(a, b Count, confidence float64) Bounds {
	wrong := (1 - confidence) / 2
	bound := func(c Count) Bounds {
		if c.Visitors == 0 {
			return Bounds{0, 1}
		}
		n := float64(c.Visitors)
		reach := 1 - math.Pow(wrong/(n+1), 1/n)
		if c.Conversions == 0 {
			return Bounds{0, reach}
		}
		if c.Conversions == c.Visitors {
			return Bounds{1 - reach, 1}
		}
		return Bounds{0, 1} // the other arm is empty
	}
	of, against := bound(a), bound(b)
	return Bounds{of[0] - against[1], of[1] - against[0]}
}
