package rehearse

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/reach"
)

var start = time.Date(2026, 11, 1, 10, 0, 0, 0, time.UTC)

func compile(t testing.TB, r reach.Rule) *reach.Program {
	t.Helper()
	p, err := reach.Compile(r)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func clause(fact string, op reach.Op, value any) reach.Clause {
	return reach.Clause{Fact: fact, Op: op, Value: value}
}

// drawn is a random log of a few visitors, with many of each thing equal.
func drawn(r *rand.Rand, views int) []View {
	var all []View
	at := start
	for i := range views {
		at = at.Add(time.Duration(r.IntN(9*3600)) * time.Second)
		who := r.IntN(max(1, views/8))
		v := View{
			Visitor: fmt.Sprint("v", who), Visit: fmt.Sprint("v", who, "-", i/20), At: at, Seconds: r.IntN(60), ExitAt: Never,
			Facts: map[string]any{"device.kind": []string{"desktop", "phone"}[r.IntN(2)], "visitor.visits": r.IntN(4)},
		}
		if r.IntN(3) > 0 {
			v.Facts["page.path"] = []string{"/", "/shop", "/journal/ash"}[r.IntN(3)]
		}
		for mark := 0; len(v.Marks) < r.IntN(11); {
			mark += r.IntN(9)
			v.Marks = append(v.Marks, mark)
		}
		if r.IntN(2) == 0 {
			v.ExitAt = r.IntN(70)
		}
		for s := r.IntN(20); s < v.Seconds && r.IntN(3) > 0; {
			length := r.IntN(20)
			v.Idles = append(v.Idles, Idle{s, length})
			s += length + 1 + r.IntN(10)
		}
		for range r.IntN(3) {
			v.Happened = append(v.Happened, Happening{[]string{"click", "seen"}[r.IntN(2)], []string{"#a", "#b"}[r.IntN(2)], r.IntN(70)})
		}
		all = append(all, v)
	}
	return all
}

func logOf(views []View) *Log {
	l := &Log{}
	for _, v := range views {
		l.Add(v)
	}
	l.Sort()
	return l
}

// drawnRule is a random rule; with idling and denied moments where slow.
func drawnRule(r *rand.Rand, depth int, slow bool) reach.Rule {
	if depth == 0 || r.IntN(3) == 0 {
		switch n := r.IntN(9); {
		case n == 0:
			return clause("device.kind", reach.Is, "phone")
		case n == 1:
			return clause("page.path", []reach.Op{reach.StartsWith, reach.Absent, reach.IsNot}[r.IntN(3)], nil)
		case n == 2:
			return clause("visitor.visits", reach.Gte, float64(r.IntN(4)))
		case n == 3:
			return clause("moment.seconds_on_page", reach.Gte, float64(r.IntN(80))/2)
		case n == 4:
			return clause("moment.scroll_percent", reach.Gte, float64(r.IntN(111)))
		case n == 5:
			return clause("moment.exit_intent", reach.Happened, nil)
		case n == 6:
			return clause("moment.click", reach.Happened, "#a")
		case n == 7 && slow:
			return clause("moment.idle_seconds", reach.Gte, float64(r.IntN(15)))
		}
		return clause("moment.seen", reach.Happened, nil)
	}
	parts := make([]reach.Rule, r.IntN(4))
	for i := range parts {
		parts[i] = drawnRule(r, depth-1, slow)
	}
	switch n := r.IntN(5); {
	case n < 2:
		return reach.All(parts)
	case n < 4:
		return reach.Any(parts)
	case slow:
		return reach.Not{Rule: drawnRule(r, depth-1, true)}
	}
	return reach.Not{Rule: clause("device.kind", reach.Is, "desktop")}
}

func fixValues(r reach.Rule) reach.Rule {
	switch r := r.(type) {
	case reach.All:
		for i := range r {
			r[i] = fixValues(r[i])
		}
		return r
	case reach.Any:
		for i := range r {
			r[i] = fixValues(r[i])
		}
		return r
	case reach.Not:
		return reach.Not{Rule: fixValues(r.Rule)}
	case reach.Clause:
		if r.Fact == "page.path" && r.Op != reach.Absent {
			r.Value = "/shop"
		}
		return r
	}
	return r
}

// atSecond is what is known of a page view at a second of its stay, spelt out
// as the evaluator of single visits takes it.
func atSecond(v View, s int) *reach.Visit {
	visit := &reach.Visit{}
	for name, is := range v.Facts {
		visit.Set(name, is)
	}
	visit.Set("moment.seconds_on_page", s)
	visit.Set("moment.exit_intent", v.ExitAt <= s)
	scrolled := 0
	for i, mark := range v.Marks {
		if mark <= s {
			scrolled = (i + 1) * 10
		}
	}
	visit.Set("moment.scroll_percent", scrolled)
	for _, kind := range []string{"click", "seen", "leaving_to", "event"} {
		come := []string{}
		for _, h := range v.Happened {
			if h.Kind == kind && h.Second <= s {
				come = append(come, h.About)
			}
		}
		visit.Set("moment."+kind, come)
	}
	return visit
}

// firstSecond judges a page view second by second with the evaluator of single
// visits. Idling differs from clause to clause, so its clauses are settled here.
func firstSecond(t *testing.T, v View, r reach.Rule) int {
	for s := 0; s <= v.Seconds; s++ {
		settled := settleIdling(v, r, s)
		if compile(t, settled).Judge(atSecond(v, s)) == reach.Yes {
			return s
		}
	}
	return Never
}

func settleIdling(v View, r reach.Rule, s int) reach.Rule {
	several := func(rules []reach.Rule) []reach.Rule {
		out := make([]reach.Rule, len(rules))
		for i := range rules {
			out[i] = settleIdling(v, rules[i], s)
		}
		return out
	}
	switch r := r.(type) {
	case reach.All:
		return reach.All(several(r))
	case reach.Any:
		return reach.Any(several(r))
	case reach.Not:
		return reach.Not{Rule: settleIdling(v, r.Rule, s)}
	case reach.Clause:
		if r.Fact == "moment.idle_seconds" {
			least := int(r.Value.(float64))
			for _, i := range v.Idles {
				if i.Length >= least {
					if i.Start+least <= s && s <= i.Start+i.Length {
						return reach.All{}
					}
					break
				}
			}
			return reach.Any{}
		}
	}
	return r
}

func TestRehearsalAgreesWithJudgingEverySecond(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	came := 0
	for round := range 120 {
		views := drawn(r, 40)
		rule := fixValues(drawnRule(r, 3, round%2 == 0))
		l := logOf(views)
		pl := newPlan(l, compile(t, rule), false)
		got, _, _ := pl.find(0, true, nil)
		passed := 0
		for row, v := range views {
			want := firstSecond(t, v, rule)
			if first := int(got.at(uint32(row))); first != want {
				text, _ := json.Marshal(rule)
				t.Fatalf("%s\non %+v\nfirst holds at %d, want %d (slow %v)", text, v, first, want, pl.root.slow)
			}
			if want != Never {
				passed++
			}
		}
		came += passed
		if pl.root.alone != passed || pl.root.left != passed {
			t.Fatalf("%d passed, but %d and %d are counted", passed, pl.root.alone, pl.root.left)
		}
	}
	if came < 800 {
		t.Fatalf("only %d page views passed: the rules try too little", came)
	}
}

// The fast and the slow way give the same counts, node by node.
func TestBothWaysCountAlike(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 60 {
		l := logOf(drawn(r, 3000))
		p := compile(t, fixValues(drawnRule(r, 4, false)))
		fast, slow := newPlan(l, p, false), newPlan(l, p, false)
		if fast.root.slow {
			continue
		}
		slow.root.slow = true
		f, _, _ := fast.find(l.at[500], true, nil)
		s, _, _ := slow.find(l.at[500], true, nil)
		for row := range uint32(l.rows) {
			if f.at(row) != s.at(row) {
				t.Fatal("the seconds differ")
			}
		}
		for i := range fast.steps {
			if a, b := fast.steps[i], slow.steps[i]; a.alone != b.alone || a.left != b.left {
				text, _ := json.Marshal(p.Rule())
				t.Fatalf("%s\nat %q: %d/%d fast, %d/%d slow", text, a.At, a.alone, a.left, b.alone, b.left)
			}
		}
	}
}

// Caps are replayed here in the plainest way, a whole memory at a time.
func TestCapsAreReplayedInOrderOfArrival(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	shown := 0
	for round := range 60 {
		views := drawn(r, 120)
		c := caps.Caps{PerVisitor: []caps.Limit{{Times: 1 + r.IntN(2), Per: "P3D"}}}
		if round%2 == 0 {
			c.PerVisitor = append(c.PerVisitor, caps.Limit{Times: 1, Per: caps.Visit})
		}
		if round%3 == 0 {
			c.Gap = "PT30H"
		}
		if round%5 == 0 {
			c.Total = 1 + r.IntN(30)
		}
		rule := fixValues(drawnRule(r, 2, true))
		got, _ := logOf(views).Rehearse(Question{Draft: Draft{Program: compile(t, rule), Caps: c}, Showings: true})
		want := plainReplay(t, views, rule, c)
		if got.Shown != len(want) || len(got.Showings) != len(want) {
			t.Fatalf("%d showings, want %d", got.Shown, len(want))
		}
		waits := []int{}
		for _, w := range want {
			waits = append(waits, w.Wait)
		}
		slices.Sort(waits)
		if n := len(waits); (n == 0) != (got.TypicalWait == nil) || n > 0 && float64(waits[(n-1)/2]+waits[n/2])/2 != *got.TypicalWait {
			t.Fatal("the typical wait differs")
		}
		shown += got.Shown
	}
	if shown < 300 {
		t.Fatalf("only %d showings", shown)
	}
}

func plainReplay(t *testing.T, views []View, rule reach.Rule, c caps.Caps) (all []Showing) {
	order := make([]int, len(views))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return views[a].At.Compare(views[b].At) })
	memory := map[string][]time.Time{}
	visits := map[string]int{}
	for _, row := range order {
		v := views[row]
		wait := firstSecond(t, v, rule)
		if wait == Never {
			continue
		}
		m := caps.Memory{Shown: memory[v.Visitor], ShownThisVisit: visits[v.Visit], TotalShown: len(all)}
		if _, _, held := c.Hold(m, v.At); held {
			continue
		}
		memory[v.Visitor] = append(memory[v.Visitor], v.At.Add(time.Duration(wait)*time.Second))
		visits[v.Visit]++
		all = append(all, Showing{row, wait})
	}
	return all
}

