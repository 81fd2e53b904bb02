// Package server puts the visitor's API, the studio's API and the studio
// itself behind one address.
package server

import (
	"compress/gzip"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"maps"
	"net"
	"net/http"
	"net/url"
	"path"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"gobbet/core/fault"
	"gobbet/internal/jobs"
	"gobbet/internal/limits"
	"gobbet/internal/place"
	"gobbet/internal/problem"
	"gobbet/internal/store"
	"gobbet/internal/studio"
	"gobbet/internal/visitor"
	"gobbet/internal/visits"
)

// Config is what a server is made of.
type Config struct {
	Store  *store.Store
	Studio fs.FS // the studio's files
	Page   fs.FS // the visitors' scripts
	// Secure says that browsers come over https, so that cookies may insist on it.
	Secure bool
	// Proxies are the addresses (or CIDR ranges) whose word for a visitor's
	// address is taken; without them the limits per address count the connection.
	Proxies []string
	// Allowed are host:port of sites whose pages the studio may look at although
	// they are within a private network.
	Allowed []string
	// Pages is the origin of the pages that pieces live at, apart from the
	// studio's; empty: there are none.
	Pages string
	// Places tells where addresses are; nil takes the made-up file.
	Places *place.Book
}

// Server answers everything.
type Server struct {
	http.Handler
	// Pages answers on the origin of the pages that pieces live at: those, what
	// runs on them and what they count, and nothing of the studio's.
	Pages     http.Handler
	snapshots *visitor.Snapshots
	jobs      *jobs.Runner
}

// New loads the snapshots and makes a server. Run what follows the store with Follow.
func New(ctx context.Context, cfg Config) (*Server, error) {
	gin.SetMode(gin.ReleaseMode)
	snapshots, err := visitor.NewSnapshots(ctx, visitor.StoresOf(cfg.Store))
	if err != nil {
		return nil, fmt.Errorf("loading what is live: %w", err)
	}
	if cfg.Places == nil {
		if cfg.Places, err = place.Open(""); err != nil {
			return nil, err
		}
	}
	logs, requests := visits.New(cfg.Store), limits.New(cfg.Store.Quotas)
	var runner *jobs.Runner // told of once it is made; nobody asks before
	proxy := newProxyWatch(cfg.Proxies)
	marketers := studio.New(cfg.Store, logs, studio.Options{Secure: cfg.Secure, Allowed: cfg.Allowed, Proxy: proxy.Unnamed, Pages: cfg.Pages, Limits: requests,
		Jobs: func(ctx context.Context) ([]jobs.State, error) { return runner.States(ctx) }})
	visitors := visitor.New(visitor.StoresOf(cfg.Store), snapshots, visitor.Options{Page: cfg.Page, Places: cfg.Places, Pages: cfg.Pages, Limits: requests})
	if runner, err = jobs.New(cfg.Store.DB(), work(cfg.Store, visitors, marketers, logs, requests)); err != nil {
		return nil, err
	}
	s := &Server{snapshots: snapshots, jobs: runner}
	mux, pages := http.NewServeMux(), http.NewServeMux()
	mux.HandleFunc("GET /healthz", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprintln(w, "ok") })
	mux.HandleFunc("GET /readyz", func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
		defer cancel()
		if err := cfg.Store.Ping(ctx); err != nil {
			http.Error(w, "the database does not answer", http.StatusServiceUnavailable)
			return
		}
		fmt.Fprintln(w, "ready")
		// What is wrong, and not why: that is in the log, and anyone may ask here.
		for _, key := range slices.Sorted(maps.Keys(snapshots.SetAside())) {
			fmt.Fprintf(w, "site %s cannot be loaded\n", key)
		}
		states, err := runner.States(ctx)
		if err != nil {
			fmt.Fprintln(w, "jobs cannot be asked about")
		}
		for _, j := range states {
			switch {
			case j.Error != "":
				fmt.Fprintf(w, "job %s has failed since %s\n", j.Name, j.FailedAt.UTC().Format(time.RFC3339))
			case j.Late && j.EndedAt == nil:
				fmt.Fprintf(w, "job %s has begun and never ended\n", j.Name)
			case j.Late:
				fmt.Fprintf(w, "job %s ran last at %s\n", j.Name, j.EndedAt.UTC().Format(time.RFC3339))
			}
		}
	})
	public, err := engine(cfg.Proxies)
	if err != nil {
		return nil, err
	}
	private, err := engine(cfg.Proxies)
	if err != nil {
		return nil, err
	}
	public.NoRoute(func(c *gin.Context) { problem.Write(c, fault.ErrNotFound) })
	visitors.Routes(public)
	limited := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		proxy.see(r)
		public.ServeHTTP(w, r)
	})
	mux.Handle("/v1/", limited)
	shared, err := engine(cfg.Proxies)
	if err != nil {
		return nil, err
	}
	visitors.OwnPages(shared)
	pages.Handle("/v1/", limited)
	pages.Handle("/", shared)
	s.Pages = Logged(pages)
	// The page script's routes have theirs compressed beforehand.
	mux.Handle("/api/", gzhttp.GzipHandler(marketers.Handler(private)))
	// Its scripts are asked for once and kept: they are worth the best compression.
	smallest, err := gzhttp.NewWrapper(gzhttp.CompressionLevel(gzip.BestCompression))
	if err != nil {
		return nil, err
	}
	mux.Handle("/", smallest(files{cfg.Studio}))
	s.Handler = Logged(mux)
	return s, nil
}

