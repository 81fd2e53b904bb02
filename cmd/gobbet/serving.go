package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/spf13/cobra"

	"gobbet/core/origin"
	"gobbet/internal/demo"
	"gobbet/internal/localpg"
	"gobbet/internal/place"
	"gobbet/internal/server"
	"gobbet/internal/store"
	"gobbet/web"
)

func serving() []*cobra.Command {
	return []*cobra.Command{serveCommand(), demoCommand(), migrateCommand(), recountCommand()}
}

func databaseFlag(cmd *cobra.Command, url *string) {
	cmd.Flags().StringVar(url, "database", os.Getenv("GOBBET_DATABASE"), "address of the PostgreSQL database (or GOBBET_DATABASE)")
}

func openStore(ctx context.Context, url string) (*store.Store, error) {
	if url == "" {
		return nil, errors.New("no database is named: give --database or set GOBBET_DATABASE")
	}
	return store.Open(ctx, url, 30*time.Second)
}

func migrateCommand() *cobra.Command {
	var url string
	cmd := &cobra.Command{Use: "migrate", Short: "Bring the database up to date", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		s, err := openStore(cmd.Context(), url)
		if err != nil {
			return err
		}
		defer s.Close()
		return s.Migrate(cmd.Context())
	}}
	databaseFlag(cmd, &url)
	return cmd
}

// recountCommand proves the totals of sites, or puts them right.
func recountCommand() *cobra.Command {
	var url, key string
	var write bool
	cmd := &cobra.Command{Use: "recount", Short: "Count all raw events anew, and compare every total", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		s, err := openStore(cmd.Context(), url)
		if err != nil {
			return err
		}
		defer s.Close()
		return recount(cmd.Context(), s, key, write, cmd.OutOrStdout())
	}}
	databaseFlag(cmd, &url)
	cmd.Flags().StringVar(&key, "site", "", "key of one site (default: all)")
	cmd.Flags().BoolVar(&write, "write", false, "put right what differs; nothing is counted meanwhile")
	return cmd
}

// recount says of each site whether its totals are what its events come to. It
// fails where they are not, and are not put right.
func recount(ctx context.Context, s *store.Store, key string, write bool, out io.Writer) error {
	sites, err := s.Sites.ByID(ctx, nil)
	if err != nil {
		return err
	}
	known, wrong := false, 0
	for _, site := range sites {
		if key != "" && site.Key != key {
			continue
		}
		known = true
		r, err := s.Events.Recount(ctx, site.ID, write)
		if err != nil {
			return fmt.Errorf("site %s: %w", site.Key, err)
		}
		since := ""
		if r.Since != nil {
			since = " since " + r.Since.Format(time.DateOnly)
		}
		fmt.Fprintf(out, "%s: %d raw events%s, %d visitors of pieces, %d totals, ", site.Key, r.Events, since, r.Sightings, r.Totals)
		switch {
		case len(r.Differ) == 0:
			fmt.Fprintln(out, "all of them right.")
		case r.Written:
			fmt.Fprintln(out, "put right where they differed:")
		default:
			wrong++
			fmt.Fprintln(out, "and these differ (give --write to put them right):")
		}
		for _, one := range r.Differ {
			fmt.Fprintln(out, "  "+one)
		}
	}
	switch {
	case key != "" && !known:
		return fmt.Errorf("%w: --site: no site has the key %s", errFlag, key)
	case wrong > 0:
		return fmt.Errorf("the totals of %d sites are not what their events come to", wrong)
	}
	return nil
}

func serveCommand() *cobra.Command {
	var url string
	var port, pagesPort int
	var pages string
	var secure bool
	var proxies []string
	var places string
	var allowed []string
	cmd := &cobra.Command{Use: "serve", Short: "Serve the studio and visitors' pages", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
		defer stop()
		slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
		book, err := place.Open(places)
		if err != nil {
			return fmt.Errorf("%w: --places: %w", errFlag, err)
		}
		s, err := openStore(ctx, url)
		if err != nil {
			return err
		}
		defer s.Close()
		if err := s.Migrate(ctx); err != nil {
			return err
		}
		l, err := server.Listen(port)
		if err != nil {
			return err
		}
		cfg := server.Config{Secure: secure, Proxies: proxies, Places: book, Allowed: allowed}
		if pagesPort == 0 {
			return serveStore(ctx, s, l, nil, cfg)
		}
		cfg.Pages = localOrigin(pagesPort)
		if pages != "" {
			if cfg.Pages, err = origin.Parse(pages); err != nil {
				return fmt.Errorf("%w: --pages: %w", errFlag, err)
			}
		}
		own, err := server.Listen(pagesPort)
		if err != nil {
			return fmt.Errorf("%w. Choose another with --pages-port, or 0 for none", err)
		}
		return serveStore(ctx, s, l, own, cfg)
	}}
	databaseFlag(cmd, &url)
	cmd.Flags().IntVar(&port, "port", 8640, "port on 127.0.0.1")
	cmd.Flags().IntVar(&pagesPort, "pages-port", 8642, "port on 127.0.0.1 of the pages that pieces live at; 0: none")
	cmd.Flags().StringVar(&pages, "pages", "", "origin that browsers reach those pages at, such as https://pages.example.com (default http://127.0.0.1 and their port)")
	cmd.Flags().BoolVar(&secure, "secure", false, "browsers come over https: mark cookies so")
	cmd.Flags().StringSliceVar(&proxies, "proxy", nil, "address or CIDR range of a proxy whose X-Forwarded-For is believed")
	cmd.Flags().StringSliceVar(&allowed, "allow-site", nil, "host:port of a site within a private network whose pages the studio may look at")
	cmd.Flags().StringVar(&places, "places", "", "MMDB file that tells countries and regions of addresses (default: a made-up one)")
	return cmd
}

