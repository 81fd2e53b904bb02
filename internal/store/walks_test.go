package store_test

import (
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/walk"
	"gobbet/internal/store"
	"gobbet/internal/store/storetest"
	"gobbet/internal/store/walks"
)

// Two polls of one scene are counted apart: who has voted in one of them may
// still vote in the other.
func TestEachPollTakesAVisitorsVoteOnce(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	votes := func(visitor string, votes map[string][]string) {
		t.Helper()
		who := walks.Walker{Walk: uuid.NewString(), Piece: "p", Variant: "a", Visitor: visitor, Page: "/", At: noon, LikelyNew: true}
		_, err := s.Walks.Advance(ctx, site, time.UTC, who, func(walk.Before) (walk.Next, error) {
			return walk.Next{Changed: true, Steps: 1, State: walk.State{Began: noon.UnixMilli()}, Scene: "two", Votes: votes}, nil
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
		got, voters, err := s.Walks.Tally(ctx, site, "p", key)
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

// stepTo takes a walk one step on, from wherever it is, and counts it.
func stepTo(t *testing.T, s *store.Store, site int64, id, scene string) {
	t.Helper()
	if err := step(s, site, id, scene); err != nil {
		t.Fatal(err)
	}
}

func step(s *store.Store, site int64, id, scene string) error {
	who := walks.Walker{Walk: id, Piece: "p", Variant: "a", Visitor: "ann", Page: "/", At: noon}
	_, err := s.Walks.Advance(ctx, site, time.UTC, who, func(p walk.Before) (walk.Next, error) {
		return walk.Next{
			Changed: true, Steps: p.Steps + 1, State: walk.State{Began: noon.UnixMilli(), Counted: []string{fmt.Sprint(p.Steps + 1)}}, Scene: scene,
			Scenes:  map[string]walk.SceneCount{scene: {Reached: 1, Left: 1, Seconds: 4}},
			Choices: map[walk.Choice]int{{Key: "q", Choice: "red"}: 1, {Key: "q"}: 1},
		}, nil
	})
	return err
}

// played is what a piece's report counts, by scene and by choice.
func played(t *testing.T, s *store.Store, site int64) (scenes map[string]int, answers map[string]int) {
	t.Helper()
	play, err := s.Walks.Played(ctx, site, "p", noon.AddDate(0, 0, -1))
	if err != nil {
		t.Fatal(err)
	}
	scenes, answers = map[string]int{}, map[string]int{}
	for _, c := range play.Scenes {
		scenes[c.Scene] += c.Reached*1_000_000 + c.Left*1000 + c.Seconds
	}
	for _, a := range play.Answers {
		answers[a.Key+"="+a.Choice] += a.Answers
	}
	return scenes, answers
}

// What walks count is told at once, summed up or not, and no server's summing
// loses any of it.
func TestWhatWalksCountIsTheSameBeforeAndAfterItIsSummedUp(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	for range 30 {
		id := uuid.NewString()
		stepTo(t, s, site, id, "one")
		stepTo(t, s, site, id, "two")
	}
	scenes, answers := played(t, s, site)
	if scenes["one"] != 30*1_001_004 || scenes["two"] != 30*1_001_004 || answers["q=red"] != 60 || answers["q="] != 60 {
		t.Fatalf("%v %v", scenes, answers)
	}
	var servers sync.WaitGroup
	for range 3 {
		servers.Go(func() {
			if err := s.Walks.SumUp(ctx); err != nil {
				t.Error(err)
			}
		})
	}
	for range 10 {
		stepTo(t, s, site, uuid.NewString(), "one")
	}
	servers.Wait()
	if err := s.Walks.SumUp(ctx); err != nil {
		t.Fatal(err)
	}
	later, said := played(t, s, site)
	if later["one"] != 40*1_001_004 || later["two"] != scenes["two"] || said["q=red"] != 70 {
		t.Errorf("%v %v", later, said)
	}
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	var waiting int
	if err := db.Get(&waiting, `select count(*) from walk_counts`); err != nil || waiting != 0 {
		t.Errorf("%d counts still wait, %v", waiting, err)
	}
}

// Walks that begin and walks that go on are stored in one statement.
func TestWalksThatBeginAndWalksThatGoOnAreStoredTogether(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	const crowd, steps = 24, 4
	ids := make([]string, crowd)
	var visitors sync.WaitGroup
	for i := range ids {
		ids[i] = uuid.NewString()
		visitors.Go(func() {
			for range steps {
				if err := step(s, site, ids[i], "one"); err != nil {
					t.Error(err)
				}
			}
		})
	}
	visitors.Wait()
	for _, id := range ids {
		if p, err := s.Walks.State(ctx, site, id, "p", "ann"); err != nil || p.Steps != steps || p.State.Counted[0] != fmt.Sprint(steps) {
			t.Errorf("%+v, %v", p, err)
		}
	}
	if scenes, answers := played(t, s, site); scenes["one"] != crowd*steps*1_001_004 || answers["q=red"] != crowd*steps {
		t.Errorf("%v %v", scenes, answers)
	}
}

// A walk whose row another holds keeps no other walk waiting.
func TestAStepThatIsHeldUpHoldsUpNoOther(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	held := uuid.NewString()
	stepTo(t, s, site, held, "one")
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	holder := db.MustBegin()
	holder.MustExec(`update walks set scene = 'one' where id = $1`, held)
	var waits sync.WaitGroup
	waits.Go(func() {
		if err := step(s, site, held, "two"); err != nil {
			t.Error(err)
		}
	})
	// Until its statement waits for the row.
	for waiting := false; !waiting; {
		if err := db.Get(&waiting, `select exists (select from pg_locks where not granted)`); err != nil {
			t.Fatal(err)
		}
	}
	began := time.Now()
	for range 5 {
		stepTo(t, s, site, uuid.NewString(), "one")
	}
	if took := time.Since(began); took > 5*time.Second {
		t.Errorf("five steps beside it took %v", took)
	}
	if err := holder.Rollback(); err != nil {
		t.Fatal(err)
	}
	waits.Wait()
	if p, err := s.Walks.State(ctx, site, held, "p", "ann"); err != nil || p.Steps != 2 {
		t.Errorf("%+v, %v", p, err)
	}
}

// A server remembers where a walk was when it last took it on. What another
// server did since is not undone, and nothing is counted twice.
func TestTwoServersTakeOneWalkOn(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	other, err := store.Open(ctx, s.URL(), time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	id := uuid.NewString()
	for i, one := range []*store.Store{s, other, s, s, other, s} {
		stepTo(t, one, site, id, "one")
		p, err := s.Walks.State(ctx, site, id, "p", "ann")
		if err != nil || p.Steps != i+1 || p.State.Counted[0] != fmt.Sprint(i+1) {
			t.Fatalf("after step %d: %+v %v", i+1, p, err)
		}
	}
	if scenes, _ := played(t, s, site); scenes["one"] != 6*1_001_004 {
		t.Error(scenes)
	}
	// Who only asks is told what is so, not what is remembered.
	stepTo(t, other, site, id, "two")
	var seen int
	_, err = s.Walks.Advance(ctx, site, time.UTC, walks.Walker{Walk: id, Piece: "p", Variant: "a", Visitor: "ann", At: noon}, func(p walk.Before) (walk.Next, error) {
		seen = p.Steps
		return walk.Next{Steps: p.Steps}, nil
	})
	if err != nil || seen != 7 {
		t.Errorf("%d %v", seen, err)
	}
	// And a walk is nobody else's, remembered or not.
	_, err = s.Walks.Advance(ctx, site, time.UTC, walks.Walker{Walk: id, Piece: "p", Variant: "a", Visitor: "bob", At: noon}, func(p walk.Before) (walk.Next, error) {
		return walk.Next{Changed: true, Steps: p.Steps + 1}, nil
	})
	if !errors.Is(err, fault.ErrNotFound) {
		t.Error(err)
	}
}
