package studio_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/alert"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/servertest"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio"
	"gobbet/internal/studio/account"
	resultsplace "gobbet/internal/studio/results"
	splitplace "gobbet/internal/studio/split"
)

var ctx = context.Background()

// twoVariants is a piece with two variants.
func twoVariants() *piece.Piece {
	p := piece.New("Two", piece.Popup, "s")
	second := p.Split.Variants[0]
	second.ID = "b"
	p.Split.Variants = append(p.Split.Variants, second)
	return p
}

// crowd is visitors who first see a piece in a run, of whom some convert.
func crowd(t *testing.T, h *servertest.Harness, name, variant string, run, visitors, conversions int, at time.Time, more func(i int, e *tally.Event)) {
	t.Helper()
	var events []tally.Event
	add := func(i int, kind string) {
		id := uuid.Must(uuid.NewV7())
		for k, ms := 5, at.UnixMilli(); k >= 0; k, ms = k-1, ms>>8 {
			id[k] = byte(ms)
		}
		e := tally.Event{ID: id.String(), At: at, Kind: kind, Piece: "test", Variant: variant, Run: run, Visitor: fmt.Sprint(name, variant, "-", i), Visit: "x", Page: "/", After: -1}
		if more != nil {
			more(i, &e)
		}
		events = append(events, e)
	}
	for i := range visitors {
		if variant == tally.HeldBack {
			add(i, tally.Held)
			continue
		}
		add(i, tally.Shown)
		if i < conversions {
			add(i, tally.Converted)
		}
	}
	if err := h.Store.Events.Add(ctx, h.Site, time.UTC, events); err != nil {
		t.Fatal(err)
	}
}

func splitOf(t *testing.T, h *servertest.Harness) (r splitplace.SplitResult) {
	t.Helper()
	h.Call("GET", at(h, "/pieces/test/split"), "").Into(t, &r)
	return r
}

// A variant that is minutes old is compared by those minutes, and not with weeks
// of the other.
func TestOnlyWhatRanTogetherIsCompared(t *testing.T) {
	h := signedIn(t)
	p := twoVariants()
	h.Launch("test", p)
	now := time.Now()
	if err := h.Store.Pieces.SetRuns(ctx, h.Site, "test", []launch.Run{
		{Began: now.AddDate(0, 0, -41), Split: launch.Split{Variants: []launch.Variant{{ID: "a", Name: "First", Share: 50}}}},
		{Began: now.Add(-3 * time.Minute), Split: launch.Split{Variants: []launch.Variant{{ID: "a", Name: "First", Share: 50}, {ID: "b", Name: "Second", Share: 50}}}},
	}); err != nil {
		t.Fatal(err)
	}
	crowd(t, h, "old", "a", 1, 1000, 70, now.AddDate(0, 0, -5), nil)
	crowd(t, h, "new", "a", 2, 5, 0, now, nil)
	crowd(t, h, "new", "b", 2, 4, 1, now, nil)
	r := splitOf(t, h)
	if r.Report.Verdict != weigh.KeepCollecting || r.Variants[0].Measure.Visitors != 5 || r.Variants[1].Measure.Visitors != 4 || r.Earlier != 1000 || r.Sound.FullWeeks != 0 || r.Days > 1 {
		t.Errorf("%+v", r)
	}
	if !strings.Contains(r.Report.Why, "Too few visitors") {
		t.Error(r.Report.Why)
	}
	if len(r.Runs) != 2 || r.Runs[0].Run != 2 || !r.Runs[0].Compared || r.Runs[1].Compared {
		t.Errorf("%+v", r.Runs)
	}
}

