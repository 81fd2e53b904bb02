package weigh

import (
	"math/rand/v2"
	"testing"
	"time"
)

func TestLatestIsWhatRanTogether(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 11, n, 0, 0, 0, 0, time.UTC) }
	run := func(n, began int, shares ...float64) Run {
		r := Run{Number: n, Began: day(began)}
		for i, s := range shares {
			r.Shares = append(r.Shares, Share{ID: string(rune('a' + i)), Share: s})
		}
		return r
	}
	follow := func(r Run) Run { r.Follow = true; return r }
	for _, c := range []struct {
		name  string
		runs  []Run
		want  []int
		arms  int
		ended int
	}{
		{"none", nil, nil, 0, 0},
		{"one variant", []Run{run(1, 1, 1)}, nil, 0, 0},
		{"one after weeks of another", []Run{run(1, 1, 1), run(2, 20, 1, 1)}, []int{2}, 2, 0},
		{"shares changed", []Run{run(1, 1, 1, 1), run(2, 9, 80, 20)}, []int{2}, 2, 0},
		{"the same proportion", []Run{run(1, 1, 50, 50), run(2, 9, 1, 1)}, []int{1, 2}, 2, 0},
		{"a winner was launched", []Run{run(1, 1, 1, 1), run(2, 9, 0, 1)}, []int{1}, 2, 9},
		{"a variant without a share", []Run{run(1, 1, 1, 1, 0), run(2, 9, 1, 1)}, []int{1, 2}, 2, 0},
		{"it followed the winner", []Run{run(1, 1, 1, 1), follow(run(2, 2, 1, 1)), follow(run(3, 3, 60, 40)), follow(run(4, 4, 90, 10))}, []int{2, 3, 4}, 2, 0},
	} {
		p, ok := Latest(c.runs)
		var got []int
		for _, r := range p.Runs {
			got = append(got, r.Number)
		}
		if ok != (c.want != nil) || len(got) != len(c.want) || ok && got[0] != c.want[0] || len(p.Arms) != c.arms || (p.Ended != nil) != (c.ended > 0) || c.ended > 0 && !p.Ended.Equal(day(c.ended)) {
			t.Errorf("%s: %+v %v", c.name, p, ok)
		}
	}
}

// Rates that rise from day to day, while shares go to one variant: counts thrown
// together would find it better, days compared within themselves do not.
func TestLayersKeepDaysApart(t *testing.T) {
	random := rand.New(rand.NewPCG(4, 1))
	together, apart := 0, 0
	for range 60 {
		var sumA, sumB Count
		var pairs [][2]Count
		for d := range 20 {
			rate, share := 0.05+0.01*float64(d), 0.5+0.02*float64(d)
			var a, b Count
			for range 200 {
				arm := &a
				if random.Float64() < share {
					arm = &b
				}
				arm.Visitors++
				if random.Float64() < rate {
					arm.Conversions++
				}
			}
			pairs = append(pairs, [2]Count{b, a})
			sumA, sumB = Count{sumA.Visitors + a.Visitors, sumA.Conversions + a.Conversions}, Count{sumB.Visitors + b.Visitors, sumB.Conversions + b.Conversions}
		}
		if _, p := Safe(sumB, sumA, 0.95); p < 0.05 {
			together++
		}
		if _, p := SafeOver(pairs, 0.95); p < 0.05 {
			apart++
		}
	}
	if apart > 5 || together < 10 {
		t.Errorf("found in %d of 60 day by day, in %d thrown together", apart, together)
	}
}

// Tests without a difference that follow the winner all the same, few visitors a day.
func TestFollowedTestsSeldomFindWhatIsNotThere(t *testing.T) {
	random := rand.New(rand.NewPCG(14, 1))
	const tests = 80
	found := 0
	for n := range tests {
		var sumA, sumB Count
		var pairs [][2]Count
		for day := range 15 {
			shares := Follow([]Count{sumA, sumB}, FollowFloor, uint64(100*n+day))
			var a, b Count
			for range 30 {
				arm := &a
				if random.Float64()*100 >= float64(shares[0]) {
					arm = &b
				}
				arm.Visitors++
				if random.Float64() < 0.1 {
					arm.Conversions++
				}
			}
			pairs = append(pairs, [2]Count{b, a})
			sumA, sumB = Count{sumA.Visitors + a.Visitors, sumA.Conversions + a.Conversions}, Count{sumB.Visitors + b.Visitors, sumB.Conversions + b.Conversions}
			if _, p := SafeOver(pairs, 0.95); p < 0.05 {
				found++
				break
			}
		}
	}
	if share := float64(found) / tests; share > 0.05+3*0.0178 {
		t.Errorf("found in %v", share)
	}
}

func TestATestOfLayers(t *testing.T) {
	test := Test{Variants: arms(Count{1000, 80}, Count{3000, 420}), Days: 20, Layers: []Layer{
		{[]float64{50, 50}, []Count{{500, 40}, {500, 70}}}, {[]float64{20, 80}, []Count{{300, 24}, {1200, 168}}}, {[]float64{13, 87}, []Count{{200, 16}, {1300, 182}}},
	}}
	r, err := Weigh(test)
	if err != nil || r.Split.Broken() || r.Verdict != Better {
		t.Errorf("%+v %v", r, err)
	}
	test.Layers[0].Counts[1].Visitors = 900
	if r, _ := Weigh(test); r.Verdict != BrokenSplit {
		t.Errorf("%+v", r.Split)
	}
	test.Layers[1].Counts = test.Layers[1].Counts[:1]
	if _, err := Weigh(test); !contains(err, "layers[1]") {
		t.Error(err)
	}
}