func TestOrderOfLinesDoesNotMatter(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 10))
	views := drawn(r, 500)
	q := Question{Draft: Draft{Program: compile(t, clause("moment.seconds_on_page", reach.Gte, 5.0)), Caps: caps.Caps{Gap: "P1D", Total: 60}}}
	a, _ := logOf(views).Rehearse(q)
	r.Shuffle(len(views), func(i, j int) { views[i], views[j] = views[j], views[i] })
	b, _ := logOf(views).Rehearse(q)
	if fmt.Sprint(a.Shown, a.VisitorsShown, *a.TypicalWait) != fmt.Sprint(b.Shown, b.VisitorsShown, *b.TypicalWait) || a.Shown == 0 {
		t.Errorf("%+v then %+v", a, b)
	}
}

func view(who string, hour, seconds int, facts map[string]any) View {
	return View{Visitor: who, Visit: fmt.Sprint(who, hour/24), At: start.Add(time.Duration(hour) * time.Hour), Seconds: seconds, Facts: facts, ExitAt: Never}
}

func TestRivalsTakeTheSlot(t *testing.T) {
	l := logOf([]View{view("a", 0, 60, nil), view("b", 1, 60, nil), view("c", 2, 5, nil)})
	after := func(s float64) *reach.Program {
		return compile(t, clause("moment.seconds_on_page", reach.Gte, s))
	}
	once := caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Forever}}}
	ask := func(seconds float64, slot string, before int) Result {
		rival := l.Rival("early", Draft{Program: after(10), Slot: "overlay", Caps: once})
		r, _ := l.Rehearse(Question{Draft: Draft{Program: after(seconds), Slot: slot}, Rivals: []*Rival{rival}, Before: before})
		return r
	}
	if r := ask(20, "overlay", 0); r.Shown != 0 || r.Lost[0] != 2 {
		t.Errorf("whoever comes first keeps the slot: %+v", r)
	}
	if r := ask(5, "overlay", 1); r.Shown != 3 || r.Lost[0] != 0 || r.Won[0] != 2 {
		t.Errorf("the draft comes first: %+v", r)
	}
	if r := ask(10, "overlay", 0); r.Shown != 2 {
		t.Errorf("at one moment the draft wins where it stands before: %+v", r)
	}
	if r := ask(10, "overlay", 1); r.Shown != 0 {
		t.Errorf("at one moment the rival wins where it stands before: %+v", r)
	}
	if r := ask(20, "corner", 0); r.Shown != 2 || r.Lost[0] != 0 {
		t.Errorf("another slot is free: %+v", r)
	}
}

