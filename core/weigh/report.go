package weigh

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"

	"gobbet/core/fault"
)

// Arm is one variant of a test, and what it was seen to do.
type Arm struct {
	Name   string  `json:"name"`
	Share  float64 `json:"share"` // of the visitors, relative to the sum of shares
	Count  `tstype:",extends"`
	Values `tstype:",extends"`
}

// Test is what is weighed.
type Test struct {
	// Confidence is that of all bounds, above 0 and below 1; 0 is 0.95.
	Confidence float64 `json:"confidence"`
	// Control is the name of the variant that the others are held against; empty: the first.
	Control  string `json:"control"`
	Variants []Arm  `json:"variants"`
	// SmallestLift is the least lift that matters: variants that surely differ by
	// less, relative to the control's rate, do the same. 0 is 0.1.
	SmallestLift float64 `json:"smallest_lift"`
	// Days is for how long all variants ran together; 0: it is not known.
	Days float64 `json:"days"`
	// Size is the visitors per variant that were planned; 0: no plan was made.
	Size int `json:"size"`
	// Layers are the runs of a test whose shares changed as it went on, each compared
	// within itself; none: its shares did not change. Each has a count for each variant.
	Layers []Layer `json:"layers,omitempty"`
	// WithValues says that what visitors brought was measured.
	WithValues bool `json:"-"`
}

// Layer is a run of a test, with its shares and counts in the order of the variants.
type Layer struct {
	Shares []float64 `json:"shares"`
	Counts []Count   `json:"counts"`
}

// Verdict is what to make of a test.
type Verdict string

const (
	KeepCollecting Verdict = "keep_collecting"
	Better         Verdict = "better"
	Worse          Verdict = "worse"
	NoDifference   Verdict = "no_difference"
	BrokenSplit    Verdict = "broken_split"
)

// Rated is a variant's rate with its Wilson bounds.
type Rated struct {
	Name     string `json:"name"`
	Rate     Maybe  `json:"rate"`
	Interval Bounds `json:"interval"`
}

// Comparison is a variant against the control. Differences are in rates, variant
// minus control.
type Comparison struct {
	Variant            string       `json:"variant"`
	Against            string       `json:"against"`
	Difference         Maybe        `json:"difference"`
	DifferenceInterval Bounds       `json:"difference_interval"`
	Lift               Maybe        `json:"lift"`
	LiftInterval       [2]Maybe     `json:"lift_interval" tstype:"MaybeBounds"`
	Z                  Maybe        `json:"z"`
	P                  Maybe        `json:"p_value"`
	PAdjusted          Maybe        `json:"p_adjusted"`
	SafeInterval       Bounds       `json:"safe_interval"`
	SafeP              float64      `json:"safe_p"`
	ChanceBetter       float64      `json:"chance_better"`
	ExpectedLoss       float64      `json:"expected_loss"`
	Value              *WelchResult `json:"value" tstype:"WelchResult | null,required"`
	// MoreDays is for how many days more the test has to run at this pace until the
	// safe bounds tell, if the rates stay as they were seen. It does not exist where
	// they tell already, or never will.
	MoreDays Maybe `json:"more_days"`
}

// Report is what came out.
type Report struct {
	Variants    []Rated      `json:"variants"`
	Comparisons []Comparison `json:"comparisons"`
	Split       SplitCheck   `json:"split"`
	Verdict     Verdict      `json:"verdict"`
	// Leader is the variant that the verdict is about; empty: none.
	Leader string `json:"leader"`
	// Head is the verdict in a sentence, Why what it rests on, Say both.
	Head string `json:"head"`
	Why  string `json:"why"`
	Say  string `json:"say"`
}

const (
	usualConfidence   = 0.95
	usualSmallestLift = 0.1
	mostArms          = 100
	mostVisitors      = 1 << 50
)

