// Package library answers for what pieces are made from: pictures, files, snippets
// and codes.
package library

import (
	"context"

	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
	"gobbet/internal/uploads"
)

// Stores is what this place needs of the store.
type Stores struct {
	Codes interface {
		Add(ctx context.Context, site int64, id, name string, codes []string) (int64, error)
		List(ctx context.Context, site int64, pool, after, search string, limit int) ([]codes.PoolCode, error)
		Pools(ctx context.Context, site int64) ([]codes.Pool, error)
		RemovePool(ctx context.Context, site int64, id string) error
	}
	Library interface {
		AddFile(ctx context.Context, site int64, f library.File) error
		AddPicture(ctx context.Context, site int64, p library.Picture) error
		AddSnippet(ctx context.Context, site int64, k library.Snippet) error
		Files(ctx context.Context, site int64) ([]library.File, error)
		Picture(ctx context.Context, hash string) (library.Picture, error)
		Pictures(ctx context.Context, site int64) ([]library.Picture, error)
		RemoveFile(ctx context.Context, site int64, hash string) error
		RemovePicture(ctx context.Context, site int64, hash string) error
		RemoveSnippet(ctx context.Context, site int64, id string) error
		RenameFile(ctx context.Context, site int64, hash, name string) error
		RenamePicture(ctx context.Context, site int64, hash, name string) error
		RenameSnippet(ctx context.Context, site int64, id, name string) error
		Snippets(ctx context.Context, site int64) ([]library.Snippet, error)
	}
	Pieces interface {
		List(ctx context.Context, site int64) ([]pieces.Piece, error)
		Names(ctx context.Context, site int64) ([]pieces.Name, error)
		Replace(ctx context.Context, act pieces.Act, ids []string, live bool, rewrite func(document []byte) ([]byte, error), drawings func(live []byte) (map[string][]byte, error)) ([]string, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read   *parts.Reader
	store  Stores
	decode *uploads.Decoder
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores, decode *uploads.Decoder) *Place {
	return &Place{read, s, decode}
}

const (
	maxPicture = 12 << 20
	maxFile    = 24 << 20
)

// Routes is what is answered about what pieces are made from.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pictures", s.pictures),
		route.Upload("POST", "/sites/:site/pictures", maxPicture, s.addPicture).Created(),
		route.Put("/sites/:site/pictures/:hash", s.renamePicture),
		route.Delete("/sites/:site/pictures/:hash", s.removePicture),
		route.Post("/sites/:site/pictures/:hash/replace", s.replacePicture),
		route.Get("/sites/:site/files", s.files),
		route.Upload("POST", "/sites/:site/files", maxFile, s.addFile).Created(),
		route.Put("/sites/:site/files/:hash", s.renameFile),
		route.Delete("/sites/:site/files/:hash", s.removeFile),
		route.Get("/sites/:site/snippets", s.snippets),
		route.Post("/sites/:site/snippets", s.addSnippet).Created(),
		route.Put("/sites/:site/snippets/:id", s.renameSnippet),
		route.Delete("/sites/:site/snippets/:id", s.removeSnippet),
		route.Get("/sites/:site/pools", s.pools),
		route.Put("/sites/:site/pools/:id", s.addCodes),
		route.Upload("PUT", "/sites/:site/pools/:id/file", maxCodeFile, s.addCodeFile),
		route.Get("/sites/:site/pools/:id/codes", s.codes),
		route.File("/sites/:site/pools/:id/codes.csv", route.CSVMedia, s.codesCSV),
		route.Delete("/sites/:site/pools/:id", s.removePool),
	}
}