// What the screen says is what the same counts give on the command line.
func TestTheScreenSaysWhatTheCoreSays(t *testing.T) {
	h := signedIn(t)
	h.Launch("test", twoVariants())
	now := time.Now()
	crowd(t, h, "v", "a", 1, 900, 63, now, func(i int, e *tally.Event) { e.Device = []string{"phone", "desktop"}[i%2] })
	crowd(t, h, "v", "b", 1, 905, 120, now, func(i int, e *tally.Event) { e.Device = []string{"phone", "desktop"}[i%2] })
	r := splitOf(t, h)
	want, err := weigh.Weigh(weigh.Test{Confidence: 0.95, Days: r.Days, Variants: []weigh.Arm{
		{Name: "A", Share: 50, Count: weigh.Count{Visitors: 900, Conversions: 63}}, {Name: "B", Share: 50, Count: weigh.Count{Visitors: 905, Conversions: 120}},
	}})
	if err != nil {
		t.Fatal(err)
	}
	got, _ := json.Marshal(r.Report)
	text, _ := json.Marshal(want)
	if string(got) != string(text) || r.Report.Verdict != weigh.Better {
		t.Errorf("%s\n%s", got, text)
	}
	last := r.Over[len(r.Over)-1]
	if math.Abs(float64(last.Differences[0].Difference-want.Comparisons[0].Difference)) > 1e-12 || last.Differences[0].Interval != want.Comparisons[0].SafeInterval {
		t.Errorf("%+v", last)
	}
	var cuts splitplace.SplitCuts
	h.Call("GET", at(h, "/pieces/test/split/cuts?by=device"), "").Into(t, &cuts)
	sum := 0
	for _, c := range cuts.Cuts {
		sum += c.Rates[0].Visitors + c.Rates[1].Visitors
	}
	if len(cuts.Cuts) != 2 || sum != 1805 {
		t.Errorf("%+v", cuts)
	}
	wants(t, h.Call("GET", at(h, "/pieces/test/split/cuts?by=mood"), ""), 422, "faults")
}

func TestASplitMaySettleOnAGoalOfTheSite(t *testing.T) {
	h := signedIn(t)
	settings := setup.Default()
	settings.Goals, settings.Currency = []setup.Goal{{ID: "order", Name: "Order", Kind: "page", About: "/thanks", Value: "total", Days: 14}}, "EUR"
	h.Settings(settings)
	p := twoVariants()
	p.Split.Goal, p.Split.Held = "order", 10
	h.Launch("test", p)
	now := time.Now().Add(-time.Hour)
	for _, c := range []struct {
		variant         string
		visitors, order int
	}{{"a", 400, 20}, {"b", 400, 60}, {tally.HeldBack, 80, 1}} {
		crowd(t, h, "v", c.variant, 1, c.visitors, 10, now, nil)
		crowd(t, h, "v", c.variant, 1, c.order, 0, now.Add(time.Minute), func(_ int, e *tally.Event) {
			e.Kind, e.Piece, e.Variant, e.Run, e.Goal = tally.Reached, "", "", 0, tally.Goal{Goal: "order", Amount: 5000, Within: 14}
		})
	}
	r := splitOf(t, h)
	if r.Goal != "order" || r.Variants[0].Measure.Conversions != 20 || r.Variants[1].Measure.Conversions != 60 || *r.Variants[1].Mean != 7.5 || r.Report.Verdict != weigh.Better {
		t.Errorf("%+v", r)
	}
	if v := r.Report.Comparisons[0].Value; v == nil || v.P > 0.001 {
		t.Errorf("value: %+v", v)
	}
	if len(r.Variants[0].Others) != 1 || r.Variants[0].Others[0].Measure.Conversions != 10 {
		t.Errorf("others: %+v", r.Variants[0].Others)
	}
	if len(r.Gains) != 1 || !r.Gains[0].Gain.Sure || math.Abs(float64(r.Gains[0].Gain.Conversions)-70) > 1e-9 {
		t.Errorf("%+v", r.Gains)
	}
	var all resultsplace.SiteResults
	h.Call("GET", at(h, "/results"), "").Into(t, &all)
	if all.Now.Visitors != 800 || all.Goals[0].Times != 81 || all.Goals[0].Value != 4050 || !strings.Contains(all.Head, "brought 70 more of “Order”") || len(all.Rows) != 1 || all.Rows[0].Goal.Conversions != 80 {
		t.Errorf("%+v", all)
	}
	var rows resultsplace.BehindRows
	h.Call("GET", at(h, "/results/behind?kind=reached"), "").Into(t, &rows)
	if len(rows.Rows) != 50 || rows.Next == "" || rows.Rows[0].Value != 50 || rows.Rows[0].Goal != "Order" {
		t.Errorf("%d rows, %+v", len(rows.Rows), rows.Rows[0])
	}
	var next resultsplace.BehindRows
	h.Call("GET", at(h, "/results/behind?kind=reached&before="+rows.Next), "").Into(t, &next)
	if len(next.Rows) != 31 || next.Next != "" || slices.ContainsFunc(next.Rows, func(r resultsplace.BehindRow) bool { return r.ID == rows.Rows[0].ID }) {
		t.Errorf("%d rows", len(next.Rows))
	}
	table := h.Call("GET", at(h, "/results.csv?by=page"), "")
	if lines := strings.Split(strings.TrimSpace(table.Body), "\r\n"); len(lines) != 2 || !strings.HasPrefix(lines[1], "Two,/,800,20,0.025,") {
		t.Error(table.Body)
	}
}

