package trial

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/core/schedule"
)

var (
	dublin, _ = time.LoadLocation("Europe/Dublin")
	wednesday = time.Date(2026, 11, 25, 12, 0, 0, 0, dublin)
)

func visitor(t *testing.T, rule reach.Rule, c caps.Caps, s schedule.Schedule) Visitor {
	t.Helper()
	program, err := reach.Compile(rule)
	if err != nil {
		t.Fatal(err)
	}
	return Visitor{
		Live:  &choose.Live{ID: "p", Piece: &piece.Piece{Format: piece.Popup, Program: program, Caps: c, Limits: c.Ready(), Schedule: s}},
		Facts: map[string]any{"page.path": "/shop", "visitor.visits": 1.0},
		Stay:  rehearse.View{Seconds: 40, ExitAt: rehearse.Never},
		Now:   wednesday,
	}
}

func program(t *testing.T, r reach.Rule) *reach.Program {
	t.Helper()
	p, err := reach.Compile(r)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func after(seconds float64) reach.Rule {
	return reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: seconds}
}

func TestWhenAReachComesTrueOnAStay(t *testing.T) {
	for name, c := range map[string]struct {
		rule  reach.Rule
		at    int
		comes bool
	}{
		"at once":                  {reach.All{}, 0, true},
		"after ten seconds":        {after(10), 10, true},
		"after the stay has ended": {after(50), 0, false},
		"elsewhere":                {reach.Clause{Fact: "page.path", Op: reach.Is, Value: "/cart"}, 0, false},
		"on a Wednesday":           {reach.Clause{Fact: "clock.weekday", Op: reach.In, Value: []any{"wed"}}, 0, true},
		"on a Sunday":              {reach.Clause{Fact: "clock.weekday", Op: reach.In, Value: []any{"sun"}}, 0, false},
		"either of two":            {reach.Any{after(30), after(12)}, 12, true},
	} {
		v := visitor(t, c.rule, caps.Caps{}, schedule.Schedule{})
		if at, comes := v.ComesAt(v.Live.Piece.Program); comes != c.comes || comes && at != c.at {
			t.Errorf("%s: %d %v", name, at, comes)
		}
	}
	v := visitor(t, after(10), caps.Caps{}, schedule.Schedule{})
	v.Facts = nil
	if _, comes := v.ComesAt(v.Live.Piece.Program); !comes {
		t.Error("of a visitor of whom nothing is known")
	}
}

func TestTheMinimumBetweenPiecesHasItComeLater(t *testing.T) {
	rivals := []Rival{{Name: "Bags", Draft: rehearse.Draft{Program: program(t, after(3)), Slot: "corner", Interruption: caps.Interrupts}}}
	for _, c := range []struct {
		rule  reach.Rule
		stay  int
		at    string
		after string
	}{{after(10), 40, "23", "Bags"}, {after(10), 20, "never", "Bags"}, {after(30), 40, "", ""}, {after(1), 40, "", ""}} {
		v := visitor(t, c.rule, caps.Caps{}, schedule.Schedule{})
		v.Limits, v.Stay.Seconds = caps.SiteLimits{Quiet: "PT20S"}, c.stay
		at, after, held := v.Quiet(rehearse.Draft{Program: v.Live.Piece.Program, Slot: "overlay", Interruption: caps.Covers}, rivals, 0)
		got := ""
		switch {
		case at != nil:
			got = strconv.Itoa(*at)
		case held:
			got = "never"
		}
		if got != c.at || after != c.after {
			t.Errorf("%v of %d s: %q after %q", c.rule, c.stay, got, after)
		}
	}
	at := 23
	o := Outcome{Verdict: reach.Waits, At: &at, Rested: "Held back by the site's minimum of 20 s between pieces, after “Bags”."}
	if got := o.Say(); got != o.Rested+" Shows at 0:23." {
		t.Error(got)
	}
	if o.At, o.Held = nil, o.Rested; o.Say() != o.Rested || o.Shows() {
		t.Error(o.Say())
	}
}

