package pieces

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
)

const (
	sitting      = 3 * time.Minute // changes within which are one version
	keptVersions = 100             // of a piece, beside those that were launched
)

// Version is a draft as it was.
type Version struct {
	Version  int             `db:"version"`
	Draft    json.RawMessage `db:"draft"`
	SavedAt  time.Time       `db:"saved_at"`
	Launched bool            `db:"launched"`
}

// keepVersion keeps a saved draft: in place of the last version where that was
// begun a moment ago, and was not launched.
func keepVersion(ctx context.Context, tx *sqlx.Tx, site int64, id string, version int, draft []byte) error {
	_, err := tx.ExecContext(ctx, `
		with last as (
			select version from piece_versions where site_id = $1 and piece_id = $2 and version < $3 order by version desc limit 1
		), replaced as (
			delete from piece_versions v using last
			where v.site_id = $1 and v.piece_id = $2 and v.version = last.version and not v.launched and v.began_at > now() - make_interval(secs => $5)
			returning v.began_at
		)
		insert into piece_versions (site_id, piece_id, version, draft, began_at)
		values ($1, $2, $3, $4, coalesce((select began_at from replaced), now()))
		on conflict (site_id, piece_id, version) do update set draft = excluded.draft`,
		site, id, version, draft, sitting.Seconds())
	if err != nil {
		return fmt.Errorf("keeping a version: %w", err)
	}
	_, err = tx.ExecContext(ctx, `
		delete from piece_versions where site_id = $1 and piece_id = $2 and not launched and version <= (
			select version from piece_versions where site_id = $1 and piece_id = $2 and not launched order by version desc offset $3 limit 1)`,
		site, id, keptVersions)
	return err
}

// Versions lists a piece's drafts as they were, the latest first.
func (s *Store) Versions(ctx context.Context, site int64, id string, limit int) (versions []Version, err error) {
	err = s.db.SelectContext(ctx, &versions, `
		select version, draft, saved_at, launched from piece_versions
		where site_id = $1 and piece_id = $2 order by version desc limit $3`, site, id, limit)
	return versions, err
}