func TestTheSitesLimitsHold(t *testing.T) {
	l := logOf([]View{view("a", 0, 60, nil), view("a", 1, 60, nil), view("a", 2, 60, nil)})
	always := compile(t, reach.All{})
	for _, c := range []struct {
		limits      caps.SiteLimits
		shown, lost int
	}{{caps.SiteLimits{}, 3, 0}, {caps.SiteLimits{Overlays: 2}, 2, 1}, {caps.SiteLimits{Quiet: "PT90M"}, 2, 1}, {caps.SiteLimits{Quiet: "PT1H"}, 3, 0}} {
		r, _ := l.Rehearse(Question{Draft: Draft{Program: always, Slot: "overlay", Interruption: caps.Covers}, Limits: c.limits})
		if r.Shown != c.shown || r.LostToSite != c.lost {
			t.Errorf("%+v: %d shown, %d lost; want %d and %d", c.limits, r.Shown, r.LostToSite, c.shown, c.lost)
		}
	}
}

// A moment that falls into the minimum time between pieces is tried again when that
// is over, as long as it is still true; an exit is over by then.
func TestWhatFallsIntoTheQuietTimeIsTriedAgain(t *testing.T) {
	leaves := view("leaves", 0, 60, nil)
	leaves.ExitAt = 8
	idles := view("idles", 0, 60, nil)
	idles.Idles = []Idle{{Start: 0, Length: 12}}
	stays := view("stays", 0, 60, nil)
	short := view("short", 0, 20, nil)
	on := func(fact string, v any) reach.Clause { return clause(fact, reach.Gte, v) }
	exit := clause(reach.Exit, reach.Happened, nil)
	for _, c := range []struct {
		name  string
		v     View
		rule  reach.Rule
		at    int // -1: it does not show
		quiet int
	}{
		{"its seconds have passed by then", stays, on("moment.seconds_on_page", 5.0), 22, 0},
		{"at once, and so later", stays, reach.All{}, 22, 0},
		{"it comes after that anyway", stays, on("moment.seconds_on_page", 30.0), 30, 0},
		{"the visitor has left by then", short, on("moment.seconds_on_page", 5.0), -1, 1},
		{"the exit did not happen", leaves, exit, -1, 1},
		{"the exit, or time", leaves, reach.Any{exit, on("moment.seconds_on_page", 6.0)}, 22, 0},
		{"no idling goes on", idles, on("moment.idle_seconds", 10.0), -1, 1},
		{"not before it moved", idles, reach.Not{Rule: on("moment.idle_seconds", 40.0)}, 22, 0},
	} {
		l := logOf([]View{c.v})
		early := l.Rival("early", Draft{Program: compile(t, on("moment.seconds_on_page", 2.0)), Slot: "corner", Interruption: caps.Interrupts})
		// What shows at once would come before it: it stands behind.
		rule := compile(t, reach.All{on("moment.seconds_on_page", 2.0), c.rule})
		r, _ := l.Rehearse(Question{Draft: Draft{Program: rule, Slot: "overlay", Interruption: caps.Covers}, Rivals: []*Rival{early}, Before: 1, Limits: caps.SiteLimits{Quiet: "PT20S"}, Showings: true})
		at := -1
		if len(r.Showings) > 0 {
			at = r.Showings[0].Wait
		}
		if at != c.at || r.LostToQuiet != c.quiet || r.LostToSite != c.quiet {
			t.Errorf("%s: at %d, %d kept back; want %d and %d", c.name, at, r.LostToQuiet, c.at, c.quiet)
		}
		if wants := c.at == 22 || c.quiet > 0; wants != (r.QuietAfter[0] == 1) || (c.at == 22) != (r.Rested == 1) {
			t.Errorf("%s: after the rival %d, rested %d", c.name, r.QuietAfter[0], r.Rested)
		}
	}
}

