package sites

import (
	"context"
	"database/sql/driver"

	"github.com/jmoiron/sqlx"

	"gobbet/core/setup"
	"gobbet/internal/store/pg"
)

// Settings is how a site is set up, as its row has it.
type Settings struct{ setup.Settings }

// Value implements driver.Valuer.
func (s Settings) Value() (driver.Value, error) {
	return pg.AsJSON(s.Settings)
}

// Scan implements sql.Scanner. What was never set is as setup.Default has it.
func (s *Settings) Scan(from any) error {
	s.Settings = setup.Default()
	return pg.FromJSON(from, &s.Settings)
}

// ChangeSettings sets a site's settings, which Check has passed. Like
// ChangeSite it fails with ErrStale.
func (s *Store) ChangeSettings(ctx context.Context, site int64, version int, settings setup.Settings) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := pg.Changed(tx.ExecContext(ctx, `
			update sites set settings = $3, settings_version = settings_version + 1 where id = $1 and settings_version = $2`, site, version, Settings{settings})); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, site)
	})
}
