package weigh

import "math"

// SafeRate bounds one rate at every look at once: the likelihood ratio mixed over
// all rates alike (Robbins, 1970), so that over any number of looks at most
// 1 − confidence of the bounds ever leave the true rate out.
func SafeRate(c Count, confidence float64) Bounds {
	if c.Visitors <= 0 {
		return Bounds{0, 1}
	}
	n, x := float64(c.Visitors), float64(c.Conversions)
	beta := func(a, b float64) float64 {
		la, _ := math.Lgamma(a)
		lb, _ := math.Lgamma(b)
		lab, _ := math.Lgamma(a + b)
		return la + lb - lab
	}
	level := beta(1+x, 1+n-x) + math.Log(1-confidence)
	log := func(p float64) float64 { return binomialLog(c, p) }
	return Bounds{drop(log, x/n, 0, level), drop(log, x/n, 1, level)}
}
