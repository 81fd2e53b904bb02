// Package storetest gives tests a real database: a throwaway PostgreSQL server
// for the package under test, and in it a fresh, migrated database a test.
package storetest

import (
	"context"
	"fmt"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/internal/localpg"
	"gobbet/internal/store"
)

// Cluster is the package's server, once Run has started it.
var Cluster *localpg.Cluster

// Run starts the server, runs the tests and stops it. Call it from TestMain.
func Run(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	ctx := context.Background()
	home, err := os.MkdirTemp("", "gobbet-test-*")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer os.RemoveAll(home)
	os.Chmod(home, 0o755)
	if Cluster, err = localpg.Start(ctx, localpg.Options{Home: home, Throwaway: true}); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer Cluster.Stop()
	admin, err := sqlx.Connect("pgx", Cluster.URL("postgres"))
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	admin.MustExec(`create database migrated`)
	s, err := store.Open(ctx, Cluster.URL("migrated"), 5*time.Second)
	if err == nil {
		err = s.Migrate(ctx)
		s.Close()
	}
	admin.Close()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return m.Run()
}

var made atomic.Int64

// New gives a test its own migrated, empty database.
func New(t testing.TB) *store.Store {
	t.Helper()
	name := fmt.Sprintf("t%d", made.Add(1))
	admin, err := sqlx.Connect("pgx", Cluster.URL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer admin.Close()
	admin.MustExec(`create database ` + name + ` template migrated`)
	s, err := store.Open(context.Background(), Cluster.URL(name), 5*time.Second)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// Site adds an account and a site with the origin https://shop.test.
func Site(t testing.TB, s *store.Store) (site, account int64) {
	t.Helper()
	ctx := context.Background()
	account, err := s.AddAccount(ctx, "iris@example.com", "Iris Moss", "a long password")
	if err != nil {
		t.Fatal(err)
	}
	site, err = s.AddSite(ctx, "shop", "Shop", "Europe/Dublin", store.Texts{"https://shop.test"}, account)
	if err != nil {
		t.Fatal(err)
	}
	return site, account
}
