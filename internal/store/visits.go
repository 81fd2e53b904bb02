package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
)

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

// AddPageView records a page view. Recorded again, the longer stay holds.
func (s *Store) AddPageView(ctx context.Context, site int64, v PageView) error {
	_, err := s.db.ExecContext(ctx, `
		insert into page_views as p (site_id, id, visitor, visit, at, seconds, facts, moments) values ($1, $2, $3, $4, $5, $6, $7, $8)
		on conflict (site_id, id) do update set seconds = excluded.seconds, moments = excluded.moments, written = pg_current_xact_id()
			where p.seconds <= excluded.seconds and p.visitor = excluded.visitor`,
		site, v.ID, v.Visitor, v.Visit, v.At, v.Seconds, v.Facts, v.Moments)
	return err
}

// CopyPageViews records many new page views at once.
func (s *Store) CopyPageViews(ctx context.Context, site int64, views []PageView) error {
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

// PageViews gives the page views that arrived after oldest and were written by
// transactions from since on and finished by now, and since when to ask next.
// Each is given once, and once more when its stay is recorded again.
func (s *Store) PageViews(ctx context.Context, site int64, since uint64, oldest time.Time, do func(PageView) error) (next uint64, err error) {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return since, err
	}
	defer tx.Rollback()
	if err := tx.GetContext(ctx, &next, `select pg_snapshot_xmin(pg_current_snapshot())::text::bigint`); err != nil {
		return since, err
	}
	rows, err := tx.QueryxContext(ctx, `
		select id, visitor, visit, at, seconds, facts, moments from page_views
		where site_id = $1 and written >= $2::text::xid8 and written < $3::text::xid8 and at > $4 order by at`,
		site, fmt.Sprint(since), fmt.Sprint(next), oldest)
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

// ForgetPageViews takes the page views of all sites that arrived before a time
// out of the log.
func (s *Store) ForgetPageViews(ctx context.Context, before time.Time) error {
	_, err := s.db.ExecContext(ctx, `
		delete from page_views p using sites s where p.site_id = s.id and p.at < $1`, before)
	return err
}
