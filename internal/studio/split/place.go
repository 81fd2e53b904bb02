// Package split compares a piece's variants, plans tests, and moves shares to the
// winner.
package split

import (
	"context"
	"time"

	"gobbet/core/compare"
	"gobbet/core/launch"
	rule "gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/events"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
	"gobbet/internal/studio/reach"
	"gobbet/internal/visits"
)

// Stores is what this place needs of the store.
type Stores struct {
	Events interface {
		LeftOut(ctx context.Context, site int64, days int) ([]events.LeftOut, error)
	}
	Pieces interface {
		ChangeShares(ctx context.Context, site int64, piece string, since time.Time, shares map[string]int, seed uint64) error
		FollowDue(ctx context.Context, since time.Time) ([]pieces.Followed, error)
		Get(ctx context.Context, site int64, id string) (pieces.Piece, error)
		Moves(ctx context.Context, site int64, piece string, since time.Time) ([]launch.Made, error)
		Runs(ctx context.Context, site int64, piece string) ([]launch.Run, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (rule.Book, error)
	}
	Results interface {
		Days(ctx context.Context, site int64, piece string, since time.Time) ([]results.Tally, error)
		RunTotals(ctx context.Context, site int64, piece, cut string) ([]compare.Total, error)
	}
	Sites interface {
		ByID(ctx context.Context, ids []int64) ([]sites.Site, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read   *parts.Reader
	reach  *reach.Place
	store  Stores
	visits *visits.Logs
	now    func() time.Time
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, reach *reach.Place, s Stores, logs *visits.Logs, now func() time.Time) *Place {
	return &Place{read, reach, s, logs, now}
}

// Routes is what is answered about a piece's test.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pieces/:piece/split", s.split),
		route.Get("/sites/:site/pieces/:piece/split/cuts", s.splitCuts),
		route.Get("/sites/:site/pieces/:piece/plan", s.plan),
	}
}
