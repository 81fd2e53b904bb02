package weigh

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"
)

func close9(got, want float64) bool { return math.Abs(got-want) < 1e-9*math.Max(1, math.Abs(want)) }

// The square of z is Pearson's chi-square of the fourfold table.
func TestPooledIsTheFourfoldTable(t *testing.T) {
	for _, c := range []struct{ a, b Count }{{Count{1702, 146}, Count{1688, 118}}, {Count{20, 1}, Count{35, 30}}, {Count{9, 9}, Count{7, 0}}, {Count{1_000_000, 70_312}, Count{990_000, 69_000}}} {
		x, y, u, v := float64(c.a.Conversions), float64(c.a.Visitors-c.a.Conversions), float64(c.b.Conversions), float64(c.b.Visitors-c.b.Conversions)
		chi := (x + y + u + v) * math.Pow(x*v-y*u, 2) / ((x + y) * (u + v) * (x + u) * (y + v))
		z, p := Pooled(c.a, c.b)
		if !close9(float64(z*z), chi) || float64(p) < 0 || p > 1 || !close9(float64(p), 2*(1-0.5*math.Erfc(-math.Abs(float64(z))/math.Sqrt2))) {
			t.Errorf("%v: z² %v, want %v; p %v", c, z*z, chi, p)
		}
	}
	for _, none := range [][2]Count{{{10, 0}, {20, 0}}, {{10, 10}, {20, 20}}, {{0, 0}, {20, 3}}} {
		if z, p := Pooled(none[0], none[1]); z.Is() || p.Is() {
			t.Errorf("%v has z %v, p %v", none, z, p)
		}
	}
}

// Physicians' Health Study on aspirin and heart attacks, as in Agresti (2002),
// section 3.1: ratio of risks 1.82 with bounds 1.43 to 2.30.
func TestKatzAsPublished(t *testing.T) {
	lift, low, high := Katz(Count{11034, 189}, Count{11037, 104}, 0.95)
	if math.Abs(float64(lift)-0.818) > 0.0005 || math.Abs(float64(low)-0.433) > 0.0005 || math.Abs(float64(high)-1.306) > 0.0005 {
		t.Error(lift, low, high)
	}
	if lift, low, _ := Katz(Count{10, 0}, Count{10, 2}, 0.95); lift != -1 || low.Is() {
		t.Error(lift, low)
	}
	if lift, _, _ := Katz(Count{10, 2}, Count{10, 0}, 0.95); lift.Is() {
		t.Error("a lift over nothing is", lift)
	}
}

// As R's p.adjust gives them.
func TestHolmAsPublished(t *testing.T) {
	for _, c := range []struct{ ps, want []Maybe }{
		{[]Maybe{.01, .02, .03, .04, .05}, []Maybe{.05, .08, .09, .09, .09}},
		{[]Maybe{.01, .04, .03, .005}, []Maybe{.03, .06, .06, .02}},
		{[]Maybe{.7, .6}, []Maybe{1, 1}},
		{[]Maybe{.02}, []Maybe{.02}},
		{[]Maybe{None, .02}, []Maybe{None, .04}},
	} {
		for i, p := range Holm(c.ps) {
			if p.Is() != c.want[i].Is() || p.Is() && !close9(float64(p), float64(c.want[i])) {
				t.Errorf("%v: %v at %d, want %v", c.ps, p, i, c.want[i])
			}
		}
	}
}

func valuesOf(xs ...float64) (v Values, n int) {
	for _, x := range xs {
		v.Sum += x
		v.SumSquares += x * x
	}
	return v, len(xs)
}

// Student's sleep data, as R's t.test gives it: t = −1.8608, 17.776 degrees, p = 0.07939.
func TestWelchAsPublished(t *testing.T) {
	a, n := valuesOf(0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0.0, 2.0)
	b, m := valuesOf(1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4)
	w := Welch(a, b, n, m, 0.95)
	if math.Abs(float64(w.T)+1.8608) > 5e-5 || math.Abs(float64(w.Degrees)-17.776) > 5e-4 || math.Abs(float64(w.P)-0.07939) > 5e-6 {
		t.Errorf("%+v", *w)
	}
	if math.Abs(float64(w.Interval[0])+3.3654832) > 5e-7 || math.Abs(float64(w.Interval[1])-0.2054832) > 5e-7 {
		t.Error(w.Interval)
	}
	for _, none := range []*WelchResult{Welch(a, b, 1, m, 0.95), Welch(Values{}, Values{}, 10, 10, 0.95), Welch(Values{10, 10}, Values{20, 40}, 10, 10, 0.95)} {
		if none != nil {
			t.Errorf("no spread, and still %+v", *none)
		}
	}
}

