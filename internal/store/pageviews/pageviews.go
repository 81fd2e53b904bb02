// Package pageviews keeps the recorded part of page views: the visit log that rehearsals
// read, and what the script cost the pages.
package pageviews

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"

	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// PageView is a row of the visit log.
type PageView struct {
	ID      string          `db:"id"`
	Visitor string          `db:"visitor"`
	Visit   string          `db:"visit"`
	At      time.Time       `db:"at"` // of arrival
	Seconds int             `db:"seconds"`
	Facts   json.RawMessage `db:"facts"`
	Moments json.RawMessage `db:"moments"` // a rehearse.Moments
}

// Add records a page view. Recorded again, the longer stay holds.
// isNew says that it was not there before.
func (s *Store) Add(ctx context.Context, site int64, v PageView) (isNew bool, err error) {
	err = s.db.GetContext(ctx, &isNew, `
		insert into page_views as p (site_id, id, visitor, visit, at, seconds, facts, moments) values ($1, $2, $3, $4, $5, $6, $7, $8)
		on conflict (site_id, id) do update set seconds = excluded.seconds, moments = excluded.moments, written_at = clock_timestamp()
			where p.seconds <= excluded.seconds and p.visitor = excluded.visitor
		returning xmax = 0`,
		site, v.ID, v.Visitor, v.Visit, v.At, v.Seconds, v.Facts, v.Moments)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil // the longer stay holds
	}
	return isNew, err
}

// Copy records many new page views at once.
func (s *Store) Copy(ctx context.Context, site int64, views []PageView) error {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(driver any) error {
		_, err := driver.(*stdlib.Conn).Conn().CopyFrom(ctx, pgx.Identifier{"page_views"},
			[]string{"site_id", "id", "visitor", "visit", "at", "seconds", "facts", "moments"},
			pgx.CopyFromSlice(len(views), func(i int) ([]any, error) {
				v := views[i]
				return []any{site, v.ID, v.Visitor, v.Visit, v.At, v.Seconds, v.Facts, v.Moments}, nil
			}))
		return err
	})
}

// Read gives the page views that arrived after oldest and were written at
// since or later, and since when to ask next. Asked so, none is left out; one
// that was written while a transaction was under way may be given twice. The
// times are the database's, so that they go with the rows into a dump and mean
// the same in another cluster.
func (s *Store) Read(ctx context.Context, site int64, since, oldest time.Time, do func(PageView) error) (next time.Time, err error) {
	if err := s.db.GetContext(ctx, &next, `select clock_timestamp()`); err != nil {
		return since, err
	}
	// What a transaction under way has written is not to be seen yet, and has a
	// time after its start. One that has not written yet writes after next.
	var under *time.Time
	if err := s.db.GetContext(ctx, &under, `
		select min(xact_start) from pg_stat_activity where datname = current_database() and backend_xid is not null`); err != nil {
		return since, err
	}
	if under != nil && under.Before(next) {
		next = *under
	}
	rows, err := s.db.QueryxContext(ctx, `
		select id, visitor, visit, at, seconds, facts, moments from page_views
		where site_id = $1 and written_at >= $2 and at > $3 order by at`, site, since, oldest)
	if err != nil {
		return since, err
	}
	defer rows.Close()
	for rows.Next() {
		var v PageView
		if err := rows.StructScan(&v); err != nil {
			return since, err
		}
		if err := do(v); err != nil {
			return since, err
		}
	}
	return next, rows.Err()
}

// LatestAt is when the latest recorded page view began; nil: there is none.
func (s *Store) LatestAt(ctx context.Context, site int64) (at *time.Time, err error) {
	err = s.db.GetContext(ctx, &at, `select max(at) from page_views where site_id = $1`, site)
	return at, err
}

// Forget takes the page views of all sites that arrived before a time
// out of the log.
func (s *Store) Forget(ctx context.Context, before time.Time) error {
	_, err := s.db.ExecContext(ctx, `
		delete from page_views p using sites s where p.site_id = s.id and p.at < $1`, before)
	return err
}