func localOrigin(port int) string { return fmt.Sprintf("http://127.0.0.1:%d", port) }

// serveStore answers on a listener, and on another (if not nil) for the pages
// that pieces live at, until ctx ends.
func serveStore(ctx context.Context, s *store.Store, l, pages net.Listener, cfg server.Config) (err error) {
	cfg.Store, cfg.Studio, cfg.Page = s, web.Studio(), web.Page()
	srv, err := server.New(ctx, cfg)
	if err != nil {
		return err
	}
	following, stop := context.WithCancel(context.WithoutCancel(ctx))
	followed := make(chan error, 1)
	go func() { followed <- srv.Follow(following) }()
	// Once nobody is answered any more: what is counted in memory is written down, and
	// what is under way ends.
	defer func() {
		stop()
		err = errors.Join(err, <-followed)
	}()
	if pages == nil {
		return server.Serve(ctx, l, srv)
	}
	both, cancel := context.WithCancel(ctx)
	defer cancel()
	ended := make(chan error, 2)
	for at, h := range map[net.Listener]http.Handler{l: srv, pages: srv.Pages} {
		go func() {
			ended <- server.Serve(both, at, h)
			cancel() // one does not go on without the other
		}()
	}
	return errors.Join(<-ended, <-ended)
}

type demoOptions struct {
	port, shopPort, pagesPort int
	home                      string
	fresh                     bool
	until                     string // the day its traffic is up to
}

func demoCommand() *cobra.Command {
	var o demoOptions
	cmd := &cobra.Command{Use: "demo", Short: "Start everything with a made-up shop: database, studio and shop", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM, syscall.SIGHUP)
		defer stop()
		return runDemo(ctx, o, cmd.OutOrStdout())
	}}
	cmd.Flags().IntVar(&o.port, "port", 8640, "port of the studio on 127.0.0.1")
	cmd.Flags().IntVar(&o.shopPort, "shop-port", 8641, "port of the shop on 127.0.0.1")
	cmd.Flags().IntVar(&o.pagesPort, "pages-port", 8642, "port of the pages that pieces live at on 127.0.0.1")
	cmd.Flags().StringVar(&o.home, "home", ".gobbet", "folder to keep the database and the log in")
	cmd.Flags().BoolVar(&o.fresh, "fresh", false, "start over with new data")
	cmd.Flags().StringVar(&o.until, "until", "", "day up to whose end the made-up traffic goes, such as 2026-10-31, where the data is new (default: now)")
	return cmd
}

// runDemo starts everything, says where it is, and ends everything with ctx.
func runDemo(ctx context.Context, o demoOptions, out io.Writer) (err error) {
	if err := os.MkdirAll(o.home, 0o755); err != nil {
		return err
	}
	logFile, err := os.OpenFile(filepath.Join(o.home, "gobbet.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	defer logFile.Close()
	slog.SetDefault(slog.New(slog.NewJSONHandler(logFile, nil)))

	// The ports first: nothing is started that would have to be stopped again.
	studio, err := server.Listen(o.port)
	if err != nil {
		return fmt.Errorf("%w. Choose another with PORT=…", err)
	}
	defer studio.Close()
	shop, err := server.Listen(o.shopPort)
	if err != nil {
		return fmt.Errorf("%w. Choose another with SHOP_PORT=…", err)
	}
	defer shop.Close()
	pages, err := server.Listen(o.pagesPort)
	if err != nil {
		return fmt.Errorf("%w. Choose another with PAGES_PORT=…", err)
	}
	defer pages.Close()

	fmt.Fprintln(out, "Starting the database…")
	cluster, err := localpg.Start(ctx, localpg.Options{Home: o.home})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, cluster.Stop()) }()
	if home, _ := filepath.Abs(o.home); !strings.HasPrefix(cluster.Data, home+"/") {
		fmt.Fprintf(out, "The database's data is in %s: its user cannot enter this folder.\n", cluster.Data)
	}
	s, err := demoStore(ctx, cluster, o, localOrigin(o.shopPort), out)
	if err != nil {
		return err
	}
	defer s.Close()
	return serveDemo(ctx, s, studio, shop, pages, o, out)
}

