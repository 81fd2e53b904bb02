package main

import (
	"fmt"
	"math"
	"math/rand/v2"
	"sync/atomic"

	"golang.org/x/sync/errgroup"

	"gobbet/core/weigh"
)

const (
	aaPerDay = 100 // visitors a day, of both variants
	aaRate   = 0.07
)

var (
	aaTests = size(1000, 4)
	aaDays  = size(60, 3)
)

// verdicts holds the safe bounds against looking every day with bounds that are
// for one look, in tests of which the truth is known.
func verdicts() error {
	naive, safe := 0, 0
	if err := everyDay(aaTests, aaDays, aaPerDay, aaRate, aaRate, func(byNaive, bySafe int) {
		if byNaive > 0 {
			naive++
		}
		if bySafe > 0 {
			safe++
		}
	}); err != nil {
		return err
	}
	fmt.Printf("%d tests without a difference, looked at on each of %d days, that ever found one:\n", aaTests, aaDays)
	fmt.Printf("  safe bounds                    %5.1f %%        to hold: 5.0\n", 100*float64(safe)/float64(aaTests))
	fmt.Printf("  bounds for one look            %5.1f %%\n", 100*float64(naive)/float64(aaTests))

	goal := weigh.Goal{Baseline: aaRate, Lift: 0.5, Confidence: 0.95, Power: 0.8}
	size, err := weigh.Plan(goal)
	if err != nil {
		return err
	}
	days := int(math.Ceil(float64(2*size.SafePerVariant) / aaPerDay))
	found, onTime, sum := 0, 0, 0
	if err := everyDay(aaTests, days, aaPerDay, aaRate, aaRate*1.5, func(_, bySafe int) {
		if bySafe > 0 {
			found++
			sum += bySafe
		}
	}); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(1, 9))
	for range aaTests {
		a, b := binomial(random, size.VisitorsPerVariant, aaRate), binomial(random, size.VisitorsPerVariant, aaRate*1.5)
		if _, p := weigh.Pooled(b, a); p.Is() && p < 0.05 {
			onTime++
		}
	}
	fmt.Printf("%d tests with a lift of 50 %%, planned for a power of 80 %%:\n", aaTests)
	fmt.Printf("  one look at %5d a variant     %5.1f %% found\n", size.VisitorsPerVariant, 100*float64(onTime)/float64(aaTests))
	fmt.Printf("  safe bounds by %5d a variant  %5.1f %% found, after %d a variant on the mean\n", size.SafePerVariant, 100*float64(found)/float64(aaTests), sum*aaPerDay/2/max(1, found))
	return nil
}

// everyDay runs tests and tells of each on which day it was first found by each
// kind of bounds; 0: never.
func everyDay(tests, days, perDay int, rateA, rateB float64, tell func(byNaive, bySafe int)) error {
	type one struct{ naive, safe int }
	all := make([]one, tests)
	var next atomic.Int64
	var group errgroup.Group
	for range 2 {
		group.Go(func() error {
			for n := next.Add(1) - 1; int(n) < tests; n = next.Add(1) - 1 {
				random := rand.New(rand.NewPCG(uint64(n), 77))
				var a, b weigh.Count
				for day := 1; day <= days && all[n].safe == 0; day++ {
					for range perDay {
						arm, rate := &a, rateA
						if random.IntN(2) == 1 {
							arm, rate = &b, rateB
						}
						arm.Visitors++
						if random.Float64() < rate {
							arm.Conversions++
						}
					}
					if _, p := weigh.Pooled(b, a); all[n].naive == 0 && p.Is() && p < 0.05 {
						all[n].naive = day
					}
					if _, p := weigh.Safe(b, a, 0.95); p < 0.05 {
						all[n].safe = day
					}
				}
			}
			return nil
		})
	}
	err := group.Wait()
	for _, o := range all {
		tell(o.naive, o.safe)
	}
	return err
}

func binomial(random *rand.Rand, n int, rate float64) weigh.Count {
	c := weigh.Count{Visitors: n}
	for range n {
		if random.Float64() < rate {
			c.Conversions++
		}
	}
	return c
}
