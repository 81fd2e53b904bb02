package sites

import (
	"context"
	"database/sql/driver"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
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

// ChangePart sets a part of a site's settings as others have it, if the part is
// still at the version the change was made on, and gives the settings as they
// are now. Check looks at the whole before it is kept. It fails with ErrStale;
// what is there already is no change.
func (s *Store) ChangePart(ctx context.Context, site int64, part setup.Part, version string, others setup.Settings) (now setup.Settings, err error) {
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		var row Settings
		if err := pg.Found(tx.GetContext(ctx, &row, `select settings from sites where id = $1 for update`, site)); err != nil {
			return err
		}
		now = row.With(part, others)
		if err := now.Check(); err != nil {
			return err
		}
		switch row.Version(part) {
		case now.Version(part):
			return nil
		case version:
		default:
			return fault.ErrStale
		}
		if _, err := tx.ExecContext(ctx, `update sites set settings = $2, settings_version = settings_version + 1 where id = $1`, site, Settings{now}); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, site)
	})
	return now, err
}

// ChangeSettings sets all of a site's settings, which Check has passed. It fails with ErrStale.
func (s *Store) ChangeSettings(ctx context.Context, site int64, version int, settings setup.Settings) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := pg.Changed(tx.ExecContext(ctx, `
			update sites set settings = $3, settings_version = settings_version + 1 where id = $1 and settings_version = $2`, site, version, Settings{settings})); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, site)
	})
}
