package store_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/internal/store"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/reaches"
	"gobbet/internal/store/storetest"
)

func pageView(id, visitor string, seconds int) pageviews.PageView {
	return pageviews.PageView{ID: id, Visitor: visitor, Visit: "visit", At: noon, Seconds: seconds, Facts: json.RawMessage(`{"page.path":"/"}`), Moments: json.RawMessage(`{}`)}
}

// since reads what was written since, as id:seconds.
func since(t *testing.T, s *store.Store, site int64, from time.Time) (got []string, next time.Time) {
	t.Helper()
	next, err := s.PageViews.Read(ctx, site, from, time.Time{}, func(v pageviews.PageView) error {
		got = append(got, fmt.Sprint(v.ID, ":", v.Seconds))
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	return got, next
}

func TestPageViewsAreGivenOnceAndAgainWhenTheStayGoesOn(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	add := func(v pageviews.PageView) {
		t.Helper()
		if _, err := s.PageViews.Add(ctx, site, v); err != nil {
			t.Fatal(err)
		}
	}
	add(pageView("a", "v", 10))
	if err := s.PageViews.Copy(ctx, site, []pageviews.PageView{pageView("b", "w", 5)}); err != nil {
		t.Fatal(err)
	}
	got, next := since(t, s, site, time.Time{})
	if fmt.Sprint(got) != "[a:10 b:5]" {
		t.Error(got)
	}
	if got, next = since(t, s, site, next); got != nil {
		t.Error("given twice:", got)
	}
	add(pageView("a", "v", 30)) // stayed on
	add(pageView("a", "v", 20)) // came late
	add(pageView("b", "another", 99))
	if got, _ = since(t, s, site, next); fmt.Sprint(got) != "[a:30]" {
		t.Error(got)
	}
	if err := s.PageViews.Forget(ctx, noon.Add(time.Second)); err != nil {
		t.Fatal(err)
	}
	if got, _ = since(t, s, site, time.Time{}); got != nil {
		t.Error("kept too long:", got)
	}
}

// A transaction that ends after a younger one is not passed over.
func TestPageViewsOfSlowTransactionsAreNotLost(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	db, err := sqlx.Connect("pgx", s.URL())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	slow, err := db.Beginx()
	if err != nil {
		t.Fatal(err)
	}
	defer slow.Rollback()
	if _, err := slow.Exec(`insert into page_views (site_id, id, visitor, visit, at, seconds, facts, moments) values ($1, 'slow', 'v', 'x', $2, 1, '{}', '{}')`, site, noon); err != nil {
		t.Fatal(err)
	}
	if _, err := s.PageViews.Add(ctx, site, pageView("quick", "v", 1)); err != nil {
		t.Fatal(err)
	}
	early, next := since(t, s, site, time.Time{})
	if err := slow.Commit(); err != nil {
		t.Fatal(err)
	}
	late, _ := since(t, s, site, next)
	// What was written meanwhile may come twice, and nothing is left out.
	all := append(early, late...)
	slices.Sort(all)
	if got := fmt.Sprint(slices.Compact(all)); got != "[quick:1 slow:1]" || fmt.Sprint(early) != "[quick:1]" {
		t.Errorf("%v, then %v", early, late)
	}
}

func TestManyPagesRecordAtOnce(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var wg sync.WaitGroup
	for i := range 8 {
		wg.Go(func() {
			for n := range 25 {
				if _, err := s.PageViews.Add(ctx, site, pageView(fmt.Sprint("p", n), "v", i)); err != nil {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	got, _ := since(t, s, site, time.Time{})
	if len(got) != 25 {
		t.Fatalf("%d page views", len(got))
	}
	for _, one := range got {
		if one[len(one)-2:] != ":7" {
			t.Errorf("the longest stay does not hold: %s", one)
		}
	}
}

func TestPiecesWinByRankThenByAge(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	for _, id := range []string{"one", "two", "three"} {
		raw, _ := json.Marshal(piece.New(id, piece.Popup, "salt"))
		if err := s.Pieces.Add(ctx, site, id, raw); err != nil {
			t.Fatal(err)
		}
		if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, id, 1, nil); err != nil {
			t.Fatal(err)
		}
	}
	order := func() (ids string) {
		pieces, err := s.Pieces.Live(ctx, site)
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range pieces {
			ids += p.ID + " "
		}
		return ids
	}
	if got := order(); got != "one two three " {
		t.Error(got)
	}
	if err := s.Pieces.Order(ctx, site, 1, []string{"three", "gone", "one"}); err != nil {
		t.Fatal(err)
	}
	if got := order(); got != "three one two " {
		t.Error(got)
	}
	if err := s.Pieces.Order(ctx, site, 1, nil); !errors.Is(err, fault.ErrStale) {
		t.Error("a second window undid the order of the first:", err)
	}
	if err := s.Pieces.Order(ctx, site, 2, nil); err != nil {
		t.Fatal(err)
	}
	if got := order(); got != "one two three " {
		t.Error(got)
	}
}

func TestReachesAreKeptByName(t *testing.T) {
	s := storetest.New(t)
	site, account := storetest.Site(t, s)
	other, err := s.Sites.Add(ctx, "other", "Other", "UTC", nil, account)
	if err != nil {
		t.Fatal(err)
	}
	save := func(site int64, id, name, rule string) {
		t.Helper()
		if err := s.Reaches.Save(ctx, site, reaches.Reach{ID: id, Name: name, Rule: json.RawMessage(rule)}); err != nil {
			t.Fatal(err)
		}
	}
	save(site, "b", "buyers", `{"all":[]}`)
	save(site, "a", "Artists", `{"any":[]}`)
	save(site, "a", "Artists", `{"not":{"any":[]}}`)
	save(site, "torn", "Torn", `{"fact":7}`)
	save(other, "a", "Others", `{"all":[]}`)
	list, err := s.Reaches.List(ctx, site)
	if err != nil || len(list) != 3 || list[0].Name != "Artists" || list[1].Name != "buyers" {
		t.Fatal(list, err)
	}
	book, err := s.Reaches.Book(ctx, site)
	if err != nil || len(book) != 2 {
		t.Fatal(book, err)
	}
	if _, ok := book["a"].(reach.Not); !ok {
		t.Errorf("the change did not hold: %v", book["a"])
	}
	if err := s.Reaches.Remove(ctx, site, "a"); err != nil {
		t.Fatal(err)
	}
	if err := s.Reaches.Remove(ctx, site, "a"); !errors.Is(err, fault.ErrNotFound) {
		t.Error(err)
	}
	if book, _ := s.Reaches.Book(ctx, other); len(book) != 1 {
		t.Error("another site's reach went with it")
	}
}

func TestSettingsAreKept(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	mine := func() setup.Settings {
		sites, err := s.Sites.ByID(ctx, nil)
		if err != nil || len(sites) != 1 || len(sites[0].Secret) != 32 {
			t.Fatal(sites, err)
		}
		return sites[0].Settings.Settings
	}
	if got := mine(); got.Record != 100 || got.Exit != setup.Normal || got.Limits != (caps.SiteLimits{}) {
		t.Errorf("at first: %+v", got)
	}
	next := setup.Settings{Limits: caps.SiteLimits{Overlays: 2, Quiet: "PT2M"}, Record: 40, Exit: setup.Eager, Channels: map[string][]string{"search": {" WWW.Find.example.com ", "seek.test"}}}
	if err := next.Check(); err != nil {
		t.Fatal(err)
	}
	if err := s.Sites.ChangeSettings(ctx, site, 1, next); err != nil {
		t.Fatal(err)
	}
	if got := mine(); got.Record != 40 || got.Limits != next.Limits || fmt.Sprint(got.Channels) != "map[search:[find.example.com seek.test]]" {
		t.Errorf("%+v", got)
	}
}
