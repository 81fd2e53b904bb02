package choose

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"gonum.org/v1/gonum/stat/distuv"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/schedule"
)

var now = time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)

func live(t *testing.T, id string, format piece.Format, rule string) Live {
	t.Helper()
	p := piece.New(id, format, id)
	program, err := reach.Read([]byte(rule))
	if err != nil {
		t.Fatal(err)
	}
	p.Program = program
	return Live{ID: id, Piece: p, Hashes: map[string]string{"a": "hash-" + id}}
}

const (
	yes  = `{"all":[]}`
	no   = `{"any":[]}`
	wait = `{"all":[{"fact":"page.path","op":"is","value":"/"},{"fact":"moment.exit_intent","op":"happened"}]}`
)

func placed(t *testing.T, pieces []Live, m *Memory) string {
	t.Helper()
	v := &reach.Visit{}
	v.Set("page.path", "/")
	m.Tell(v, now, true)
	var said string
	placements, _ := NewLineup(pieces).Decide(v, m, Clock{Now: now, Theirs: now}, caps.SiteLimits{})
	for _, p := range placements {
		waiting, _ := json.Marshal(p.Waiting)
		said += fmt.Sprintf("%s/%s/%s:%s ", p.Piece, p.Variant, p.Slot, waiting)
	}
	return said
}

func TestOneOverlayAndTheFirstWins(t *testing.T) {
	got := placed(t, []Live{live(t, "one", piece.Popup, yes), live(t, "two", piece.Popup, yes), live(t, "three", piece.FlyIn, yes), live(t, "four", piece.FlyIn, no)}, &Memory{})
	if want := "one/a/overlay:null three/a/corner.bottom_end:null "; got != want {
		t.Errorf("%s, want %s", got, want)
	}
}

func TestAPieceThatWaitsLeavesItsSlotOpen(t *testing.T) {
	got := placed(t, []Live{live(t, "one", piece.Popup, wait), live(t, "two", piece.Popup, yes)}, &Memory{})
	if want := `one/a/overlay:{"fact":"moment.exit_intent","op":"happened"} two/a/overlay:null `; got != want {
		t.Errorf("%s, want %s", got, want)
	}
}

func TestCapsHoldBack(t *testing.T) {
	for name, k := range map[string]Known{
		"shown this visit": {ThisVisit: 1},
		"shown twice":      {Shown: []int64{now.Unix() - 5, now.Unix() - 9}},
		"closed":           {Closed: now.Unix() - 60},
		"converted":        {Converted: 1},
	} {
		if got := placed(t, []Live{live(t, "one", piece.Popup, yes)}, &Memory{Pieces: map[string]Known{"one": k}}); got != "" {
			t.Errorf("%s: %s", name, got)
		}
	}
	if got := placed(t, []Live{live(t, "one", piece.Popup, yes)}, &Memory{Pieces: map[string]Known{"one": {Closed: -1, Shown: []int64{-3, 0}, ThisVisit: -2}}}); got == "" {
		t.Error("a memory of nonsense held a piece back")
	}
}

func variants(shares ...int) piece.Split {
	s := piece.Split{Salt: "salt"}
	for i, share := range shares {
		s.Variants = append(s.Variants, piece.Variant{ID: string(rune('a' + i)), Share: share})
	}
	return s
}

// With shares as the truth, Pearson's statistic over a fixed set of visitors is
// one draw of chi-square; both ends of it are refused.
func TestAllotmentIsEven(t *testing.T) {
	const visitors = 200_000
	for _, shares := range [][]int{{50, 50}, {1, 1, 1}, {90, 10}, {5, 15, 30, 50}} {
		s, sum := variants(shares...), 0
		for _, share := range shares {
			sum += share
		}
		for _, salt := range []string{"a", "b", "spring test"} {
			s.Salt = salt
			got := map[string]int{}
			for i := range visitors {
				got[Allot(&s, fmt.Sprintf("visitor-%d", i), "").ID]++
			}
			chi := 0.0
			for i, share := range shares {
				want := float64(visitors) * float64(share) / float64(sum)
				chi += math.Pow(float64(got[s.Variants[i].ID])-want, 2) / want
			}
			p := distuv.ChiSquared{K: float64(len(shares) - 1)}.Survival(chi)
			if p < 0.0005 || p > 0.9999 {
				t.Errorf("shares %v, salt %q: %v (p = %v)", shares, salt, got, p)
			}
		}
	}
}