func TestResultsRefuseWhatIsNoRange(t *testing.T) {
	h := signedIn(t)
	for query, at := range map[string]string{
		"from=yesterday": "from", "from=2026-11-20&to=2026-11-01": "to", "from=1990-01-01&to=2026-01-01": "from", "from=2026-01-01&to=2999-01-01": "from", "by=mood": "by", "to=%00": "to",
	} {
		if p := wants(t, h.Call("GET", atPath(h, "/results?"+query), ""), 422, "faults"); p.Faults[0].At != at {
			t.Errorf("%s: %+v", query, p.Faults)
		}
	}
	for query, at := range map[string]string{"kind=stolen": "kind", "kind=shown&before=1": "before"} {
		if p := wants(t, h.Call("GET", atPath(h, "/results/behind?"+query), ""), 422, "faults"); p.Faults[0].At != at {
			t.Errorf("%s: %+v", query, p.Faults)
		}
	}
	// Ten years, of which nothing was measured.
	var r resultsplace.SiteResults
	h.Call("GET", atPath(h, "/results?from=2016-12-01&to=2026-11-30"), "").Into(t, &r)
	if r.Head != "In these 3652 days nobody saw a piece." || len(r.Hours) != 7 {
		t.Errorf("%+v", r)
	}
}

func atPath(h *servertest.Harness, rest string) string { return at(h, rest) }

func TestAPlanGoesByWhatWasMeasured(t *testing.T) {
	h := signedIn(t)
	h.Launch("test", twoVariants())
	var p splitplace.SplitPlan
	h.Call("GET", at(h, "/pieces/test/plan"), "").Into(t, &p)
	if p.From != "guess" || p.Plan.Days.Is() || p.Plan.SafePerVariant == 0 {
		t.Errorf("%+v", p)
	}
	crowd(t, h, "v", "a", 1, 700, 70, time.Now().AddDate(0, 0, -7), nil)
	h.Call("GET", at(h, "/pieces/test/plan?lift=0.5"), "").Into(t, &p)
	if p.From != "piece" || p.Baseline != 0.1 || p.Paced != "piece" || p.PerDay < 80 || p.PerDay > 120 || !p.Plan.Days.Is() {
		t.Errorf("%+v", p)
	}
	for _, query := range []string{"lift=0", "lift=x", "lift=99", "power=1", "power=2"} {
		wants(t, h.Call("GET", at(h, "/pieces/test/plan?"+query), ""), 422, "faults")
	}
}