// Follow keeps in step with the store, and does what is to be done in the
// background, until ctx ends; then it waits for what is under way.
func (s *Server) Follow(ctx context.Context) error {
	var following sync.WaitGroup
	following.Go(func() { s.snapshots.Follow(ctx) })
	err := s.jobs.Run(ctx)
	following.Wait()
	return err
}

// engine makes one whose contexts are no request's: gin uses each for another request
// as soon as its handler has returned, and what still looks at it then, such as a
// database's driver, looks at a stranger's. Handlers pass c.Request.Context() on.
func engine(proxies []string) (*gin.Engine, error) {
	e := gin.New()
	if err := e.SetTrustedProxies(proxies); err != nil {
		return nil, fmt.Errorf("a proxy's address is not one: %w", err)
	}
	return e, nil
}

// Serve answers on a listener until ctx ends, then lets requests under way
// finish, so that nothing acknowledged is lost and nothing stored goes
// unacknowledged.
func Serve(ctx context.Context, l net.Listener, h http.Handler) error {
	srv := &http.Server{
		Handler: h, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 30 * time.Second, WriteTimeout: 60 * time.Second, IdleTimeout: 90 * time.Second,
		MaxHeaderBytes: 64 << 10,
	}
	ended := make(chan error, 1)
	go func() { ended <- srv.Serve(l) }()
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	finish, cancel := context.WithTimeout(context.WithoutCancel(ctx), 15*time.Second)
	defer cancel()
	return srv.Shutdown(finish)
}

// Listen opens a port on loopback, and says plainly if it cannot.
func Listen(port int) (net.Listener, error) {
	l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port))
	if err != nil {
		return nil, fmt.Errorf("port %d on 127.0.0.1 cannot be used; something else may be using it", port)
	}
	return l, nil
}

// Logged gives each request an id, logs it and catches what it throws.
func Logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id, start := rand.Text()[:12], time.Now()
		r.Header.Set(problem.RequestIDHeader, id)
		w.Header().Set(problem.RequestIDHeader, id)
		seen := &statusWriter{ResponseWriter: w}
		defer func() {
			if thrown := recover(); thrown != nil {
				if err, ok := thrown.(error); ok && errors.Is(err, http.ErrAbortHandler) {
					panic(thrown)
				}
				slog.Error("request threw", "request_id", id, "path", r.URL.Path, "thrown", thrown, "stack", string(debug.Stack()))
				if seen.status == 0 {
					http.Error(seen, "Something went wrong here. It has been noted.", http.StatusInternalServerError)
				}
			}
			slog.Info("request", "request_id", id, "method", r.Method, "path", r.URL.Path, "status", seen.status, "bytes", seen.bytes, "ms", float64(time.Since(start).Microseconds())/1000)
		}()
		next.ServeHTTP(seen, r)
	})
}

type statusWriter struct {
	http.ResponseWriter
	status, bytes int
}

func (w *statusWriter) WriteHeader(status int) {
	w.status = status
	w.ResponseWriter.WriteHeader(status)
}

func (w *statusWriter) Write(b []byte) (int, error) {
	if w.status == 0 {
		w.status = http.StatusOK
	}
	n, err := w.ResponseWriter.Write(b)
	w.bytes += n
	return n, err
}

func (w *statusWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// files serves the studio: its assets by their hashed names, and its page for
// every place within it, with a nonce of its own.
type files struct{ fs.FS }

const noncePlace = "gobbet-nonce"

// crawlable lets search engines see the sign-in alone: all else is somebody's own.
const crawlable = "User-agent: *\nAllow: /sign-in\nAllow: /assets/\nDisallow: /\n"

func (f files) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	name := strings.TrimPrefix(path.Clean(r.URL.Path), "/")
	head := w.Header()
	head.Set("X-Content-Type-Options", "nosniff")
	head.Set("Referrer-Policy", "same-origin")
	if strings.HasPrefix(name, "assets/") {
		head.Set("Cache-Control", "public, max-age=31536000, immutable")
		if path.Ext(name) == ".woff2" {
			head.Set(gzhttp.HeaderNoCompression, "it is compressed in itself")
		}
		http.ServeFileFS(w, r, f.FS, name)
		return
	}
	if name == "robots.txt" {
		head.Set("Content-Type", "text/plain; charset=utf-8")
		fmt.Fprint(w, crawlable)
		return
	}
	// A place of the studio has no ending: whoever asks for a file, such as llms.txt, is told that there is none.
	if path.Ext(name) != "" || strings.HasPrefix(name, ".") {
		http.NotFound(w, r)
		return
	}
	page := "index.html"
	if name == "sign-in" {
		page = "sign-in.html"
	} else if _, err := r.Cookie(studio.SessionCookie); err != nil {
		// Whoever is not signed in need not load the studio to be told so.
		head.Set("Cache-Control", "no-store")
		http.Redirect(w, r, "/sign-in?"+url.Values{"to": {r.URL.RequestURI()}}.Encode(), http.StatusFound)
		return
	}
	index, err := fs.ReadFile(f.FS, page)
	if err != nil {
		http.Error(w, "The studio is not built yet. Run: make build", http.StatusServiceUnavailable)
		return
	}
	nonce := rand.Text()
	head.Set("Content-Security-Policy", strings.Join([]string{
		"default-src 'none'", "script-src 'self'", "style-src 'self' 'nonce-" + nonce + "'", "font-src 'self'", "img-src 'self' data: blob:",
		"connect-src 'self'", "frame-src 'self'", "base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'",
	}, "; "))
	head.Set("Content-Type", "text/html; charset=utf-8")
	head.Set("Cache-Control", "no-store")
	fmt.Fprint(w, strings.ReplaceAll(string(index), noncePlace, nonce))
}
