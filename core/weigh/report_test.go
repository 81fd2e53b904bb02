package weigh

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"gobbet/core/fault"
)

func contains(err error, at string) bool {
	return slices.ContainsFunc(fault.Of(err), func(f fault.Fault) bool { return f.At == at })
}

func arms(counts ...Count) (all []Arm) {
	for i, c := range counts {
		all = append(all, Arm{Name: string(rune('A' + i)), Share: 1, Count: c})
	}
	return all
}

func TestVerdicts(t *testing.T) {
	for _, c := range []struct {
		name    string
		test    Test
		verdict Verdict
		leader  string
		says    string
	}{
		{"nobody", Test{Variants: arms(Count{}, Count{})}, KeepCollecting, "", "No visitors yet."},
		{"alone", Test{Variants: arms(Count{1688, 118})}, KeepCollecting, "", "7.0 % of visitors converted. 1,688 visitors, so the true rate is likely 5.9 to 8.3 %."},
		{"one is empty", Test{Variants: arms(Count{400, 30}, Count{})}, BrokenSplit, "", "B got 0.0 %"},
		{"minutes old", Test{Variants: arms(Count{5, 0}, Count{4, 1}), Days: 0.01}, KeepCollecting, "", "Too few visitors yet"},
		{"early", Test{Variants: arms(Count{1688, 118}, Count{1702, 146}), Days: 41}, KeepCollecting, "", "B is ahead of A, but that may still be chance."},
		{"clear", Test{Variants: arms(Count{5000, 350}, Count{5100, 510}), Days: 30}, Better, "B", "B converts better than A, by 43 %. B converts 10.0 %, A 7.0 %;"},
		{"clear in a hurry", Test{Variants: arms(Count{5000, 350}, Count{5100, 510}), Days: 3}, Better, "B", "let it run a full week"},
		{"loser", Test{Variants: arms(Count{5000, 510}, Count{5100, 350}), Days: 30}, Worse, "A", "B converts worse than A, by 33 %."},
		{"tie", Test{Variants: arms(Count{40000, 8000}, Count{40200, 8040}), Days: 30}, NoDifference, "", "A and B do the same."},
		{"a tie for whom little matters", Test{Variants: arms(Count{40000, 8000}, Count{40200, 8040}), Days: 30, SmallestLift: 0.001}, KeepCollecting, "", "not be known within three months"},
		{"broken", Test{Variants: arms(Count{1000, 90}, Count{1300, 160})}, BrokenSplit, "", "A got 43.5 %, B got 56.5 % of 2,300 visitors, where 50.0 % and 50.0 % were asked."},
		{"one of three is better", Test{Variants: arms(Count{5000, 350}, Count{5100, 355}, Count{5050, 520})}, Better, "C", "C converts better than A"},
		{"all worse", Test{Variants: arms(Count{5000, 600}, Count{5100, 300}, Count{5050, 350})}, Worse, "A", "A converts better than every other variant."},
		{"another control", Test{Control: "B", Variants: arms(Count{5000, 350}, Count{5100, 510})}, Worse, "B", "A converts worse than B"},
		{"a plan", Test{Size: 5000, Variants: arms(Count{1688, 118}, Count{1702, 146})}, KeepCollecting, "", "3,312 visitors more per variant"},
		{"nobody converts", Test{Variants: arms(Count{800, 0}, Count{800, 0}), Days: 12}, KeepCollecting, "", "A and B did the same so far."},
		{"all convert", Test{Variants: arms(Count{80000, 80000}, Count{80000, 80000}), Days: 12}, NoDifference, "", "do the same"},
	} {
		r, err := Weigh(c.test)
		if err != nil || r.Verdict != c.verdict || r.Leader != c.leader || !strings.Contains(r.Say, c.says) {
			t.Errorf("%s: %s of %q, %q, %v; want %s, %q", c.name, r.Verdict, r.Leader, r.Say, err, c.verdict, c.says)
		}
		if _, err := json.Marshal(r); err != nil {
			t.Errorf("%s: %v", c.name, err)
		}
	}
}

func TestWhatDoesNotExistIsNull(t *testing.T) {
	r, err := Weigh(Test{Variants: arms(Count{0, 0}, Count{3, 0})})
	if err != nil {
		t.Fatal(err)
	}
	text, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`{"name":"A","rate":null,"interval":[0,1]}`, `"difference":null`, `"lift":null,"lift_interval":[null,null],"z":null,"p_value":null,"p_adjusted":null`, `"value":null`, `"difference_interval":[-1,1]`} {
		if !strings.Contains(string(text), want) {
			t.Errorf("no %s in %s", want, text)
		}
	}
}

