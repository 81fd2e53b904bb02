package store_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"gobbet/internal/store"
	"gobbet/internal/store/storetest"
)

func livePieces(t *testing.T, s *store.Store, site int64, ids ...string) {
	t.Helper()
	for _, id := range ids {
		if err := errors.Join(s.AddPiece(ctx, site, id, []byte(`{"name":"The `+id+`","format":"bar"}`)), s.Launch(ctx, site, id, 1, nil)); err != nil {
			t.Fatal(err)
		}
	}
}

func states(t *testing.T, s *store.Store, site int64) map[string]string {
	t.Helper()
	pieces, err := s.Pieces(ctx, site)
	if err != nil {
		t.Fatal(err)
	}
	states := map[string]string{}
	for _, p := range pieces {
		states[p.ID] = p.State
	}
	return states
}

func TestAllIsPausedUntilATimeAndGoesOnByItself(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	livePieces(t, s, site, "a", "b", "c")
	if err := s.Pause(ctx, site, "c"); err != nil {
		t.Fatal(err)
	}
	soon := time.Now().Add(time.Hour)
	paused, err := s.PausePieces(ctx, site, nil, &soon)
	slices.Sort(paused)
	if err != nil || !slices.Equal(paused, []string{"a", "b"}) {
		t.Fatal(paused, err)
	}
	if err := s.ResumeDue(ctx); err != nil || states(t, s, site)["a"] != "paused" {
		t.Error("it went on before its time:", err)
	}
	p, err := s.Piece(ctx, site, "a")
	if err != nil || p.PausedUntil == nil || p.PausedUntil.Sub(soon).Abs() > time.Second {
		t.Errorf("%+v %v", p, err)
	}
	// One is resumed by hand, and one has its time.
	if done, err := s.ResumePieces(ctx, site, []string{"b"}); err != nil || !slices.Equal(done, []string{"b"}) {
		t.Error(done, err)
	}
	over := time.Now().Add(-time.Second)
	if _, err := s.PausePieces(ctx, site, []string{"b"}, &over); err != nil {
		t.Fatal(err)
	}
	before, _ := s.SnapshotNumbers(ctx)
	if err := s.ResumeDue(ctx); err != nil {
		t.Fatal(err)
	}
	after, _ := s.SnapshotNumbers(ctx)
	if got := states(t, s, site); got["a"] != "paused" || got["b"] != "live" || got["c"] != "paused" || after[site] <= before[site] {
		t.Errorf("%v, snapshots %v then %v", got, before, after)
	}
	// What was paused without a time waits for a person.
	if done, err := s.ResumePieces(ctx, site, nil); err != nil || !slices.Equal(done, []string{"a"}) {
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
		if err := errors.Join(s.AddPiece(ctx, site, id, []byte(`{"page":{"address":"letter"}}`)), s.Launch(ctx, site, id, 1, nil), s.Pause(ctx, site, id)); err != nil {
			t.Fatal(err)
		}
	}
	if done, err := s.ResumePieces(ctx, site, []string{"first"}); err != nil || len(done) != 1 {
		t.Fatal(done, err)
	}
	if done, err := s.ResumePieces(ctx, site, []string{"second"}); err != nil || len(done) != 0 {
		t.Error("two live pieces have one page:", done, err)
	}
}

func TestNamesAreThoseOfTheDrafts(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	livePieces(t, s, site, "a")
	if err := errors.Join(s.AddPiece(ctx, site, "gone", []byte(`{"name":"Gone"}`)), s.RemovePiece(ctx, site, "gone", true)); err != nil {
		t.Fatal(err)
	}
	names, err := s.PieceNames(ctx, site)
	if err != nil || len(names) != 1 || names[0].Name != "The a" || names[0].State != "live" {
		t.Errorf("%+v %v", names, err)
	}
}

func TestSeveralPiecesChangeTogetherOrNot(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	livePieces(t, s, site, "a", "b")
	change := func(id string, version int, live bool) store.Replacement {
		r := store.Replacement{ID: id, DraftVersion: version, Draft: []byte(`{"changed":true}`)}
		if live {
			r.Live = r.Draft
		}
		return r
	}
	if err := s.Replace(ctx, site, []store.Replacement{change("a", 1, true), change("b", 7, true)}); !errors.Is(err, store.ErrStale) {
		t.Error(err)
	}
	if p, _ := s.Piece(ctx, site, "a"); p.DraftVersion != 1 {
		t.Error("half of the change was kept")
	}
	if err := s.Replace(ctx, site, []store.Replacement{change("a", 1, true), change("b", 1, false)}); err != nil {
		t.Fatal(err)
	}
	a, _ := s.Piece(ctx, site, "a")
	b, _ := s.Piece(ctx, site, "b")
	if string(a.Live) != `{"changed":true}` || a.LiveVersion == nil || *a.LiveVersion != a.DraftVersion || string(b.Live) == string(b.Draft) {
		t.Errorf("%s %s", a.Live, b.Live)
	}
}
