// Package store keeps everything in PostgreSQL.
//
// Every function that answers a question holds its SQL beside it. Keys lead
// with the site, and every query is bounded.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"gobbet/internal/jobs"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver sqlx opens
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

// Store is safe for use by many goroutines.
type Store struct {
	db     *sqlx.DB
	blobs  *sqlx.DB // for bodies of files and pictures alone
	url    string
	intake intake
	// walking are walks as they were left by their latest step.
	walking *lru.Cache[walkKey, kept]
	walks   together
}

// ErrNotFound is that something asked for by name is not there, or not for this account.
var ErrNotFound = errors.New("not found")

// Open connects to a database, waiting up to wait for it to answer.
func Open(ctx context.Context, url string, wait time.Duration) (*Store, error) {
	db, err := pool(url, conns)
	if err != nil {
		return nil, fmt.Errorf("the database address is not one: %w", err)
	}
	deadline := time.Now().Add(wait)
	for {
		if err = db.PingContext(ctx); err == nil {
			blobs, err := pool(url, blobConns)
			walking, _ := lru.New[walkKey, kept](mostWalking) // fails only for sizes below 1
			return &Store{db: db, blobs: blobs, url: url, intake: newIntake(), walking: walking, walks: together{db: db}}, err
		}
		if time.Now().After(deadline) || ctx.Err() != nil {
			db.Close()
			return nil, fmt.Errorf("the database does not answer: %w", err)
		}
		time.Sleep(200 * time.Millisecond)
	}
}

const (
	conns     = 16
	idleConns = 16
)

func pool(url string, most int) (*sqlx.DB, error) {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, err
	}
	// Whatever zone the server or its user is set to: a day is a day of UTC, or of a
	// site's zone where a query names it.
	cfg.RuntimeParams["timezone"] = "UTC"
	db := sqlx.NewDb(stdlib.OpenDB(*cfg), "pgx")
	db.SetMaxOpenConns(most)
	db.SetMaxIdleConns(idleConns)
	db.SetConnMaxIdleTime(5 * time.Minute)
	return db, nil
}

// Close lets go of all connections.
func (s *Store) Close() error { return errors.Join(s.db.Close(), s.blobs.Close()) }

// URL is the address the store was opened with.
func (s *Store) URL() string { return s.url }

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.freshen(s.db.PingContext(ctx)) }

// freshen lets go of all idle connections once one was found broken: where the
// database was restarted the others are broken too, and each would fail the
// request that takes it.
func (s *Store) freshen(err error) error {
	if err != nil && Unreachable(err) {
		for _, db := range []*sqlx.DB{s.db, s.blobs} {
			db.SetMaxIdleConns(0)
			db.SetMaxIdleConns(idleConns)
		}
	}
	return err
}

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
	p, err := goose.NewProvider(goose.DialectPostgres, s.db.DB, files, goose.WithSessionLocker(one))
	if err != nil {
		return err
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("the database could not be brought up to date: %w", err)
	}
	if err := jobs.Migrate(ctx, s.db.DB); err != nil {
		return fmt.Errorf("the queue of jobs could not be brought up to date: %w", err)
	}
	return s.MakeMonths(ctx, time.Now().AddDate(0, -1, 0), time.Now())
}

// DB is the connections themselves, for what keeps tables of its own.
func (s *Store) DB() *sql.DB { return s.db.DB }

// tx runs do in a transaction, which holds or is undone as a whole.
func (s *Store) tx(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return errors.Join(err, ignoreDone(tx.Rollback()))
	}
	return tx.Commit()
}

func ignoreDone(err error) error {
	if errors.Is(err, sql.ErrTxDone) {
		return nil
	}
	return err
}

func found(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// isTwice reports whether an error is that something is there already.
func isTwice(err error) bool {
	var answer *pgconn.PgError
	return errors.As(err, &answer) && answer.Code == "23505"
}

// NotText reports whether the database refused a text because no text has such
// characters: a NUL, or bytes that are no UTF-8.
func NotText(err error) bool {
	var answer *pgconn.PgError
	// 22021: character not in repertoire; 22P05: untranslatable character.
	return errors.As(err, &answer) && (answer.Code == "22021" || answer.Code == "22P05")
}

// OutOfRange reports whether the database refused a number that its column cannot hold.
func OutOfRange(err error) bool {
	var answer *pgconn.PgError
	// 22003: numeric value out of range; 22008: datetime field overflow.
	return errors.As(err, &answer) && (answer.Code == "22003" || answer.Code == "22008")
}

// Unreachable reports whether an error is the database's being away, rather
// than its answer.
func Unreachable(err error) bool {
	var answer *pgconn.PgError
	if errors.As(err, &answer) {
		// 57P: being shut down or starting up; 08: connection lost; 53: out of resources.
		return answer.Code[:3] == "57P" || answer.Code[:2] == "08" || answer.Code[:2] == "53"
	}
	var connect *pgconn.ConnectError
	return errors.As(err, &connect) || errors.Is(err, sql.ErrConnDone) || pgconn.SafeToRetry(err) || lost(err)
}
