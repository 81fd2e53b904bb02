package visitor_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/internal/servertest"
	"gobbet/internal/store/events"
	"gobbet/internal/visitor"
)

const browser = "Mozilla/5.0 (Linux; Android 14; Phone) AppleWebKit/537.36 Chrome/120 Mobile Safari/537.36"

// timed is an id as a page makes it at a time.
func timed(at time.Time) string {
	id := uuid.Must(uuid.NewV7())
	for i, ms := 5, at.UnixMilli(); i >= 0; i, ms = i-1, ms>>8 {
		id[i] = byte(ms)
	}
	return id.String()
}

// send posts events of a visitor, and gives how many were stored and refused.
func send(h *servertest.Harness, who, rest string, events ...string) visitor.EventsAnswer {
	h.T.Helper()
	list := ""
	for i, e := range events {
		if i > 0 {
			list += ","
		}
		list += e
	}
	var a visitor.EventsAnswer
	servertest.Call(h.T, h.Client, h.URL+"/v1/sites/shop/events", "POST", fmt.Sprintf(`{"visitor":%q,"visit":"visit-1234","visits":2,"landing":"https://shop.test/?utm_medium=email"%s,"events":[%s]}`, who, rest, list),
		"Origin", servertest.Origin, "User-Agent", browser).Into(h.T, &a)
	return a
}

func one(kind, variant, more string) string {
	now := time.Now()
	return fmt.Sprintf(`{"id":%q,"kind":%q,"at":%d,"piece":"p","variant":%q,"page":"/shop"%s}`, timed(now), kind, now.UnixMilli(), variant, more)
}

func raw(t *testing.T, h *servertest.Harness) []tally.Event {
	t.Helper()
	page, err := h.Store.Events.List(context.Background(), h.Site, events.Query{From: time.Now().Add(-40 * 24 * time.Hour), To: time.Now().Add(24 * time.Hour), Limit: 100})
	if err != nil {
		t.Fatal(err)
	}
	return page.Events
}

// measuredSite is a site with a goal, a team and a live piece.
func measuredSite(t *testing.T) *servertest.Harness {
	h := servertest.New(t)
	h.Launch("p", atOnce())
	settings := setup.Default()
	settings.Goals = []setup.Goal{
		{ID: "order", Name: "Order", Kind: "page", About: "/thanks*", Value: "order_total", Days: 14}, {ID: "booked", Name: "Booked", Kind: "event", About: "class booked", Days: 3},
	}
	settings.Team = []string{"198.51.100.0/24"}
	settings.DataLayer = "layer"
	h.Settings(settings)
	eventually(t, "the piece and the goals", func() bool {
		a := h.Page("decide", `{"url":"https://shop.test/thanks","memory":{"visitor":"visitor-1234"}}`)
		return strings.Contains(a.Body, `"piece":"p"`) && strings.Contains(a.Body, `"goal":"order"`)
	})
	return h
}

func TestEventsAreKeptWithWhatVisitorsAreToldApartBy(t *testing.T) {
	h := measuredSite(t)
	a := send(h, who, "", one(tally.Shown, "a", ""), one(tally.Closed, "a", `,"after":1200`), one(tally.Held, "", ""), one(tally.Left, "", `,"after":400`),
		one(tally.Reached, "", `,"goal":"order","amount":64.5`))
	if a.Stored != 5 || a.Refused != 0 {
		t.Fatal(a)
	}
	for _, e := range raw(t, h) {
		if e.Device != "phone" || e.Channel != "email" || e.Known != "returning" || e.Page != "/shop" {
			t.Errorf("%+v", e)
		}
		if wantsRun := e.Kind != tally.Reached; (e.Run == 1) != wantsRun {
			t.Errorf("%s is of run %d", e.Kind, e.Run)
		}
		switch e.Kind {
		case tally.Closed:
			if e.After != 1200 {
				t.Error(e.After)
			}
		case tally.Reached:
			if e.Amount != 6450 || e.Within != 14 || e.Goal.Goal != "order" {
				t.Errorf("%+v", e.Goal)
			}
		}
	}
}

