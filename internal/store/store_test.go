package store_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/core/tally"
	"gobbet/internal/store"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Run(m) }

var (
	ctx    = context.Background()
	dublin = func() *time.Location { z, _ := time.LoadLocation("Europe/Dublin"); return z }()
	noon   = time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)
)

func event(kind, visitor string, at time.Time) tally.Event {
	return tally.Event{ID: uuid.NewString(), At: at, Kind: kind, Piece: "p", Variant: "a", Visitor: visitor, Visit: "x", Page: "/"}
}

func totals(t *testing.T, s *store.Store, site int64) (visitors, showings, conversions int) {
	t.Helper()
	days, err := s.Results.Days(ctx, site, "p", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range days {
		visitors += d.Visitors
		showings += d.Showings
		conversions += d.Conversions
	}
	return
}

func TestEventsCountVisitorsOnce(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	first := []tally.Event{event("shown", "ann", noon), event("shown", "ann", noon.Add(time.Hour)), event("shown", "bob", noon), event("converted", "ann", noon.Add(time.Minute))}
	again := []tally.Event{event("shown", "ann", noon.Add(48*time.Hour)), event("converted", "ann", noon.Add(49*time.Hour)), event("closed", "bob", noon)}
	unseen := []tally.Event{event("converted", "cleo", noon)}
	for _, batch := range [][]tally.Event{first, first, again, unseen, again, first, nil} {
		if err := s.Events.Add(ctx, site, dublin, batch); err != nil {
			t.Fatal(err)
		}
	}
	if v, n, c := totals(t, s, site); v != 3 || n != 4 || c != 2 {
		t.Errorf("%d visitors, %d showings, %d conversions; want 3, 4, 2", v, n, c)
	}
}

func TestADayIsTheSitesDay(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	auckland, _ := time.LoadLocation("Pacific/Auckland")
	if err := s.Events.Add(ctx, site, auckland, []tally.Event{event("shown", "ann", noon)}); err != nil {
		t.Fatal(err)
	}
	days, _ := s.Results.Days(ctx, site, "", time.Time{})
	if len(days) != 1 || days[0].Day.Format(time.DateOnly) != "2026-11-21" {
		t.Errorf("%+v", days)
	}
}

// Many pages send overlapping batches at once; the roll-up must end as if each
// event had come once, and equal what the events themselves say.
func TestConcurrentBatchesCountOnce(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	r := rand.New(rand.NewPCG(1, 1))
	var events []tally.Event
	want := map[string]bool{}
	converted := map[string]bool{}
	shown := 0
	for range 600 {
		visitor := fmt.Sprint("v", r.IntN(40))
		kind := [...]string{"shown", "shown", "converted", "closed"}[r.IntN(4)]
		events = append(events, event(kind, visitor, noon.Add(time.Duration(r.IntN(72))*time.Hour)))
		if kind != "closed" {
			want[visitor] = true
		}
		if kind == "converted" {
			converted[visitor] = true
		}
		if kind == "shown" {
			shown++
		}
	}
	var wg sync.WaitGroup
	errs := make(chan error, 200)
	for range 8 {
		order := r.Perm(len(events))
		wg.Go(func() {
			for i := 0; i < len(order); i += 40 {
				var batch []tally.Event
				for _, j := range order[i : i+40] {
					batch = append(batch, events[j])
				}
				if err := s.Events.Add(ctx, site, dublin, batch); err != nil {
					errs <- err
				}
			}
		})
	}
	wg.Wait()
	close(errs)
	for err := range errs {
		t.Fatal(err)
	}
	if v, n, c := totals(t, s, site); v != len(want) || n != shown || c != len(converted) {
		t.Errorf("%d visitors, %d showings, %d conversions; want %d, %d, %d", v, n, c, len(want), shown, len(converted))
	}
}

func submission(email, name string, at time.Time) leads.Submission {
	return leads.Submission{ID: uuid.NewString(), Piece: "p", Variant: "a", Visitor: "ann", Page: "/shop", Channel: "email", Email: email, Name: name,
		Answers: map[string]string{"email": email, "name": name}, At: at, Converts: true}
}

func TestASubmissionTwiceIsOneLeadAndOneConversion(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	sub := submission("Ann@Example.com", "Ann", noon)
	other := submission("ann@example.com", "", noon.Add(time.Hour))
	for _, one := range []leads.Submission{sub, sub, other, sub} {
		if _, err := s.Leads.AddSubmission(ctx, site, dublin, one); err != nil {
			t.Fatal(err)
		}
	}
	leads, err := s.Leads.List(ctx, site, leads.Query{Limit: 10})
	if err != nil || len(leads) != 1 {
		t.Fatal(leads, err)
	}
	if l := leads[0]; l.Times != 2 || l.Name != "Ann" || l.Email != "Ann@Example.com" || !l.LastAt.Equal(other.At) {
		t.Errorf("%+v", l)
	}
	if v, _, c := totals(t, s, site); v != 1 || c != 1 {
		t.Errorf("%d visitors, %d conversions", v, c)
	}
}

func TestLeadsArePagedAndFound(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	for i := range 25 {
		sub := submission(fmt.Sprintf("person%02d@example.com", i), fmt.Sprintf("Nell %02d", i), noon.Add(time.Duration(i/3)*time.Hour))
		sub.Answers["why"] = "100%_certain"
		if i == 3 {
			sub.Answers["why"] = `Two
lines, "quoted", back\slash`
		}
		if _, err := s.Leads.AddSubmission(ctx, site, dublin, sub); err != nil {
			t.Fatal(err)
		}
	}
	seen, q := map[string]bool{}, leads.Query{Limit: 10}
	for {
		page, err := s.Leads.List(ctx, site, q)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range page {
			if seen[l.Email] {
				t.Fatal(l.Email, "comes twice")
			}
			seen[l.Email] = true
		}
		if len(page) < 10 {
			break
		}
		last := page[len(page)-1]
		q.BeforeAt, q.BeforeID = last.LastAt, last.ID
	}
	if len(seen) != 25 {
		t.Errorf("%d leads in all pages", len(seen))
	}
	for search, want := range map[string]int{"NELL 07": 1, "person1": 10, "%": 24, "%_c": 24, "_person": 0, "'; drop table leads; --": 0,
		`"quoted"`: 1, "two\nlines": 1, `k\s`: 1, `\n`: 0, `"why"`: 0, "why": 0, "{": 0, ":": 0} {
		q := leads.Query{Search: search, Limit: 100}
		leads, err := s.Leads.List(ctx, site, q)
		n, err2 := s.Leads.Count(ctx, site, q)
		if err != nil || err2 != nil || len(leads) != want || n != want {
			t.Errorf("%q finds %d and counts %d, want %d (%v %v)", search, len(leads), n, want, err, err2)
		}
	}
	// Whoever sent something else since is found by what they said before, in the list and in the count.
	later := submission("person03@example.com", "Nell 03", noon.Add(time.Hour*100))
	later.Answers["why"] = "nothing more"
	if _, err := s.Leads.AddSubmission(ctx, site, dublin, later); err != nil {
		t.Fatal(err)
	}
	q = leads.Query{Search: "quoted", Limit: 10}
	if leads, err := s.Leads.List(ctx, site, q); err != nil || len(leads) != 1 || leads[0].Times != 2 {
		t.Errorf("%+v %v", leads, err)
	}
	if n, _ := s.Leads.Count(ctx, site, q); n != 1 {
		t.Error(n)
	}
	if n, _ := s.Leads.Count(ctx, site, leads.Query{Piece: "other"}); n != 0 {
		t.Error("leads of a piece that has none:", n)
	}
}

func TestTwoWindowsCannotOverwriteEachOther(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	if err := s.Pieces.Add(ctx, site, "p", []byte(`{"n":1}`)); err != nil {
		t.Fatal(err)
	}
	if v, err := s.Pieces.SaveDraft(ctx, site, "p", 1, []byte(`{"n":2}`)); err != nil || v != 2 {
		t.Fatal(v, err)
	}
	if _, err := s.Pieces.SaveDraft(ctx, site, "p", 1, []byte(`{"n":3}`)); !errors.Is(err, fault.ErrStale) {
		t.Error("a stale save:", err)
	}
	if v, err := s.Pieces.SaveDraft(ctx, site, "p", 1, []byte(`{"n": 2}`)); err != nil || v != 2 {
		t.Error("a save sent again whose answer was lost:", v, err)
	}
	if _, err := s.Pieces.SaveDraft(ctx, site, "gone", 1, []byte(`{}`)); !errors.Is(err, fault.ErrNotFound) {
		t.Error("a save of nothing:", err)
	}
	if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", 1, nil); !errors.Is(err, fault.ErrStale) {
		t.Error("a stale launch:", err)
	}
	if p, _ := s.Pieces.Get(ctx, site, "p"); string(p.Draft) != `{"n":2}` {
		t.Errorf("the draft is %s", p.Draft)
	}
}