func TestWhatIsNotAsUsualIsSaid(t *testing.T) {
	h := signedIn(t)
	settings := setup.Default()
	settings.Goals = []setup.Goal{{ID: "order", Name: "Order", Kind: "page", About: "/thanks", Days: 14}}
	h.Settings(settings)
	h.Launch("test", twoVariants())
	now := time.Now()
	for day := 4; day < 24; day++ {
		of := now.AddDate(0, 0, -day)
		crowd(t, h, fmt.Sprint("d", day), "a", 1, 50, 10, of, nil)
		crowd(t, h, fmt.Sprint("d", day), "b", 1, 20, 4, of, nil)
		crowd(t, h, fmt.Sprint("g", day), "a", 1, 4, 0, of, func(_ int, e *tally.Event) {
			e.Kind, e.Piece, e.Variant, e.Run, e.Goal = tally.Reached, "", "", 0, tally.Goal{Goal: "order", Within: 14}
		})
	}
	crowd(t, h, "lately", "a", 1, 150, 1, now, nil)
	began := now.Add(-time.Hour)
	pages := map[pageviews.PageDay]pageviews.PageSum{}
	for ago := range 28 {
		at := now.AddDate(0, 0, -ago)
		see := func(path string) {
			pages[pageviews.PageDay{Day: tally.DayOf(at, time.UTC), Path: path}] = pageviews.PageSum{Views: 30, LastAt: at}
		}
		if ago >= 4 {
			see("/gone")
		}
		see("/here")
		if ago%7 > 2 {
			see("/office") // nobody comes on the last three days of any week
		}
	}
	if err := h.Store.PageViews.AddMeasured(ctx, h.Site, pageviews.MeasuredTotals{Pages: pages}); err != nil {
		t.Fatal(err)
	}
	var a resultsplace.Alerts
	h.Call("GET", at(h, "/alerts"), "").Into(t, &a)
	var said []string
	for _, one := range a.Alerts {
		said = append(said, string(one.Alert.Kind))
	}
	if strings.Join(said, " ") != "out_of_band broken_split goal_stopped silent_page" || a.Alerts[3].Alert.About != "/gone" {
		t.Fatalf("%+v", a.Alerts)
	}
	// It is so since it was first seen, and ends when it is so no more.
	var unusual []alert.Alert
	for _, one := range a.Alerts {
		unusual = append(unusual, one.Alert)
	}
	keep := func(now []alert.Alert) (open, ended int) {
		t.Helper()
		if err := h.Store.Alerts.Keep(ctx, h.Site, now); err != nil {
			t.Fatal(err)
		}
		kept, err := h.Store.Alerts.List(ctx, h.Site, began)
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range kept {
			if k.Ended == nil {
				open++
			} else {
				ended++
			}
		}
		return open, ended
	}
	for _, c := range []struct {
		now         []alert.Alert
		open, ended int
	}{{unusual, 4, 0}, {append(unusual, unusual...), 4, 0}, {unusual[1:], 3, 1}, {unusual, 4, 1}, {nil, 0, 5}} {
		if open, ended := keep(c.now); open != c.open || ended != c.ended {
			t.Errorf("of %d alerts %d are open and %d have ended, want %d and %d", len(c.now), open, ended, c.open, c.ended)
		}
	}
	keep(unusual)
	h.Call("GET", at(h, "/alerts"), "").Into(t, &a)
	if a.Alerts[0].Since == nil || a.Alerts[0].Since.Before(now) {
		t.Errorf("%+v", a.Alerts[0])
	}
}

func TestSharesFollowTheWinnerOnceADay(t *testing.T) {
	h := signedIn(t)
	p := twoVariants()
	p.Split.Follow = true
	h.Launch("test", p)
	began := time.Now().AddDate(0, 0, -2)
	if err := h.Store.Pieces.SetRuns(ctx, h.Site, "test", []launch.Run{{Began: began, Split: launch.Split{Follow: true, Variants: []launch.Variant{{ID: "a", Share: 50}, {ID: "b", Share: 50}}}}}); err != nil {
		t.Fatal(err)
	}
	crowd(t, h, "v", "a", 1, 300, 10, began.Add(time.Hour), nil)
	crowd(t, h, "v", "b", 1, 300, 60, began.Add(time.Hour), nil)
	var servers sync.WaitGroup
	for range 2 { // two servers, and one draw
		servers.Go(func() {
			if err := studio.New(h.Store, nil, studio.Options{}).FollowWinners(ctx); err != nil {
				t.Error(err)
			}
		})
	}
	servers.Wait()
	runs, err := h.Store.Pieces.Runs(ctx, h.Site, "test")
	if err != nil || len(runs) != 2 {
		t.Fatal(runs, err)
	}
	if v := runs[1].Split.Variants; v[0].Share != 10 || v[1].Share != 90 || runs[1].Split.Seed == 0 || !runs[1].Split.Follow {
		t.Errorf("%+v", runs[1])
	}
	live, err := h.Store.Pieces.Live(ctx, h.Site)
	if err != nil {
		t.Fatal(err)
	}
	got, err := piece.ParseWith(live[0].Live, nil)
	if err != nil || got.Split.Variants[0].Share != 10 || got.Split.Variants[1].Share != 90 {
		t.Errorf("%+v %v", got.Split, err)
	}
	if due, err := h.Store.Pieces.FollowDue(ctx, time.Now().Add(-23*time.Hour)); err != nil || len(due) != 0 {
		t.Errorf("%+v %v", due, err)
	}
	// A launch of something else lets the shares go on where they are.
	info, err := h.Store.Pieces.Get(ctx, h.Site, "test")
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Store.Pieces.Launch(ctx, pieces.Act{Site: h.Site}, "test", info.DraftVersion, nil); err != nil {
		t.Fatal(err)
	}
	if live, err = h.Store.Pieces.Live(ctx, h.Site); err != nil {
		t.Fatal(err)
	}
	if got, err = piece.ParseWith(live[0].Live, nil); err != nil || got.Split.Variants[0].Share != 10 {
		t.Errorf("%+v %v", got.Split, err)
	}
	if r := splitOf(t, h); len(r.Runs) != 2 || !r.Runs[0].Compared || !r.Runs[1].Compared {
		t.Errorf("%+v", r.Runs)
	}
}

