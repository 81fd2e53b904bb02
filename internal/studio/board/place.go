// Package board answers for the site's pieces as a whole: listed, added, copied, taken
// in and given out as files, paused, deleted and restored.
package board

import (
	"context"
	"time"

	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/studio/parts"
	"gobbet/internal/uploads"
)

// Stores is what this place needs of the store.
type Stores struct {
	Library interface {
		AddFile(ctx context.Context, site int64, f library.File) error
		AddPicture(ctx context.Context, site int64, p library.Picture) error
		File(ctx context.Context, hash string) (library.File, error)
		Picture(ctx context.Context, hash string) (library.Picture, error)
	}
	Pieces interface {
		Add(ctx context.Context, site int64, id string, draft []byte) error
		Get(ctx context.Context, site int64, id string) (pieces.Piece, error)
		List(ctx context.Context, site int64) ([]pieces.Piece, error)
		Names(ctx context.Context, site int64) ([]pieces.Name, error)
		Pause(ctx context.Context, act pieces.Act, ids []string, from, until *time.Time) ([]string, error)
		Remove(ctx context.Context, act pieces.Act, id string, removed bool) error
		Removed(ctx context.Context, site int64) ([]pieces.Removed, error)
		Resume(ctx context.Context, act pieces.Act, ids []string) ([]string, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
	}
	Results interface {
		Days(ctx context.Context, site int64, piece string, since time.Time) ([]results.Tally, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read   *parts.Reader
	store  Stores
	decode *uploads.Decoder
	now    func() time.Time
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores, decode *uploads.Decoder, now func() time.Time) *Place {
	return &Place{read, s, decode, now}
}

const maxImport = 48 << 20

// Routes is what is answered about the board.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/board", s.board),
		route.Get("/sites/:site/pieces/:piece/drawing", s.drawing),
		route.Get("/sites/:site/pieces", s.list),
		route.Post("/sites/:site/pieces", s.addPiece).Created(),
		route.Get("/sites/:site/templates", s.templates),
		route.Upload("POST", "/sites/:site/import", maxImport, s.importPiece).Created(),
		route.File("/sites/:site/pieces/:piece/file", "application/zip", s.exportPiece),
		route.Delete("/sites/:site/pieces/:piece", s.removePiece),
		route.Get("/sites/:site/deleted", s.deleted),
		route.Post("/sites/:site/pieces/:piece/restore", s.restorePiece),
		route.Post("/sites/:site/pause", s.pause),
		route.Post("/sites/:site/resume", s.resume),
	}
}