func TestSplitsAreIndependent(t *testing.T) {
	first, second, both := variants(50, 50), variants(50, 50), 0
	second.Salt = "another"
	for i := range 100_000 {
		id := fmt.Sprint("v", i)
		if Allot(&first, id, "").ID == Allot(&second, id, "").ID {
			both++
		}
	}
	if math.Abs(float64(both)-50_000) > 5*158 { // five standard deviations
		t.Errorf("%d of 100000 visitors got the same in both", both)
	}
}

func TestAllotmentIsSticky(t *testing.T) {
	before, after := variants(50, 50), variants(90, 10)
	for i := range 1000 {
		id := fmt.Sprint("v", i)
		saw := Allot(&before, id, "").ID
		if got := Allot(&after, id, saw).ID; got != saw {
			t.Fatalf("%s saw %s and now gets %s", id, saw, got)
		}
	}
	stopped, gone := variants(100, 0), variants(100)
	if got := Allot(&stopped, "v", "b").ID; got != "a" {
		t.Error("a variant that was stopped is still given:", got)
	}
	if got := Allot(&gone, "v", "gone").ID; got != "a" {
		t.Error("a variant that is gone is still given:", got)
	}
}

func TestMemoryTellsTheVisit(t *testing.T) {
	m := &Memory{Visits: 3, Pages: -4, Last: now.Add(-49 * time.Hour).Unix(), Pieces: map[string]Known{"one": {TimesShown: 2}}}
	v := &reach.Visit{}
	m.Tell(v, now, true)
	for _, rule := range []string{
		`{"fact":"visitor.new","op":"is","value":false}`, `{"fact":"visitor.visits","op":"eq","value":3}`,
		`{"fact":"visitor.pages","op":"eq","value":1}`, `{"fact":"visitor.days_since_last","op":"eq","value":2}`,
		`{"fact":"history.shown.one","op":"eq","value":2}`, `{"fact":"history.shown.two","op":"eq","value":0}`,
	} {
		p, err := reach.Read([]byte(rule))
		if err != nil {
			t.Fatal(err)
		}
		if p.Judge(v) != reach.Yes {
			t.Errorf("%s: %+v", rule, p.Trace(v))
		}
	}
}

func TestScheduleIsOfTheSiteOrTheVisitor(t *testing.T) {
	p := live(t, "hours", piece.Popup, yes)
	p.Piece.Schedule = schedule.Schedule{Hours: []schedule.Hours{{From: 9 * 60, To: 17 * 60}}}
	there := time.FixedZone("there", 9*3600)
	at := func(hour int) Clock {
		site := time.Date(2026, 11, 24, hour, 0, 0, 0, time.UTC)
		return Clock{Now: site, Theirs: site.In(there)}
	}
	for _, c := range []struct {
		zone schedule.Zone
		hour int
		held Reason
	}{{"", 10, ""}, {"", 18, BySchedule}, {schedule.OfVisitor, 10, BySchedule}, {schedule.OfVisitor, 1, ""}} {
		p.Piece.Schedule.Zone = c.zone
		if s := p.Stand(&reach.Visit{}, &Memory{}, at(c.hour), caps.SiteLimits{}); s.Held != c.held {
			t.Errorf("%q at %d: %q", c.zone, c.hour, s.Held)
		}
	}
}

// The site's limits count against what shows at once; what waits is asked
// again when its moment comes, but never comes in a visit that is full.
func TestTheSitesLimitsHoldBack(t *testing.T) {
	clock := Clock{Now: now, Theirs: now}
	limits := caps.SiteLimits{Overlays: 1, Quiet: "PT1M"}
	recent := &Memory{Shown: now.Unix() - 30}
	full := &Memory{Visit: VisitMemory{Overlays: 1}}
	for _, c := range []struct {
		rule   string
		format piece.Format
		m      *Memory
		held   Reason
	}{
		{yes, piece.Popup, &Memory{}, ""}, {yes, piece.Popup, recent, "rests"}, {yes, piece.FlyIn, recent, "rests"},
		{yes, piece.Bar, recent, ""}, {yes, piece.Inline, recent, ""}, {wait, piece.Popup, recent, ""}, {yes, piece.Popup, full, Reason(caps.Overlays)}, {wait, piece.Popup, full, Reason(caps.Overlays)}, {yes, piece.FlyIn, full, ""},
		{yes, piece.Popup, &Memory{Shown: -5, Visit: VisitMemory{Overlays: -9}}, ""},
	} {
		l := live(t, "one", c.format, c.rule)
		v := &reach.Visit{}
		v.Set("page.path", "/")
		s := l.Stand(v, c.m, clock, limits)
		if c.held == "rests" {
			if s.Held != "" || s.Rests != 30*time.Second || s.Minimum != time.Minute {
				t.Errorf("%s %s: %+v, which should rest", c.format, c.rule, s)
			}
		} else if s.Held != c.held || s.Rests != 0 {
			t.Errorf("%s %s: %q, want %q", c.format, c.rule, s.Held, c.held)
		}
	}
}

