package store

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"
)

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

// MostPools is how many pools of codes a site may keep.
const MostPools = 200

// room reports with ErrTooMany where a site has as many rows as it may, and one
// more would be another.
func (s *Store) room(ctx context.Context, most int, table, key string, site int64, value string) error {
	var is struct {
		There bool `db:"there"`
		N     int  `db:"n"`
	}
	err := s.db.GetContext(ctx, &is, `
		select count(*) as n, exists (select 1 from `+table+` where site_id = $1 and `+key+` = $2) as there
		from `+table+` where site_id = $1`, site, value)
	if err == nil && is.N >= most && !is.There {
		err = ErrTooMany
	}
	return err
}

// AddPicture keeps a picture; the same picture twice is one.
func (s *Store) AddPicture(ctx context.Context, site int64, p Picture) error {
	if err := s.room(ctx, MostPictures, "pictures", "hash", site, p.Hash); err != nil {
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
	return p, found(err)
}

// RenamePicture gives a picture of a site's library another name.
func (s *Store) RenamePicture(ctx context.Context, site int64, hash, name string) error {
	return s.removed(ctx, `update pictures set name = $3 where site_id = $1 and hash = $2`, site, hash, name)
}

// RenameFile gives a file of a site's library another name, under which it is
// handed out from then on.
func (s *Store) RenameFile(ctx context.Context, site int64, hash, name string) error {
	return s.removed(ctx, `update files set name = $3 where site_id = $1 and hash = $2`, site, hash, name)
}

// RenameSnippet gives a snippet another name.
func (s *Store) RenameSnippet(ctx context.Context, site int64, id, name string) error {
	return s.removed(ctx, `update snippets set name = $3 where site_id = $1 and id = $2`, site, id, name)
}

// RemovePicture takes a picture out of a site's library.
func (s *Store) RemovePicture(ctx context.Context, site int64, hash string) error {
	return s.removed(ctx, `delete from pictures where site_id = $1 and hash = $2`, site, hash)
}

// removed runs a statement that concerns one row; ErrNotFound where there is none.
func (s *Store) removed(ctx context.Context, query string, args ...any) error {
	result, err := s.db.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
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
	if err := s.room(ctx, MostFiles, "files", "hash", site, f.Hash); err != nil {
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
	return f, found(err)
}

// RemoveFile takes a file out of a site's library.
func (s *Store) RemoveFile(ctx context.Context, site int64, hash string) error {
	return s.removed(ctx, `delete from files where site_id = $1 and hash = $2`, site, hash)
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
	if err := s.room(ctx, MostSnippets, "snippets", "id", site, k.ID); err != nil {
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
	return s.removed(ctx, `delete from snippets where site_id = $1 and id = $2`, site, id)
}

// Pool is codes to be given out, one a visitor.
type Pool struct {
	ID    string `db:"id"`
	Name  string `db:"name"`
	Left  int    `db:"left_over"`
	Given int    `db:"given"`
}

// Pools lists a site's code pools by name.
func (s *Store) Pools(ctx context.Context, site int64) (pools []Pool, err error) {
	err = s.db.SelectContext(ctx, &pools, `
		select p.id, p.name, p.codes - g.given as left_over, g.given
		from code_pools p, lateral (select count(*) as given from codes c where c.site_id = p.site_id and c.pool_id = p.id and c.visitor is not null) g
		where p.site_id = $1 order by p.name, p.id`, site)
	return pools, err
}

// PoolsLeft tells how many codes are left in each pool of a site, up to most:
// who only wants to know whether a pool runs low does not count half a million.
func (s *Store) PoolsLeft(ctx context.Context, site int64, most int) (pools []Pool, err error) {
	err = s.db.SelectContext(ctx, &pools, `
		select p.id, p.name, l.left_over from code_pools p, lateral (
			select count(*) as left_over from (select from codes c where c.site_id = p.site_id and c.pool_id = p.id and c.visitor is null limit $2) first) l
		where p.site_id = $1 order by p.name, p.id`, site, most)
	return pools, err
}

// AddCodes adds codes to a pool, which is made if it is not there; added tells
// how many were new to it.
func (s *Store) AddCodes(ctx context.Context, site int64, id, name string, codes []string) (added int64, err error) {
	if err := s.room(ctx, MostPools, "code_pools", "id", site, id); err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `
			insert into code_pools (site_id, id, name) values ($1, $2, $3) on conflict (site_id, id) do update set name = excluded.name`, site, id, name); err != nil {
			return err
		}
		added = 0
		for some := range slices.Chunk(codes, codesAtOnce) {
			result, err := tx.ExecContext(ctx, `
				insert into codes (site_id, pool_id, code) select $1, $2, unnest($3::text[]) on conflict do nothing`, site, id, some)
			if err != nil {
				return err
			}
			n, err := result.RowsAffected()
			if added += n; err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx, `update code_pools set codes = codes + $3 where site_id = $1 and id = $2`, site, id, added)
		return err
	})
	return added, err
}

const codesAtOnce = 20_000

// PoolCode is a code of a pool, with who has it.
type PoolCode struct {
	Code    string     `db:"code"`
	GivenAt *time.Time `db:"given_at"` // nil: nobody has it
	Piece   string     `db:"piece_id"`
	Email   string     `db:"email"` // empty where they left none
}

