// Package reaches keeps rules under names of their own.
package reaches

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/sites"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// MostReaches is how many saved reaches a site may have.
const MostReaches = 500

// Reach is a rule kept under a name of its own, which pieces may stand on.
type Reach struct {
	ID        string          `db:"id"`
	Name      string          `db:"name"`
	Rule      json.RawMessage `db:"rule"`
	UpdatedAt time.Time       `db:"updated_at"`
}

// List lists a site's saved reaches by name.
func (s *Store) List(ctx context.Context, site int64) (reaches []Reach, err error) {
	err = s.db.SelectContext(ctx, &reaches, `select id, name, rule, updated_at from reaches where site_id = $1 order by lower(name), id`, site)
	return reaches, err
}

// Book reads a site's saved reaches for those who compile rules. One that
// cannot be read is left out.
func (s *Store) Book(ctx context.Context, site int64) (reach.Book, error) {
	reaches, err := s.List(ctx, site)
	book := reach.Book{}
	for _, r := range reaches {
		if rule, err := reach.Parse(r.Rule); err == nil {
			book[r.ID] = rule
		}
	}
	return book, err
}

// Save adds a reach or changes the one with its id.
func (s *Store) Save(ctx context.Context, site int64, r Reach) error {
	if err := s.db.Room(ctx, MostReaches, "reaches", "id", site, r.ID); err != nil {
		return err
	}
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `
			insert into reaches (site_id, id, name, rule) values ($1, $2, $3, $4)
			on conflict (site_id, id) do update set name = excluded.name, rule = excluded.rule, updated_at = now()`, site, r.ID, r.Name, r.Rule)
		if err != nil {
			return err
		}
		return sites.NewSnapshot(ctx, tx, site)
	})
}

// Remove takes a saved reach away.
func (s *Store) Remove(ctx context.Context, site int64, id string) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		result, err := tx.ExecContext(ctx, `delete from reaches where site_id = $1 and id = $2`, site, id)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, fault.ErrNotFound)
		}
		return sites.NewSnapshot(ctx, tx, site)
	})
}