func TestGoalsAndMeasuringAreChecked(t *testing.T) {
	h := signedIn(t)
	put := func(change string) servertest.Answer {
		part := "goals"
		for key, other := range map[string]string{`"team"`: "team", `"data_layer"`: "recording", `"keep_months"`: "recording"} {
			if strings.HasPrefix(change, key) {
				part = other
			}
		}
		var me account.Me
		h.Call("GET", "/api/me", "").Into(t, &me)
		return h.Call("PUT", at(h, "/settings/"+part), fmt.Sprintf(`{"version":%q,"settings":{"record":100,%s}}`, me.Sites[0].SettingsVersions[setup.Part(part)], change))
	}
	for change, at := range map[string]string{
		`"goals":[{"id":"o","name":"","kind":"page","about":"/x","days":3}]`: "goals[0].name", `"goals":[{"id":"o","name":"O","kind":"mood","about":"/x","days":3}]`: "goals[0].kind",
		`"goals":[{"id":"o","name":"O","kind":"page","about":"thanks","days":3}]`: "goals[0].about", `"goals":[{"id":"o","name":"O","kind":"page","about":"/x","days":0}]`: "goals[0].days",
		`"goals":[{"id":"O O","name":"O","kind":"page","about":"/x","days":3}]`: "goals[0].id", `"goals":[{"id":"o","name":"O","kind":"page","about":"/x","value":"a b","days":3}]`: "goals[0].value",
		`"currency":"EURO"`: "currency", `"team":["10.0.0.300"]`: "team[0]", `"data_layer":"alert(1)"`: "data_layer", `"keep_months":999`: "keep_months",
	} {
		if p := wants(t, put(change), 422, "faults"); len(p.Faults) == 0 || p.Faults[0].At != at {
			t.Errorf("%s: %+v", change, p.Faults)
		}
	}
	if a := put(`"goals":[{"id":"order","name":"Order","kind":"page","about":"/thanks","value":"total","days":14}],"currency":"eur"`); a.Status != 200 || !strings.Contains(a.Body, `"currency":"EUR"`) {
		t.Error(a)
	}
	for _, change := range []string{`"team":[" 203.0.113.0/24 "]`, `"data_layer":"dataLayer","keep_months":6`} {
		if a := put(change); a.Status != 200 {
			t.Error(a)
		}
	}
}

