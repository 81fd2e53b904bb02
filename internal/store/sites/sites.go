// Package sites keeps sites: names, settings, style kit, names of their own data, and
// what their pages sent that was refused.
package sites

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/style"
	"gobbet/internal/store/designs"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// Site is one website.
type Site struct {
	ID       int64     `db:"id"`
	Key      string    `db:"key"`
	Name     string    `db:"name"`
	Zone     string    `db:"zone"`
	Origins  Texts     `db:"origins"`
	Snapshot int64     `db:"snapshot"`
	Settings Settings  `db:"settings"`
	Kit      style.Kit `db:"-"`
	KitJSON  []byte    `db:"kit"`
	// Versions count what is changed as a whole, so that of two windows the later
	// does not undo the earlier.
	Version         int `db:"version"`
	SettingsVersion int `db:"settings_version"`
	KitVersion      int `db:"kit_version"`
	OrderVersion    int `db:"order_version"`
	// Secret signs the links that open the site with the inspector.
	Secret []byte `db:"secret"`
}

// Texts is a list of texts, kept as JSON.
type Texts []string

// Value implements driver.Valuer.
func (t Texts) Value() (driver.Value, error) { return pg.AsJSON([]string(t)) }

// Scan implements sql.Scanner.
func (t *Texts) Scan(from any) error { return pg.FromJSON(from, (*[]string)(t)) }

// Location is the site's time zone; UTC where the zone is not known here.
func (s Site) Location() *time.Location {
	if zone, err := time.LoadLocation(s.Zone); err == nil {
		return zone
	}
	return time.UTC
}

const SiteColumns = `s.id, s.key, s.name, s.zone, s.origins, s.snapshot, s.settings, s.secret, s.kit, s.version, s.settings_version, s.kit_version, s.order_version`

// Of lists the sites an account may work on.
func (s *Store) Of(ctx context.Context, account int64) (sites []Site, err error) {
	err = s.db.SelectContext(ctx, &sites, `
		select `+SiteColumns+` from sites s join members m on m.site_id = s.id
		where m.account_id = $1 order by s.name, s.id`, account)
	return withKits(sites), err
}

// OneOf gives a site that an account may work on.
func (s *Store) OneOf(ctx context.Context, account, site int64) (Site, error) {
	var sites []Site
	err := s.db.SelectContext(ctx, &sites, `
		select `+SiteColumns+` from sites s join members m on m.site_id = s.id
		where m.account_id = $1 and s.id = $2`, account, site)
	if err == nil && len(sites) == 0 {
		err = fault.ErrNotFound
	}
	if err != nil {
		return Site{}, err
	}
	return withKits(sites)[0], nil
}

// SnapshotNumbers gives how often what visitors get of each site has changed, by
// the site's id.
func (s *Store) SnapshotNumbers(ctx context.Context) (numbers []SnapshotNumber, err error) {
	err = s.db.SelectContext(ctx, &numbers, `select id, key, snapshot from sites order by id`)
	return numbers, err
}

// SnapshotNumber is at which snapshot a site is.
type SnapshotNumber struct {
	ID       int64  `db:"id"`
	Key      string `db:"key"`
	Snapshot int64  `db:"snapshot"`
}

// ByID gives sites by their ids, for the snapshots; nil: every site.
func (s *Store) ByID(ctx context.Context, ids []int64) (sites []Site, err error) {
	err = s.db.SelectContext(ctx, &sites, `select `+SiteColumns+` from sites s where $1::bigint[] is null or s.id = any($1) order by s.id`, ids)
	return withKits(sites), err
}

// withKits reads each site's style kit. One that this program cannot read is as
// if it were not there: designs then have the usual look.
func withKits(sites []Site) []Site {
	for i := range sites {
		kit, err := style.ReadKit(sites[i].KitJSON)
		if err != nil {
			kit = style.UsualKit()
		}
		sites[i].Kit, sites[i].KitJSON = kit, nil
	}
	return sites
}

// ChangeKit sets a site's style kit, and keeps the drawings that live pieces
// have in it. Like ChangeSite it fails with ErrStale.
func (s *Store) ChangeKit(ctx context.Context, site int64, version int, kit style.Kit, drawings map[string][]byte) error {
	raw, err := json.Marshal(kit)
	if err != nil {
		return err
	}
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := pg.Changed(tx.ExecContext(ctx, `
			update sites set kit = $3, kit_version = kit_version + 1 where id = $1 and kit_version = $2`, site, version, string(raw))); err != nil {
			return err
		}
		if err := designs.Keep(ctx, tx, site, drawings); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, site)
	})
}

// Add adds a site with its first member.
func (s *Store) Add(ctx context.Context, key, name, zone string, origins Texts, account int64) (id int64, err error) {
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &id, `insert into sites (key, name, zone, origins) values ($1, $2, $3, $4) returning id`, key, name, zone, origins); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `insert into members (site_id, account_id) values ($1, $2)`, id, account); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, id)
	})
	return id, err
}

// Change sets what a marketer may change of a site, if it is still at the
// version the change was made on. It fails with ErrStale if it is not.
func (s *Store) Change(ctx context.Context, site int64, version int, name, zone string, origins Texts) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := pg.Changed(tx.ExecContext(ctx, `
			update sites set name = $3, zone = $4, origins = $5, version = version + 1 where id = $1 and version = $2`, site, version, name, zone, origins)); err != nil {
			return err
		}
		// On another clock schedules end at another time: it is looked at from a day before.
		if _, err := tx.ExecContext(ctx, `update pieces set ends_at = ends_at - interval '1 day' where site_id = $1 and ends_at is not null`, site); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, site)
	})
}

// SnapshotChannel is where servers hear, once a change is committed, which
// site to load again.
const SnapshotChannel = "gobbet_snapshot"

// NewSnapshot has, once tx is committed, every server that knows the site load it again.
func NewSnapshot(ctx context.Context, tx *sqlx.Tx, site int64) error {
	if _, err := tx.ExecContext(ctx, `update sites set snapshot = snapshot + 1 where id = $1`, site); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `select pg_notify($1, $2::bigint::text)`, SnapshotChannel, site)
	return err
}
