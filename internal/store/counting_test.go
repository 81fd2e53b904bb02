package store_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/internal/store"
	"gobbet/internal/store/events"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/storetest"
)

// idAt is an id as a page makes it at a time.
func idAt(at time.Time) string {
	id := uuid.Must(uuid.NewV7())
	for i, ms := 5, at.UnixMilli(); i >= 0; i, ms = i-1, ms>>8 {
		id[i] = byte(ms)
	}
	return id.String()
}

// traffic is events of every kind, of few visitors over three months.
func traffic(r *rand.Rand, n int) (events []tally.Event) {
	for range n {
		at := time.Date(2026, 9, 20, 0, 0, 0, 0, time.UTC).Add(time.Duration(r.IntN(60*24)) * time.Hour).Add(time.Duration(r.IntN(3_600_000_000)) * time.Microsecond)
		e := tally.Event{ID: idAt(at), At: at, Kind: append([]string{tally.Shown}, tally.Kinds...)[r.IntN(1+len(tally.Kinds))],
			Piece: []string{"p", "q"}[r.IntN(2)], Variant: []string{"a", "b"}[r.IntN(2)], Run: 1 + r.IntN(2), Visitor: fmt.Sprint("v", r.IntN(n/8+2)), Visit: "x", Page: []string{"/", "/shop"}[r.IntN(2)],
			Cuts: tally.Cuts{Device: []string{"phone", "desktop"}[r.IntN(2)], Channel: "search", Country: "IE", Known: "new"}, After: r.IntN(4000)}
		switch e.Kind {
		case tally.Held:
			e.Variant = tally.HeldBack
		case tally.Reached:
			e.Piece, e.Variant, e.Run, e.Goal = "", "", 0, tally.Goal{Goal: "order", Amount: int64(r.IntN(9000)) - 500, Within: 30}
		}
		events = append(events, e)
	}
	return events
}

