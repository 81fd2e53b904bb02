// Package report tells what visitors did within a piece: how far they came, what they
// answered, and what they drew.
package report

import (
	"context"
	"time"

	"gobbet/core/walk"
	"gobbet/internal/route"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/results"
	"gobbet/internal/store/walks"
	"gobbet/internal/studio/parts"
)

// Stores is what this place needs of the store.
type Stores struct {
	Codes interface {
		Pools(ctx context.Context, site int64) ([]codes.Pool, error)
	}
	Results interface {
		Days(ctx context.Context, site int64, piece string, since time.Time) ([]results.Tally, error)
	}
	Walks interface {
		Answered(ctx context.Context, site int64, q walks.Query) ([]walks.Answered, error)
		Goes(ctx context.Context, site int64, piece string, after walks.GoAt, limit int) ([]walks.TakenGo, error)
		PartStock(ctx context.Context, site int64, piece string) (map[walk.Choice]int, error)
		Played(ctx context.Context, site int64, piece string, since time.Time) (walks.Play, error)
		Uncounted(ctx context.Context, site int64, piece string, since time.Time) ([]walks.Uncounted, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read  *parts.Reader
	store Stores
	now   func() time.Time
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores, now func() time.Time) *Place {
	return &Place{read, s, now}
}

// Routes is what is answered about what visitors did in a piece.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pieces/:piece/played", s.played),
		route.Get("/sites/:site/pieces/:piece/answers", s.answers),
		route.File("/sites/:site/pieces/:piece/answers.csv", route.CSVMedia, s.answersCSV),
		route.File("/sites/:site/pieces/:piece/goes.csv", route.CSVMedia, s.goesCSV),
	}
}
