package events

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/internal/store/pg"
	"gobbet/internal/store/sites"
)

// Events are kept by month, a table each, which their ids say: a UUIDv7 begins
// with its time.

const (
	monthsAhead = 2
	monthsLock  = 0x60BBE8
)

// monthStart is the first id of a month.
func monthStart(month time.Time) string {
	text := fmt.Sprintf("%012x", month.UnixMilli())
	return text[:8] + "-" + text[8:] + "-0000-0000-000000000000"
}

func monthOf(at time.Time) time.Time {
	return time.Date(at.UTC().Year(), at.UTC().Month(), 1, 0, 0, 0, 0, time.UTC)
}

func monthTable(month time.Time) string { return "events_" + month.Format("2006_01") }

// MakeMonths makes the tables of a month and of those after it, up to a few ahead
// of now. What has gone to no month because its table was missing goes there.
func (s *Store) MakeMonths(ctx context.Context, first, now time.Time) error {
	for month := monthOf(first); !month.After(monthOf(now).AddDate(0, monthsAhead, 0)); month = month.AddDate(0, 1, 0) {
		var there bool
		if err := s.db.GetContext(ctx, &there, `select to_regclass($1) is not null`, monthTable(month)); err != nil {
			return err
		}
		if there {
			continue
		}
		if err := s.db.Tx(ctx, func(tx *sqlx.Tx) error { return makeMonth(ctx, tx, month) }); err != nil {
			return err
		}
	}
	return nil
}

func makeMonth(ctx context.Context, tx *sqlx.Tx, month time.Time) error {
	if _, err := tx.ExecContext(ctx, `select pg_advisory_xact_lock($1)`, monthsLock); err != nil {
		return err
	}
	var there bool
	if err := tx.GetContext(ctx, &there, `select to_regclass($1) is not null`, monthTable(month)); err != nil || there {
		return err
	}
	name, from, to := monthTable(month), monthStart(month), monthStart(month.AddDate(0, 1, 0))
	for _, step := range []string{
		`create table ` + name + ` (like events including defaults including constraints)`,
		`with moved as (delete from events_other where id >= '` + from + `' and id < '` + to + `' returning *) insert into ` + name + ` select * from moved`,
		`alter table events attach partition ` + name + ` for values from ('` + from + `') to ('` + to + `')`,
	} {
		if _, err := tx.ExecContext(ctx, step); err != nil {
			return err
		}
	}
	return nil
}

// ForgetEvents deletes what is older than a site keeps: raw events, goals that
// were reached, and which visitors saw what. Totals stay.
func (s *Store) ForgetEvents(ctx context.Context, now time.Time) error {
	var sites []struct {
		ID       int64          `db:"id"`
		Settings sites.Settings `db:"settings"`
	}
	if err := s.db.SelectContext(ctx, &sites, `select id, settings from sites`); err != nil {
		return err
	}
	if len(sites) == 0 {
		return nil
	}
	oldest := now
	before := make([]time.Time, len(sites))
	for i, site := range sites {
		if before[i] = monthOf(now).AddDate(0, -site.Settings.KeepMonths, 0); before[i].Before(oldest) {
			oldest = before[i]
		}
	}
	// Whole months first: what goes with its table need not be deleted row by row.
	errs := []error{s.dropMonths(ctx, oldest)}
	for i, site := range sites {
		errs = append(errs, s.forgetBefore(ctx, site.ID, before[i]))
	}
	return errors.Join(errs...)
}

// forgetBefore deletes what a site keeps no longer, a few rows at a time, so that
// nobody waits for long. Months that no site keeps have gone as a whole by then.
func (s *Store) forgetBefore(ctx context.Context, site int64, before time.Time) error {
	// Said first, and not while all is counted anew: what is half deleted must not be
	// counted as if it was all.
	if err := s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, fmt.Sprintf(`select pg_advisory_xact_lock_shared(%d, %d)`, siteLocks, lockOf(site))); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `
			update sites set raw_since = greatest(raw_since, $2) where id = $1 and (
				exists (select from events where site_id = $1 and id < '`+monthStart(before)+`' and at < $2) or exists (select from events_other where site_id = $1 and at < $2)
				or exists (select from goals_reached where site_id = $1 and at < $2) or exists (select from seen where site_id = $1 and first_at < $2))`, site, before)
		return err
	}); err != nil {
		return err
	}
	for _, query := range []string{
		`delete from events where site_id = $1 and id in (select id from events where site_id = $1 and id < '` + monthStart(before) + `' and at < $2 limit $3)`,
		`delete from events_other where site_id = $1 and id in (select id from events_other where site_id = $1 and at < $2 limit $3)`,
		`delete from goals_reached where (site_id, visitor, id) in (select site_id, visitor, id from goals_reached where site_id = $1 and at < $2 limit $3)`,
		`delete from seen where (site_id, visitor, piece_id) in (select site_id, visitor, piece_id from seen where site_id = $1 and first_at < $2 limit $3)`,
	} {
		for n := int64(forgetRows); n == forgetRows; {
			result, err := s.db.ExecContext(ctx, query, site, before, forgetRows)
			if err != nil {
				return err
			}
			if n, err = result.RowsAffected(); err != nil {
				return err
			}
		}
	}
	return nil
}

const (
	forgetRows = 5000
	// A month's table is dropped only where nobody reads of it for so long: whoever
	// stores events waits behind who waits to drop.
	dropPatience = 200 * time.Millisecond
	dropTries    = 20
)

// dropMonths drops the tables of months that no site keeps.
func (s *Store) dropMonths(ctx context.Context, oldest time.Time) error {
	var tables []string
	if err := s.db.SelectContext(ctx, &tables, `
		select c.relname from pg_inherits i join pg_class c on c.oid = i.inhrelid
		where i.inhparent = 'events'::regclass and c.relname ~ '^events_[0-9]{4}_[0-9]{2}$' order by 1`); err != nil {
		return err
	}
	for _, table := range tables {
		month, err := time.Parse("events_2006_01", table)
		if err != nil || month.AddDate(0, 1, 0).After(oldest) {
			continue
		}
		if err := s.dropMonth(ctx, table, month.AddDate(0, 1, 0)); err != nil {
			return err
		}
	}
	return nil
}

// dropMonth drops a table as soon as nobody reads of it. Raw events are there
// since its end, from then on.
func (s *Store) dropMonth(ctx context.Context, table string, end time.Time) error {
	var err error
	for try := range dropTries {
		err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
			if _, err := tx.ExecContext(ctx, fmt.Sprintf(`set local lock_timeout = %d`, dropPatience.Milliseconds())); err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `drop table if exists `+table); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx, `update sites set raw_since = greatest(raw_since, $1) where raw_since is null or raw_since < $1`, end)
			return err
		})
		if !pg.LockTimedOut(err) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(try+1) * 100 * time.Millisecond):
		}
	}
	return fmt.Errorf("%s is read from all the time: %w", table, err)
}
