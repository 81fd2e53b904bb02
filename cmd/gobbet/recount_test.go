package main

import (
	"bytes"
	"context"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"gobbet/core/tally"
	"gobbet/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Run(m) }

func TestRecountProvesTotalsAndPutsThemRight(t *testing.T) {
	s, ctx := storetest.New(t), context.Background()
	site, _ := storetest.Site(t, s)
	event := tally.Event{ID: uuid.Must(uuid.NewV7()).String(), At: time.Now(), Kind: tally.Shown, Piece: "p", Variant: "a", Run: 1, Visitor: "visitor-1", Page: "/", After: -1}
	if err := s.Events.Add(ctx, site, time.UTC, []tally.Event{event}); err != nil {
		t.Fatal(err)
	}
	say := func(key string, write bool) (string, error) {
		var out bytes.Buffer
		err := recount(ctx, s, key, write, &out)
		return out.String(), err
	}
	if said, err := say("shop", false); err != nil || !strings.Contains(said, "shop: 1 raw events, 1 visitors of pieces,") || !strings.Contains(said, "all of them right.") {
		t.Error(said, err)
	}
	db, err := sqlx.Connect("pgx", s.URL())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	db.MustExec(`update day_totals set visitors = 7`)
	if said, err := say("", false); err == nil || !strings.Contains(said, "kept 7 visitors") {
		t.Error(said, err)
	}
	if said, err := say("", true); err != nil || !strings.Contains(said, "put right") {
		t.Error(said, err)
	}
	if said, err := say("", false); err != nil || !strings.Contains(said, "all of them right.") {
		t.Error(said, err)
	}
	if _, err := say("nobody", false); err == nil {
		t.Error("a site that is not there was counted")
	}
}
