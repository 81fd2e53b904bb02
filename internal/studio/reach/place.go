// Package reach answers who sees a piece, and when: rehearsals on recorded visits,
// single visitors tried, values, saved reaches, and which piece wins.
package reach

import (
	"context"
	"time"

	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/reaches"
	"gobbet/internal/studio/parts"
	"gobbet/internal/visits"
)

// Stores is what this place needs of the store.
type Stores struct {
	Codes interface {
		PoolsLeft(ctx context.Context, site int64, most int) ([]codes.Pool, error)
	}
	Pieces interface {
		Get(ctx context.Context, site int64, id string) (pieces.Piece, error)
		List(ctx context.Context, site int64) ([]pieces.Piece, error)
		Order(ctx context.Context, site int64, version int, ids []string) error
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
		List(ctx context.Context, site int64) ([]reaches.Reach, error)
		Remove(ctx context.Context, site int64, id string) error
		Save(ctx context.Context, site int64, r reaches.Reach) error
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read   *parts.Reader
	store  Stores
	visits *visits.Logs
	now    func() time.Time
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores, logs *visits.Logs, now func() time.Time) *Place {
	return &Place{read, s, logs, now}
}

// Routes is what is answered about who sees a piece, and when.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/facts", func(*route.Call, route.None) (FactBook, error) { return FactBook{reach.Facts, reach.Ops}, nil }),
		route.Post("/sites/:site/rehearse", s.rehearse),
		route.Post("/sites/:site/try", s.try),
		route.Post("/sites/:site/visitors", s.visitors),
		route.Post("/sites/:site/values", s.values),
		route.Get("/sites/:site/reaches", s.reaches),
		route.Put("/sites/:site/reaches/:reach", s.saveReach),
		route.Delete("/sites/:site/reaches/:reach", s.removeReach),
		route.Get("/sites/:site/order", s.order),
		route.Put("/sites/:site/order", s.setOrder),
		route.Post("/sites/:site/pieces/:piece/inspect", s.inspectLink),
	}
}