func TestFaultsOfATest(t *testing.T) {
	good := func(change func(*Test)) Test {
		test := Test{Confidence: 0.95, Variants: arms(Count{10, 1}, Count{10, 1})}
		change(&test)
		return test
	}
	for at, test := range map[string]Test{
		"variants":                      {},
		"confidence":                    good(func(t *Test) { t.Confidence = 1 }),
		"control":                       good(func(t *Test) { t.Control = "Z" }),
		"variants[1].name":              good(func(t *Test) { t.Variants[1].Name = "A" }),
		"variants[1].conversions":       good(func(t *Test) { t.Variants[1].Conversions = 11 }),
		"variants[0].visitors":          good(func(t *Test) { t.Variants[0].Visitors = -1 }),
		"variants[0].share":             good(func(t *Test) { t.Variants[0].Share = -1 }),
		"variants[0].value_sum_squares": good(func(t *Test) { t.Variants[0].Sum = 100; t.Variants[0].SumSquares = 10 }),
		"variants[0].value_sum":         good(func(t *Test) { t.Variants[0].Sum = math.NaN() }),
		"smallest_lift":                 good(func(t *Test) { t.SmallestLift = -1 }),
		"days":                          good(func(t *Test) { t.Days = math.Inf(1) }),
	} {
		if _, err := Weigh(test); !contains(err, at) {
			t.Errorf("%v, want a fault at %s", err, at)
		}
	}
	if _, err := Weigh(good(func(t *Test) { t.Variants[0].Share, t.Variants[1].Share = 0, 0 })); !contains(err, "variants") {
		t.Error("nobody has a share, and", err)
	}
}

func FuzzWeigh(f *testing.F) {
	f.Add(1688, 118, 1702, 146, 1.0, 1.0, 0.95)
	f.Add(0, 0, 1, 1, 0.0, 3.0, 0.5)
	f.Add(1<<40, 1<<20, 3, 3, 1e9, 1.0, 0.999)
	f.Fuzz(func(t *testing.T, n, x, m, y int, share, other, confidence float64) {
		r, err := Weigh(Test{Confidence: confidence, Variants: []Arm{{Name: "A", Share: share, Count: Count{n, x}}, {Name: "B", Share: other, Count: Count{m, y}}}})
		if err != nil {
			return
		}
		if _, err := json.Marshal(r); err != nil {
			t.Fatal(err)
		}
		c := r.Comparisons[0]
		for _, b := range []Bounds{r.Variants[0].Interval, r.Variants[1].Interval, c.DifferenceInterval, c.SafeInterval} {
			if !(b[0] <= b[1]) || b[0] < -1.000001 || b[1] > 1.000001 {
				t.Fatalf("%+v has bounds %v", r, b)
			}
		}
		if !(c.ChanceBetter >= 0 && c.ChanceBetter <= 1 && c.ExpectedLoss >= 0 && c.SafeP >= 0 && c.SafeP <= 1) {
			t.Fatalf("%+v", c)
		}
	})
}

func TestFollowingGoesToTheBetter(t *testing.T) {
	for _, c := range []struct {
		counts []Count
		least  int // share of the last
		most   int
	}{
		{[]Count{{}, {}}, 45, 55}, {[]Count{{1000, 50}, {1000, 120}}, 90, 90}, {[]Count{{1000, 120}, {1000, 50}}, 10, 10}, {[]Count{{100, 10}, {100, 10}, {100, 14}}, 40, 80}, {[]Count{{9, 9}}, 100, 100},
	} {
		shares := Follow(c.counts, FollowFloor, 7)
		sum := 0
		for _, s := range shares {
			sum += s
			if len(shares) > 1 && s < int(100*FollowFloor) {
				t.Errorf("%v: a share of %d is below the floor", c.counts, s)
			}
		}
		if last := shares[len(shares)-1]; sum != 100 || last < c.least || last > c.most {
			t.Errorf("%v: %v", c.counts, shares)
		}
		if again := Follow(c.counts, FollowFloor, 7); !slices.Equal(shares, again) {
			t.Errorf("the same seed gives %v and %v", shares, again)
		}
	}
	if Follow(nil, 0.1, 1) != nil {
		t.Error("nothing has shares")
	}
}

// A forecast that was right: with the rates as seen, the bounds tell at about the
// time that was foretold.
func TestForecastComesTrue(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 1))
	for range 50 {
		rate, lift := 0.02+0.3*random.Float64(), 0.2+0.6*random.Float64()
		a, b := Count{2000, int(2000 * rate * (1 + lift))}, Count{2000, int(2000 * rate)}
		times := Forecast(a, b, 0.05, 0)
		grown := func(c Count, by float64) Count {
			return Count{int(float64(c.Visitors) * by), int(float64(c.Conversions) * by)}
		}
		if math.IsInf(times, 0) || times > 500 {
			continue
		}
		if _, p := Safe(grown(a, times*1.1), grown(b, times*1.1), 0.95); p > 0.05 {
			t.Errorf("%v %v: not told after %v times", a, b, times*1.1)
		}
		if _, p := Safe(grown(a, times*0.9), grown(b, times*0.9), 0.95); times > 1.2 && p < 0.05 {
			t.Errorf("%v %v: told before %v times", a, b, times)
		}
	}
}