// Of two that rest the one that wins comes first, and the other rests again.
func TestThoseThatRestComeOneAfterAnother(t *testing.T) {
	l := logOf([]View{view("a", 0, 60, nil)})
	draft := func(seconds float64, slot string) Draft {
		return Draft{Program: compile(t, clause("moment.seconds_on_page", reach.Gte, seconds)), Slot: slot, Interruption: caps.Interrupts}
	}
	rivals := []*Rival{l.Rival("one", draft(1, "corner.a")), l.Rival("two", draft(4, "corner.b"))}
	r, _ := l.Rehearse(Question{Draft: draft(3, "corner.c"), Rivals: rivals, Before: 2, Limits: caps.SiteLimits{Quiet: "PT20S"}, Showings: true})
	if len(r.Showings) != 1 || r.Showings[0].Wait != 41 || r.QuietAfter[0] != 1 || r.QuietAfter[1] != 1 {
		t.Errorf("%+v", r)
	}
}

// What stands in the page, or was asked for, interrupts nobody: no quiet time
// holds it back, and it begins none.
func TestTheSitesLimitsAreForWhatInterrupts(t *testing.T) {
	l := logOf([]View{view("a", 0, 60, nil), view("a", 1, 60, nil), view("a", 2, 60, nil)})
	always := compile(t, reach.All{})
	limits := caps.SiteLimits{Overlays: 1, Quiet: "P1D"}
	if r, _ := l.Rehearse(Question{Draft: Draft{Program: always}, Limits: limits}); r.Shown != 3 || r.LostToSite != 0 {
		t.Errorf("inline: %d shown, %d lost", r.Shown, r.LostToSite)
	}
	popup := Draft{Program: always, Slot: "overlay", Interruption: caps.Covers}
	r, _ := l.Rehearse(Question{Draft: popup, Rivals: []*Rival{l.Rival("inline", Draft{Program: always})}, Before: 1, Limits: limits})
	if r.Shown != 1 || r.LostToSite != 2 {
		t.Errorf("beside an inline piece: %d shown, %d lost", r.Shown, r.LostToSite)
	}
	if r, _ := l.Rehearse(Question{Draft: Draft{Program: always}, Rivals: []*Rival{l.Rival("popup", popup)}, Before: 1, Limits: limits}); r.Shown != 3 {
		t.Errorf("inline after a popup: %d shown", r.Shown)
	}
}

