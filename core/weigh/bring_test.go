package weigh

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

func TestSafeRateHoldsAtEveryLook(t *testing.T) {
	random := rand.New(rand.NewPCG(6, 1))
	for _, rate := range []float64{0.01, 0.07, 0.5, 0.98} {
		left := 0
		for range 300 {
			c := Count{}
			for range 400 {
				c.Visitors++
				if random.Float64() < rate {
					c.Conversions++
				}
				if b := SafeRate(c, 0.95); rate < b[0] || rate > b[1] {
					left++
					break
				}
			}
		}
		if share := float64(left) / 300; share > 0.05+3*0.0126 {
			t.Errorf("%v was left out in %v of all", rate, share)
		}
	}
	for _, c := range []Count{{1, 0}, {1, 1}, {50, 3}, {100000, 7000}} {
		safe, once := SafeRate(c, 0.95), Wilson(c, 0.95)
		if rate, _ := c.Rate(); safe[0] > rate || safe[1] < rate || c.Visitors > 10 && (safe[0] > once[0] || safe[1] < once[1]) {
			t.Errorf("%v: safe %v, once %v", c, safe, once)
		}
	}
}

// Of ten cuts without any difference some stand out when each is looked at by
// itself, and hardly any once the bounds are shared out.
func TestManyCutsFindLittleByChance(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 1))
	shared, alone := 0, 0
	for range 200 {
		var cuts []Cut
		for range 10 {
			counts := []Count{{Visitors: 500}, {Visitors: 500}}
			for i := range counts {
				for range 500 {
					if random.Float64() < 0.1 {
						counts[i].Conversions++
					}
				}
			}
			cuts = append(cuts, Cut{Counts: counts})
			if _, b, _ := Newcombe(counts[1], counts[0], 0.95); b[0] > 0 || b[1] < 0 {
				alone++
			}
		}
		for _, r := range WeighCuts(cuts, 0.95) {
			if r.Differences[0].Apart {
				shared++
				break
			}
		}
	}
	if shared > 20 || alone < 50 {
		t.Errorf("%d of 200 found something, where %d of 2000 would alone", shared, alone)
	}
	if r := WeighCuts([]Cut{{"phone", []Count{{}, {10, 1}}}}, 0.95); r[0].Differences[0].Difference.Is() || r[0].Differences[0].Apart {
		t.Errorf("%+v", r)
	}
}

func TestGained(t *testing.T) {
	g := Gained(Count{9000, 450}, Count{1000, 30}, Values{18000, 900000}, Values{1200, 60000}, 0.95)
	if math.Abs(float64(g.Conversions)-180) > 1e-9 || !g.Sure || g.Bounds[0] < 50 || g.Bounds[1] > 320 || math.Abs(float64(g.Value)-7200) > 1e-6 {
		t.Errorf("%+v", g)
	}
	none := Gained(Count{100, 3}, Count{}, Values{}, Values{}, 0.95)
	if none.Conversions.Is() || none.Value.Is() || none.Sure {
		t.Errorf("nobody was held back, and %+v", none)
	}
	both := Together([]Gain{g, g, none})
	if math.Abs(float64(both.Conversions)-360) > 1e-9 || both.Bounds[0] <= 2*g.Bounds[0] || both.Shown.Visitors != 18100 {
		t.Errorf("%+v", both)
	}
	if all := Together([]Gain{none}); all.Conversions.Is() {
		t.Errorf("%+v", all)
	}
}

func TestPlanFor(t *testing.T) {
	p, err := PlanFor(Traffic{0.07, 200, 2}, 0.2, 0.95, 0.8)
	if err != nil || p.SafePerVariant != p.Curve[4].SafePerVariant || p.Days != Maybe(math.Ceil(float64(2*p.SafePerVariant)/200)) || !strings.Contains(p.Say, "cannot show a lift of less than about 50 %") {
		t.Errorf("%+v %v", p, err)
	}
	for i := range len(p.Curve) - 1 {
		if p.Curve[i].SafePerVariant <= p.Curve[i+1].SafePerVariant {
			t.Error("a larger lift takes no fewer visitors:", p.Curve[i], p.Curve[i+1])
		}
	}
	if p, err := PlanFor(Traffic{0.6, 0, 3}, 0.2, 0.95, 0.8); err != nil || p.Days.Is() || len(p.Curve) != 9 || !strings.Contains(p.Say, "Nobody has seen") {
		t.Errorf("%+v %v", p, err)
	}
	if p, err := PlanFor(Traffic{0.01, 1, 2}, 0.05, 0.95, 0.8); err != nil || p.InMonth.Is() || !strings.Contains(p.Say, "more than a year") {
		t.Errorf("%+v %v", p, err)
	}
	if _, err := PlanFor(Traffic{0, 10, 2}, 0.2, 0.95, 0.8); err == nil {
		t.Error("a rate of 0 is planned for")
	}
}