// What the minimum time between pieces keeps back is on the page, which tries it
// again: it has its placement, and takes its place from nobody meanwhile.
func TestWhatRestsIsPlacedAndKeepsNobodyOut(t *testing.T) {
	recent := &Memory{Shown: now.Unix() - 30}
	first, second := live(t, "first", piece.Popup, yes), live(t, "second", piece.Popup, yes)
	placements, _ := NewLineup([]Live{first, second}).Decide(&reach.Visit{}, recent, Clock{Now: now, Theirs: now}, caps.SiteLimits{Quiet: "PT1M"})
	if len(placements) != 2 || !placements[0].Interrupts || placements[0].Waiting != nil {
		t.Errorf("%+v", placements)
	}
}

// A piece that begins as a tab is pressed by who wants it.
func TestAFoldedTabInterruptsNobody(t *testing.T) {
	l := live(t, "tab", piece.Popup, yes)
	l.Piece.Split.Variants[0].Design.Frame.Tab = piece.Tab{Words: "10 % off"}
	full := &Memory{Shown: now.Unix() - 1, Visit: VisitMemory{Overlays: 9}}
	placements, _ := NewLineup([]Live{l}).Decide(&reach.Visit{}, full, Clock{Now: now, Theirs: now}, caps.SiteLimits{Quiet: "PT1M", Overlays: 1})
	if len(placements) != 1 || placements[0].Interrupts || placements[0].Overlay {
		t.Errorf("%+v", placements)
	}
}

func TestWhatHoldsIsSaidInWords(t *testing.T) {
	name := func(id string) string { return "The " + id }
	for _, c := range []struct {
		s    Standing
		want string
	}{
		{Standing{}, ""}, {Standing{Held: ByRule}, ""},
		{Standing{Held: BySlot, By: "wheel"}, "“The wheel” has its place on the page."},
		{Standing{Held: Reason(caps.AfterClose), Until: now.AddDate(0, 0, 3)}, "It waits, because this visitor closed it. Possible again at Fri 27 Nov, 10:00."},
		{Standing{Rests: 50 * time.Second, Minimum: time.Minute}, "Held back by the site's minimum of 1 min between pieces. Tried again at 10:00:50."},
	} {
		if got := c.s.Say(now, name); got != c.want {
			t.Errorf("%+v says %q", c.s, got)
		}
	}
	for _, why := range []Reason{BySchedule, Reason(caps.PerVisitor), Reason(caps.Gap), Reason(caps.AfterClose), Reason(caps.AfterConvert), Reason(caps.Total), Reason(caps.Lead), Reason(caps.Overlays)} {
		if says[why] == "" {
			t.Errorf("%s has no words", why)
		}
	}
}

func TestAWrongClocksMemoryIsShifted(t *testing.T) {
	m := &Memory{Last: 100, Shown: 0, Pieces: map[string]Known{"p": {Shown: []int64{50, -3, 90}, Closed: 10, TimesShown: 2}}}
	m.Shift(1000)
	k := m.Pieces["p"]
	if m.Last != 1100 || m.Shown != 0 || fmt.Sprint(k.Shown) != "[1050 -3 1090]" || k.Closed != 1010 || k.Converted != 0 || k.TimesShown != 2 {
		t.Errorf("%+v", m)
	}
	m.Shift(-1 << 40)
	if m.Last != 1 || m.Pieces["p"].Closed != 1 {
		t.Errorf("%+v", m)
	}
}

