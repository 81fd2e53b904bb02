// Package library keeps what pieces are made from: pictures, files and snippets.
package library

import (
	"context"
	"encoding/json"
	"time"

	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// Picture is an uploaded picture, as it is served.
type Picture struct {
	Hash      string    `db:"hash"`
	Name      string    `db:"name"`
	Mime      string    `db:"mime"`
	Width     int       `db:"width"`
	Height    int       `db:"height"`
	Bytes     int       `db:"bytes"`
	Body      []byte    `db:"body"`
	CreatedAt time.Time `db:"created_at"`
}

// What a site may keep of each. Lists are whole: what is there is listed.
const (
	MostPictures = 2000
	MostFiles    = 1000
	MostSnippets = 300
)

// AddPicture keeps a picture; the same picture twice is one.
func (s *Store) AddPicture(ctx context.Context, site int64, p Picture) error {
	if err := s.db.Room(ctx, MostPictures, "pictures", "hash", site, p.Hash); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `
		insert into pictures (site_id, hash, name, mime, width, height, body) values ($1, $2, $3, $4, $5, $6, $7)
		on conflict (site_id, hash) do nothing`, site, p.Hash, p.Name, p.Mime, p.Width, p.Height, p.Body)
	return err
}

// Pictures lists a site's pictures without their bodies, the newest first.
func (s *Store) Pictures(ctx context.Context, site int64) (pictures []Picture, err error) {
	err = s.db.SelectContext(ctx, &pictures, `
		select hash, name, mime, width, height, length(body) as bytes, created_at
		from pictures where site_id = $1 order by created_at desc, hash`, site)
	return pictures, err
}

// Picture gives a picture by its hash, whichever site it is of: who knows the
// hash of the content has the content.
func (s *Store) Picture(ctx context.Context, hash string) (p Picture, err error) {
	err = s.db.GetContext(ctx, &p, `select hash, name, mime, width, height, length(body) as bytes, body, created_at from pictures where hash = $1 limit 1`, hash)
	return p, pg.Found(err)
}

// RenamePicture gives a picture of a site's library another name.
func (s *Store) RenamePicture(ctx context.Context, site int64, hash, name string) error {
	return s.db.ExecOne(ctx, `update pictures set name = $3 where site_id = $1 and hash = $2`, site, hash, name)
}

// RenameFile gives a file of a site's library another name, under which it is
// handed out from then on.
func (s *Store) RenameFile(ctx context.Context, site int64, hash, name string) error {
	return s.db.ExecOne(ctx, `update files set name = $3 where site_id = $1 and hash = $2`, site, hash, name)
}

// RenameSnippet gives a snippet another name.
func (s *Store) RenameSnippet(ctx context.Context, site int64, id, name string) error {
	return s.db.ExecOne(ctx, `update snippets set name = $3 where site_id = $1 and id = $2`, site, id, name)
}

// RemovePicture takes a picture out of a site's library.
func (s *Store) RemovePicture(ctx context.Context, site int64, hash string) error {
	return s.db.ExecOne(ctx, `delete from pictures where site_id = $1 and hash = $2`, site, hash)
}

// File is an uploaded file, as it is served.
type File struct {
	Hash      string    `db:"hash"`
	Name      string    `db:"name"`
	Mime      string    `db:"mime"`
	Bytes     int       `db:"bytes"`
	Body      []byte    `db:"body"`
	CreatedAt time.Time `db:"created_at"`
}

// AddFile keeps a file; the same file twice is one.
func (s *Store) AddFile(ctx context.Context, site int64, f File) error {
	if err := s.db.Room(ctx, MostFiles, "files", "hash", site, f.Hash); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `
		insert into files (site_id, hash, name, mime, body) values ($1, $2, $3, $4, $5) on conflict (site_id, hash) do nothing`,
		site, f.Hash, f.Name, f.Mime, f.Body)
	return err
}

// Files lists a site's files without their bodies, the newest first.
func (s *Store) Files(ctx context.Context, site int64) (files []File, err error) {
	err = s.db.SelectContext(ctx, &files, `
		select hash, name, mime, length(body) as bytes, created_at from files where site_id = $1 order by created_at desc, hash`, site)
	return files, err
}

// File gives a file by its hash, whichever site it is of.
func (s *Store) File(ctx context.Context, hash string) (f File, err error) {
	err = s.db.GetContext(ctx, &f, `select hash, name, mime, length(body) as bytes, body, created_at from files where hash = $1 limit 1`, hash)
	return f, pg.Found(err)
}

// RemoveFile takes a file out of a site's library.
func (s *Store) RemoveFile(ctx context.Context, site int64, hash string) error {
	return s.db.ExecOne(ctx, `delete from files where site_id = $1 and hash = $2`, site, hash)
}

// Snippet is a block or a scene kept to be used again. Body is the block, or the scene.
type Snippet struct {
	ID        string          `db:"id"`
	Kind      string          `db:"kind"`
	Name      string          `db:"name"`
	Body      json.RawMessage `db:"body"`
	CreatedAt time.Time       `db:"created_at"`
}

// AddSnippet keeps a block or a scene.
func (s *Store) AddSnippet(ctx context.Context, site int64, k Snippet) error {
	if err := s.db.Room(ctx, MostSnippets, "snippets", "id", site, k.ID); err != nil {
		return err
	}
	_, err := s.db.ExecContext(ctx, `insert into snippets (site_id, id, kind, name, body) values ($1, $2, $3, $4, $5)`, site, k.ID, k.Kind, k.Name, k.Body)
	return err
}

// Snippets lists what a site kept, the newest first.
func (s *Store) Snippets(ctx context.Context, site int64) (kept []Snippet, err error) {
	err = s.db.SelectContext(ctx, &kept, `select id, kind, name, body, created_at from snippets where site_id = $1 order by created_at desc, id`, site)
	return kept, err
}

// RemoveSnippet forgets one.
func (s *Store) RemoveSnippet(ctx context.Context, site int64, id string) error {
	return s.db.ExecOne(ctx, `delete from snippets where site_id = $1 and id = $2`, site, id)
}