func TestTheOutcomeInWords(t *testing.T) {
	second, stay := 12, rehearse.View{Seconds: 65, ExitAt: rehearse.Never}
	for _, c := range []struct {
		o     Outcome
		say   string
		shows bool
	}{
		{Outcome{Verdict: reach.No, Lines: []reach.Line{{Phrase: "on /cart", Verdict: reach.No, Actual: "/shop"}}}, "Does not show on this page view. Condition: on /cart; it is /shop.", false},
		{Outcome{Verdict: reach.No, Lines: []reach.Line{{Phrase: "new", Verdict: reach.No, Actual: false}}}, "Does not show on this page view. Condition: new; it is not.", false},
		{Outcome{Verdict: reach.No, Lines: []reach.Line{{Phrase: "from Ireland", Verdict: reach.No}}}, "Does not show on this page view. Condition: from Ireland; not known.", false},
		{Outcome{Verdict: reach.No, Lines: []reach.Line{{Group: true, Verdict: reach.No}, {Depth: 1, Phrase: "a", Verdict: reach.No}, {Depth: 1, Phrase: "b", Verdict: reach.No}}}, "Does not show on this page view. Too few of these are met: a; b.", false},
		{Outcome{Verdict: reach.Yes, At: &second, Held: "Shown yesterday."}, "Held back. Shown yesterday.", false},
		{Outcome{Verdict: reach.Yes, At: &second, Won: "Offer"}, "Shown instead: “Offer”.", false},
		{Outcome{Verdict: reach.Yes, At: new(int)}, "Shows on arrival.", true},
		{Outcome{Verdict: reach.Waits, Needs: "90 seconds", Stay: stay, Typical: true}, "Waits until 90 seconds. A typical stay here, 1:05, ends before.", false},
		{Outcome{Verdict: reach.Waits, Needs: "90 seconds", Stay: stay}, "Waits until 90 seconds. The visitor left before, after 1:05.", false},
		{Outcome{Verdict: reach.Waits, Needs: "12 seconds", At: &second, Stay: stay}, "Waits. Shows at 0:12, when 12 seconds.", true},
	} {
		if c.o.Say() != c.say || c.o.Shows() != c.shows {
			t.Errorf("%q %v, want %q %v", c.o.Say(), c.o.Shows(), c.say, c.shows)
		}
	}
}

// shownOn are the days of the month ahead on which it shows, from 1.
func shownOn(days []Day) (on []int) {
	for i, d := range days {
		if d.Shows {
			on = append(on, i+1)
		}
	}
	return on
}

func TestTheMonthAhead(t *testing.T) {
	twice := caps.Caps{PerVisitor: []caps.Limit{{Times: 2, Per: "P30D"}}}
	quiet := caps.Caps{AfterClose: "P14D"}
	for name, c := range map[string]struct {
		caps  caps.Caps
		rule  reach.Rule
		every int
		on    string
		say   string
	}{
		"every visit":                {caps.Caps{}, after(10), 10, "1 11 21", "Shows on days 1, 11 and 21, closed each time."},
		"twice in thirty days":       {twice, after(10), 1, "1 2", "Shows on days 1 and 2, closed each time."},
		"two weeks after it closed":  {quiet, after(10), 1, "1 16", ""},
		"on the first visit alone":   {caps.Caps{}, reach.Clause{Fact: "visitor.visits", Op: reach.Lte, Value: 1.0}, 3, "1", "Shows on day 1 alone."},
		"never on this page":         {caps.Caps{}, reach.Clause{Fact: "page.path", Op: reach.Is, Value: "/cart"}, 1, "", "Does not show in these 30 days."},
		"every so many is a bound":   {caps.Caps{}, after(10), 1_000_000, "1", "Shows on day 1 alone."},
		"and none is every day":      {twice, after(10), -5, "1 2", ""},
		"after it has been seen two": {caps.Caps{}, reach.Clause{Fact: "visitor.visits", Op: reach.Gte, Value: 3.0}, 10, "21", "Shows on day 21 alone."},
	} {
		v := visitor(t, c.rule, c.caps, schedule.Schedule{})
		days, say := v.Month(&choose.Memory{Visitor: "tried"}, c.every)
		var on []string
		for _, d := range shownOn(days) {
			on = append(on, strconv.Itoa(d))
		}
		if got := strings.Join(on, " "); len(days) != MonthDays || got != c.on || c.say != "" && say != c.say {
			t.Errorf("%s: on %s, %q", name, got, say)
		}
	}
}

// The days that are ahead are on the site's clock, over a change of it too.
func TestTheMonthAheadKeepsTheHour(t *testing.T) {
	v := visitor(t, reach.Clause{Fact: "clock.time", Op: reach.Between, Value: []any{690.0, 750.0}}, caps.Caps{}, schedule.Schedule{})
	v.Now = time.Date(2026, 10, 20, 12, 0, 0, 0, dublin) // the clock goes back on the 25th
	days, _ := v.Month(&choose.Memory{}, 1)
	if on := shownOn(days); len(on) != MonthDays {
		t.Error(on)
	}
}