func TestPhonesMayGetAnotherFormat(t *testing.T) {
	both := live(t, "both", piece.Popup, yes)
	both.Piece.PhoneFormat = piece.Bar
	other := live(t, "other", piece.Popup, yes)
	inline := live(t, "inline", piece.Inline, yes)
	again := live(t, "again", piece.Inline, yes)
	for device, want := range map[string]string{
		"desktop": "both:overlay:true inline::false again::false ",
		"phone":   "both:edge.top:false other:overlay:true inline::false again::false ",
	} {
		v := &reach.Visit{}
		v.Set("device.kind", device)
		got := ""
		placements, _ := NewLineup([]Live{both, other, inline, again}).Decide(v, &Memory{}, Clock{Now: now, Theirs: now}, caps.SiteLimits{})
		for _, p := range placements {
			got += fmt.Sprintf("%s:%s:%v ", p.Piece, p.Slot, p.Overlay)
		}
		if got != want {
			t.Errorf("%s: %s, want %s", device, got, want)
		}
	}
}

func TestWhoAskedNotToSeeItAgainDoesNot(t *testing.T) {
	l := live(t, "one", piece.Popup, yes)
	s := l.Stand(&reach.Visit{}, &Memory{Pieces: map[string]Known{"one": {Never: true}}}, Clock{Now: now, Theirs: now}, caps.SiteLimits{})
	if s.Held != ByNever || s.Say(now, nil) == "" {
		t.Errorf("%+v", s)
	}
}

// A line-up passes over pieces by their paths; what it gives is what asking every
// piece gives.
func TestALineupGivesWhatAskingEachGives(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 26))
	paths := []string{"/", "/shop", "/Shop/", "/shop/celadon", "/journal", ""}
	clause := func() string {
		fact := []string{"page.path", "page.path", "page.path", "page.title"}[random.IntN(4)]
		op := []string{"is", "starts_with", "is_not", "ends_with", "contains"}[random.IntN(5)]
		return fmt.Sprintf(`{"fact":%q,"op":%q,"value":%q}`, fact, op, paths[random.IntN(len(paths)-1)])
	}
	rules := []func() string{
		clause,
		func() string { return `{"all":[` + clause() + `,` + clause() + `]}` },
		func() string { return `{"any":[` + clause() + `,` + clause() + `]}` },
		func() string { return `{"not":` + clause() + `}` },
		func() string {
			return `{"all":[{"any":[` + clause() + `]},` + clause() + `,{"fact":"moment.exit_intent","op":"happened"}]}`
		},
	}
	shown, passed := 0, 0
	for range 400 {
		pieces := make([]Live, 12)
		for i := range pieces {
			pieces[i] = live(t, fmt.Sprint("p", i), []piece.Format{piece.Popup, piece.Inline}[random.IntN(2)], rules[random.IntN(len(rules))]())
		}
		v := &reach.Visit{}
		if path := paths[random.IntN(len(paths))]; path != "" {
			v.Set("page.path", path)
		}
		if random.IntN(2) == 0 {
			v.Set("page.title", "/shop")
		}
		want := []Placement{}
		Each(pieces, v, &Memory{}, Clock{Now: now, Theirs: now}, caps.SiteLimits{}, func(l *Live, s Standing) {
			if s.Held == "" {
				want = append(want, l.Place(v, &Memory{}, s))
			}
		})
		lineup := NewLineup(pieces)
		for _, begins := range lineup.begins {
			if !strings.HasPrefix(v.Path(), begins) {
				passed++
			}
		}
		got, _ := lineup.Decide(v, &Memory{}, Clock{Now: now, Theirs: now}, caps.SiteLimits{})
		if shown += len(got); !reflect.DeepEqual(got, want) {
			t.Fatalf("%+v, want %+v", got, want)
		}
	}
	if shown < 400 || passed < 400 {
		t.Errorf("%d placed, %d passed over: the test tries too little", shown, passed)
	}
}