// A fact that few rows have takes room for those alone, and says the same.
func TestAFactThatFewHaveIsHeldSparsely(t *testing.T) {
	const n, every = 20_000, 1000
	few, many := &Log{}, &Log{}
	for i := range n {
		v := View{Visitor: "v", Visit: "w", At: start, Facts: map[string]any{"page.path": "/"}, ExitAt: Never}
		if i%every == 7 {
			v.Facts["data.plan"] = []string{"free", "club"}[i/every%2]
		}
		few.Add(v)
		many.Add(v)
	}
	few.Sort()
	many.Sort()
	if c := few.facts["data.plan"]; c.sparse == nil || len(c.sparse) != n/every {
		t.Fatal("it is held for every row")
	}
	if c := few.facts["page.path"]; c.sparse != nil || len(c.narrow) != n {
		t.Fatal("a fact of every row is held sparsely")
	}
	many.facts["data.plan"].fill()
	for _, rule := range []reach.Rule{
		clause("data.plan", reach.Is, "free"), clause("data.plan", reach.IsNot, "free"), clause("data.plan", reach.Absent, nil), clause("data.plan", reach.Present, nil),
		reach.Not{Rule: clause("data.plan", reach.Is, "club")}, reach.All{clause("page.path", reach.Is, "/"), clause("data.plan", reach.In, []string{"club", "none"})},
	} {
		one, _ := few.Rehearse(Question{Draft: Draft{Program: compile(t, rule)}, Showings: true})
		other, _ := many.Rehearse(Question{Draft: Draft{Program: compile(t, rule)}, Showings: true})
		if !reflect.DeepEqual(one, other) {
			t.Errorf("%v: %d against %d", rule, one.Shown, other.Shown)
		}
	}
	if got := few.Values("data.plan", time.Time{}); len(got) != 2 || got[0].Views != n/every/2 || few.View(7).Facts["data.plan"] != "free" || few.View(8).Facts["data.plan"] != nil {
		t.Errorf("%+v", got)
	}
}

