package store_test

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/core/tally"
	"gobbet/internal/store"
	"gobbet/internal/store/events"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/storetest"
)

func movesOf(t *testing.T, s *store.Store, site int64, piece string) (said []string) {
	t.Helper()
	moves, err := s.Pieces.Moves(ctx, site, piece, time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range moves {
		one := string(m.Did) + strings.Join(m.Designs, "+")
		if m.Reach {
			one += "*"
		}
		if m.Until != nil {
			one += "…"
		}
		said = append(said, one)
	}
	return said
}

// What was done with a piece is kept, in order, with what changed for visitors.
func TestTheTimeLineKnowsWhatWasDone(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	doc := func(format, rule, a, b, more string) []byte {
		return fmt.Appendf(nil, `{"name":"p","format":%q,"rule":%s,"split":{"variants":[{"id":"a","share":50,"design":{"w":%q}},{"id":"b","share":50,"design":{"w":%q}%s}]}}`, format, rule, a, b, more)
	}
	version := 1
	launches := func(text []byte) {
		t.Helper()
		next, err := s.Pieces.SaveDraft(ctx, site, "p", version, text)
		if version = next; err != nil {
			t.Fatal(err)
		}
		if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", version, nil); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Pieces.Add(ctx, site, "p", doc("popup", `{}`, "1", "1", "")); err != nil {
		t.Fatal(err)
	}
	launches(doc("popup", `{}`, "1", "2", ""))
	launches(doc("popup", `{}`, "1", "3", ""))
	launches(doc("popup", `{"all":[]}`, "1", "3", ""))
	launches(doc("bar", `{"all":[]}`, "1", "3", ""))
	launches(doc("bar", `{ "all" : [] }`, "1", "3", "")) // the same, written otherwise
	until := time.Now().Add(time.Hour)
	if _, err := s.Pieces.Pause(ctx, pieces.Act{Site: site}, nil, nil, &until); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Pieces.Resume(ctx, pieces.Act{Site: site}, []string{"p"}); err != nil {
		t.Fatal(err)
	}
	changed := doc("bar", `{"all":[]}`, "9", "3", "")
	for range 2 { // the second time there is nothing to replace
		if _, err := s.Pieces.Replace(ctx, pieces.Act{Site: site}, []string{"p"}, true, func([]byte) ([]byte, error) { return changed, nil }, nil); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Pieces.PauseOne(ctx, pieces.Act{Site: site}, "p"); err != nil {
		t.Fatal(err)
	}
	want := []string{"launched", "launchedb", "launched*", "launcheda+b", "launched", "paused…", "resumed", "replaceda", "paused"}
	if got := movesOf(t, s, site, "p"); !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	// Each change of designs is in the same run; one of how a variant shows begins another.
	runs, err := s.Pieces.Runs(ctx, site, "p")
	if err != nil || len(runs) != 1 {
		t.Errorf("%d runs, %v", len(runs), err)
	}
	version++
	launches(doc("bar", `{"all":[]}`, "9", "3", `,"moments":{"fact":"moment.exit_intent","op":"happened"}`))
	launches(doc("bar", `{"all":[]}`, "9", "3", `,"moments":{"op":"happened","fact":"moment.exit_intent"}`))
	launches(doc("bar", `{"all":[]}`, "9", "3", `,"format":"fly_in"`))
	if runs, err = s.Pieces.Runs(ctx, site, "p"); err != nil || len(runs) != 3 || runs[1].Split.Variants[1].Showing == "" || runs[1].Split.Variants[0].Showing != "" {
		t.Errorf("%+v, %v", runs, err)
	}
	// Nothing is noted of what did not happen.
	before := len(movesOf(t, s, site, "p"))
	if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", 1, nil); !errors.Is(err, fault.ErrStale) {
		t.Error(err)
	}
	if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "nobody", 1, nil); !errors.Is(err, fault.ErrStale) {
		t.Error(err)
	}
	if got := len(movesOf(t, s, site, "")); got != before {
		t.Errorf("%d moves, not %d", got, before)
	}
	made := []launch.Made{{Piece: "p", At: time.Date(2026, 9, 1, 0, 0, 0, 0, time.UTC), Did: launch.Launched, Designs: []string{}}}
	if err := s.Pieces.SetMoves(ctx, site, "p", made); err != nil {
		t.Fatal(err)
	}
	got, err := s.Pieces.Moves(ctx, site, "p", time.Time{})
	for i := range got {
		got[i].At = got[i].At.UTC()
	}
	if err != nil || !reflect.DeepEqual(got, made) {
		t.Errorf("%+v, %v", got, err)
	}
}

// Events behind a number are found a page at a time, in whatever month they are,
// and what is rare ends a page with where to look on.
func TestEventsAreLookedThroughFromTheLatest(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	from := time.Date(2026, 9, 1, 0, 0, 0, 0, time.UTC)
	if err := s.Events.MakeMonths(ctx, from, from); err != nil {
		t.Fatal(err)
	}
	var sent []tally.Event
	for i := range 300 {
		kind := tally.Shown
		if i%100 == 7 {
			kind = tally.Converted
		}
		at := from.Add(time.Duration(i) * 6 * time.Hour) // over three months
		sent = append(sent, tally.Event{ID: idAt(at), At: at, Kind: kind, Piece: "p", Variant: []string{"a", "b"}[i%2], Visitor: fmt.Sprint("v", i), Visit: "x", Page: "/", Cuts: tally.Cuts{Device: "phone"}})
	}
	if err := s.Events.Add(ctx, site, dublin, sent); err != nil {
		t.Fatal(err)
	}
	all := func(q events.Query) (found []tally.Event, pages int) {
		t.Helper()
		for q.From, q.To = from, from.AddDate(0, 4, 0); ; pages++ {
			page, err := s.Events.List(ctx, site, q)
			if err != nil || pages > 50 {
				t.Fatal(pages, err)
			}
			if found = append(found, page.Events...); page.Next == "" {
				return found, pages
			}
			q.Before = page.Next
		}
	}
	for name, c := range map[string]struct {
		q    events.Query
		want int
	}{
		"all":             {events.Query{Limit: 40}, 300},
		"of a kind":       {events.Query{Kind: tally.Converted, Limit: 40}, 3},
		"exactly a page":  {events.Query{Kind: tally.Converted, Limit: 3}, 3},
		"of a variant":    {events.Query{Variant: "b", Limit: 7}, 150},
		"of a cut":        {events.Query{Cut: tally.ByDevice, Value: "phone", Limit: 300}, 300},
		"of another":      {events.Query{Cut: tally.ByDevice, Value: "tablet", Limit: 5}, 0},
		"of no piece":     {events.Query{Piece: "q", Limit: 5}, 0},
		"of both at once": {events.Query{Kind: tally.Converted, Variant: "a", Limit: 5}, 0},
	} {
		found, _ := all(c.q)
		if len(found) != c.want || !slices.IsSortedFunc(found, func(a, b tally.Event) int { return b.At.Compare(a.At) }) {
			t.Errorf("%s: %d events, want %d, the latest first", name, len(found), c.want)
		}
	}
}