// Codes lists a pool's codes in their order, those after one; of them those that
// hold a text, or went to an address that does, where search is not empty. It
// fails with ErrNotFound where there is no such pool.
func (s *Store) Codes(ctx context.Context, site int64, pool, after, search string, limit int) (codes []PoolCode, err error) {
	err = s.db.SelectContext(ctx, &codes, `
		select c.code, c.given_at, coalesce(c.piece_id, '') as piece_id, coalesce(l.email, '') as email
		from codes c left join walks w on w.site_id = c.site_id and w.id = c.walk_id left join leads l on l.site_id = w.site_id and l.id = w.lead_id
		where c.site_id = $1 and c.pool_id = $2 and c.code > $3
			and ($5 = '' or strpos(lower(c.code), lower($5)) > 0 or strpos(l.email_key, lower($5)) > 0)
		order by c.code limit $4`, site, pool, after, limit, search)
	if err == nil && len(codes) == 0 && after == "" {
		var here bool
		if err = s.db.GetContext(ctx, &here, `select exists (select from code_pools where site_id = $1 and id = $2)`, site, pool); err == nil && !here {
			err = ErrNotFound
		}
	}
	return codes, err
}

// RemovePool forgets a pool with its codes.
func (s *Store) RemovePool(ctx context.Context, site int64, id string) error {
	return s.removed(ctx, `delete from code_pools where site_id = $1 and id = $2`, site, id)
}

// CodeTaker asks for a code of a pool.
type CodeTaker struct {
	Pool, Piece, Visitor string
	Walk                 string // a UUID; empty: none is known
	// Address and Network are digests of where they ask from; empty: not counted.
	Address, Network string
	// Unwatched says that no showing was recorded, for the visitor asked not to
	// be measured. Fewer codes go to an address that way.
	Unwatched bool
}

// How many codes go to one address (of an IPv6 address its /64) in an hour and
// a day, to one address for visitors of whom nothing was recorded in a day, and
// to one network (/24, or /48) in a day.
const (
	CodesPerHour       = 10
	CodesPerDay        = 40
	CodesUnwatched     = 3
	CodesPerNetworkDay = 200
)

var (
	// ErrUnseen is that the visitor never saw the piece and never answered it.
	ErrUnseen = errors.New("not shown")
	// ErrDrained is that too many codes went to one address or network.
	ErrDrained = errors.New("too many codes to one place")
)

// TakeCode gives a visitor a code of a pool: the one they have already, or one
// that nobody has. ErrNotFound says that none is left, ErrUnseen that nothing
// is recorded of this visitor and the piece, ErrDrained that enough have gone
// to where they are.
func (s *Store) TakeCode(ctx context.Context, site int64, t CodeTaker) (code string, err error) {
	for range 3 { // two requests of one visitor at once may both find that they have none
		err = found(s.db.GetContext(ctx, &code, `select code from codes where site_id = $1 and pool_id = $2 and visitor = $3`, site, t.Pool, t.Visitor))
		if !errors.Is(err, ErrNotFound) {
			return code, err
		}
		if err = s.mayTake(ctx, site, t); err != nil {
			return "", err
		}
		err = s.db.GetContext(ctx, &code, `
			update codes set visitor = $3, piece_id = $4, given_at = now(), address = nullif($5, ''), network = nullif($6, ''), walk_id = nullif($7, '')::uuid
			where site_id = $1 and pool_id = $2 and visitor is null and code = (
				select code from codes where site_id = $1 and pool_id = $2 and visitor is null order by code limit 1 for update skip locked)
			returning code`, site, t.Pool, t.Visitor, t.Piece, t.Address, t.Network, t.Walk)
		if !isTwice(err) {
			return code, found(err)
		}
	}
	return "", err
}

func (s *Store) mayTake(ctx context.Context, site int64, t CodeTaker) error {
	var is struct {
		Seen    bool `db:"seen"`
		Hour    int  `db:"hour"`
		Day     int  `db:"day"`
		Network int  `db:"network"`
	}
	err := s.db.GetContext(ctx, &is, `
		select exists (select 1 from seen where site_id = $1 and visitor = $3 and piece_id = $2 and (variant <> '' or several))
			or exists (select 1 from walks where site_id = $1 and id = nullif($6, '')::uuid and piece_id = $2 and visitor = $3) as seen,
			(select count(*) from codes where site_id = $1 and address = $4 and given_at > now() - interval '1 hour') as hour,
			(select count(*) from codes where site_id = $1 and address = $4 and given_at > now() - interval '1 day') as day,
			(select count(*) from codes where site_id = $1 and network = $5 and given_at > now() - interval '1 day') as network`,
		site, t.Piece, t.Visitor, t.Address, t.Network, t.Walk)
	perDay := CodesPerDay
	if !is.Seen {
		perDay = CodesUnwatched
	}
	switch {
	case err != nil:
		return err
	case !is.Seen && !t.Unwatched:
		return ErrUnseen
	case t.Address != "" && (is.Hour >= CodesPerHour || is.Day >= perDay), t.Network != "" && is.Network >= CodesPerNetworkDay:
		return ErrDrained
	}
	return nil
}
