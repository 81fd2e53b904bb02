// Package codes keeps pools of codes, and which visitor has which.
package codes

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// MostPools is how many pools of codes a site may keep.
const MostPools = 200

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

// Add adds codes to a pool, which is made if it is not there; added tells
// how many were new to it.
func (s *Store) Add(ctx context.Context, site int64, id, name string, codes []string) (added int64, err error) {
	if err := s.db.Room(ctx, MostPools, "code_pools", "id", site, id); err != nil {
		return 0, err
	}
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
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

// List lists a pool's codes in their order, those after one; of them those that
// hold a text, or went to an address that does, where search is not empty. It
// fails with ErrNotFound where there is no such pool.
func (s *Store) List(ctx context.Context, site int64, pool, after, search string, limit int) (codes []PoolCode, err error) {
	err = s.db.SelectContext(ctx, &codes, `
		select c.code, c.given_at, coalesce(c.piece_id, '') as piece_id, coalesce(l.email, '') as email
		from codes c left join walks w on w.site_id = c.site_id and w.id = c.walk_id left join leads l on l.site_id = w.site_id and l.id = w.lead_id
		where c.site_id = $1 and c.pool_id = $2 and c.code > $3
			and ($5 = '' or strpos(lower(c.code), lower($5)) > 0 or strpos(l.email_key, lower($5)) > 0)
		order by c.code limit $4`, site, pool, after, limit, search)
	if err == nil && len(codes) == 0 && after == "" {
		var here bool
		if err = s.db.GetContext(ctx, &here, `select exists (select from code_pools where site_id = $1 and id = $2)`, site, pool); err == nil && !here {
			err = fault.ErrNotFound
		}
	}
	return codes, err
}

// RemovePool forgets a pool with its codes.
func (s *Store) RemovePool(ctx context.Context, site int64, id string) error {
	return s.db.ExecOne(ctx, `delete from code_pools where site_id = $1 and id = $2`, site, id)
}

// Taker asks for a code of a pool.
type Taker struct {
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
	PerHour       = 10
	PerDay        = 40
	Unwatched     = 3
	PerNetworkDay = 200
)

var (
	// ErrUnseen is that the visitor never saw the piece and never answered it.
	ErrUnseen = errors.New("not shown")
	// ErrDrained is that too many codes went to one address or network.
	ErrDrained = errors.New("too many codes to one place")
)

// Take gives a visitor a code of a pool: the one they have already, or one
// that nobody has. ErrNotFound says that none is left, ErrUnseen that nothing
// is recorded of this visitor and the piece, ErrDrained that enough have gone
// to where they are.
func (s *Store) Take(ctx context.Context, site int64, t Taker) (code string, err error) {
	for range 3 { // two requests of one visitor at once may both find that they have none
		err = pg.Found(s.db.GetContext(ctx, &code, `select code from codes where site_id = $1 and pool_id = $2 and visitor = $3`, site, t.Pool, t.Visitor))
		if !errors.Is(err, fault.ErrNotFound) {
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
		if !pg.IsTwice(err) {
			return code, pg.Found(err)
		}
	}
	return "", err
}

func (s *Store) mayTake(ctx context.Context, site int64, t Taker) error {
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
	perDay := PerDay
	if !is.Seen {
		perDay = Unwatched
	}
	switch {
	case err != nil:
		return err
	case !is.Seen && !t.Unwatched:
		return ErrUnseen
	case t.Address != "" && (is.Hour >= PerHour || is.Day >= perDay), t.Network != "" && is.Network >= PerNetworkDay:
		return ErrDrained
	}
	return nil
}
