package store_test

import (
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/internal/store"
	"gobbet/internal/store/storetest"
)

// Two polls of one scene are counted apart: who has voted in one of them may
// still vote in the other.
func TestEachPollTakesAVisitorsVoteOnce(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	votes := func(visitor string, votes map[string][]string) {
		t.Helper()
		who := store.Walker{Walk: uuid.NewString(), Piece: "p", Variant: "a", Visitor: visitor, Page: "/", At: noon, Begins: true}
		_, err := s.Advance(ctx, site, time.UTC, who, func(store.Progress) (*store.Moved, error) {
			return &store.Moved{Steps: 1, State: []byte("{}"), Scene: "two", Votes: votes, Began: noon}, nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	all := map[string][]string{"a": {"yes"}, "b": {"red", "blue"}, "c": {"up"}}
	votes("ann", map[string][]string{"b": {"blue"}})
	votes("ann", all)
	votes("ann", all)
	votes("bob", all)
	for key, want := range map[string]map[string]int{"a": {"yes": 2}, "b": {"red": 1, "blue": 2}, "c": {"up": 2}} {
		got, voters, err := s.Tally(ctx, site, "p", key)
		if err != nil || voters != 2 || len(got) != len(want) {
			t.Errorf("%s: %v by %d voters, %v", key, got, voters, err)
		}
		for choice, n := range want {
			if got[choice] != n {
				t.Errorf("%s: %v, want %v", key, got, want)
			}
		}
	}
}
