// Package store keeps everything in PostgreSQL, by subject: each is a package of
// its own with its SQL beside the functions that answer questions, over the
// connections of package pg. Keys lead with the site, and every query is bounded.
package store

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"io/fs"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"

	"gobbet/internal/jobs"
	"gobbet/internal/store/accounts"
	"gobbet/internal/store/alerts"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/designs"
	"gobbet/internal/store/events"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/quotas"
	"gobbet/internal/store/reaches"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/walks"
)

// Store is all that is kept. It is safe for use by many goroutines.
type Store struct {
	db *pg.DB

	Accounts  *accounts.Store  // who signs in, and their sessions
	Sites     *sites.Store     // sites, their settings and kit, names of their data
	Pieces    *pieces.Store    // pieces, their lives, runs, moves and versions
	Designs   *designs.Store   // drawings of what was live
	Reaches   *reaches.Store   // rules kept under a name
	Library   *library.Store   // pictures, files, snippets
	Codes     *codes.Store     // pools of codes, and who has which
	Events    *events.Store    // what happened on pages, and its totals
	Results   *results.Store   // totals, as they are asked for
	Walks     *walks.Store     // ways through pieces: steps, goes, votes, counts
	Leads     *leads.Store     // people, and what they sent
	PageViews *pageviews.Store // the visit log
	Alerts    *alerts.Store    // what is not as usual
	Quotas    *quotas.Store    // counts against limits
}

// Open connects to a database, waiting up to wait for it to answer.
func Open(ctx context.Context, url string, wait time.Duration) (*Store, error) {
	db, err := pg.Open(ctx, url, wait)
	if err != nil {
		return nil, err
	}
	return &Store{
		db: db, Accounts: accounts.New(db), Sites: sites.New(db), Pieces: pieces.New(db), Designs: designs.New(db), Reaches: reaches.New(db),
		Library: library.New(db), Codes: codes.New(db), Events: events.New(db), Results: results.New(db), Walks: walks.New(db), Leads: leads.New(db),
		PageViews: pageviews.New(db), Alerts: alerts.New(db), Quotas: quotas.New(db),
	}, nil
}

// Close lets go of all connections.
func (s *Store) Close() error { return s.db.Close() }

// URL is the address the store was opened with.
func (s *Store) URL() string { return s.db.URL() }

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.db.Freshen(s.db.PingContext(ctx)) }

// DB is the connections themselves, for what keeps tables of its own.
func (s *Store) DB() *sql.DB { return s.db.DB.DB }

//go:embed migrations/*.sql
var migrations embed.FS

// Migrate brings the database to this program's version. Several programs may
// call it at once; one does the work.
func (s *Store) Migrate(ctx context.Context) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	one, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 600))
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, s.DB(), files, goose.WithSessionLocker(one))
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("the database could not be brought up to date: %w", err)
	}
	if err := jobs.Migrate(ctx, s.DB()); err != nil {
		return fmt.Errorf("the queue of jobs could not be brought up to date: %w", err)
	}
	return s.Events.MakeMonths(ctx, time.Now().AddDate(0, -1, 0), time.Now())
}
