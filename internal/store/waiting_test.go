package store_test

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/internal/store"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/storetest"
)

func shownTo(visitor string, at time.Time) tally.Event {
	return tally.Event{ID: idAt(at), At: at, Kind: tally.Shown, Piece: "p", Variant: "a", Run: 1, Visitor: visitor, Visit: "v", Page: "/", After: -1}
}

// Who looks whether the totals are right waits for nobody who counts, and nobody
// who counts waits for them.
func TestLookingAtTheTotalsLocksNobodyOut(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	if err := s.Events.Add(ctx, site, dublin, []tally.Event{shownTo("ann", noon)}); err != nil {
		t.Fatal(err)
	}
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	// Somebody counts, and takes long: every bucket is taken.
	counting := db.MustBegin()
	defer counting.Rollback()
	counting.MustExec(`select pg_advisory_xact_lock(6339559, b) from generate_series(0, 4095) b`)
	within, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	r, err := s.Events.Recount(within, site, false)
	if err != nil || len(r.Differ) > 0 || r.Events != 1 {
		t.Errorf("%+v %v", r, err)
	}
	counting.Rollback()
	// Somebody puts another site right.
	other := db.MustBegin()
	defer other.Rollback()
	other.MustExec(`select pg_advisory_xact_lock(6339561, $1)`, site+1)
	if err := s.Events.Add(within, site, dublin, []tally.Event{shownTo("bob", noon.Add(time.Second))}); err != nil {
		t.Error("a site waits for another's totals:", err)
	}
}

// Days are those of UTC and of the site's zone, wherever the database thinks it is.
func TestTheDatabasesOwnZoneDecidesNoDay(t *testing.T) {
	first := storetest.New(t)
	site, _ := storetest.Site(t, first)
	db := sqlx.MustConnect("pgx", first.URL())
	defer db.Close()
	var name string
	if err := db.Get(&name, `select current_database()`); err != nil {
		t.Fatal(err)
	}
	db.MustExec(`alter database ` + name + ` set timezone = 'Pacific/Auckland'`)
	s, err := store.Open(ctx, first.URL(), time.Minute)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	var events []tally.Event
	for i := range 72 {
		events = append(events, shownTo(fmt.Sprint("v", i), noon.Add(time.Duration(i)*time.Hour)))
	}
	if err := s.Events.Add(ctx, site, dublin, events); err != nil {
		t.Fatal(err)
	}
	db.MustExec(`update sites set raw_since = $1 where id = $2`, noon.Add(10*time.Hour), site)
	before, err := s.Results.Days(ctx, site, "p", noon.AddDate(0, 0, -3))
	if err != nil {
		t.Fatal(err)
	}
	// Something is put right, and nothing of before goes with it.
	db.MustExec(`update day_totals set showings = showings + 1 where site_id = $1 and day = (select max(day) from day_totals where site_id = $1)`, site)
	if r, err := s.Events.Recount(ctx, site, true); err != nil || !r.Written {
		t.Fatalf("%+v %v", r, err)
	}
	after, err := s.Results.Days(ctx, site, "p", noon.AddDate(0, 0, -3))
	if err != nil || fmt.Sprint(after) != fmt.Sprint(before) {
		t.Errorf("%v\nwas\n%v (%v)", after, before, err)
	}
	if r, err := s.Events.Recount(ctx, site, false); err != nil || len(r.Differ) > 0 {
		t.Errorf("%+v %v", r, err)
	}
}

// A month's table goes without those who store events waiting for who reads it.
func TestAMonthGoesWithoutIntakeWaiting(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	old := time.Now().UTC().AddDate(0, -30, 0)
	if err := s.Events.MakeMonths(ctx, old, old); err != nil {
		t.Fatal(err)
	}
	if err := s.Events.Add(ctx, site, dublin, []tally.Event{shownTo("ann", old)}); err != nil {
		t.Fatal(err)
	}
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	reading := db.MustBegin()
	defer reading.Rollback()
	reading.MustExec(`select count(*) from events`)
	gone := make(chan error, 1)
	go func() { gone <- s.Events.ForgetEvents(ctx, time.Now()) }()
	for i := range 5 {
		within, cancel := context.WithTimeout(ctx, 3*time.Second)
		now := time.Now().Add(time.Duration(i) * time.Millisecond)
		if err := s.Events.Add(within, site, dublin, []tally.Event{shownTo(fmt.Sprint("v", i), now)}); err != nil {
			t.Error("intake waits:", err)
		}
		cancel()
	}
	reading.Rollback()
	if err := <-gone; err != nil {
		t.Error(err)
	}
	var left int
	if err := db.Get(&left, `select count(*) from events where visitor = 'ann'`); err != nil || left != 0 {
		t.Errorf("%d left, %v", left, err)
	}
	if r, err := s.Events.Recount(ctx, site, false); err != nil || len(r.Differ) > 0 || r.Since == nil {
		t.Errorf("%+v %v", r, err)
	}
}

// What is past its time is not deleted while a site's events are counted anew, for
// what is half deleted would be counted as if it was all.
func TestNothingIsForgottenWhileASiteIsCountedAnew(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	old := time.Now().UTC().AddDate(0, -30, 0)
	// Two sites keep the month, one of them for longer: its table stays.
	other, err := s.Sites.Add(ctx, "other", "Other", "UTC", sites.Texts{"https://other.test"}, 1)
	if err != nil {
		t.Fatal(err)
	}
	settings := setup.Default()
	settings.KeepMonths = 60
	if err := s.Sites.ChangeSettings(ctx, other, 1, settings); err != nil {
		t.Fatal(err)
	}
	if err := errors.Join(s.Events.MakeMonths(ctx, old, old), s.Events.Add(ctx, site, dublin, []tally.Event{shownTo("ann", old)})); err != nil {
		t.Fatal(err)
	}
	db := sqlx.MustConnect("pgx", s.URL())
	defer db.Close()
	counting := db.MustBegin()
	defer counting.Rollback()
	counting.MustExec(`select pg_advisory_xact_lock($1::int, $2::int)`, 0x60BBE9, site)
	gone := make(chan error, 1)
	go func() { gone <- s.Events.ForgetEvents(ctx, time.Now()) }()
	waits := false
	for end := time.Now().Add(20 * time.Second); !waits && time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		if err := db.Get(&waits, `select exists (select from pg_locks where locktype = 'advisory' and not granted)`); err != nil {
			t.Fatal(err)
		}
	}
	var left int
	if err := db.Get(&left, `select count(*) from events where visitor = 'ann'`); err != nil || left != 1 || !waits {
		t.Errorf("%d left, waits: %v, %v", left, waits, err)
	}
	counting.Rollback()
	if err := <-gone; err != nil {
		t.Error(err)
	}
	if err := db.Get(&left, `select count(*) from events where visitor = 'ann'`); err != nil || left != 0 {
		t.Errorf("%d left, %v", left, err)
	}
}