func TestSinceCountsWhatCameAfterAndRemembersWhatCameBefore(t *testing.T) {
	l := logOf([]View{view("a", 0, 9, nil), view("a", 24, 9, nil), view("b", 24, 9, nil)})
	r, _ := l.Rehearse(Question{Draft: Draft{Program: compile(t, reach.All{}), Caps: caps.Caps{Gap: "P2D"}}, Since: start.Add(time.Hour)})
	if r.PageViews != 2 || r.Visitors != 2 || r.Passed != 2 || r.Shown != 1 || r.Held != 1 {
		t.Errorf("%+v", r)
	}
}

func TestStopGivesUp(t *testing.T) {
	l := logOf(drawn(rand.New(rand.NewPCG(1, 1)), 5000))
	asked := 0
	_, ok := l.Rehearse(Question{Draft: Draft{Program: compile(t, reach.All{})}, Stop: func() bool { asked++; return asked == 2 }})
	if ok || asked != 2 {
		t.Errorf("gave up: %v, asked %d times", !ok, asked)
	}
}

func TestColumnsWidenWithoutForgetting(t *testing.T) {
	l := &Log{}
	const n = 70_000
	for i := range n {
		l.Add(View{Visitor: "v", Visit: "w", At: start, Facts: map[string]any{"visitor.visits": i}, ExitAt: Never})
	}
	l.Sort()
	if l.facts["visitor.visits"].wide == nil {
		t.Fatal("70,000 values fit in two bytes")
	}
	for _, i := range []int{0, 1, 254, 255, 256, 65_534, 65_535, 65_536, n - 1} {
		r, _ := l.Rehearse(Question{Draft: Draft{Program: compile(t, clause("visitor.visits", reach.Eq, float64(i)))}, Showings: true})
		if len(r.Showings) != 1 || r.Showings[0].Row != i || l.View(i).Facts["visitor.visits"] != float64(i) {
			t.Errorf("%d is found on %v", i, r.Showings)
		}
	}
}

func TestAStayRecordedAgainReplacesTheFirst(t *testing.T) {
	l := &Log{}
	v := view("a", 0, 5, map[string]any{"page.path": "/"})
	v.Happened = []Happening{{"click", "#a", 3}}
	row := l.Add(v)
	l.Add(view("b", 0, 9, nil))
	v.Seconds, v.Marks, v.Happened = 50, []int{4}, []Happening{{"event", "x", 7}}
	l.SetStay(row, v)
	if got := l.View(row); got.Seconds != 50 || got.Marks[0] != 4 || len(got.Happened) != 1 || got.Happened[0].Kind != "event" || got.Facts["page.path"] != "/" {
		t.Errorf("%+v", got)
	}
}

