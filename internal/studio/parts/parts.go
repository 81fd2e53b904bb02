// Package parts is what several places of the studio use: pieces as they are read,
// what uses what, and measures as they are shown.
package parts

import (
	"context"
	"time"

	"gobbet/core/reach"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
)

// Stores is what of the store these need.
type Stores struct {
	Codes interface {
		PoolsLeft(ctx context.Context, site int64, most int) ([]codes.Pool, error)
	}
	Library interface {
		Pictures(ctx context.Context, site int64) ([]library.Picture, error)
	}
	Pieces interface {
		Documents(ctx context.Context, site int64) (map[string][]byte, error)
		Get(ctx context.Context, site int64, id string) (pieces.Piece, error)
		List(ctx context.Context, site int64) ([]pieces.Piece, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
	}
}

// Reader reads a site's pieces.
type Reader struct {
	store Stores
	now   func() time.Time
}

// NewReader reads from stores.
func NewReader(s Stores, now func() time.Time) *Reader { return &Reader{s, now} }
