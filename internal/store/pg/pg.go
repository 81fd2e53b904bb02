// Package pg is what the parts of the store share: connections, transactions,
// errors, and values that stand in columns.
package pg

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
)

// DB is connections to one database. It is safe for use by many goroutines.
type DB struct {
	*sqlx.DB
	// Blobs are connections for bodies of files and pictures alone.
	Blobs *sqlx.DB
	url   string
}

// How many connections a process holds at most.
const (
	conns     = 16
	blobConns = 4
)

// Open connects to a database, waiting up to wait for it to answer.
func Open(ctx context.Context, url string, wait time.Duration) (*DB, error) {
	db, err := connect(url, conns)
	if err != nil {
		return nil, fmt.Errorf("the database address is not one: %w", err)
	}
	deadline := time.Now().Add(wait)
	for {
		if err = db.PingContext(ctx); err == nil {
			blobs, err := connect(url, blobConns)
			return &DB{DB: db, Blobs: blobs, url: url}, err
		}
		if time.Now().After(deadline) || ctx.Err() != nil {
			db.Close()
			return nil, fmt.Errorf("the database does not answer: %w", err)
		}
		time.Sleep(200 * time.Millisecond)
	}
}

func connect(url string, most int) (*sqlx.DB, error) {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, err
	}
	// Whatever zone the server or its user is set to: a day is a day of UTC, or of a
	// site's zone where a query names it.
	cfg.RuntimeParams["timezone"] = "UTC"
	db := sqlx.NewDb(stdlib.OpenDB(*cfg), "pgx")
	db.SetMaxOpenConns(most)
	db.SetMaxIdleConns(conns)
	db.SetConnMaxIdleTime(5 * time.Minute)
	return db, nil
}

// Close lets go of all connections.
func (db *DB) Close() error { return errors.Join(db.DB.Close(), db.Blobs.Close()) }

// URL is the address the database was opened with.
func (db *DB) URL() string { return db.url }

// Freshen lets go of all idle connections once one was found broken: where the
// database was restarted the others are broken too, and each would fail the
// request that takes it. It gives err back.
func (db *DB) Freshen(err error) error {
	if err != nil && Unreachable(err) {
		for _, of := range []*sqlx.DB{db.DB, db.Blobs} {
			of.SetMaxIdleConns(0)
			of.SetMaxIdleConns(conns)
		}
	}
	return err
}

// Tx runs do in a transaction, which holds or is undone as a whole.
func (db *DB) Tx(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	tx, err := db.BeginTxx(ctx, nil)
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

// Room reports with ErrTooMany where a site has as many rows as it may, and one
// more would be another. table and key are names of this program's own.
func (db *DB) Room(ctx context.Context, most int, table, key string, site int64, value string) error {
	var is struct {
		There bool `db:"there"`
		N     int  `db:"n"`
	}
	err := db.GetContext(ctx, &is, `
		select count(*) as n, exists (select 1 from `+table+` where site_id = $1 and `+key+` = $2) as there
		from `+table+` where site_id = $1`, site, value)
	if err == nil && is.N >= most && !is.There {
		err = fault.ErrTooMany
	}
	return err
}

// ExecOne runs a statement that concerns one row; ErrNotFound where there is none.
func (db *DB) ExecOne(ctx context.Context, query string, args ...any) error {
	result, err := db.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, fault.ErrNotFound)
	}
	return nil
}