func TestReadTellsTheLineAtFault(t *testing.T) {
	good := `{"visitor":"v1","visit":"v1-1","at":"2026-11-01T10:00:00Z","facts":{"page.path":"/shop/"},"seconds":75,"scroll_marks":[2,5,9],"exit_at":70,"idles":[[20,12]],"happened":[["click","#buy",31]]}`
	l, err := Read(strings.NewReader(good + "\n\n" + good + "\n"))
	if err != nil || l.Len() != 2 {
		t.Fatal(l, err)
	}
	v := l.View(0)
	if v.Facts["page.path"] != "/shop" || v.Facts["clock.weekday"] != "sun" || v.ExitAt != 70 || v.Marks[2] != 9 || v.Marks[3] != Never || v.Idles[0] != (Idle{20, 12}) {
		t.Errorf("%+v", v)
	}
	for bad, want := range map[string]string{
		`{`: "not JSON", `{"visitor":"v"}`: "at: is missing", `{"visitor":"v","at":"noon"}`: "", `{"visitor":"v","at":"2026-11-01T10:00:00Z","seconds":-1}`: "seconds",
		strings.Replace(good, "[2,5,9]", "[2,-5]", 1): "scroll_marks[1]", strings.Replace(good, `"#buy",31`, `"#buy"`, 1): "happened[0]",
		strings.Replace(good, "[20,12]", "[20,-12]", 1): "idles[0]", strings.Replace(good, `"exit_at":70`, `"exit_at":-7`, 1): "exit_at",
	} {
		if _, err := Read(strings.NewReader(good + "\n" + bad)); err == nil || !strings.HasPrefix(err.Error(), "line 2: ") || !strings.Contains(err.Error(), want) {
			t.Errorf("%.50s: %v, want %s", bad, err, want)
		}
	}
}

func TestMissingHistoryIsZeroWhereThereIsMemory(t *testing.T) {
	for _, memory := range []bool{true, false} {
		l := logOf([]View{view("a", 0, 5, nil)})
		l.HasMemory = memory
		r, _ := l.Rehearse(Question{Draft: Draft{Program: compile(t, clause("history.shown.x", reach.Eq, 0.0))}})
		if (r.Passed == 1) != memory {
			t.Errorf("with memory %v: %d passed", memory, r.Passed)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add(`{"visitor":"v1","visit":"1","at":"2026-11-01T10:00:00Z","facts":{"page.path":"/"},"seconds":75,"scroll_marks":[2,null],"idles":[[20,12]],"happened":[["click","#buy",31]]}`)
	f.Add(`{"visitor":"v1","at":"2026-11-01T10:00:00Z","facts":{"visitor.tags":["a"],"data.x":1e400},"seconds":99999999999}`)
	rule := compile(f, reach.All{clause("moment.idle_seconds", reach.Gte, 3.0), reach.Not{Rule: clause("moment.click", reach.Happened, nil)}})
	f.Fuzz(func(t *testing.T, text string) {
		l, err := Read(strings.NewReader(text))
		if err != nil {
			return
		}
		r, ok := l.Rehearse(Question{Draft: Draft{Program: rule}})
		if !ok || r.Passed > r.PageViews || r.Shown != r.Passed {
			t.Errorf("%+v", r)
		}
	})
}

func TestStays(t *testing.T) {
	l := &Log{}
	for i := range 10 {
		v := view("a", i, i*10, map[string]any{"page.path": "/shop"})
		if i >= 5 {
			v.Marks, v.ExitAt = []int{1, 2, 3}, 20
		}
		l.Add(v)
	}
	l.Add(view("b", 0, 500, nil))
	l.Sort()
	// The moment in the rule does not narrow what is selected.
	p := compile(t, reach.All{clause("page.path", reach.Is, "/shop"), clause("moment.scroll_percent", reach.Gte, 90.0), reach.Not{Rule: clause("moment.click", reach.Happened, nil)}})
	s, ok := l.Stays(p, start, nil)
	if !ok || s.PageViews != 10 || s.StayedFor[0] != 1 || s.StayedFor[10] != .9 || s.StayedFor[90] != .1 || s.StayedFor[91] != 0 || s.ScrolledTo[3] != .5 || s.ScrolledTo[4] != 0 || s.Left != .5 {
		t.Errorf("%+v", s)
	}
	v, ok := l.Typical(p, start)
	if !ok || v.Seconds != 50 || len(v.Marks) != 0 {
		t.Errorf("%+v", v)
	}
	if _, ok := l.Typical(compile(t, clause("page.path", reach.Is, "/none")), start); ok {
		t.Error("a typical stay of nobody")
	}
}

func TestFirstSecondOfOnePageView(t *testing.T) {
	v := view("a", 0, 40, map[string]any{"device.kind": "phone"})
	v.Marks = []int{1, 2, 3, 4, 9}
	p := compile(t, reach.All{clause("device.kind", reach.Is, "phone"), clause("moment.scroll_percent", reach.Gte, 45.0), clause("history.shown.x", reach.Eq, 0.0)})
	if s, ok := FirstSecond(p, v); !ok || s != 9 {
		t.Error(s, ok)
	}
	if rows := logOf([]View{v, v, view("b", 1, 2, nil)}).Sample(compile(t, clause("device.kind", reach.Is, "phone")), start, true, 1); len(rows) != 1 || rows[0] != 1 {
		t.Error(rows)
	}
}

// Contests play all pieces at once; each fares as it does when it is asked for alone.
func TestContestsAgreeWithRehearsals(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 4))
	lost := 0
	for range 30 {
		l := logOf(drawn(r, 150))
		limits := caps.SiteLimits{Quiet: "PT30M"}
		var drafts []Draft
		for i := range 4 {
			drafts = append(drafts, Draft{Program: compile(t, fixValues(drawnRule(r, 2, true))), Slot: []string{"overlay", "corner"}[i%2], Interruption: []caps.Interruption{caps.Covers, caps.Interrupts}[i%2], Caps: caps.Caps{Gap: "PT5H"}})
		}
		var all []*Rival
		for i, d := range drafts {
			all = append(all, l.Rival(fmt.Sprint(i), d))
		}
		got, ok := l.Contests(all, limits, time.Time{}, nil)
		if !ok {
			t.Fatal("stopped")
		}
		for i, d := range drafts {
			rivals := slices.Delete(slices.Clone(all), i, i+1)
			alone, _ := l.Rehearse(Question{Draft: d, Rivals: rivals, Before: i, Limits: limits})
			if alone.Shown != got.Shown[i] {
				t.Fatalf("piece %d is shown %d times beside the others, %d in contest", i, alone.Shown, got.Shown[i])
			}
			for j, n := range slices.Delete(slices.Clone(got.Lost[i]), i, i+1) {
				if alone.Lost[j] != n {
					t.Fatalf("piece %d loses %v, in contest %v", i, alone.Lost, got.Lost[i])
				}
				lost += n
			}
		}
	}
	if lost < 50 {
		t.Fatalf("only %d contests", lost)
	}
	if c, ok := (&Log{}).Contests(nil, caps.SiteLimits{}, time.Time{}, nil); !ok || len(c.Shown) != 0 {
		t.Error(c, ok)
	}
}

