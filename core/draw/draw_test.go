package draw

import (
	"errors"
	"math"
	"math/rand/v2"
	"testing"

	"gonum.org/v1/gonum/stat/distuv"
)

func pot(t *testing.T, parts ...Part) *Pot {
	t.Helper()
	p, err := New(parts)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func weighing(weights ...float64) (parts []Part) {
	for _, w := range weights {
		parts = append(parts, Part{Weight: w, Stock: -1})
	}
	return parts
}

// A million draws against the odds: Pearson's statistic stays below the 99.9 %
// point of chi-square.
func TestDrawsFollowTheirOdds(t *testing.T) {
	const times = 1_000_000
	cases := map[string][]float64{
		"a coin":        {1, 1},
		"as in a shop":  {3, 4, 1, 1, 3},
		"one rare":      {1000, 10, 0.5},
		"with a zero":   {2, 0, 5, 0},
		"24 of a kind":  {1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1},
		"24 unlike":     {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24},
		"far apart":     {MaxWeight, 50, 50},
		"one for all":   {7},
		"hardly one":    {0.0001, 0.0003},
		"percent of it": {12.5, 37.5, 50},
	}
	for name, weights := range cases {
		t.Run(name, func(t *testing.T) {
			p := pot(t, weighing(weights...)...)
			source := rand.NewPCG(7, 7)
			drawn := make([]int, len(weights))
			for range times {
				i, err := p.Draw(source)
				if err != nil {
					t.Fatal(err)
				}
				drawn[i]++
			}
			chi, degrees := 0.0, -1.0
			for i, odds := range p.Odds() {
				if odds == 0 {
					if drawn[i] != 0 {
						t.Errorf("part %d has no odds and was drawn %d times", i, drawn[i])
					}
					continue
				}
				expected := odds * times
				chi += (float64(drawn[i]) - expected) * (float64(drawn[i]) - expected) / expected
				degrees++
			}
			if degrees > 0 {
				if most := (distuv.ChiSquared{K: degrees}).Quantile(0.999); chi > most {
					t.Errorf("chi-square is %.1f with %v degrees of freedom, above %.1f: %v", chi, degrees, most, drawn)
				}
			}
		})
	}
}

func TestWhatHasRunOutLeavesItsOddsToTheRest(t *testing.T) {
	p := pot(t, Part{Weight: 5, Stock: 2}, Part{Weight: 1, Stock: -1}, Part{Weight: 3, Stock: -1})
	source := rand.NewPCG(1, 2)
	drawn := [3]int{}
	for range 100_000 {
		i, err := p.Draw(source)
		if err != nil {
			t.Fatal(err)
		}
		drawn[i]++
	}
	if drawn[0] != 2 {
		t.Errorf("a stock of 2 was drawn %d times", drawn[0])
	}
	if odds := p.Odds(); odds[0] != 0 || odds[1] != 0.25 || odds[2] != 0.75 {
		t.Errorf("odds are %v", odds)
	}
	if share := float64(drawn[1]) / 100_000; math.Abs(share-0.25) > 0.01 {
		t.Errorf("a part with odds of 1 in 4 was drawn %v of the time", share)
	}
}

func TestNothingLeftIsSaid(t *testing.T) {
	for name, p := range map[string]*Pot{
		"no parts":   pot(t),
		"no weights": pot(t, weighing(0, 0)...),
		"no stock":   pot(t, Part{Weight: 1, Stock: 0}),
	} {
		if _, err := p.Draw(rand.NewPCG(1, 1)); !errors.Is(err, ErrEmpty) {
			t.Errorf("%s: %v", name, err)
		}
	}
	p := pot(t, Part{Weight: 1, Stock: 3})
	for range 3 {
		if _, err := p.Draw(rand.NewPCG(1, 1)); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := p.Draw(rand.NewPCG(1, 1)); !errors.Is(err, ErrEmpty) {
		t.Errorf("after the last of its stock: %v", err)
	}
}

func TestWeightsThatCannotBeAreFaults(t *testing.T) {
	for _, w := range []float64{-1, math.NaN(), math.Inf(1), MaxWeight * 2} {
		if _, err := New(weighing(1, w)); err == nil || err.Error() == "" {
			t.Errorf("a weight of %v was taken", w)
		}
	}
}

// Sources that give their least and their most must not draw beside the parts.
type fixed uint64

func (f fixed) Uint64() uint64 { return uint64(f) }

func FuzzDraw(f *testing.F) {
	f.Add(uint64(0), 1.0, 2.0, 3.0, 1)
	f.Add(uint64(math.MaxUint64), 0.0001, 1e6, 0.0, -1)
	f.Fuzz(func(t *testing.T, bits uint64, a, b, c float64, stock int) {
		p, err := New([]Part{{a, stock}, {b, -1}, {c, stock}})
		if err != nil {
			return
		}
		odds := p.Odds()
		i, err := p.Draw(fixed(bits))
		if (err != nil) != (odds[0]+odds[1]+odds[2] == 0) {
			t.Fatalf("odds are %v, and drawing says %v", odds, err)
		}
		if err == nil && odds[i] == 0 {
			t.Fatalf("part %d has no odds in %v", i, odds)
		}
	})
}

func TestAWheelRestsWithinItsPart(t *testing.T) {
	shares := []float64{0.25, 0.05, 0.7}
	edges := []float64{0, 90, 108, 360}
	for part := range shares {
		for _, at := range []float64{0, 0.5, 1, -3, 7} {
			degrees := Rest(shares, part, at)
			if degrees <= edges[part] || degrees >= edges[part+1] {
				t.Errorf("rests at %v°, outside of part %d", degrees, part)
			}
		}
	}
	if got := Rest(shares, 0, 0.5); math.Abs(got-45) > 1e-9 {
		t.Errorf("the middle of the first part is at %v°", got)
	}
}

func TestSay(t *testing.T) {
	for odds, want := range map[float64]string{
		0: "0 %", 1: "100 %", 0.5: "1 in 2", 0.25: "1 in 4", 1.0 / 12: "1 in 12", 0.375: "37.5 %", 2.0 / 3: "66.7 %", 1e-7: "1 in 10,000,000", 0.8: "80 %",
		0.0123: "1 in 81", 0.029: "2.9 %", 0.001: "1 in 1,000", 0.334: "1 in 3", 0.34: "34 %",
	} {
		if got := Say(odds); got != want {
			t.Errorf("odds of %v are said as %q, want %q", odds, got, want)
		}
	}
	for share, want := range map[float64]string{0: "0 %", 1: "100 %", 0.125: "12.5 %", 0.0042: "0.42 %", 0.000042: "0.0042 %", 1e-10: "0.00000001 %"} {
		if got := Percent(share); got != want {
			t.Errorf("%v is %q, want %q", share, got, want)
		}
	}
}

func TestStatement(t *testing.T) {
	labels := []string{"A tile", "10 % off", "A tile", "Nothing", "Never"}
	odds := []float64{1.0 / 6, 0.25, 1.0 / 6, 5.0 / 12, 0}
	if got, want := Statement([]string{"A", "B"}, []float64{0.5, 0.5}, true), "Odds: A 1 in 2 · B 1 in 2. While stocks last: what has run out leaves its odds to the rest."; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
	if got, want := Statement(labels, odds, false), "Odds: A tile 33.3 % · 10 % off 25 % · Nothing 41.7 %"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
}
