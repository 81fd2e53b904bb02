package store_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/iotest"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/internal/localpg"
	"gobbet/internal/store"
	"gobbet/internal/store/accounts"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/reaches"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/storetest"
)

func database(t *testing.T, s *store.Store) *sqlx.DB {
	t.Helper()
	db, err := sqlx.Connect("pgx", s.URL())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return db
}

func TestBodiesAreReadInPiecesFromAnywhere(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	for _, size := range []int{1, 100, 256 << 10, 256<<10 + 1, 700_000} {
		body := make([]byte, size)
		for i := range body {
			body[i] = byte(i * 7 >> 3)
		}
		hash := fmt.Sprintf("%032d", size)
		if err := s.Library.AddFile(ctx, site, library.File{Hash: hash, Name: "x", Mime: "video/mp4", Body: body}); err != nil {
			t.Fatal(err)
		}
		f, blob, err := s.Library.OpenFile(ctx, hash)
		if err != nil || f.Bytes != size || f.Body != nil {
			t.Fatal(f.Bytes, len(f.Body), err)
		}
		if err := iotest.TestReader(blob, body); err != nil {
			t.Errorf("%d bytes: %v", size, err)
		}
		r := rand.New(rand.NewPCG(1, uint64(size)))
		for range 20 {
			from := r.IntN(size)
			n := 1 + r.IntN(size-from)
			got := make([]byte, n)
			if _, err := blob.Seek(int64(from), io.SeekStart); err != nil {
				t.Fatal(err)
			}
			if _, err := io.ReadFull(blob, got); err != nil || !bytes.Equal(got, body[from:from+n]) {
				t.Fatalf("%d from %d of %d: %v", n, from, size, err)
			}
		}
	}
	if _, _, err := s.Library.OpenFile(ctx, "none"); !errors.Is(err, fault.ErrNotFound) {
		t.Error(err)
	}
	_, blob, _ := s.Library.OpenFile(ctx, fmt.Sprintf("%032d", 700_000))
	s.Library.RemoveFile(ctx, site, fmt.Sprintf("%032d", 700_000))
	if _, err := blob.Read(make([]byte, 1)); !errors.Is(err, fault.ErrNotFound) {
		t.Error("a file that was removed meanwhile:", err)
	}
}

// Batches of many sites and pieces, some of them twice, at once: each event
// counts once, whatever transactions they end up in.
func TestBatchesThatAreStoredTogetherCountEachOnce(t *testing.T) {
	s := storetest.New(t)
	one, account := storetest.Site(t, s)
	two, err := s.Sites.Add(ctx, "two", "Two", "UTC", nil, account)
	if err != nil {
		t.Fatal(err)
	}
	const batches, each = 120, 5
	var wg sync.WaitGroup
	for i := range batches {
		var events []tally.Event
		for j := range each {
			e := event("shown", fmt.Sprint("v", i, "-", j), noon)
			if j == 0 {
				e = event("converted", fmt.Sprint("v", i, "-1"), noon)
			}
			events = append(events, e)
		}
		site := []int64{one, two}[i%2]
		for range 2 { // sent twice at once
			wg.Go(func() {
				if err := s.Events.Add(ctx, site, dublin, events); err != nil {
					t.Error(err)
				}
			})
		}
	}
	wg.Wait()
	for _, site := range []int64{one, two} {
		visitors, showings, conversions := totals(t, s, site)
		if visitors != batches/2*(each-1) || showings != batches/2*(each-1) || conversions != batches/2 {
			t.Errorf("%d visitors, %d showings, %d conversions", visitors, showings, conversions)
		}
	}
	// What is counted is what the raw rows say.
	db := database(t, s)
	var seen, shown int
	if err := db.QueryRow(`select count(*), (select sum(showings) from day_totals where cut = '') from seen`).Scan(&seen, &shown); err != nil || seen != batches*(each-1) || shown != seen {
		t.Error(seen, shown, err)
	}
}

