package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
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
		if err := s.tx(ctx, func(tx *sqlx.Tx) error { return makeMonth(ctx, tx, month) }); err != nil {
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
		ID       int64    `db:"id"`
		Settings Settings `db:"settings"`
	}
	if err := s.db.SelectContext(ctx, &sites, `select id, settings from sites`); err != nil {
		return err
	}
	oldest := now
	var errs []error
	for _, site := range sites {
		before := monthOf(now).AddDate(0, -site.Settings.KeepMonths, 0)
		if before.Before(oldest) {
			oldest = before
		}
		errs = append(errs, s.forgetBefore(ctx, site.ID, before))
	}
	if err := errors.Join(errs...); err != nil || len(sites) == 0 {
		return err
	}
	return s.dropMonths(ctx, oldest)
}

func (s *Store) forgetBefore(ctx context.Context, site int64, before time.Time) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		gone := int64(0)
		for _, query := range []string{
			`delete from events where site_id = $1 and at < $2 and id < '` + monthStart(before) + `'`,
			`delete from events_other where site_id = $1 and at < $2`,
			`delete from goals_reached where site_id = $1 and at < $2`,
			`delete from seen where site_id = $1 and first_at < $2`,
		} {
			result, err := tx.ExecContext(ctx, query, site, before)
			if err != nil {
				return err
			}
			n, err := result.RowsAffected()
			if err != nil {
				return err
			}
			gone += n
		}
		if gone == 0 {
			return nil
		}
		_, err := tx.ExecContext(ctx, `update sites set raw_since = greatest(raw_since, $2) where id = $1`, site, before)
		return err
	})
}

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
		if _, err := s.db.ExecContext(ctx, `drop table if exists `+table); err != nil {
			return err
		}
	}
	return nil
}