func TestLaunchRestRemove(t *testing.T) {
	s := storetest.New(t)
	site, account := storetest.Site(t, s)
	if err := errors.Join(s.Pieces.Add(ctx, site, "p", []byte(`{"n":1}`)), s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", 1, map[string][]byte{"h1": []byte("body")})); err != nil {
		t.Fatal(err)
	}
	if body, err := s.Designs.Get(ctx, site, "h1"); err != nil || string(body) != "body" {
		t.Error(string(body), err)
	}
	if err := s.Pieces.Remove(ctx, pieces.Act{Site: site}, "p", true); !errors.Is(err, launch.ErrLive) {
		t.Error("a live piece was removed:", err)
	}
	if err := errors.Join(s.Pieces.PauseOne(ctx, pieces.Act{Site: site}, "p"), s.Pieces.Remove(ctx, pieces.Act{Site: site}, "p", true)); err != nil {
		t.Fatal(err)
	}
	if pieces, _ := s.Pieces.List(ctx, site); len(pieces) != 0 {
		t.Error("a removed piece is listed")
	}
	if err := s.Pieces.Remove(ctx, pieces.Act{Site: site}, "p", false); err != nil {
		t.Error(err)
	}
	if pieces, _ := s.Pieces.List(ctx, site); len(pieces) != 1 || pieces[0].State != "paused" {
		t.Errorf("%+v", pieces)
	}
	sites, err := s.Sites.Of(ctx, account)
	if err != nil || len(sites) != 1 || sites[0].Snapshot != 3 || sites[0].Origins[0] != "https://shop.test" {
		t.Errorf("%+v %v", sites, err)
	}
}

func TestSignIn(t *testing.T) {
	s := storetest.New(t)
	storetest.Site(t, s)
	if a, err := s.Accounts.SignIn(ctx, "IRIS@example.com", "a long password"); err != nil || a.Name != "Iris Moss" {
		t.Error(a, err)
	}
	for _, pair := range [][2]string{{"iris@example.com", "wrong"}, {"nobody@example.com", "a long password"}, {"", ""}} {
		if _, err := s.Accounts.SignIn(ctx, pair[0], pair[1]); !errors.Is(err, fault.ErrNotFound) {
			t.Errorf("%v: %v", pair, err)
		}
	}
}

func TestAwayIsNotAnAnswer(t *testing.T) {
	if _, err := store.Open(ctx, "postgres://x@127.0.0.1:1/none?sslmode=disable", 0); err == nil || !pg.Unreachable(err) {
		t.Error(err)
	}
	s := storetest.New(t)
	if err := s.Pieces.Add(ctx, 999, "p", []byte(`{}`)); err == nil || pg.Unreachable(err) {
		t.Error("a broken reference is taken for the database being away:", err)
	}
}
