package weigh

import (
	"math"
	"math/rand/v2"

	"gonum.org/v1/gonum/stat/distuv"
)

const (
	followDraws = 20_000
	// FollowFloor is the least share a followed variant keeps, so that it can still
	// be found to be the better one.
	FollowFloor = 0.1
)

// Follow gives the shares with which a test follows the winner, in whole percent
// that sum to 100: each variant's chance of being the best, by Thompson's sampling
// (1933) from the posteriors of Beta(1, 1), and at least floor of one (at most an
// even share). The same counts and seed give the same shares.
func Follow(counts []Count, floor float64, seed uint64) []int {
	if len(counts) == 0 {
		return nil
	}
	n := len(counts)
	floor = max(0, min(floor, 1/float64(n)))
	source := rand.NewPCG(seed, uint64(n))
	wins := make([]int, n)
	arms := make([]distuv.Beta, n)
	for i, c := range counts {
		p := posterior(c)
		arms[i] = distuv.Beta{Alpha: p.alpha, Beta: p.beta, Src: source}
	}
	for range followDraws {
		best, top := 0, -1.0
		for i := range arms {
			if rate := arms[i].Rand(); rate > top {
				best, top = i, rate
			}
		}
		wins[best]++
	}
	shares, sum, most := make([]int, n), 0, 0
	for i, won := range wins {
		part := floor + (1-floor*float64(n))*float64(won)/followDraws
		shares[i] = int(math.Floor(part * 100))
		sum += shares[i]
		if shares[i] > shares[most] {
			most = i
		}
	}
	shares[most] += 100 - sum
	return shares
}