func TestEventsThatCannotBeAreRefused(t *testing.T) {
	h := measuredSite(t)
	now := time.Now()
	bad := []string{
		one("stolen", "a", ""), one(tally.Shown, "z", ""), one(tally.Shown, "", ""), one(tally.Held, "a", ""), one(tally.Reached, "", `,"goal":"nothing"`), one(tally.Reached, "", ""),
		fmt.Sprintf(`{"id":%q,"kind":"shown","at":%d,"piece":"gone","variant":"a"}`, timed(now), now.UnixMilli()),
		fmt.Sprintf(`{"id":%q,"kind":"shown","at":%d,"piece":"p","variant":"a"}`, timed(now.AddDate(0, 2, 0)), now.UnixMilli()),
		`{"id":"1","kind":"shown","at":1,"piece":"p","variant":"a"}`,
	}
	if a := send(h, who, "", bad...); a.Stored != 0 || a.Refused != len(bad) {
		t.Error(a)
	}
	// A clock that goes wrong moves the time, and no event into another year; amounts have bounds.
	odd := []string{
		fmt.Sprintf(`{"id":%q,"kind":"shown","at":%d,"piece":"p","variant":"a","page":"/"}`, timed(now.AddDate(-9, 0, 0)), now.AddDate(-9, 0, 0).UnixMilli()),
		fmt.Sprintf(`{"id":%q,"kind":"shown","at":99999999999999,"piece":"p","variant":"a","page":"/"}`, uuid.NewString()),
		one(tally.Reached, "", `,"goal":"order","amount":1e300`), one(tally.Reached, "", `,"goal":"order","amount":-12.34`), one(tally.Closed, "a", `,"after":1e99`),
	}
	if a := send(h, who, "", odd...); a.Stored != len(odd) {
		t.Error(a)
	}
	var amounts []int64
	if page, err := h.Store.Events.List(context.Background(), h.Site, events.Query{From: now.AddDate(-20, 0, 0), To: now.AddDate(0, 0, 1), Limit: 100}); err != nil || len(page.Events) < 4 {
		t.Error(len(page.Events), err)
	} else {
		for _, e := range page.Events {
			if e.At.After(time.Now()) || e.At.Before(now.Add(-8*24*time.Hour)) {
				t.Error(e.At)
			}
			if e.Kind == tally.Reached {
				amounts = append(amounts, e.Amount)
			}
		}
	}
	if slices.Sort(amounts); !slices.Equal(amounts, []int64{-1234, 100_000_000_000}) {
		t.Error(amounts)
	}
	if r, err := h.Store.Events.Recount(context.Background(), h.Site, false); err != nil || len(r.Differ) > 0 {
		t.Error(r.Differ, err)
	}
}

func TestRobotsProgramsAndTheTeamAreLeftOut(t *testing.T) {
	t.Parallel() // waits, or works alone, for seconds
	h := measuredSite(t)
	say := func(agent, body string) {
		t.Helper()
		var a visitor.EventsAnswer
		servertest.Call(t, h.Client, h.URL+"/v1/sites/shop/events", "POST", `{"visitor":"visitor-1234"`+body+`,"events":[`+one(tally.Shown, "a", "")+`]}`, "Origin", servertest.Origin, "User-Agent", agent).Into(t, &a)
		if a.Stored != 1 {
			t.Error(agent, a)
		}
	}
	say("Mozilla/5.0 (compatible; PotteryBot/2.1; +https://bot.example.com)", "")
	say("Mozilla/5.0 HeadlessBrowser/120", "")
	say(browser, `,"automated":true`)
	if events := raw(t, h); len(events) != 0 {
		t.Errorf("%+v", events)
	}
	eventually(t, "the list of what was left out", func() bool {
		left, err := h.Store.Events.LeftOut(context.Background(), h.Site, 7)
		if err != nil {
			t.Fatal(err)
		}
		names := map[string]int{}
		for _, l := range left {
			names[l.Why+" "+l.What] = l.Events
		}
		return names["robot potterybot"] == 1 && names["robot headlessbrowser"] == 1 && names["automated a browser driven by a program"] == 1
	})
}

func TestAVisitorIsHeldBackTheSameAlways(t *testing.T) {
	h := servertest.New(t)
	p := atOnce()
	p.Split.Held = 30
	h.Launch("p", p)
	eventually(t, "the piece", func() bool { return len(decide(h, `{"visitor":"visitor-1234"}`).Placements) > 0 })
	type placements struct {
		Placements []struct {
			Held, Interrupts bool
			Variant, Design  string
		}
	}
	ask := func(memory string) (d placements) {
		a := h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/","memory":%s}`, memory))
		a.Into(t, &d)
		return d
	}
	held := 0
	for i := range 200 {
		memory := fmt.Sprintf(`{"visitor":"visitor-%04d"}`, i)
		first, again := ask(memory), ask(memory)
		if first.Placements[0].Held != again.Placements[0].Held || first.Placements[0].Held && (first.Placements[0].Interrupts || first.Placements[0].Design == "") {
			t.Fatalf("%+v then %+v", first, again)
		}
		if first.Placements[0].Held {
			held++
			// Who has seen it is not held back any more.
			if seen := ask(fmt.Sprintf(`{"visitor":"visitor-%04d","pieces":{"p":{"variant":"a","times_shown":1}}}`, i)); seen.Placements[0].Held {
				t.Error("a visitor who has seen it is held back")
			}
		}
	}
	if held < 35 || held > 85 {
		t.Errorf("%d of 200 are held back, where 30 in 100 were asked", held)
	}
}

