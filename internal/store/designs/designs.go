// Package designs keeps drawings of what went live, by their hashes: visitors may ask
// for any of them for as long as a page is open.
package designs

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"github.com/jmoiron/sqlx"

	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// Get gives a drawing by its hash.
func (s *Store) Get(ctx context.Context, site int64, hash string) (body []byte, err error) {
	err = s.db.GetContext(ctx, &body, `select body from designs where site_id = $1 and hash = $2`, site, hash)
	return body, pg.Found(err)
}

// Keep keeps drawings that are not kept yet: those which a newer
// program writes of a piece that an older one launched.
func (s *Store) Keep(ctx context.Context, site int64, drawings map[string][]byte) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error { return Keep(ctx, tx, site, drawings) })
}

// Keep keeps what visitors will fetch by its hash.
func Keep(ctx context.Context, tx *sqlx.Tx, site int64, drawings map[string][]byte) error {
	for _, hash := range slices.Sorted(maps.Keys(drawings)) {
		if _, err := tx.ExecContext(ctx, `insert into designs (site_id, hash, body) values ($1, $2, $3) on conflict do nothing`, site, hash, drawings[hash]); err != nil {
			return fmt.Errorf("keeping a design: %w", err)
		}
	}
	return nil
}