// The time that a test was paused is not time that it ran, and a design that
// changed meanwhile is told.
func TestPausesAndChangesAreOnTheTimeLine(t *testing.T) {
	h := signedIn(t)
	h.Launch("test", twoVariants())
	now := time.Now()
	day := func(n int) time.Time { return now.AddDate(0, 0, n) }
	both := launch.Split{Variants: []launch.Variant{{ID: "a", Share: 50}, {ID: "b", Share: 50}}}
	if err := h.Store.Pieces.SetRuns(ctx, h.Site, "test", []launch.Run{{Began: day(-20), Split: both}}); err != nil {
		t.Fatal(err)
	}
	set := func(moves ...launch.Made) {
		t.Helper()
		if err := h.Store.Pieces.SetMoves(ctx, h.Site, "test", moves); err != nil {
			t.Fatal(err)
		}
	}
	launched := launch.Made{At: day(-20), Did: launch.Launched, Designs: []string{"a", "b"}}
	for name, c := range map[string]struct {
		moves []launch.Made
		days  float64
		weeks int
	}{
		"paused for a week": {[]launch.Made{{At: day(-15), Did: launch.PausedIt}, {At: day(-8), Did: launch.ResumedIt}}, 13, 1},
	} {
		set(append([]launch.Made{launched}, c.moves...)...)
		if r := splitOf(t, h); math.Abs(r.Days-c.days) > 0.01 || r.Sound.FullWeeks != c.weeks || len(r.Moves) != 1+len(c.moves) {
			t.Errorf("%s: %v days and %d weeks, want %v and %d; %d moves", name, r.Days, r.Sound.FullWeeks, c.days, c.weeks, len(r.Moves))
		}
	}
	set(launched, launch.Made{At: day(-3), Did: launch.Launched, Designs: []string{"b", "gone"}, Reach: true})
	r := splitOf(t, h)
	if !slices.Equal(r.Sound.Changed, []string{"B"}) || r.Sound.ChangedAt == nil || !r.Moves[0].Reach || !slices.Equal(r.Moves[0].Designs, []string{"B"}) {
		t.Errorf("%+v, %+v", r.Sound, r.Moves)
	}
}

// Where variants differ in when they show, visitors are those it could show to.
func TestEligibleVisitorsCountSeenOrNot(t *testing.T) {
	h := signedIn(t)
	p := twoVariants()
	p.Split.Variants[1].Format = piece.FlyIn
	h.Launch("test", p)
	now := time.Now()
	crowd(t, h, "saw", "a", 1, 40, 4, now, nil)
	crowd(t, h, "could", "b", 1, 40, 0, now, func(_ int, e *tally.Event) { e.Kind = tally.Eligible })
	crowd(t, h, "could", "b", 1, 10, 2, now.Add(time.Second), nil)
	r := splitOf(t, h)
	if b := r.Variants[1].Measure; !r.OfEligible || b.Visitors != 40 || b.Showings != 10 || b.Conversions != 2 {
		t.Errorf("%+v", r.Variants)
	}
}

// A variant has one letter wherever it is spoken of, its own in the split's list,
// whichever are compared.
func TestALetterIsOneVariants(t *testing.T) {
	h := signedIn(t)
	p := twoVariants()
	third := p.Split.Variants[0]
	third.ID = "c"
	p.Split.Variants = append(p.Split.Variants, third)
	p.Split.Variants[0].Share = 0
	h.Launch("test", p)
	now := time.Now()
	crowd(t, h, "v", "b", 1, 300, 20, now, nil)
	crowd(t, h, "v", "c", 1, 300, 90, now, nil)
	r := splitOf(t, h)
	if len(r.Variants) != 2 || r.Variants[0].Letter != "B" || r.Variants[1].Letter != "C" || !strings.HasPrefix(r.Report.Head, "C converts better than B") || r.Runs[0].Variants[2].Letter != "C" {
		t.Errorf("%+v, %q", r.Variants, r.Report.Head)
	}
	var cuts splitplace.SplitCuts
	h.Call("GET", at(h, "/pieces/test/split/cuts?by=page"), "").Into(t, &cuts)
	if !slices.Equal(cuts.Variants, []string{"B", "C"}) {
		t.Error(cuts.Variants)
	}
	// What is gone keeps off the letters of what is there.
	if err := h.Store.Pieces.SetRuns(ctx, h.Site, "test", []launch.Run{
		{Began: now.AddDate(0, 0, -9), Split: launch.Split{Variants: []launch.Variant{{ID: "gone", Share: 50}, {ID: "b", Share: 50}}}},
	}); err != nil {
		t.Fatal(err)
	}
	if r := splitOf(t, h); r.Variants[0].Letter != "D" || !r.Variants[0].Gone || r.Variants[1].Letter != "B" {
		t.Errorf("%+v", r.Variants)
	}
}
