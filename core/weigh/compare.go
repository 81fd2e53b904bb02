package weigh

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"
)

// Pooled tests whether two rates are one, two-sided, by the normal approximation
// with the pooled rate and without continuity correction: z is of a − b. Neither
// number exists where nobody or everybody converted, or an arm is empty.
func Pooled(a, b Count) (z, p Maybe) {
	pa, okA := a.Rate()
	pb, okB := b.Rate()
	if !okA || !okB {
		return None, None
	}
	na, nb := float64(a.Visitors), float64(b.Visitors)
	pooled := float64(a.Conversions+b.Conversions) / (na + nb)
	spread := math.Sqrt(pooled * (1 - pooled) * (1/na + 1/nb))
	if spread == 0 {
		return None, None
	}
	z = Maybe((pa - pb) / spread)
	return z, Maybe(math.Erfc(math.Abs(float64(z)) / math.Sqrt2))
}

// Katz gives the lift of a over b, the ratio of their rates minus 1, with the log
// interval of that ratio. (Katz et al., 1978.) The lift exists where b's rate is
// above 0, its interval where both are.
func Katz(a, b Count, confidence float64) (lift, low, high Maybe) {
	pa, okA := a.Rate()
	pb, okB := b.Rate()
	if !okA || !okB || pb == 0 {
		return None, None, None
	}
	ratio := pa / pb
	lift = Maybe(ratio - 1)
	if pa == 0 {
		return lift, None, None
	}
	spread := math.Sqrt((1-pa)/float64(a.Conversions) + (1-pb)/float64(b.Conversions))
	reach := math.Exp(quantile(confidence) * spread)
	return lift, Maybe(ratio/reach - 1), Maybe(ratio*reach - 1)
}

// Holm adjusts p-values for being several, so that the chance of any false find
// stays below the level at which they are read. (Holm, 1979.) One that does not
// exist counts among them and stays as it is.
func Holm(ps []Maybe) []Maybe {
	order := make([]int, 0, len(ps))
	for i, p := range ps {
		if p.Is() {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(i, j int) int { return cmp.Compare(ps[i], ps[j]) })
	adjusted := slices.Clone(ps)
	least := Maybe(0)
	for rank, i := range order {
		least = max(least, min(1, ps[i]*Maybe(len(ps)-rank)))
		adjusted[i] = least
	}
	return adjusted
}

// Values is what the visitors of one variant brought: the sum over all of them,
// and the sum of each one's square, in the site's currency.
type Values struct {
	Sum        float64 `json:"value_sum"`
	SumSquares float64 `json:"value_sum_squares"`
}

// WelchResult is a test of two means.
type WelchResult struct {
	Mean        Maybe `json:"mean"`
	MeanAgainst Maybe `json:"mean_against"`
	T           Maybe `json:"t"`
	Degrees     Maybe `json:"degrees"`
	P           Maybe `json:"p_value"`
	// Interval is of the difference of the means.
	Interval [2]Maybe `json:"difference_interval" tstype:"MaybeBounds"`
}

// Welch tests whether visitors of a bring as much as those of b, two-sided, by
// Welch's t (1947) with Satterthwaite's degrees of freedom. It is nil where that
// cannot be told: fewer than two visitors in an arm, or no spread in either.
func Welch(a, b Values, visitorsA, visitorsB int, confidence float64) *WelchResult {
	if visitorsA < 2 || visitorsB < 2 {
		return nil
	}
	na, nb := float64(visitorsA), float64(visitorsB)
	va, vb := a.variance(na)/na, b.variance(nb)/nb
	if !(va+vb > 0) || math.IsInf(va+vb, 0) {
		return nil
	}
	w := &WelchResult{Mean: Maybe(a.Sum / na), MeanAgainst: Maybe(b.Sum / nb)}
	difference := float64(w.Mean - w.MeanAgainst)
	degrees := (va + vb) * (va + vb) / (va*va/(na-1) + vb*vb/(nb-1))
	t := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: degrees}
	w.T, w.Degrees = Maybe(difference/math.Sqrt(va+vb)), Maybe(degrees)
	w.P = Maybe(min(1, 2*t.CDF(-math.Abs(float64(w.T)))))
	reach := t.Quantile(1-(1-confidence)/2) * math.Sqrt(va+vb)
	w.Interval = [2]Maybe{Maybe(difference - reach), Maybe(difference + reach)}
	return w
}

// variance is the sample's, which rounding may not bring below 0.
func (v Values) variance(n float64) float64 {
	return max(0, (v.SumSquares-v.Sum*v.Sum/n)/(n-1))
}

// SplitCheck holds how visitors fell on the variants against the shares.
type SplitCheck struct {
	ChiSquare Maybe `json:"chi_square"`
	Degrees   int   `json:"degrees"`
	P         Maybe `json:"p_value"`
}

// brokenBelow is the p-value below which a split is not as asked.
const brokenBelow = 0.001

// CheckSplit is Pearson's chi-square of the visitors against the shares, relative
// to their sum. A variant without a share should have nobody: if it has, p is 0
// and the statistic, which would be infinite, does not exist.
func CheckSplit(arms []Arm) SplitCheck {
	all, shares, kinds := 0, 0.0, 0
	stray := false
	for _, a := range arms {
		all += a.Visitors
		shares += a.Share
		if a.Share > 0 {
			kinds++
		} else if a.Visitors > 0 {
			stray = true
		}
	}
	check := SplitCheck{ChiSquare: None, Degrees: max(0, kinds-1), P: None}
	switch {
	case stray:
		check.P = 0
		return check
	case all == 0 || kinds < 2:
		return check
	}
	sum := 0.0
	for _, a := range arms {
		if a.Share > 0 {
			expected := float64(all) * a.Share / shares
			sum += (float64(a.Visitors) - expected) * (float64(a.Visitors) - expected) / expected
		}
	}
	check.ChiSquare = Maybe(sum)
	check.P = Maybe(distuv.ChiSquared{K: float64(check.Degrees)}.Survival(sum))
	return check
}

// Broken reports whether the split is surely not as asked.
func (s SplitCheck) Broken() bool { return s.P.Is() && s.P < brokenBelow }