// check fills in what is usual and says what is wrong. It gives the control.
func (t *Test) check() (control int, err error) {
	var faults fault.Faults
	if t.Confidence == 0 {
		t.Confidence = usualConfidence
	}
	if t.SmallestLift == 0 {
		t.SmallestLift = usualSmallestLift
	}
	if !(t.Confidence > 0 && t.Confidence < 1) {
		faults.Add("confidence", "should be above 0 and below 1")
	}
	if !(t.SmallestLift > 0 && t.SmallestLift < 100) {
		faults.Add("smallest_lift", "should be above 0, such as 0.1 for a tenth")
	}
	if !(t.Days >= 0 && t.Days < 1e6) {
		faults.Add("days", "should be 0 or more")
	}
	if len(t.Variants) == 0 || len(t.Variants) > mostArms {
		faults.Add("variants", "should be 1 to %d", mostArms)
		return 0, faults
	}
	control = -1
	names, shares := map[string]bool{}, 0.0
	for i, v := range t.Variants {
		at := fault.Index("variants", i)
		if v.Name == "" || names[v.Name] {
			faults.Add(fault.Key(at, "name"), "should be there, and another for each variant")
		}
		names[v.Name] = true
		if v.Name == t.Control {
			control = i
		}
		if v.Share < 0 || math.IsInf(v.Share, 0) || v.Share > 1e12 {
			faults.Add(fault.Key(at, "share"), "should be 0 or more")
		}
		shares += v.Share
		if v.Visitors < 0 || v.Visitors > mostVisitors {
			faults.Add(fault.Key(at, "visitors"), "should be 0 or more")
		}
		if v.Conversions < 0 || v.Conversions > v.Visitors {
			faults.Add(fault.Key(at, "conversions"), "should be 0 to the number of visitors: each counts once")
		}
		if !(math.Abs(v.Sum) < 1e15) {
			faults.Add(fault.Key(at, "value_sum"), "is too large")
		}
		if !(v.SumSquares >= 0 && v.SumSquares < 1e30) {
			faults.Add(fault.Key(at, "value_sum_squares"), "should be 0 or more: a sum of squares")
		} else if n := float64(v.Visitors); v.Sum*v.Sum > v.SumSquares*n*(1+1e-9) {
			faults.Add(fault.Key(at, "value_sum_squares"), "is less than these visitors' values can have")
		}
	}
	for i, l := range t.Layers {
		at := fault.Index("layers", i)
		if len(l.Shares) != len(t.Variants) || len(l.Counts) != len(t.Variants) {
			faults.Add(at, "should have a share and a count for each variant")
			continue
		}
		for j, c := range l.Counts {
			if c.Visitors < 0 || c.Conversions < 0 || c.Conversions > c.Visitors || !(l.Shares[j] >= 0 && l.Shares[j] < 1e12) {
				faults.Add(fault.Index(fault.Key(at, "counts"), j), "should be conversions of as many visitors or more, with a share of 0 or more")
			}
		}
	}
	if !(shares > 0) && faults == nil {
		faults.Add("variants", "should have shares, of which one is above 0")
	}
	if t.Control == "" {
		control = 0
	}
	if control < 0 {
		faults.Add("control", "is none of the variants")
	}
	return control, faults.Err()
}

// Weigh measures every variant against the control and gives the verdict, which
// docs/results.md explains. Its errors are Faults, with their places in the test.
//
// The safe bounds of several comparisons share what may go wrong, as Bonferroni
// (1936) has it: of tests without any difference at most 1 − confidence ever
// exclude 0 in one of them.
func Weigh(t Test) (Report, error) {
	control, err := t.check()
	if err != nil {
		return Report{}, err
	}
	r := Report{Variants: []Rated{}, Comparisons: []Comparison{}, Split: t.checkSplit()}
	for _, v := range t.Variants {
		r.Variants = append(r.Variants, Rated{v.Name, v.rate(), Wilson(v.Count, t.Confidence)})
	}
	base, against := t.Variants[control], len(t.Variants)-1
	doubt := (1 - t.Confidence) / float64(max(1, against))
	for i, v := range t.Variants {
		if i == control {
			continue
		}
		pairs := [][2]Count{{v.Count, base.Count}}
		if len(t.Layers) > 0 {
			pairs = nil
		}
		for _, l := range t.Layers {
			pairs = append(pairs, [2]Count{l.Counts[i], l.Counts[control]})
		}
		r.Comparisons = append(r.Comparisons, compare(v, base, pairs, t, doubt))
	}
	ps := make([]Maybe, len(r.Comparisons))
	for i, c := range r.Comparisons {
		ps[i] = c.P
	}
	for i, p := range Holm(ps) {
		r.Comparisons[i].PAdjusted = p
	}
	r.judge(t, base)
	return r, nil
}

