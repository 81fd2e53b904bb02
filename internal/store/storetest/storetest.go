// Package storetest gives tests a real database: a throwaway PostgreSQL server
// for the package under test, and in it a fresh, migrated database a test.
package storetest

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/internal/localpg"
	"gobbet/internal/store"
	"gobbet/internal/store/accounts"
	"gobbet/internal/store/sites"
)

// Cluster is the package's server, once Run has started it.
var Cluster *localpg.Cluster

// Run starts the server, runs the tests and stops it. Call it from TestMain.
func Run(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	accounts.PasswordCost.Memory, accounts.PasswordCost.Iterations = 64, 1
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
	s, err := store.Open(ctx, Cluster.URL("migrated"), time.Minute)
	if err == nil {
		err = s.Migrate(ctx)
		s.Close()
	}
	admin.Close()
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	go makeReady()
	return m.Run()
}

type made struct {
	name string
	err  error
}

// ready is the next database: it is made while the test before is run.
var ready = make(chan made)

func makeReady() {
	admin, err := sqlx.Connect("pgx", Cluster.URL("postgres"))
	for i := 1; ; i++ {
		next := made{name: fmt.Sprintf("t%d", i), err: err}
		// A test may stop the server meanwhile.
		for began := time.Now(); err == nil; time.Sleep(100 * time.Millisecond) {
			next.name = fmt.Sprintf("t%d_%d", i, time.Since(began))
			if _, next.err = admin.Exec(`create database ` + next.name + ` template migrated strategy file_copy`); next.err == nil || time.Since(began) > time.Minute {
				break
			}
		}
		ready <- next
	}
}

// New gives a test its own migrated, empty database.
func New(t testing.TB) *store.Store {
	t.Helper()
	next := <-ready
	if next.err != nil {
		t.Fatal(next.err)
	}
	s, err := store.Open(context.Background(), Cluster.URL(next.name), time.Minute)
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
	account, err := s.Accounts.Add(ctx, "iris@example.com", "Iris Moss", "a long password")
	if err != nil {
		t.Fatal(err)
	}
	site, err = s.Sites.Add(ctx, "shop", "Shop", "Europe/Dublin", sites.Texts{"https://shop.test"}, account)
	if err != nil {
		t.Fatal(err)
	}
	return site, account
}

// Frozen gives a test its own database behind a line that can be stopped:
// while frozen it takes connections and what is sent, and answers nothing, as a
// server does that was stopped by a signal.
func Frozen(t testing.TB) (s *store.Store, freeze func(bool)) {
	t.Helper()
	direct := New(t)
	at, err := url.Parse(direct.URL())
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { l.Close() })
	behind := at.Host
	var stopped sync.RWMutex // held for writing while frozen
	go func() {
		for {
			here, err := l.Accept()
			if err != nil {
				return
			}
			there, err := net.Dial("tcp", behind)
			if err != nil {
				here.Close()
				continue
			}
			pass := func(to, from net.Conn) {
				defer to.Close()
				defer from.Close()
				buffer := make([]byte, 32<<10)
				for {
					n, err := from.Read(buffer)
					stopped.RLock()
					if n > 0 {
						_, werr := to.Write(buffer[:n])
						err = errors.Join(err, werr)
					}
					stopped.RUnlock()
					if err != nil {
						return
					}
				}
			}
			go pass(here, there)
			go pass(there, here)
		}
	}()
	at.Host = l.Addr().String()
	if s, err = store.Open(context.Background(), at.String(), time.Minute); err != nil {
		t.Fatal(err)
	}
	frozen := false
	freeze = func(on bool) {
		if on == frozen {
			return
		}
		if frozen = on; on {
			stopped.Lock()
		} else {
			stopped.Unlock()
		}
	}
	t.Cleanup(func() {
		freeze(false)
		s.Close()
	})
	return s, freeze
}
