// Package compose answers the designer: a piece's draft and its versions, how it
// plays, and the page it is designed on.
package compose

import (
	"context"
	"net/http"

	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
)

// Stores is what this place needs of the store.
type Stores struct {
	Pieces interface {
		Get(ctx context.Context, site int64, id string) (pieces.Piece, error)
		SaveDraft(ctx context.Context, site int64, id string, version int, draft []byte) (int, error)
		Versions(ctx context.Context, site int64, id string, limit int) ([]pieces.Version, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read     *parts.Reader
	store    Stores
	browser  *http.Client
	fetching chan struct{}
}

// New makes it over the store, with what all places share. allowed are host:port of sites within a private
// network whose pages may be looked at.
func New(read *parts.Reader, s Stores, allowed []string) *Place {
	return &Place{read, s, browserFor(allowed), make(chan struct{}, pagesAtOnce)}
}

// Routes is what is answered about designing a piece.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pieces/:piece", s.piece),
		route.Put("/sites/:site/pieces/:piece", s.saveDraft),
		route.Get("/sites/:site/pieces/:piece/versions", s.versions),
		route.Post("/sites/:site/walk", s.walk),
		route.Post("/sites/:site/playthrough", s.playThrough),
		route.Post("/sites/:site/reckon", s.reckon),
		route.File("/sites/:site/page", "text/html", s.page),
	}
}