// checkSplit is CheckSplit, layer by layer where there are several.
func (t *Test) checkSplit() SplitCheck {
	if len(t.Layers) == 0 {
		return CheckSplit(t.Variants)
	}
	sum := SplitCheck{ChiSquare: 0, P: None}
	for _, l := range t.Layers {
		arms := make([]Arm, len(l.Counts))
		for i := range arms {
			arms[i] = Arm{Share: l.Shares[i], Count: l.Counts[i]}
		}
		one := CheckSplit(arms)
		if one.P == 0 && !one.ChiSquare.Is() {
			return one
		}
		if one.ChiSquare.Is() {
			sum.ChiSquare += one.ChiSquare
			sum.Degrees += one.Degrees
		}
	}
	if sum.Degrees > 0 {
		sum.P = Maybe(distuv.ChiSquared{K: float64(sum.Degrees)}.Survival(float64(sum.ChiSquare)))
	}
	return sum
}

func compare(v, base Arm, pairs [][2]Count, t Test, doubt float64) Comparison {
	c := Comparison{Variant: v.Name, Against: base.Name, MoreDays: None}
	difference, bounds, _ := Newcombe(v.Count, base.Count, t.Confidence)
	c.Difference, c.DifferenceInterval = Maybe(difference), bounds
	var low, high Maybe
	c.Lift, low, high = Katz(v.Count, base.Count, t.Confidence)
	c.LiftInterval = [2]Maybe{low, high}
	c.Z, c.P = Pooled(v.Count, base.Count)
	var p float64
	c.SafeInterval, p = SafeOver(pairs, 1-doubt)
	c.SafeP = min(1, p*(1-t.Confidence)/doubt)
	c.ChanceBetter, c.ExpectedLoss = ChanceBetter(v.Count, base.Count)
	if t.WithValues {
		c.Value = Welch(v.Values, base.Values, v.Visitors, base.Visitors, t.Confidence)
	}
	if t.Days > 0 && c.verdict(t, base) == KeepCollecting {
		rate, _ := base.Rate()
		if times := Forecast(v.Count, base.Count, doubt, t.SmallestLift*rate); !math.IsInf(times, 0) {
			c.MoreDays = Maybe(t.Days * (times - 1))
		}
	}
	return c
}

// verdict is that of one comparison, by the safe bounds: they exclude 0, or leave
// nothing but differences too small to matter, or do not tell yet.
func (c *Comparison) verdict(t Test, base Arm) Verdict {
	low, high := c.SafeInterval[0], c.SafeInterval[1]
	rate, _ := base.Rate()
	margin := t.SmallestLift * rate
	switch {
	case low > 0:
		return Better
	case high < 0:
		return Worse
	case low > -margin && high < margin:
		return NoDifference
	}
	return KeepCollecting
}

// judge makes one verdict of all. One variant that is better decides; otherwise
// all have to be told.
func (r *Report) judge(t Test, base Arm) {
	said := make([]Verdict, len(r.Comparisons))
	best := -1
	for i := range r.Comparisons {
		c := &r.Comparisons[i]
		said[i] = c.verdict(t, base)
		if said[i] == Better && (best < 0 || c.Difference > r.Comparisons[best].Difference) {
			best = i
		}
	}
	switch {
	case r.Split.Broken():
		r.Verdict = BrokenSplit
	case best >= 0:
		r.Verdict, r.Leader = Better, r.Comparisons[best].Variant
	case len(said) == 0 || slices.Contains(said, KeepCollecting):
		r.Verdict = KeepCollecting
	case slices.Contains(said, NoDifference):
		r.Verdict = NoDifference
	default:
		r.Verdict, r.Leader = Worse, base.Name
	}
	r.say(t, base)
}
