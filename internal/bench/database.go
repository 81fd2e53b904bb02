package main

import (
	"context"
	"os"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/internal/localpg"
	"gobbet/internal/store"
	"gobbet/internal/store/sites"
)

// database starts a database server of a measurement's own, with a site in it,
// which done stops. The address is of the database that the store is on.
func database(ctx context.Context, domains sites.Texts) (url string, s *store.Store, site int64, done func(), err error) {
	var undo []func()
	done = func() {
		for i := len(undo) - 1; i >= 0; i-- {
			undo[i]()
		}
	}
	defer func() {
		if err != nil {
			done()
		}
	}()
	home, err := os.MkdirTemp("", "gobbet-bench-*")
	if err != nil {
		return "", nil, 0, done, err
	}
	undo = append(undo, func() { os.RemoveAll(home) })
	os.Chmod(home, 0o755)
	cluster, err := localpg.Start(ctx, localpg.Options{Home: home})
	if err != nil {
		return "", nil, 0, done, err
	}
	undo = append(undo, func() { cluster.Stop() })
	admin, err := sqlx.ConnectContext(ctx, "pgx", cluster.URL("postgres"))
	if err != nil {
		return "", nil, 0, done, err
	}
	_, err = admin.ExecContext(ctx, `create database bench`)
	admin.Close()
	if err != nil {
		return "", nil, 0, done, err
	}
	url = cluster.URL("bench")
	if s, err = store.Open(ctx, url, 5*time.Second); err != nil {
		return "", nil, 0, done, err
	}
	undo = append(undo, func() { s.Close() })
	if err = s.Migrate(ctx); err != nil {
		return "", nil, 0, done, err
	}
	account, err := s.Accounts.Add(ctx, "bench@example.com", "Bench", "bench")
	if err != nil {
		return "", nil, 0, done, err
	}
	site, err = s.Sites.Add(ctx, "shop", "Shop", "UTC", domains, account)
	return url, s, site, done, err
}