// One batch that cannot be stored does not take others with it.
func TestABatchThatCannotBeStoredLosesNoOther(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var wg sync.WaitGroup
	var mu sync.Mutex
	failed := 0
	for i := range 60 {
		e := event("shown", fmt.Sprint("v", i), noon)
		if i%10 == 3 {
			e.Kind = "stolen" // the database refuses it
		}
		wg.Go(func() {
			if err := s.Events.Add(ctx, site, dublin, []tally.Event{e}); err != nil {
				mu.Lock()
				failed++
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	if v, _, _ := totals(t, s, site); failed != 6 || v != 54 {
		t.Errorf("%d failed, %d counted", failed, v)
	}
}

func TestAFrozenDatabaseIsGivenUpOn(t *testing.T) {
	s, freeze := storetest.Frozen(t)
	site, _ := storetest.Site(t, s)
	freeze(true)
	short, cancel := context.WithTimeout(ctx, 300*time.Millisecond)
	defer cancel()
	began := time.Now()
	for name, err := range map[string]error{
		"events":   s.Events.Add(short, site, dublin, []tally.Event{event("shown", "v", noon)}),
		"pieces":   func() error { _, err := s.Pieces.List(short, site); return err }(),
		"sessions": func() error { _, _, err := s.Accounts.Sessions().FindCtx(short, "x"); return err }(),
		"answers": func() error {
			_, err := s.Leads.AddSubmission(short, site, dublin, submission("a@example.com", "A", noon))
			return err
		}(),
		"files": func() error { _, _, err := s.Library.OpenFile(short, "x"); return err }(),
	} {
		if err == nil || !pg.Unreachable(err) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if took := time.Since(began); took > time.Minute {
		t.Errorf("it took %v", took)
	}
	freeze(false)
	for end := time.Now().Add(15 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		if err := s.Events.Add(ctx, site, dublin, []tally.Event{event("shown", "after", noon)}); err == nil {
			return
		} else if time.Now().After(end) {
			t.Fatal("it does not recover:", err)
		}
	}
}

func TestPasswordsAreHashedAFewAtATime(t *testing.T) {
	cost := accounts.PasswordCost
	accounts.PasswordCost.Memory, accounts.PasswordCost.Iterations = 64*1024, 3
	t.Cleanup(func() { accounts.PasswordCost = cost })
	s := storetest.New(t)
	storetest.Site(t, s)
	var wg sync.WaitGroup
	var mu sync.Mutex
	busy, wrong := 0, 0
	for range 60 {
		wg.Go(func() {
			_, err := s.Accounts.SignIn(ctx, "iris@example.com", "a guess")
			mu.Lock()
			defer mu.Unlock()
			switch {
			case errors.Is(err, fault.ErrBusy):
				busy++
			case errors.Is(err, fault.ErrNotFound):
				wrong++
			default:
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if busy == 0 || wrong == 0 {
		t.Errorf("%d were told to come back, %d were judged", busy, wrong)
	}
	if a, err := s.Accounts.SignIn(ctx, "Iris@example.com", "a long password"); err != nil || a.Name != "Iris Moss" {
		t.Error(a, err)
	}
	if _, err := s.Accounts.SignIn(ctx, "nobody@example.com", ""); !errors.Is(err, fault.ErrNotFound) {
		t.Error(err)
	}
}

func TestKnownBrowsersAreOfOneAccount(t *testing.T) {
	s := storetest.New(t)
	_, account := storetest.Site(t, s)
	if err := s.Accounts.KeepBrowser(ctx, account, "token"); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		email, token string
		known        bool
	}{{"Iris@example.com", "token", true}, {"iris@example.com", "other", false}, {"else@example.com", "token", false}} {
		if known, err := s.Accounts.KnownBrowser(ctx, c.email, c.token); err != nil || known != c.known {
			t.Errorf("%+v: %v %v", c, known, err)
		}
	}
}

func TestASiteHasOnlySoManyDataNames(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var wg sync.WaitGroup
	for i := range 8 {
		wg.Go(func() {
			var names []string
			for j := range 60 {
				names = append(names, fmt.Sprintf("name%d_%d", i, j))
			}
			if _, err := s.Sites.AddDataNames(ctx, site, names); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	names, err := s.Sites.DataNames(ctx, site)
	if err != nil || len(names) != sites.MostDataNames {
		t.Fatal(len(names), err)
	}
	if kept, err := s.Sites.AddDataNames(ctx, site, []string{"late", names[0]}); err != nil || fmt.Sprint(kept) != "["+names[0]+"]" {
		t.Error(kept, err)
	}
	if err := s.Sites.ForgetDataName(ctx, site, names[0]); err != nil {
		t.Fatal(err)
	}
	if kept, err := s.Sites.AddDataNames(ctx, site, []string{"late"}); err != nil || len(kept) != 1 {
		t.Error(kept, err)
	}
	for range 2 {
		if err := s.Sites.CountRefusals(ctx, site, "data_name", "x", 3); err != nil {
			t.Fatal(err)
		}
	}
	if r, err := s.Sites.Refusals(ctx, site, 7); err != nil || len(r) != 1 || r[0].Times != 6 || r[0].Example != "x" {
		t.Error(r, err)
	}
}

func TestDeletedPiecesAreKeptForAWhile(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	db := database(t, s)
	add := func(id string) {
		t.Helper()
		if err := s.Pieces.Add(ctx, site, id, []byte(`{"version":2,"name":"The `+id+`","split":{"variants":[]}}`)); err != nil {
			t.Fatal(err)
		}
		if err := s.Pieces.Remove(ctx, pieces.Act{Site: site}, id, true); err != nil {
			t.Fatal(err)
		}
	}
	add("new")
	add("old")
	db.MustExec(`update pieces set removed_at = now() - interval '31 days' where id = 'old'`)
	list, err := s.Pieces.Removed(ctx, site)
	if err != nil || len(list) != 1 || list[0].ID != "new" {
		t.Fatal(list, err)
	}
	if err := s.Pieces.Remove(ctx, pieces.Act{Site: site}, "old", false); !errors.Is(err, fault.ErrNotFound) {
		t.Error("restored after its time:", err)
	}
	if err := s.Forget(ctx); err != nil {
		t.Fatal(err)
	}
	docs, err := s.Pieces.Documents(ctx, site)
	if err != nil || strings.Contains(string(docs["old"]), "split") || !strings.Contains(string(docs["old"]), "The old") || !strings.Contains(string(docs["new"]), "split") {
		t.Errorf("%s %s %v", docs["old"], docs["new"], err)
	}
	if err := s.Pieces.Remove(ctx, pieces.Act{Site: site}, "new", false); err != nil {
		t.Error(err)
	}
	if pieces, _ := s.Pieces.List(ctx, site); len(pieces) != 1 {
		t.Error("not restored")
	}
}

// However many pieces were ever live, each that is live counts.
func TestNoLivePieceDropsOut(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	db := database(t, s)
	db.MustExec(`insert into pieces (site_id, id, state, draft, live, live_version, live_since)
		select $1, 'once' || n, 'paused', '{}', '{}', 1, now() from generate_series(1, 1500) n`, site)
	db.MustExec(`insert into pieces (site_id, id, state, draft, live, live_version, live_since)
		select $1, 'live' || n, 'live', '{}', '{}', 1, now() from generate_series(1, $2) n`, site, pieces.MostLive)
	live, err := s.Pieces.Live(ctx, site)
	if err != nil || len(live) != pieces.MostLive {
		t.Fatal(len(live), err)
	}
	if err := s.Pieces.Add(ctx, site, "more", []byte(`{"split":{"variants":[]}}`)); !errors.Is(err, fault.ErrTooMany) {
		t.Error("a piece more than there may be:", err)
	}
	db.MustExec(`update pieces set removed_at = now() where state = 'paused'`)
	if err := s.Pieces.Add(ctx, site, "more", []byte(`{"split":{"variants":[]}}`)); err != nil {
		t.Fatal(err)
	}
	if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "more", 1, nil); !errors.Is(err, fault.ErrTooMany) {
		t.Error("one more live than there may be:", err)
	}
}

func TestOfTwoWindowsTheLaterDoesNotUndoTheEarlier(t *testing.T) {
	s := storetest.New(t)
	site, account := storetest.Site(t, s)
	for name, change := range map[string]func(version int) error{
		"site":     func(v int) error { return s.Sites.Change(ctx, site, v, "Shop", "UTC", sites.Texts{}) },
		"settings": func(v int) error { return s.Sites.ChangeSettings(ctx, site, v, setup.Default()) },
		"order":    func(v int) error { return s.Pieces.Order(ctx, site, v, nil) },
	} {
		if err := change(1); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if err := change(1); !errors.Is(err, fault.ErrStale) {
			t.Errorf("%s: the later won: %v", name, err)
		}
	}
	got, err := s.Sites.OneOf(ctx, account, site)
	if err != nil || got.Version != 2 || got.SettingsVersion != 2 || got.OrderVersion != 2 || got.KitVersion != 1 {
		t.Errorf("%+v %v", got, err)
	}
}

// A log that was dumped and restored into another cluster is read there: that
// cluster's transactions are young, and the log does not go by them.
func TestTheVisitLogSurvivesDumpAndRestore(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	// Transactions that make this cluster older than the one it is restored into.
	for i := range 200 {
		if _, err := s.PageViews.Add(ctx, site, pageView(fmt.Sprint("p", i), "v", i)); err != nil {
			t.Fatal(err)
		}
	}
	programs, _ := filepath.Glob("/usr/lib/postgresql/*/bin")
	if len(programs) == 0 {
		t.Fatal("no PostgreSQL programs")
	}
	at := func(name string) string { return filepath.Join(programs[len(programs)-1], name) }
	dump, err := exec.Command(at("pg_dump"), "--no-owner", s.URL()).Output()
	if err != nil {
		t.Fatal(err)
	}
	younger, err := localpg.Start(ctx, localpg.Options{Home: t.TempDir(), Throwaway: true})
	if err != nil {
		t.Fatal(err)
	}
	defer younger.Stop()
	admin := sqlx.MustConnect("pgx", younger.URL("postgres"))
	admin.MustExec(`create database restored`)
	admin.Close()
	restore := exec.Command(at("psql"), "-q", "-v", "ON_ERROR_STOP=1", younger.URL("restored"))
	restore.Stdin = bytes.NewReader(dump)
	if out, err := restore.CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	back, err := store.Open(ctx, younger.URL("restored"), time.Minute)
	if err != nil {
		t.Fatal(err)
	}
	defer back.Close()
	if err := back.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	got, next := since(t, back, site, time.Time{})
	if len(got) != 200 {
		t.Fatalf("%d of 200 page views are there", len(got))
	}
	if _, err := back.PageViews.Add(ctx, site, pageView("new", "v", 1)); err != nil {
		t.Fatal(err)
	}
	if got, _ = since(t, back, site, next); fmt.Sprint(got) != "[new:1]" {
		t.Error("what came after:", got)
	}
}

func TestCodesAreLimitedByWhereTheyGo(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var list []string
	for i := range 100 {
		list = append(list, fmt.Sprint("C", i))
	}
	if _, err := s.Codes.Add(ctx, site, "spring", "Spring", list); err != nil {
		t.Fatal(err)
	}
	db := database(t, s)
	take := func(visitor, address string) error {
		if err := s.Events.Add(ctx, site, dublin, []tally.Event{event("shown", visitor, noon)}); err != nil {
			t.Fatal(err)
		}
		db.MustExec(`insert into pieces (site_id, id, draft) values ($1, 'p', '{}') on conflict do nothing`, site)
		db.MustExec(`insert into live_variants (site_id, piece_id, variant) values ($1, 'p', 'a') on conflict do nothing`, site)
		_, err := s.Codes.Take(ctx, site, codes.Taker{Pool: "spring", Piece: "p", Visitor: visitor, Address: address, Network: "net"})
		return err
	}
	for i := range codes.PerHour {
		if err := take(fmt.Sprint("v", i), "here"); err != nil {
			t.Fatal(i, err)
		}
	}
	if err := take("one-more", "here"); !errors.Is(err, codes.ErrDrained) {
		t.Error("one more in the hour:", err)
	}
	if err := take("v0", "here"); err != nil {
		t.Error("who has one is told it again:", err)
	}
	if err := take("elsewhere", "there"); err != nil {
		t.Error("another address:", err)
	}
	db.MustExec(`update codes set given_at = given_at - interval '2 hours' where address = 'here'`)
	if err := take("one-more", "here"); err != nil {
		t.Error("the hour after:", err)
	}
	if _, err := s.Codes.Take(ctx, site, codes.Taker{Pool: "spring", Piece: "p", Visitor: uuid.NewString()}); !errors.Is(err, codes.ErrUnseen) {
		t.Error("to whom nothing was shown:", err)
	}
}

// What there is room for is listed whole; beyond it one is told.
func TestNoListIsCutShortInSilence(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	db := database(t, s)
	db.MustExec(`insert into snippets (site_id, id, kind, name, body) select $1, 'k' || n, 'block', 'Kept', '{}' from generate_series(1, $2) n`, site, library.MostSnippets)
	db.MustExec(`insert into code_pools (site_id, id, name) select $1, 'p' || n, 'Pool' from generate_series(1, $2) n`, site, codes.MostPools)
	db.MustExec(`insert into reaches (site_id, id, name, rule) select $1, 'r' || n, 'Reach', '{"all":[]}' from generate_series(1, $2) n`, site, reaches.MostReaches)
	if kept, err := s.Library.Snippets(ctx, site); err != nil || len(kept) != library.MostSnippets {
		t.Error(len(kept), err)
	}
	if err := s.Library.AddSnippet(ctx, site, library.Snippet{ID: "more", Kind: "block", Name: "x", Body: []byte(`{}`)}); !errors.Is(err, fault.ErrTooMany) {
		t.Error(err)
	}
	if _, err := s.Codes.Add(ctx, site, "more", "x", []string{"A"}); !errors.Is(err, fault.ErrTooMany) {
		t.Error(err)
	}
	if added, err := s.Codes.Add(ctx, site, "p1", "x", []string{"A"}); err != nil || added != 1 {
		t.Error("codes for a pool that is there:", added, err)
	}
	if err := s.Reaches.Save(ctx, site, reaches.Reach{ID: "more", Name: "x", Rule: []byte(`{"all":[]}`)}); !errors.Is(err, fault.ErrTooMany) {
		t.Error(err)
	}
	if err := s.Reaches.Save(ctx, site, reaches.Reach{ID: "r1", Name: "x", Rule: []byte(`{"all":[]}`)}); err != nil {
		t.Error("a reach that is there:", err)
	}
}