// Whatever rule and stay come, replaying a single view finds the same second
// as the blocks of a log do.
func FuzzReplay(f *testing.F) {
	f.Add([]byte(`{"all":[{"fact":"moment.scroll_percent","op":"gte","value":41},{"not":{"fact":"moment.exit_intent","op":"happened"}}]}`), []byte(`{"visitor":"v","at":"2026-11-01T10:00:00Z","seconds":75,"scroll_marks":[2,5,9,9,30],"exit_at":70,"idles":[[20,12]],"happened":[["click","#buy",31]]}`))
	f.Add([]byte(`{"any":[{"fact":"moment.idle_seconds","op":"gte","value":12.5},{"fact":"moment.click","op":"happened","value":"#buy"}]}`), []byte(`{"visitor":"v","at":"2026-11-01T10:00:00Z","seconds":2147483647,"idles":[[2147483647,2147483647],[0,1]],"happened":[["click","#buy",9223372036854775807]]}`))
	f.Add([]byte(`{"fact":"moment.seconds_on_page","op":"gte","value":1e300}`), []byte(`{"visitor":"v","at":"0001-01-01T00:00:01Z","facts":{"page.path":["/"]},"seconds":0}`))
	f.Fuzz(func(t *testing.T, rule, line []byte) {
		p, err := reach.Read(rule)
		if err != nil {
			return
		}
		l, err := Read(bytes.NewReader(bytes.ReplaceAll(line, []byte("\n"), nil)))
		if err != nil || l.Len() != 1 {
			return
		}
		l.HasMemory = true
		r, ok := l.Rehearse(Question{Draft: Draft{Program: p}})
		second, comes := FirstSecond(p, l.View(0))
		if !ok || comes != (r.Shown == 1) || comes && *r.TypicalWait != float64(second) {
			t.Fatalf("%v at %d alone, %+v in a log", comes, second, r)
		}
	})
}
