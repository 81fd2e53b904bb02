package caps

import (
	"math/rand/v2"
	"testing"
	"time"

	"gobbet/core/fault"
)

var now = time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)

func ago(d time.Duration) time.Time { return now.Add(-d) }

func TestHold(t *testing.T) {
	day := Day
	for _, c := range []struct {
		name  string
		caps  Caps
		m     Memory
		why   Reason
		until time.Time
	}{
		{"no caps", Caps{}, Memory{Shown: []time.Time{now}}, "", time.Time{}},
		{"first time", Caps{PerVisitor: []Limit{{1, "visit"}}, Gap: "PT1H"}, Memory{}, "", time.Time{}},
		{"once a visit, shown", Caps{PerVisitor: []Limit{{1, "visit"}}}, Memory{ShownThisVisit: 1}, PerVisitor, time.Time{}},
		{"once a visit, shown before", Caps{PerVisitor: []Limit{{1, "visit"}}}, Memory{Shown: []time.Time{ago(day)}}, "", time.Time{}},
		{"2 in 7 days, oldest frees it", Caps{PerVisitor: []Limit{{2, "P7D"}}}, Memory{Shown: []time.Time{ago(day), ago(6 * day), ago(9 * day)}}, PerVisitor, now.Add(day)},
		{"3 shown where 1 is allowed: the newest frees it", Caps{PerVisitor: []Limit{{1, "P7D"}}}, Memory{Shown: []time.Time{ago(3 * day), ago(2 * day), ago(day)}}, PerVisitor, now.Add(6 * day)},
		{"exactly a window ago is out of it", Caps{PerVisitor: []Limit{{1, "P7D"}}}, Memory{Shown: []time.Time{ago(7 * day)}}, "", time.Time{}},
		{"a nanosecond less is in it", Caps{PerVisitor: []Limit{{1, "P7D"}}}, Memory{Shown: []time.Time{ago(7*day - 1)}}, PerVisitor, now.Add(1)},
		{"once for good", Caps{PerVisitor: []Limit{{1, Forever}}}, Memory{Shown: []time.Time{ago(9000 * day)}}, PerVisitor, time.Time{}},
		{"gap from the latest", Caps{Gap: "PT6H"}, Memory{Shown: []time.Time{ago(time.Hour), ago(day)}}, Gap, now.Add(5 * time.Hour)},
		{"rest after close", Caps{AfterClose: "P7D"}, Memory{Closed: ago(2 * day)}, AfterClose, now.Add(5 * day)},
		{"rest over", Caps{AfterClose: "P7D"}, Memory{Closed: ago(7 * day)}, "", time.Time{}},
		{"converted, for good", Caps{AfterConvert: Forever}, Memory{Converted: ago(900 * day)}, AfterConvert, time.Time{}},
		{"never beats a date", Caps{AfterConvert: Forever, AfterClose: "P99D"}, Memory{Converted: ago(day), Closed: ago(day)}, AfterConvert, time.Time{}},
		{"the latest of several", Caps{Gap: "PT6H", AfterClose: "P7D"}, Memory{Shown: []time.Time{now}, Closed: now}, AfterClose, now.Add(7 * day)},
		{"total by everyone", Caps{Total: 5}, Memory{TotalShown: 5}, Total, time.Time{}},
		{"total by this visitor alone", Caps{Total: 2}, Memory{Shown: []time.Time{ago(1), ago(2)}}, Total, time.Time{}},
		{"a fast clock lifts no limit", Caps{PerVisitor: []Limit{{1, "P1D"}}}, Memory{Shown: []time.Time{now.Add(9 * day)}}, PerVisitor, now.Add(day)},
		{"a fast clock stretches no rest", Caps{AfterClose: "P1D"}, Memory{Closed: now.Add(900 * day)}, AfterClose, now.Add(day)},
	} {
		why, until, held := c.caps.Hold(c.m, now)
		if held != (c.why != "") || why != c.why || !until.Equal(c.until) {
			t.Errorf("%s: %q until %v (held %v), want %q until %v", c.name, why, until, held, c.why, c.until)
		}
	}
}

// Asked again at the time it named, with nothing new shown, a piece is free of
// the cap that held it; and a moment earlier it was not.
func TestHoldFreesWhenItSaid(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	freed := 0
	for range 5000 {
		c := Caps{Gap: "PT6H", AfterClose: "P2D", PerVisitor: []Limit{{1 + r.IntN(3), "P3D"}, {2, "PT12H"}}}
		m := Memory{Closed: ago(time.Duration(r.IntN(200)) * time.Hour)}
		for range r.IntN(6) {
			m.Shown = append(m.Shown, ago(time.Duration(r.IntN(100*60))*time.Minute))
		}
		_, until, held := c.Hold(m, now)
		if !held {
			continue
		}
		freed++
		if _, _, still := c.Hold(m, until); still {
			t.Fatalf("%v still holds %v at the time it named", c, m)
		}
		if _, _, still := c.Hold(m, until.Add(-1)); !still {
			t.Fatalf("%v frees %v before the time it named", c, m)
		}
	}
	if freed < 1000 {
		t.Fatalf("only %d cases held", freed)
	}
}

func TestHoldLeavesTheMemoryAlone(t *testing.T) {
	m := Memory{Shown: []time.Time{now.Add(Day), ago(Day)}}
	Caps{Gap: "PT1H"}.Hold(m, now)
	if !m.Shown[0].Equal(now.Add(Day)) {
		t.Error("the memory was changed")
	}
}

