// Package launch puts pieces live, and gives the codes of their own pages.
package launch

import (
	"context"

	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
)

// Stores is what this place needs of the store.
type Stores struct {
	Pieces interface {
		Launch(ctx context.Context, act pieces.Act, id string, version int, drawings map[string][]byte) error
		PageTaken(ctx context.Context, site int64, but, address string) (bool, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read  *parts.Reader
	store Stores
	pages string // origin of the pages that pieces live at; empty: there are none
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores, pages string) *Place {
	return &Place{read, s, pages}
}

// Routes is what is answered about launching a piece.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.File("/sites/:site/qr", "image/*", s.qr),
		route.Post("/sites/:site/pieces/:piece/launch", s.launch),
	}
}
