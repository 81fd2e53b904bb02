package weigh

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/integrate/quad"
)

// beta is the posterior of a rate, from Beta(1, 1): how likely each rate is after
// what was seen, up to a constant.
type beta struct{ alpha, beta float64 }

func posterior(c Count) beta {
	return beta{1 + float64(c.Conversions), 1 + float64(c.Visitors-c.Conversions)}
}

// mode is where the density is highest.
func (b beta) mode() float64 {
	if b.alpha+b.beta == 2 {
		return 0.5 // as likely everywhere
	}
	return (b.alpha - 1) / (b.alpha + b.beta - 2)
}

// log is the density's logarithm, 0 at its mode.
func (b beta) log(x float64) float64 {
	m, sum := b.mode(), 0.0
	if b.alpha > 1 {
		sum += (b.alpha - 1) * math.Log(max(0, x)/m)
	}
	if b.beta > 1 {
		sum += (b.beta - 1) * math.Log(max(0, 1-x)/(1-m))
	}
	return sum
}

// negligible is a density's logarithm below which what is left adds nothing to
// sixteen digits.
const negligible = -45

// span is where the density is not negligible.
func (b beta) span() (low, high float64) {
	edge := func(outside, inside float64) float64 {
		if b.log(outside) > negligible {
			return outside
		}
		for range 60 {
			if middle := (outside + inside) / 2; b.log(middle) > negligible {
				inside = middle
			} else {
				outside = middle
			}
		}
		return outside
	}
	m := b.mode()
	return edge(0, m), edge(1, m)
}

const (
	posteriorPanels = 48
	posteriorNodes  = 12
)

// ChanceBetter gives P(a's rate > b's) where each has the posterior of its counts
// after Beta(1, 1), and what is lost by choosing a, E[max(b − a, 0)].
//
// Both are integrals over one rate x, of f_a(x) F_b(x) and of F_a(x) (1 − F_b(x)).
// The densities are polynomials, so that Gauss's rule on panels gives them to
// about 1e-12 for any counts, and normalising by the same sum leaves no gamma
// function to round.
func ChanceBetter(a, b Count) (chance, loss float64) {
	fa, fb := posterior(a), posterior(b)
	cuts := []float64{0, 1}
	for _, f := range []beta{fa, fb} {
		low, high := f.span()
		for i := range posteriorPanels + 1 {
			cuts = append(cuts, low+(high-low)*float64(i)/posteriorPanels)
		}
	}
	slices.Sort(cuts)
	cuts = slices.Compact(cuts)
	var massA, massB, better, lost float64
	// What is gathered before the masses are known: F_a, F_b and F_a·F_b, integrated.
	var sumA, sumBoth float64
	var x, weight [posteriorNodes]float64
	for i := range len(cuts) - 1 {
		low, high := cuts[i], cuts[i+1]
		quad.Legendre{}.FixedLocations(x[:], weight[:], low, high)
		var densityA, densityB [posteriorNodes]float64
		for j := range x {
			densityA[j], densityB[j] = math.Exp(fa.log(x[j])), math.Exp(fb.log(x[j]))
		}
		upToA, upToB := running(densityA[:], (high-low)/2), running(densityB[:], (high-low)/2)
		for j := range x {
			cdfA, cdfB := massA+upToA[j], massB+upToB[j]
			better += weight[j] * densityA[j] * cdfB
			sumA += weight[j] * cdfA
			sumBoth += weight[j] * cdfA * cdfB
		}
		for j := range x {
			massA += weight[j] * densityA[j]
			massB += weight[j] * densityB[j]
		}
	}
	lost = sumA/massA - sumBoth/(massA*massB)
	return min(1, max(0, better/(massA*massB))), max(0, lost)
}

// toNodes integrates, from −1 to each of Gauss's nodes, the polynomial through
// values at all of them.
var toNodes = func() (matrix [posteriorNodes][posteriorNodes]float64) {
	var x, weight, at, w [posteriorNodes]float64
	quad.Legendre{}.FixedLocations(x[:], weight[:], -1, 1)
	for j := range x {
		quad.Legendre{}.FixedLocations(at[:], w[:], -1, x[j])
		for k := range x {
			for i := range at {
				value := 1.0
				for m := range x {
					if m != k {
						value *= (at[i] - x[m]) / (x[k] - x[m])
					}
				}
				matrix[j][k] += w[i] * value
			}
		}
	}
	return matrix
}()

// running integrates values at the nodes of a panel from its start to each node.
func running(values []float64, half float64) (sums [posteriorNodes]float64) {
	for j := range sums {
		for k, value := range values {
			sums[j] += half * toNodes[j][k] * value
		}
	}
	return sums
}