func TestABarStaysFromPageToPageUntilItIsClosed(t *testing.T) {
	bar := live(t, "bar", piece.Bar, yes)
	limits := caps.SiteLimits{Quiet: "PT1H"}
	decide := func(m *Memory) []Placement {
		v := &reach.Visit{}
		v.Set("page.path", "/")
		placements, _ := NewLineup([]Live{bar}).Decide(v, m, Clock{Now: now, Theirs: now}, limits)
		return placements
	}
	earlier := now.Add(-time.Minute).Unix()
	known := func(k Known, last int64) *Memory { return &Memory{Shown: last, Pieces: map[string]Known{"bar": k}} }
	if first := decide(&Memory{}); len(first) != 1 || first[0].Interrupts || first[0].Folded {
		t.Errorf("%+v", first)
	}
	// On the next page it is still there.
	if next := decide(known(Known{Shown: []int64{earlier}, TimesShown: 1, ThisVisit: 1}, earlier)); len(next) != 1 || next[0].Interrupts {
		t.Errorf("%+v", next)
	}
	if after := decide(known(Known{Shown: []int64{earlier - 60}}, earlier)); len(after) != 1 {
		t.Errorf("another piece interrupted since, and it interrupts nobody: %+v", after)
	}
	closed := known(Known{Shown: []int64{earlier}, Closed: earlier}, earlier)
	if got := decide(closed); len(got) != 0 {
		t.Errorf("closed and without a tab: %+v", got)
	}
	bar.Piece.Split.Variants[0].Design.Frame.Tab = piece.Tab{Words: "10 % off", After: true}
	if got := decide(closed); len(got) != 1 || !got[0].Folded || got[0].Interrupts {
		t.Errorf("its tab does not stay: %+v", got)
	}
	// Only of the variant that the visitor has.
	bar.Piece.Split.Variants = append(bar.Piece.Split.Variants, piece.Variant{ID: "b", Share: 100})
	for variant, tabs := range map[string]int{"a": 1, "b": 0} {
		m := known(Known{Shown: []int64{earlier}, Closed: earlier, Variant: variant}, earlier)
		if got := decide(m); len(got) != tabs {
			t.Errorf("a tab of variant %s: %+v", variant, got)
		}
	}
	bar.Piece.Split.Variants = bar.Piece.Split.Variants[:1]
	// A rule that is tried without a design has none.
	bare := Live{ID: "bar", Piece: &piece.Piece{Format: piece.Bar, Program: bar.Piece.Program, Caps: bar.Piece.Caps, Limits: bar.Piece.Limits}}
	if s := bare.Stand(&reach.Visit{}, closed, Clock{Now: now, Theirs: now}, limits); s.Held != Reason(caps.AfterClose) || s.Folded {
		t.Errorf("without a design: %+v", s)
	}
	done := known(Known{Shown: []int64{earlier}, Closed: earlier, Converted: earlier}, earlier)
	if got := decide(done); len(got) != 0 {
		t.Errorf("who converted sees no more of it: %+v", got)
	}
}

// two is a piece whose second variant shows in its own way.
func two(t *testing.T, rule string, own func(v *piece.Variant)) Live {
	l := live(t, "two", piece.Popup, rule)
	second := l.Piece.Split.Variants[0]
	second.ID = "b"
	own(&second)
	l.Piece.Split.Variants = append(l.Piece.Split.Variants, second)
	if second.Moments != nil {
		program, err := reach.Compile(reach.All{l.Piece.Program.Rule(), second.Moments})
		if err != nil {
			t.Fatal(err)
		}
		l.Piece.Split.Variants[1].Program = program
	}
	l.Hashes["b"] = "hash-b"
	return l
}

// visitorOf is one who gets a variant of a split.
func visitorOf(s *piece.Split, variant string) string {
	for i := 0; ; i++ {
		if id := fmt.Sprint("v", i); Allot(s, id, "").ID == variant {
			return id
		}
	}
}

func TestAVariantWaitsForMomentsOfItsOwn(t *testing.T) {
	l := two(t, yes, func(v *piece.Variant) {
		v.Moments = reach.All{reach.Clause{Fact: "moment.exit_intent", Op: reach.Happened}}
	})
	for variant, want := range map[string]string{
		"a": "two/a/overlay:null ", "b": `two/b/overlay:{"all":[{"all":[]},{"all":[{"fact":"moment.exit_intent","op":"happened"}]}]} `,
	} {
		if got := placed(t, []Live{l}, &Memory{Visitor: visitorOf(&l.Piece.Split, variant)}); got != want && variant == "a" || !strings.Contains(got, "two/"+variant) || variant == "b" && !strings.Contains(got, "exit_intent") {
			t.Errorf("%s: %s, want %s", variant, got, want)
		}
	}
	// Where the piece's own rule says no, no variant waits.
	l = two(t, no, func(v *piece.Variant) { v.Moments = reach.All{} })
	if got := placed(t, []Live{l}, &Memory{Visitor: visitorOf(&l.Piece.Split, "b")}); got != "" {
		t.Error(got)
	}
}

