package store_test

import (
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"

	"gobbet/internal/store"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/storetest"
)

// A database of an earlier Gobbet is brought up to date with all that is in it.
func TestAnEarlierDatabaseIsBroughtUpToDate(t *testing.T) {
	admin := sqlx.MustConnect("pgx", storetest.Cluster.URL("postgres"))
	admin.MustExec(`create database earlier`)
	admin.Close()
	db := sqlx.MustConnect("pgx", storetest.Cluster.URL("earlier"))
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db.DB, os.DirFS("migrations"))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := p.UpTo(context.Background(), 3); err != nil {
		t.Fatal(err)
	}
	db.MustExec(`insert into sites (key, name, zone, origins) values ('shop', 'Shop', 'UTC', '["https://shop.test"]')`)
	db.MustExec(`insert into pieces (site_id, id, state, draft, draft_version, live, live_version, live_since) values
		(1, 'p', 'live', '{}', 2, '{"split":{"variants":[{"id":"a"},{"id":"b"}]}}', 2, now())`)
	db.MustExec(`insert into pieces (site_id, id, state, draft, draft_version) values (1, 'asleep', 'resting', '{}', 1)`)
	db.MustExec(`insert into piece_versions (site_id, piece_id, version, draft, launched) values
		(1, 'p', 1, '{"split":{"variants":[{"id":"gone"}]}}', true), (1, 'p', 2, '{"split":{"variants":[{"id":"never"}]}}', false)`)
	db.MustExec(`insert into leads (site_id, email, email_key, name, first_at, last_at) values (1, 'A@example.com', 'a@example.com', 'Ann', now(), now())`)
	db.MustExec(`insert into submissions (site_id, id, lead_id, piece_id, variant, visitor, page, channel, campaign, referrer, answers, at) values
		(1, gen_random_uuid(), 1, 'p', 'a', 'v', '/', '', '', '', '{"email":"A@example.com","name":"Ann","why":"tiles"}', now()),
		(1, gen_random_uuid(), 1, 'p', 'b', 'v', '/', '', '', '', '{"email":"A@example.com","name":"Annie"}', now() - interval '1 day')`)
	db.MustExec(`insert into piece_days (site_id, piece_id, variant, day, visitors, showings, conversions) values (1, 'p', 'a', current_date, 5, 7, 2)`)
	db.MustExec(`insert into page_views (site_id, id, visitor, visit, at, seconds, facts, moments) values (1, 'view-1', 'v', 'x', now(), 3, '{"page.path":"/","data.plan":"club"}', '{}')`)
	db.MustExec(`insert into page_views (site_id, id, visitor, visit, at, seconds, facts, moments)
		select 1, 'junk-' || n, 'v', 'x', now(), 3, json_build_object('data.junk' || n, 1, 'data.plan', 'x'), '{}' from generate_series(1, 300) n`)
	db.MustExec(`insert into files (site_id, hash, name, mime, body) values (1, 'f', 'guide.pdf', 'application/octet-stream', decode(repeat('676c617a65', 100000), 'hex'))`)

	s, err := store.Open(ctx, storetest.Cluster.URL("earlier"), time.Minute)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if err := s.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	known, err := s.Pieces.LiveVariants(ctx, 1)
	if err != nil || !known["p"]["a"] || !known["p"]["b"] || !known["p"]["gone"] || known["p"]["never"] {
		t.Errorf("known: %v %v", known, err)
	}
	if p, err := s.Pieces.Get(ctx, 1, "asleep"); err != nil || p.State != "paused" {
		t.Errorf("what rested is not paused: %+v %v", p, err)
	}
	if found, err := s.Leads.List(ctx, 1, leads.Query{Search: "tiles", Limit: 10}); err != nil || len(found) != 1 {
		t.Errorf("an answer of before is not found: %+v %v", found, err)
	}
	leads, err := s.Leads.List(ctx, 1, leads.Query{Limit: 10})
	if err != nil || len(leads) != 1 || leads[0].Times != 2 || len(leads[0].Walks) != 2 {
		t.Fatalf("%+v %v", leads, err)
	}
	if w := leads[0].Walks; w[0].Name != "Ann" || w[0].Answers["why"] != "tiles" || w[1].Name != "Annie" {
		t.Errorf("%+v", w)
	}
	if days, err := s.Results.Days(ctx, 1, "p", time.Time{}); err != nil || len(days) != 1 || days[0].Visitors != 5 || days[0].Showings != 7 {
		t.Errorf("%+v %v", days, err)
	}
	if names, err := s.Sites.DataNames(ctx, 1); err != nil || len(names) != sites.MostDataNames || names[len(names)-1] != "plan" {
		t.Errorf("%d names, the last %q %v", len(names), names[len(names)-1], err)
	}
	if got, _ := since(t, s, 1, time.Time{}); len(got) != 301 {
		t.Errorf("%d page views", len(got))
	}
	f, blob, err := s.Library.OpenFile(ctx, "f")
	if err != nil || f.Bytes != 500_000 {
		t.Fatal(f.Bytes, err)
	}
	head := make([]byte, 5)
	if _, err := blob.Read(head); err != nil || string(head) != "glaze" {
		t.Errorf("%q %v", head, err)
	}
	// And back again, as far as that goes.
	if _, err := p.DownTo(context.Background(), 3); err != nil {
		t.Error(err)
	}
	var visitors int
	if err := db.Get(&visitors, `select sum(visitors) from piece_days`); err != nil || visitors != 5 {
		t.Error(fmt.Sprint(visitors, " visitors after going back: ", err))
	}
}