// demoStore opens the demo's database, filled.
func demoStore(ctx context.Context, cluster *localpg.Cluster, o demoOptions, shopOrigin string, out io.Writer) (*store.Store, error) {
	if err := makeDatabase(ctx, cluster, o, shopOrigin, out); err != nil {
		return nil, err
	}
	s, err := store.Open(ctx, cluster.URL("gobbet"), 10*time.Second)
	if err != nil {
		return nil, err
	}
	if err = s.Migrate(ctx); err == nil {
		err = demo.MoveShop(ctx, s, shopOrigin)
	}
	if err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// makeDatabase makes the demo's database unless it is there. It is filled
// under another name and takes its own when whole, so that one that was
// interrupted half way is begun anew.
func makeDatabase(ctx context.Context, cluster *localpg.Cluster, o demoOptions, shopOrigin string, out io.Writer) error {
	now := time.Now()
	if o.until != "" {
		day, err := time.Parse(time.DateOnly, o.until)
		if err != nil || day.After(now) {
			return fmt.Errorf("%w: --until: should be a day that has been, such as 2026-10-31", errFlag)
		}
		if end := day.AddDate(0, 0, 1).Add(-time.Minute); end.Before(now) {
			now = end
		}
	}
	admin, err := sqlx.ConnectContext(ctx, "pgx", cluster.URL("postgres"))
	if err != nil {
		return fmt.Errorf("the database started but does not let us in: %w", err)
	}
	defer admin.Close()
	if o.fresh {
		if _, err := admin.ExecContext(ctx, `drop database if exists gobbet with (force)`); err != nil {
			return err
		}
	}
	var there bool
	if err := admin.GetContext(ctx, &there, `select exists (select from pg_database where datname = 'gobbet')`); err != nil || there {
		return err
	}
	fmt.Fprintln(out, "Filling it with Quillfern Pottery…")
	for _, step := range []string{`drop database if exists gobbet_filling with (force)`, `create database gobbet_filling`} {
		if _, err := admin.ExecContext(ctx, step); err != nil {
			return err
		}
	}
	if err := fillDemo(ctx, cluster.URL("gobbet_filling"), shopOrigin, now); err != nil {
		return err
	}
	_, err = admin.ExecContext(ctx, `alter database gobbet_filling rename to gobbet`)
	return err
}

func fillDemo(ctx context.Context, url, shopOrigin string, now time.Time) error {
	s, err := store.Open(ctx, url, 10*time.Second)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Migrate(ctx); err != nil {
		return err
	}
	return demo.Load(ctx, s, shopOrigin, now)
}

func serveDemo(ctx context.Context, s *store.Store, studio, shop, pages net.Listener, o demoOptions, out io.Writer) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	studioAt, shopAt, pagesAt := localOrigin(o.port), localOrigin(o.shopPort), localOrigin(o.pagesPort)
	var running sync.WaitGroup
	ended := make(chan error, 2)
	running.Go(func() {
		ended <- serveStore(ctx, s, studio, pages, server.Config{Pages: pagesAt, Allowed: []string{fmt.Sprintf("127.0.0.1:%d", o.shopPort)}})
		cancel()
	})
	running.Go(func() { ended <- server.Serve(ctx, shop, demo.Shop(studioAt, pagesAt, demo.SiteKey)); cancel() })
	if err := answering(ctx, studioAt+"/readyz", shopAt+"/"); err == nil {
		fmt.Fprintf(out, "\n  Studio   %s\n  Shop     %s\n  Pages    %s  (a quiz at /quillfern/which-glaze)\n  Sign in  %s  with  %s\n\nLog: %s · Ctrl-C ends everything.\n", studioAt, shopAt, pagesAt, demo.Email, demo.Password, filepath.Join(o.home, "gobbet.log"))
	}
	<-ctx.Done()
	fmt.Fprintln(out, "Ending…")
	running.Wait()
	return errors.Join(<-ended, <-ended)
}

// answering waits until every address answers well.
func answering(ctx context.Context, addresses ...string) error {
	for _, address := range addresses {
		for {
			r, err := http.Get(address)
			if err == nil {
				r.Body.Close()
				if r.StatusCode == http.StatusOK {
					break
				}
			}
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-time.After(50 * time.Millisecond):
			}
		}
	}
	return nil
}