// Mendel's peas against 9:3:3:1: chi-square 0.470, p = 0.925.
func TestSplitCheckAsPublished(t *testing.T) {
	peas := []Arm{{Share: 9, Count: Count{Visitors: 315}}, {Share: 3, Count: Count{Visitors: 101}}, {Share: 3, Count: Count{Visitors: 108}}, {Share: 1, Count: Count{Visitors: 32}}}
	c := CheckSplit(peas)
	if math.Abs(float64(c.ChiSquare)-0.470) > 5e-4 || c.Degrees != 3 || math.Abs(float64(c.P)-0.9254) > 5e-5 || c.Broken() {
		t.Errorf("%+v", c)
	}
	stray := CheckSplit([]Arm{{Share: 1, Count: Count{Visitors: 10}}, {Share: 0, Count: Count{Visitors: 1}}})
	if !stray.Broken() || stray.ChiSquare.Is() {
		t.Errorf("a variant without a share has visitors: %+v", stray)
	}
	if c := CheckSplit([]Arm{{Share: 1}, {Share: 1}}); c.P.Is() || c.Broken() {
		t.Errorf("nobody came: %+v", c)
	}
}

// exactChance is P(a > b) as a finite sum of beta functions (Miller, 2015), in
// rational numbers.
func exactChance(a, b Count) float64 {
	sum, term := new(big.Rat), betaFunction(int64(1+b.Conversions), int64(1+b.Visitors-b.Conversions))
	whole := new(big.Rat).Set(term)
	alphaB, betaB, betaA := int64(1+b.Conversions), int64(1+b.Visitors-b.Conversions), int64(1+a.Visitors-a.Conversions)
	for i := int64(0); i <= int64(a.Conversions); i++ {
		top := betaFunction(alphaB+i, betaA+betaB)
		under := new(big.Rat).Mul(new(big.Rat).SetInt64(betaA+i), betaFunction(1+i, betaA))
		sum.Add(sum, top.Quo(top, under.Mul(under, whole)))
	}
	value, _ := sum.Float64()
	return value
}

func betaFunction(a, b int64) *big.Rat {
	n := new(big.Int).Mul(new(big.Int).MulRange(1, a-1), new(big.Int).MulRange(1, b-1))
	return new(big.Rat).SetFrac(n, new(big.Int).MulRange(1, a+b-1))
}

func TestChanceBetterIsTheExactSum(t *testing.T) {
	for _, c := range []struct{ a, b Count }{
		{Count{}, Count{}}, {Count{1, 1}, Count{}}, {Count{1, 0}, Count{1, 0}}, {Count{10, 10}, Count{10, 0}}, {Count{50, 4}, Count{40, 9}},
		{Count{300, 22}, Count{310, 15}}, {Count{5, 0}, Count{400, 390}}, {Count{600, 600}, Count{600, 599}}, {Count{3, 2}, Count{700, 350}},
	} {
		got, loss := ChanceBetter(c.a, c.b)
		back, gain := ChanceBetter(c.b, c.a)
		if want := exactChance(c.a, c.b); math.Abs(got-want) > 1e-11 || math.Abs(got+back-1) > 1e-11 {
			t.Errorf("%v: %v, want %v; the other way %v", c, got, want, back)
		}
		// E[max(b−a, 0)] − E[max(a−b, 0)] is the difference of the means.
		mean := func(c Count) float64 { return float64(1+c.Conversions) / float64(2+c.Visitors) }
		if math.Abs((loss-gain)-(mean(c.b)-mean(c.a))) > 1e-11 {
			t.Errorf("%v: losses %v and %v, means %v and %v", c, loss, gain, mean(c.a), mean(c.b))
		}
	}
	// E[max(b−a, 0)] of two rates of which nothing is known is 1/6.
	if _, loss := ChanceBetter(Count{}, Count{}); math.Abs(loss-1.0/6) > 1e-12 {
		t.Error(loss)
	}
	// So many that a gamma function would round: as two normal curves have it.
	a, b := Count{40_000_000, 2_801_000}, Count{40_000_000, 2_800_000}
	if got, _ := ChanceBetter(a, b); math.Abs(got-0.5*math.Erfc(-0.43812/math.Sqrt2)) > 2e-4 {
		t.Error(got)
	}
}

func TestSafeBoundsHoldTogether(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 1))
	for range 400 {
		a, b := anyCount(random), anyCount(random)
		bounds, p := Safe(a, b, 0.95)
		back, same := Safe(b, a, 0.95)
		if math.Abs(bounds[0]+back[1]) > 1e-9 || math.Abs(bounds[1]+back[0]) > 1e-9 || math.Abs(p-same) > 1e-9 {
			t.Fatalf("%v %v: %v %v, the other way %v %v", a, b, bounds, p, back, same)
		}
		difference, once, ok := Newcombe(a, b, 0.95)
		if ok && (difference < bounds[0]-1e-12 || difference > bounds[1]+1e-12) {
			t.Fatalf("%v %v: %v is outside %v", a, b, difference, bounds)
		}
		if (p < 0.05) != (bounds[0] > 0 || bounds[1] < 0) && math.Abs(p-0.05) > 1e-9 {
			t.Fatalf("%v %v: p %v, bounds %v", a, b, p, bounds)
		}
		// They cost something: who excludes 0 safely does so in one look too.
		if p < 0.05 && once[0] <= 0 && once[1] >= 0 {
			t.Fatalf("%v %v: safe %v, once %v", a, b, bounds, once)
		}
		if wider, _ := Safe(a, b, 0.999); wider[0] > bounds[0]+1e-12 || wider[1] < bounds[1]-1e-12 {
			t.Fatalf("%v %v: %v at 0.95, %v at 0.999", a, b, bounds, wider)
		}
	}
	for _, c := range []struct {
		a, b      Count
		low, high float64
	}{
		{Count{}, Count{}, -1, 1}, {Count{100_000, 0}, Count{100_000, 0}, -0.0002, 0.0002}, {Count{0, 0}, Count{50, 50}, -1, 0.3}, {Count{1, 1}, Count{1, 0}, -1, 1},
	} {
		if got, p := Safe(c.a, c.b, 0.95); got[0] < c.low || got[1] > c.high || p < 0.05 {
			t.Errorf("%v %v: %v, p %v", c.a, c.b, got, p)
		}
	}
}