func TestAVariantHasAFormatOfItsOwn(t *testing.T) {
	l := two(t, yes, func(v *piece.Variant) { v.Format = piece.Bar })
	rival := live(t, "rival", piece.Popup, yes)
	limits := caps.SiteLimits{Overlays: 1}
	for variant, want := range map[string]string{"a": "two:overlay:true ", "b": "two:edge.top:false rival:overlay:true "} {
		got := ""
		placements, _ := NewLineup([]Live{l, rival}).Decide(&reach.Visit{}, &Memory{Visitor: visitorOf(&l.Piece.Split, variant)}, Clock{Now: now, Theirs: now}, limits)
		for _, p := range placements {
			got += fmt.Sprintf("%s:%s:%v ", p.Piece, p.Slot, p.Overlay)
		}
		if got != want {
			t.Errorf("%s: %s, want %s", variant, got, want)
		}
	}
}

// Whether a visitor counts does not hang on their variant: not on its slot, not on
// what the site's limits make of its format, and not on its moments.
func TestEligibleAreTheSameVisitorsInEveryVariant(t *testing.T) {
	l := two(t, wait, func(v *piece.Variant) { v.Format = piece.Bar })
	first := live(t, "first", piece.Popup, yes)
	earlier := now.Add(-time.Minute).Unix()
	eligible := func(l Live, m *Memory) (all []Eligible) {
		v := &reach.Visit{}
		v.Set("page.path", "/")
		_, all = NewLineup([]Live{first, l}).Decide(v, m, Clock{Now: now, Theirs: now}, caps.SiteLimits{Quiet: "PT1H"})
		return all
	}
	for _, variant := range []string{"a", "b"} {
		who := visitorOf(&l.Piece.Split, variant)
		for name, m := range map[string]*Memory{"new": {Visitor: who}, "interrupted": {Visitor: who, Shown: earlier}, "without storage": {Visitor: who, Pieces: map[string]Known{"other": {}}}} {
			if got := eligible(l, m); !reflect.DeepEqual(got, []Eligible{{"two", variant}}) {
				t.Errorf("%s, %s: %+v", variant, name, got)
			}
		}
		for name, k := range map[string]Known{"counted": {Eligible: true, Variant: variant}, "held back and counted": {Eligible: true}, "saw it": {Shown: []int64{earlier}, TimesShown: 1, Variant: variant}, "never again": {Never: true}} {
			if got := eligible(l, &Memory{Visitor: who, Pieces: map[string]Known{"two": k}}); len(got) != 0 {
				t.Errorf("%s, %s: %+v", variant, name, got)
			}
		}
	}
	l.Piece.Split.Held = 50
	held := 0
	for i := range 1000 {
		switch got := eligible(l, &Memory{Visitor: fmt.Sprint("w", i)}); {
		case len(got) != 1:
			t.Fatalf("%+v", got)
		case got[0].Variant == "":
			held++
		}
	}
	if held < 400 || held > 600 {
		t.Errorf("%d of 1000 are held back, want half", held)
	}
	// Others count when they see the piece.
	if got := eligible(two(t, wait, func(*piece.Variant) {}), &Memory{Visitor: "v"}); len(got) != 0 {
		t.Errorf("%+v", got)
	}
}

// What wins first is decided about first: when the time is up it stands, and the
// rest is left.
func TestDecidingEndsWhenItsTimeIsUp(t *testing.T) {
	var pieces []Live
	for i := range 5 {
		p := piece.New(fmt.Sprint("Piece ", i), piece.Inline, "salt")
		p.Rule = reach.All{}
		raw, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		if p, err = piece.Parse(raw); err != nil {
			t.Fatal(err)
		}
		pieces = append(pieces, Live{ID: fmt.Sprint("p", i), Piece: p})
	}
	asked := 0
	clock := Clock{Now: time.Now(), Theirs: time.Now(), Over: func() bool { asked++; return asked > 2 }}
	placed, _ := NewLineup(pieces).Decide(&reach.Visit{}, &Memory{}, clock, caps.SiteLimits{})
	if len(placed) != 2 || placed[0].Piece != "p0" || placed[1].Piece != "p1" {
		t.Errorf("%+v", placed)
	}
}