func TestAPageKnowsTheGoalsItReaches(t *testing.T) {
	h := measuredSite(t)
	type goals struct {
		Goals []visitor.GoalAt
		Layer string
		Clock int64
	}
	for url, want := range map[string]int{"https://shop.test/thanks": 2, "https://shop.test/thanks/again/?x=1": 2, "https://shop.test/": 1, "nonsense": 1} {
		var d goals
		h.Page("decide", fmt.Sprintf(`{"url":%q,"memory":{"visitor":"visitor-1234"}}`, url)).Into(t, &d)
		if len(d.Goals) != want || d.Layer != "layer" || time.Since(time.UnixMilli(d.Clock)).Abs() > time.Minute {
			t.Errorf("%s: %+v", url, d)
		}
	}
}

func TestARecordedViewTellsWhatItCost(t *testing.T) {
	h := measuredSite(t)
	view := func(id string, interrupted int, cost string) {
		t.Helper()
		a := servertest.Call(t, h.Client, h.URL+"/v1/sites/shop/views", "POST",
			fmt.Sprintf(`{"id":%q,"age":1000,"seconds":4,"marks":[],"exit":null,"idles":[],"happened":[],"interrupted":%d,"shown":true%s,"view":{"url":"https://shop.test/shop","memory":{"visitor":"visitor-1234","visit":{"id":"visit-1234"}}}}`, id, interrupted, cost),
			"Origin", servertest.Origin, "User-Agent", browser)
		if a.Status != 204 {
			t.Fatal(a)
		}
	}
	view("view-00000001", 0, `,"cost":{"bytes":9000,"busy":3,"shift":0.01,"paint":1200}`)
	view("view-00000001", 1, `,"cost":{"bytes":9000,"busy":3,"shift":0.01,"paint":1200}`) // recorded again
	view("view-00000002", 2, `,"cost":{"bytes":-5,"busy":3,"shift":0.01,"paint":1200}`)
	view("view-00000003", 7, "")
	today := tally.DayOf(time.Now(), time.UTC)
	visits, err := h.Store.PageViews.Interruptions(context.Background(), h.Site, today.AddDate(0, 0, -1), today.AddDate(0, 0, 1))
	if err != nil || !slices.Equal(visits, []int{0, 0, 0, 1}) {
		t.Error(visits, err)
	}
	costs, err := h.Store.PageViews.Costs(context.Background(), h.Site, today.AddDate(0, 0, -1), today.AddDate(0, 0, 1))
	if err != nil || len(costs) != 1 || costs[0].Views != 1 || costs[0].Bytes != 9000 || !costs[0].Shown || costs[0].Painted != 1 {
		t.Errorf("%+v %v", costs, err)
	}
	pages, err := h.Store.Alerts.QuietPages(context.Background(), h.Site, today, 1)
	if err != nil || len(pages) != 1 || pages[0].About != "/shop" || pages[0].Times != 3 {
		t.Errorf("%+v %v", pages, err)
	}
}

// What is asked for opens, whoever asks: on a page of its own, and by a click.
func TestWhatIsAskedForIsKeptFromNobody(t *testing.T) {
	h := servertest.New(t)
	p := atOnce()
	p.Split.Held = 50
	p.Page = &piece.OwnPage{Address: "open", Title: "Open"}
	h.Launch("p", p)
	asked := piece.New("Asked", piece.FlyIn, "other")
	asked.Split.Held, asked.Rule = 50, reach.All{reach.Clause{Fact: "moment.click", Op: reach.Happened, Value: "#open"}}
	h.Launch("q", asked)
	eventually(t, "both pieces", func() bool { return len(decide(h, `{"visitor":"visitor-1234"}`).Placements) == 2 })
	for i := range 40 {
		for _, own := range []string{"", `,"own":"open"`} {
			a := h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/"%s,"memory":{"visitor":"visitor-%04d"}}`, own, i))
			var d struct {
				Placements []struct {
					Piece string
					Held  bool
				}
			}
			a.Into(t, &d)
			for _, place := range d.Placements {
				if place.Held && (own != "" || place.Piece == "q") {
					t.Fatalf("%q: %+v", own, d)
				}
			}
		}
	}
}