func anyCount(random *rand.Rand) Count {
	n := int(math.Exp(random.Float64() * 12))
	c := Count{Visitors: n}
	rate := random.Float64() * random.Float64()
	for range min(n, 300) {
		if random.Float64() < rate {
			c.Conversions += max(1, n/300)
		}
	}
	c.Conversions = min(c.Conversions, n)
	return c
}

// looks runs tests, each looked at after every few visitors, and gives the share
// in which the safe bounds ever excluded 0.
func looks(random *rand.Rand, tests, visitors, every int, rateA, rateB, partA float64) float64 {
	found := 0
	for range tests {
		var a, b Count
		for i := range visitors {
			arm, rate := &a, rateA
			if random.Float64() >= partA {
				arm, rate = &b, rateB
			}
			arm.Visitors++
			if random.Float64() < rate {
				arm.Conversions++
			}
			if i%every == every-1 {
				if _, p := Safe(a, b, 0.95); p < 0.05 {
					found++
					break
				}
			}
		}
	}
	return float64(found) / float64(tests)
}

func TestSafeBoundsSeldomFindWhatIsNotThere(t *testing.T) {
	random := rand.New(rand.NewPCG(11, 1))
	for _, c := range []struct {
		rate, partA     float64
		visitors, every int
	}{{0.02, 0.5, 1000, 25}, {0.07, 0.5, 1000, 25}, {0.3, 0.1, 400, 8}, {0.5, 0.5, 200, 4}, {0.9, 0.7, 200, 4}} {
		// 5 % of 200, and three times the spread of that.
		if share := looks(random, 200, c.visitors, c.every, c.rate, c.rate, c.partA); share > 0.05+3*0.0154 {
			t.Errorf("%+v: excluded 0 in %v of tests without a difference", c, share)
		}
	}
}

func TestSafeBoundsFindWhatIsThere(t *testing.T) {
	size, err := Plan(Goal{Baseline: 0.2, Lift: 0.5, Confidence: 0.95, Power: 0.8})
	if err != nil {
		t.Fatal(err)
	}
	random := rand.New(rand.NewPCG(12, 1))
	if share := looks(random, 120, 2*size.SafePerVariant, 40, 0.2, 0.3, 0.5); share < 0.7 {
		t.Errorf("found in %v of tests of %d a variant, planned for 0.8", share, size.SafePerVariant)
	}
}

func TestPlan(t *testing.T) {
	for _, c := range []struct {
		goal Goal
		want int
	}{
		{Goal{0.07, 0.2, 0.95, 0.8, 1}, 5691},
		{Goal{0.07, 0.2, 0.95, 0.8, 0}, 5691},
		// By the formula, written down anew with Python's statistics.NormalDist.
		{Goal{0.6, 1.0 / 6, 0.95, 0.8, 1}, 356},
		{Goal{0.25, 0.6, 0.95, 0.9, 1}, 203},
		{Goal{0.02, 0.1, 0.99, 0.95, 2}, 203729},
		{Goal{0.5, -0.5, 0.95, 0.8, 1}, 58},
	} {
		got, err := Plan(c.goal)
		if err != nil || got.VisitorsPerVariant != c.want || got.SafePerVariant <= got.VisitorsPerVariant {
			t.Errorf("%+v: %+v %v, want %d", c.goal, got, err, c.want)
		}
	}
	last := 0
	for comparisons := 1; comparisons < 8; comparisons++ {
		got, _ := Plan(Goal{0.07, 0.2, 0.95, 0.8, comparisons})
		if got.VisitorsPerVariant <= last {
			t.Error("more comparisons take no more visitors:", comparisons, got)
		}
		last = got.VisitorsPerVariant
	}
	for at, g := range map[string]Goal{
		"baseline": {0, 0.2, 0.95, 0.8, 1}, "lift": {0.6, 1, 0.95, 0.8, 1}, "power": {0.1, 0.2, 0.95, 1, 1}, "confidence": {0.1, 0.2, math.NaN(), 0.8, 1}, "comparisons": {0.1, 0.2, 0.95, 0.8, -1},
	} {
		if _, err := Plan(g); err == nil || !contains(err, at) {
			t.Errorf("%+v: %v, want a fault at %s", g, err, at)
		}
	}
	if _, err := Plan(Goal{0.1, 0, 0.95, 0.8, 1}); err == nil {
		t.Error("no lift is planned for")
	}
}