func TestSpans(t *testing.T) {
	for span, want := range map[Span]time.Duration{
		"P7D": 7 * Day, "PT6H": 6 * time.Hour, "P1DT12H": 36 * time.Hour, "P2W": 14 * Day,
		"P1M": 30 * Day, "PT90S": 90 * time.Second, "P1Y": 365 * Day, "PT0.5S": 500 * time.Millisecond,
	} {
		if got, _ := span.Length(); got != want {
			t.Errorf("%s lasts %v, want %v", span, got, want)
		}
	}
}

func TestCheckNamesThePlace(t *testing.T) {
	for at, c := range map[string]Caps{
		"per_visitor[0].times": {PerVisitor: []Limit{{0, "P1D"}}},
		"per_visitor[0].per":   {PerVisitor: []Limit{{1, "7 days"}}},
		"per_visitor[1].per":   {PerVisitor: []Limit{{1, "visit"}, {1, ""}}},
		"gap":                  {Gap: "-P1D"},
		"after_close":          {AfterClose: "PT0S"},
		"after_convert":        {AfterConvert: "P900Y"},
		"total":                {Total: -1},
	} {
		if faults := fault.Of(c.Check()); len(faults) != 1 || faults[0].At != at {
			t.Errorf("%+v: %v, want one fault at %s", c, faults, at)
		}
	}
	if err := (Caps{PerVisitor: []Limit{{1, Visit}, {3, "P30D"}}, Gap: "PT6H", AfterClose: "P7D", AfterConvert: Forever, Total: 5000}).Check(); err != nil {
		t.Error(err)
	}
}

func TestSiteLimitsHold(t *testing.T) {
	for _, c := range []struct {
		limits       SiteLimits
		interruption Interruption
		overlays     int
		latest       time.Time
		why          Reason
		until        time.Time
	}{
		{SiteLimits{}, Covers, 99, now, "", time.Time{}},
		{SiteLimits{Overlays: 2}, Covers, 1, time.Time{}, "", time.Time{}},
		{SiteLimits{Overlays: 2}, Covers, 2, time.Time{}, Overlays, time.Time{}},
		{SiteLimits{Overlays: 2}, Interrupts, 9, time.Time{}, "", time.Time{}},
		{SiteLimits{Quiet: "PT1M"}, Interrupts, 0, ago(59 * time.Second), Quiet, now.Add(time.Second)},
		{SiteLimits{Quiet: "PT1M"}, Interrupts, 0, ago(time.Minute), "", time.Time{}},
		{SiteLimits{Quiet: "PT1M"}, Interrupts, 0, time.Time{}, "", time.Time{}},
		{SiteLimits{Quiet: "PT1M", Overlays: 1}, Invited, 9, ago(time.Second), "", time.Time{}},
		{SiteLimits{Quiet: "PT1M"}, Interrupts, 0, now.AddDate(1, 0, 0), Quiet, now.Add(time.Minute)}, // a clock a year fast
	} {
		why, until, held := c.limits.Hold(c.interruption, c.overlays, c.latest, now)
		if why != c.why || !until.Equal(c.until) || held != (c.why != "") {
			t.Errorf("%+v: %q until %v (%v)", c, why, until, held)
		}
	}
	for limits, at := range map[SiteLimits]string{{Overlays: -1}: "overlays", {Overlays: 101}: "overlays", {Quiet: "soon"}: "quiet", {Quiet: Forever}: "quiet", {Quiet: "PT0S"}: "quiet"} {
		if err := limits.Check(); err == nil || fault.Of(err)[0].At != at {
			t.Errorf("%+v: %v", limits, err)
		}
	}
	if err := (SiteLimits{Overlays: 3, Quiet: "PT2M"}).Check(); err != nil {
		t.Error(err)
	}
}

// Holds answers as Hold does.
func TestHoldsIsHold(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 7))
	held := 0
	for range 20_000 {
		c := Caps{Total: []int{0, 0, 3}[r.IntN(3)], NotLeads: r.IntN(4) == 0, Gap: []Span{"", "PT1H", "P2D", Forever}[r.IntN(4)]}
		for range r.IntN(3) {
			c.PerVisitor = append(c.PerVisitor, Limit{Times: 1 + r.IntN(3), Per: []Span{Visit, "PT1H", "P7D", Forever}[r.IntN(4)]})
		}
		now := time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)
		m := Memory{ShownThisVisit: r.IntN(3), Lead: r.IntN(2) == 0, Sorted: true}
		var shown []int64
		for at := now.Add(-time.Duration(r.IntN(300)) * time.Hour); len(shown) < r.IntN(5); at = at.Add(time.Duration(r.IntN(60*48)) * time.Minute) {
			m.Shown, shown = append(m.Shown, at), append(shown, at.UnixNano())
		}
		ready := c.Ready()
		_, _, want := ready.Hold(m, now)
		if got := ready.Holds(m.ShownThisVisit, shown, m.Lead, now.UnixNano()); got != want {
			t.Fatalf("%+v with %+v: %v, want %v", c, m, got, want)
		}
		if want {
			held++
		}
	}
	if held < 4000 || held > 18_000 {
		t.Errorf("%d of 20000 were held: the test tries too little", held)
	}
}
