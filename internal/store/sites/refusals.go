package sites

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"
)

// MostDataNames is how many names of its own data a site may use in the visit log.
const MostDataNames = 200

// DataNames lists the names a site's pages call their own data by.
func (s *Store) DataNames(ctx context.Context, site int64) (names []string, err error) {
	err = s.db.SelectContext(ctx, &names, `select name from data_names where site_id = $1 order by name limit $2`, site, MostDataNames)
	return names, err
}

// AddDataNames keeps new names as long as there is room for them, and gives
// those that are kept.
func (s *Store) AddDataNames(ctx context.Context, site int64, names []string) (kept []string, err error) {
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		// One at a time for a site, so that the count holds.
		if _, err := tx.ExecContext(ctx, `select 1 from sites where id = $1 for no key update`, site); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			insert into data_names (site_id, name)
			select $1, n from unnest($2::text[]) n
			where not exists (select 1 from data_names d where d.site_id = $1 and d.name = n)
			limit greatest(0, $3 - (select count(*) from data_names where site_id = $1))
			on conflict do nothing`, site, names, MostDataNames); err != nil {
			return err
		}
		return tx.SelectContext(ctx, &kept, `select name from data_names where site_id = $1 and name = any($2::text[])`, site, names)
	})
	return kept, err
}

// ForgetDataName makes room for another name. Page views that use it are kept
// without it from now on.
func (s *Store) ForgetDataName(ctx context.Context, site int64, name string) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `delete from data_names where site_id = $1 and name = $2`, site, name); err != nil {
			return err
		}
		return NewSnapshot(ctx, tx, site)
	})
}

// Refusal is what a site's pages sent and was not kept, or could not do, of one kind
// on one day.
type Refusal struct {
	Kind    string    `db:"kind"`
	Day     time.Time `db:"day"`
	Times   int64     `db:"times"`
	Example string    `db:"example"`
	LastAt  time.Time `db:"last_at"`
}

// CountRefusals adds to what was refused.
func (s *Store) CountRefusals(ctx context.Context, site int64, kind, example string, times int64) error {
	_, err := s.db.ExecContext(ctx, `
		insert into refusals as r (site_id, kind, day, times, example, last_at) values ($1, $2, current_date, $3, $4, now())
		on conflict (site_id, kind, day) do update set times = r.times + excluded.times, example = excluded.example, last_at = excluded.last_at`,
		site, kind, times, example)
	return err
}

// Refusals lists what was refused in the last days, by kind over all of them.
func (s *Store) Refusals(ctx context.Context, site int64, days int) (refusals []Refusal, err error) {
	err = s.db.SelectContext(ctx, &refusals, `
		select kind, max(day) as day, sum(times) as times, (array_agg(example order by last_at desc))[1] as example, max(last_at) as last_at
		from refusals where site_id = $1 and day > current_date - $2::int group by kind order by kind limit 50`, site, days)
	return refusals, err
}