func recounted(t *testing.T, s *store.Store, site int64) events.Recount {
	t.Helper()
	r, err := s.Events.Recount(ctx, site, false)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// Sixteen writers on two servers send overlapping batches, in every order; every
// total is what counting the raw events anew comes to.
func TestTotalsAreWhatTheEventsComeTo(t *testing.T) {
	s := storetest.New(t)
	other, err := store.Open(ctx, s.URL(), time.Minute)
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	site, _ := storetest.Site(t, s)
	events := traffic(rand.New(rand.NewPCG(8, 1)), 1200)
	var wg sync.WaitGroup
	for w := range 16 {
		order := rand.New(rand.NewPCG(uint64(w), 2)).Perm(len(events))
		wg.Go(func() {
			for chunk := range slices.Chunk(order[:len(order)/3+1], 30) {
				var batch []tally.Event
				for _, i := range chunk {
					batch = append(batch, events[i])
				}
				if err := []*store.Store{s, other}[w%2].Events.Add(ctx, site, dublin, batch); err != nil {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	if err := s.Events.Add(ctx, site, dublin, events); err != nil {
		t.Fatal(err)
	}
	r := recounted(t, s, site)
	if r.Events != len(events) || r.Totals < 100 || len(r.Differ) > 0 {
		t.Fatalf("%d events, %d totals; these differ:\n%s", r.Events, r.Totals, strings.Join(r.Differ, "\n"))
	}
	// A check that can fail: what was tampered with is found, and put right.
	db := database(t, s)
	for _, tamper := range []string{
		`update day_totals set visitors = visitors + 1 where ctid = (select min(ctid) from day_totals)`, `delete from hour_totals where ctid = (select min(ctid) from hour_totals)`,
		`update goal_hours set amount = amount - 1 where ctid = (select min(ctid) from goal_hours)`, `update day_totals set squares = 0 where goal <> ''`,
	} {
		if _, err := db.Exec(tamper); err != nil {
			t.Fatal(err)
		}
		if r := recounted(t, s, site); len(r.Differ) == 0 {
			t.Errorf("nothing differs after %s", tamper)
		}
	}
	if r, err := s.Events.Recount(ctx, site, true); err != nil || !r.Written {
		t.Fatal(r, err)
	}
	if r := recounted(t, s, site); len(r.Differ) > 0 {
		t.Error(r.Differ)
	}
	// And counting goes on from there.
	if err := s.Events.Add(ctx, site, dublin, traffic(rand.New(rand.NewPCG(9, 1)), 300)); err != nil {
		t.Fatal(err)
	}
	if r := recounted(t, s, site); len(r.Differ) > 0 {
		t.Error(r.Differ)
	}
}

func TestAnEventSentAgainAcrossAMonthsEndCountsOnce(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	db := database(t, s)
	last := time.Date(2026, 11, 30, 23, 59, 59, 999_000_000, time.UTC)
	if err := s.Events.MakeMonths(ctx, last, last); err != nil {
		t.Fatal(err)
	}
	// Before its month has a table, and from a page without such ids.
	early := time.Date(2027, 6, 3, 0, 0, 0, 0, time.UTC)
	var events []tally.Event
	for _, at := range []time.Time{last, last.Add(time.Millisecond), early} {
		e := event("shown", "v"+at.String(), at)
		e.ID = idAt(at)
		events = append(events, e)
	}
	events = append(events, event("shown", "old", last))
	where := func() (tables []string) {
		rows, err := db.Query(`select tableoid::regclass::text from events order by id`)
		if err != nil {
			t.Fatal(err)
		}
		defer rows.Close()
		for rows.Next() {
			var table string
			if err := rows.Scan(&table); err != nil {
				t.Fatal(err)
			}
			tables = append(tables, table)
		}
		return tables
	}
	for range 3 {
		if err := s.Events.Add(ctx, site, dublin, events); err != nil {
			t.Fatal(err)
		}
	}
	if got := strings.Join(where(), " "); got != "events_2026_11 events_2026_12 events_other events_other" {
		t.Error(got)
	}
	// What has waited for its month moves there, and is still known.
	if err := s.Events.MakeMonths(ctx, early, early); err != nil {
		t.Fatal(err)
	}
	if err := s.Events.Add(ctx, site, dublin, events); err != nil {
		t.Fatal(err)
	}
	if got := strings.Join(where(), " "); got != "events_2026_11 events_2026_12 events_2027_06 events_other" {
		t.Error(got)
	}
	if v, n, _ := totals(t, s, site); v != 4 || n != 4 {
		t.Errorf("%d visitors, %d showings", v, n)
	}
	if r := recounted(t, s, site); len(r.Differ) > 0 || r.Events != 4 {
		t.Error(r)
	}
}

func TestASiteKeepsItsRawEventsForAWhile(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	now := time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)
	if err := s.Events.MakeMonths(ctx, now.AddDate(0, -6, 0), now); err != nil {
		t.Fatal(err)
	}
	var events []tally.Event
	for months := range 6 {
		for i := range 3 {
			at := now.AddDate(0, -months, -i)
			e := event([]string{"shown", "converted"}[i%2], fmt.Sprint("v", months, i), at)
			e.ID = idAt(at)
			events = append(events, e)
		}
	}
	if err := s.Events.Add(ctx, site, dublin, events); err != nil {
		t.Fatal(err)
	}
	settings := setup.Default()
	settings.KeepMonths = 2
	if err := s.Sites.ChangeSettings(ctx, site, 1, settings); err != nil {
		t.Fatal(err)
	}
	before, _, converted := totals(t, s, site)
	if err := s.Events.ForgetEvents(ctx, now); err != nil {
		t.Fatal(err)
	}
	var kept, months int
	db := database(t, s)
	if err := db.QueryRow(`select (select count(*) from events), (select count(*) from pg_inherits where inhparent = 'events'::regclass)`).Scan(&kept, &months); err != nil {
		t.Fatal(err)
	}
	if kept != 9 || months > 7 {
		t.Errorf("%d events kept, in %d tables", kept, months)
	}
	if v, _, c := totals(t, s, site); v != before || c != converted {
		t.Errorf("totals went from %d and %d to %d and %d", before, converted, v, c)
	}
	r := recounted(t, s, site)
	if r.Since == nil || len(r.Differ) > 0 || r.Events != 9 {
		t.Errorf("%+v", r)
	}
	if r, err := s.Events.Recount(ctx, site, true); err != nil || r.Written {
		t.Error(r, err)
	}
}

func TestWhatIsLeftOutIsListed(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	today := time.Now().Format(time.DateOnly)
	for i := range 80 { // names that strangers make up
		if err := s.Events.CountLeftOut(ctx, site, events.LeftOut{Day: today, Why: "robot", What: fmt.Sprint("bot-", i%60), Events: 2}); err != nil {
			t.Fatal(err)
		}
	}
	all, err := s.Events.LeftOut(ctx, site, 30)
	sum := 0
	for _, l := range all {
		sum += l.Events
	}
	if err != nil || len(all) > 51 || sum != 160 {
		t.Errorf("%d names, %d events, %v", len(all), sum, err)
	}
}

func TestARunBeginsWithAChangeOfTheSplit(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	launch := func(split string) {
		t.Helper()
		doc := []byte(`{"name":"P","split":` + split + `}`)
		p, err := s.Pieces.Get(ctx, site, "p")
		if err != nil {
			if err = s.Pieces.Add(ctx, site, "p", doc); err != nil {
				t.Fatal(err)
			}
		} else if _, err := s.Pieces.SaveDraft(ctx, site, "p", p.DraftVersion, doc); err != nil {
			t.Fatal(err)
		}
		if p, err = s.Pieces.Get(ctx, site, "p"); err != nil {
			t.Fatal(err)
		}
		if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", p.DraftVersion, nil); err != nil {
			t.Fatal(err)
		}
	}
	launch(`{"variants":[{"id":"a","name":"A","share":50}]}`)
	launch(`{"variants":[{"id":"a","name":"Renamed","share":50}]}`)
	launch(`{"variants":[{"id":"a","name":"A","share":50},{"id":"b","name":"B","share":50}]}`)
	launch(`{"held":10,"variants":[{"id":"a","name":"A","share":50},{"id":"b","name":"B","share":50}]}`)
	launch(`{"held":10,"variants":[{"id":"a","name":"A","share":80},{"id":"b","name":"B","share":20}]}`)
	runs, err := s.Pieces.Runs(ctx, site, "p")
	if err != nil || len(runs) != 4 || runs[3].Run != 4 || runs[2].Split.Held != 10 || runs[3].Split.Variants[0].Share != 80 {
		t.Errorf("%+v %v", runs, err)
	}
	if latest, err := s.Pieces.LatestRuns(ctx, site); err != nil || len(latest) != 4 {
		t.Errorf("%+v %v", latest, err)
	}
}

// Whoever sends goals without end fills no memory, and counts once.
func TestGoalsWithoutEndAreKeptWithinBounds(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	if err := s.Events.Add(ctx, site, dublin, []tally.Event{event("shown", "v", noon)}); err != nil {
		t.Fatal(err)
	}
	// Few at a time, so that each is stored well within its time on a machine that is busy.
	for chunk := range 28 {
		var events []tally.Event
		for i := range 250 {
			at := noon.Add(time.Duration(250*chunk+i) * time.Second)
			events = append(events, tally.Event{ID: idAt(at), At: at, Kind: tally.Reached, Visitor: "v", Visit: "x", Page: "/", After: -1, Goal: tally.Goal{Goal: "order", Amount: 100, Within: 30}})
		}
		if err := s.Events.Add(ctx, site, dublin, events); err != nil {
			t.Fatal(err)
		}
	}
	var kept int
	if err := database(t, s).QueryRow(`select count(*) from goals_reached`).Scan(&kept); err != nil || kept != 5*tally.MostGoals {
		t.Error(kept, err)
	}
	totals, err := s.Results.RunTotals(ctx, site, "p", "")
	if err != nil || len(totals) != 2 || totals[1].Conversions != 1 || totals[1].Amount != 100*tally.MostGoals {
		t.Errorf("%+v %v", totals, err)
	}
	if r := recounted(t, s, site); len(r.Differ) > 0 || r.Events != 7001 {
		t.Errorf("%d events, %v", r.Events, r.Differ)
	}
}
