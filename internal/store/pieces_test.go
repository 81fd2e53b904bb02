package store_test

import (
	"bytes"
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/internal/store"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/storetest"
)

func livePieces(t *testing.T, s *store.Store, site int64, ids ...string) {
	t.Helper()
	for _, id := range ids {
		if err := errors.Join(s.Pieces.Add(ctx, site, id, []byte(`{"name":"The `+id+`","format":"bar"}`)), s.Pieces.Launch(ctx, pieces.Act{Site: site}, id, 1, nil)); err != nil {
			t.Fatal(err)
		}
	}
}

func states(t *testing.T, s *store.Store, site int64) map[string]string {
	t.Helper()
	pieces, err := s.Pieces.List(ctx, site)
	if err != nil {
		t.Fatal(err)
	}
	states := map[string]string{}
	for _, p := range pieces {
		states[p.ID] = p.State
	}
	return states
}

func snapshotOf(t *testing.T, s *store.Store, site int64) int64 {
	t.Helper()
	numbers, err := s.Sites.SnapshotNumbers(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range numbers {
		if n.ID == site {
			return n.Snapshot
		}
	}
	return 0
}

func TestAllIsPausedUntilATimeAndGoesOnByItself(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	livePieces(t, s, site, "a", "b", "c")
	if err := s.Pieces.PauseOne(ctx, pieces.Act{Site: site}, "c"); err != nil {
		t.Fatal(err)
	}
	soon := time.Now().Add(time.Hour)
	paused, err := s.Pieces.Pause(ctx, pieces.Act{Site: site}, nil, nil, &soon)
	slices.Sort(paused)
	if err != nil || !slices.Equal(paused, []string{"a", "b"}) {
		t.Fatal(paused, err)
	}
	if err := s.Pieces.Pass(ctx); err != nil || states(t, s, site)["a"] != "paused" {
		t.Error("it went on before its time:", err)
	}
	p, err := s.Pieces.Get(ctx, site, "a")
	if err != nil || p.PausedUntil == nil || p.PausedUntil.Sub(soon).Abs() > time.Second {
		t.Errorf("%+v %v", p, err)
	}
	// One is resumed by hand, and one has its time.
	if done, err := s.Pieces.Resume(ctx, pieces.Act{Site: site}, []string{"b"}); err != nil || !slices.Equal(done, []string{"b"}) {
		t.Error(done, err)
	}
	over := time.Now().Add(-time.Second)
	if _, err := s.Pieces.Pause(ctx, pieces.Act{Site: site}, []string{"b"}, nil, &over); err != nil {
		t.Fatal(err)
	}
	before := snapshotOf(t, s, site)
	if err := s.Pieces.Pass(ctx); err != nil {
		t.Fatal(err)
	}
	after := snapshotOf(t, s, site)
	if got := states(t, s, site); got["a"] != "paused" || got["b"] != "live" || got["c"] != "paused" || after <= before {
		t.Errorf("%v, snapshots %v then %v", got, before, after)
	}
	// What was paused without a time waits for a person.
	if done, err := s.Pieces.Resume(ctx, pieces.Act{Site: site}, nil); err != nil || !slices.Equal(done, []string{"a"}) {
		t.Error(done, err)
	}
	if states(t, s, site)["c"] != "paused" {
		t.Error("what was paused for good went on")
	}
}

func TestAPageThatIsTakenMeanwhileStaysPaused(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	for _, id := range []string{"first", "second"} {
		if err := errors.Join(s.Pieces.Add(ctx, site, id, []byte(`{"page":{"address":"letter"}}`)), s.Pieces.Launch(ctx, pieces.Act{Site: site}, id, 1, nil), s.Pieces.PauseOne(ctx, pieces.Act{Site: site}, id)); err != nil {
			t.Fatal(err)
		}
	}
	if done, err := s.Pieces.Resume(ctx, pieces.Act{Site: site}, []string{"first"}); err != nil || len(done) != 1 {
		t.Fatal(done, err)
	}
	if done, err := s.Pieces.Resume(ctx, pieces.Act{Site: site}, []string{"second"}); !errors.Is(err, launch.ErrTaken) || len(done) != 0 {
		t.Error("two live pieces have one page:", done, err)
	}
}

func TestNamesAreThoseOfTheDrafts(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	livePieces(t, s, site, "a")
	if err := errors.Join(s.Pieces.Add(ctx, site, "gone", []byte(`{"name":"Gone"}`)), s.Pieces.Remove(ctx, pieces.Act{Site: site}, "gone", true)); err != nil {
		t.Fatal(err)
	}
	names, err := s.Pieces.Names(ctx, site)
	if err != nil || len(names) != 1 || names[0].Name != "The a" || names[0].State != "live" {
		t.Errorf("%+v %v", names, err)
	}
}

// What is replaced in several pieces is replaced in all or none, and in what is
// live at that moment: a launch in between stands.
func TestWhatIsReplacedIsReplacedInWhatIsThere(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	act := pieces.Act{Site: site}
	livePieces(t, s, site, "a", "b")
	swap := func(doc []byte) ([]byte, error) { return bytes.ReplaceAll(doc, []byte("The "), []byte("Our ")), nil }
	broken := errors.New("cannot be drawn")
	if _, err := s.Pieces.Replace(ctx, act, []string{"a", "b"}, true, swap, func(live []byte) (map[string][]byte, error) {
		if bytes.Contains(live, []byte("Our b")) {
			return nil, broken
		}
		return nil, nil
	}); !errors.Is(err, broken) {
		t.Error(err)
	}
	if p, _ := s.Pieces.Get(ctx, site, "a"); p.DraftVersion != 1 || bytes.Contains(p.Live, []byte("Our")) {
		t.Error("half of the change was kept")
	}
	// Somebody launches between reading the library and replacing.
	version, err := s.Pieces.SaveDraft(ctx, site, "a", 1, []byte(`{"name":"The second a","format":"bar"}`))
	if err == nil {
		err = s.Pieces.Launch(ctx, act, "a", version, nil)
	}
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Pieces.Replace(ctx, act, []string{"a"}, true, swap, nil); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Pieces.Replace(ctx, act, []string{"b"}, false, swap, nil); err != nil {
		t.Fatal(err)
	}
	a, _ := s.Pieces.Get(ctx, site, "a")
	b, _ := s.Pieces.Get(ctx, site, "b")
	if !bytes.Contains(a.Live, []byte("Our second a")) || *a.LiveVersion != a.DraftVersion || !bytes.Contains(b.Live, []byte("The b")) || !bytes.Contains(b.Draft, []byte("Our b")) {
		t.Errorf("%s %s %s", a.Live, b.Live, b.Draft)
	}
}

// A site with as many live pieces as may be keeps pausing and resuming them.
func TestASiteAtItsLimitResumesWhatItPaused(t *testing.T) {
	s := storetest.New(t)
	site, account := storetest.Site(t, s)
	act := pieces.Act{Site: site, By: account}
	livePieces(t, s, site, "a", "b")
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	db.MustExec(`insert into pieces (site_id, id, draft, live, state, live_since, live_version) select $1, 'n' || n, '{}', '{}', 'live', now(), 1 from generate_series(1, $2) n`, site, pieces.MostLive-2)
	if done, err := s.Pieces.Pause(ctx, act, []string{"a"}, nil, nil); err != nil || len(done) != 1 {
		t.Fatal(done, err)
	}
	if done, err := s.Pieces.Resume(ctx, act, []string{"a"}); err != nil || len(done) != 1 {
		t.Errorf("at its limit nothing resumes: %v %v", done, err)
	}
	// One too many stays paused, and the others go on.
	if _, err := s.Pieces.Pause(ctx, act, []string{"a", "b"}, nil, nil); err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(s.Pieces.Add(ctx, site, "c", []byte(`{"name":"c"}`)), s.Pieces.Launch(ctx, act, "c", 1, nil)); err != nil {
		t.Fatal(err)
	}
	if done, err := s.Pieces.Resume(ctx, act, []string{"a", "b"}); err != nil || !slices.Equal(done, []string{"a"}) {
		t.Errorf("%v %v", done, err)
	}
	if _, err := s.Pieces.Resume(ctx, act, []string{"b"}); !errors.Is(err, fault.ErrTooMany) {
		t.Error(err)
	}
	moves, err := s.Pieces.Moves(ctx, site, "a", time.Time{})
	if last := moves[len(moves)-1]; err != nil || last.Did != launch.ResumedIt || last.By != "Iris Moss" {
		t.Errorf("who did it is not kept: %+v %v", last, err)
	}
}

func TestPausesArePlannedAndSchedulesEnd(t *testing.T) {
	s := storetest.New(t)
	site, account := storetest.Site(t, s)
	act := pieces.Act{Site: site, By: account}
	livePieces(t, s, site, "a")
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	from, until := time.Now().Add(time.Hour), time.Now().Add(2*time.Hour)
	if done, err := s.Pieces.Pause(ctx, act, []string{"a"}, &from, &until); err != nil || len(done) != 1 || states(t, s, site)["a"] != "live" {
		t.Fatal(done, err)
	}
	for _, c := range []struct{ shift, want string }{{"0", "live"}, {"90 minutes", "paused"}, {"60 minutes", "live"}} {
		db.MustExec(`update pieces set pauses_at = pauses_at - $1::interval, paused_until = paused_until - $1::interval`, c.shift)
		if err := s.Pieces.Pass(ctx); err != nil || states(t, s, site)["a"] != c.want {
			t.Errorf("after %s: %s, want %s (%v)", c.shift, states(t, s, site)["a"], c.want, err)
		}
	}
	// A plan is taken back.
	if _, err := s.Pieces.Pause(ctx, act, []string{"a"}, &from, nil); err != nil {
		t.Fatal(err)
	}
	if done, err := s.Pieces.Resume(ctx, act, nil); err != nil || len(done) != 1 {
		t.Error(done, err)
	}
	over := []byte(`{"name":"Sale","schedule":{"until":"2026-01-01T00:00"}}`)
	if err := errors.Join(s.Pieces.Add(ctx, site, "sale", over), s.Pieces.Launch(ctx, act, "sale", 1, nil), s.Pieces.Pass(ctx)); err != nil {
		t.Fatal(err)
	}
	if states(t, s, site)["sale"] != "over" {
		t.Error(states(t, s, site))
	}
	if _, err := s.Pieces.Resume(ctx, act, []string{"sale"}); !errors.Is(err, launch.ErrOver) {
		t.Error(err)
	}
	if got := movesOf(t, s, site, "a"); !slices.Equal(got, []string{"launched", "planned…", "paused…", "resumed", "planned", "unplanned"}) {
		t.Error(got)
	}
	if got := movesOf(t, s, site, "sale"); !slices.Equal(got, []string{"launched", "ended"}) {
		t.Error(got)
	}
}

// Shares that have settled wake nobody up.
func TestSharesThatStayAreNothingNew(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	doc := []byte(`{"split":{"follow":true,"variants":[{"id":"a","share":50},{"id":"b","share":50}]}}`)
	if err := errors.Join(s.Pieces.Add(ctx, site, "p", doc), s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", 1, nil)); err != nil {
		t.Fatal(err)
	}
	day := time.Now().Add(time.Hour)
	before := snapshotOf(t, s, site)
	if err := s.Pieces.ChangeShares(ctx, site, "p", day, map[string]int{"a": 50, "b": 50}, 1); err != nil {
		t.Fatal(err)
	}
	after := snapshotOf(t, s, site)
	due, err := s.Pieces.FollowDue(ctx, time.Now().Add(-time.Minute))
	if err != nil || after != before || len(due) != 0 {
		t.Errorf("snapshot %d after %d, %d are due still (%v)", after, before, len(due), err)
	}
	if err := s.Pieces.ChangeShares(ctx, site, "p", day, map[string]int{"a": 80, "b": 20}, 2); err != nil {
		t.Fatal(err)
	}
	if runs, err := s.Pieces.Runs(ctx, site, "p"); err != nil || len(runs) != 2 || runs[1].Split.Variants[0].Share != 80 || runs[1].Split.Seed != 2 {
		t.Errorf("%+v %v", runs, err)
	}
}
