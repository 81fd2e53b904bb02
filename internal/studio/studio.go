// Package studio answers the marketer's studio.
package studio

import (
	"context"
	"net/http"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/internal/jobs"
	"gobbet/internal/limits"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/store"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/account"
	"gobbet/internal/studio/board"
	"gobbet/internal/studio/compose"
	"gobbet/internal/studio/launch"
	"gobbet/internal/studio/library"
	"gobbet/internal/studio/parts"
	"gobbet/internal/studio/people"
	"gobbet/internal/studio/reach"
	"gobbet/internal/studio/report"
	"gobbet/internal/studio/results"
	"gobbet/internal/studio/site"
	"gobbet/internal/studio/split"
	"gobbet/internal/uploads"
	"gobbet/internal/visits"
)

// Server answers the studio's requests: each place those of its own.
type Server struct {
	store    *store.Store
	sessions *scs.SessionManager
	limits   *limits.Limits

	account *account.Place
	board   *board.Place
	compose *compose.Place
	launch  *launch.Place
	library *library.Place
	people  *people.Place
	reach   *reach.Place
	report  *report.Place
	results *results.Place
	site    *site.Place
	split   *split.Place
}

// Options are what a server may be given.
type Options struct {
	// Secure says that browsers come over https, so that cookies may insist on it.
	Secure bool
	// Allowed are host:port of sites whose pages may be looked at although they
	// are within a private network.
	Allowed []string
	// Proxy gives the address of a proxy that is in use and not named, or nothing.
	Proxy func() string
	// Pages is the origin of the pages that pieces live at; empty: there are none.
	Pages string
	// Limits counts requests; nil: by itself.
	Limits *limits.Limits
	// Jobs tells how the work in the background ran last; nil: there is none.
	Jobs func(ctx context.Context) ([]jobs.State, error)
}

// SessionCookie is the name of the cookie that a signed-in browser has.
const SessionCookie = "gobbet"

// New makes a server.
func New(s *store.Store, logs *visits.Logs, o Options) *Server {
	sessions := scs.New()
	sessions.Store = s.Accounts.Sessions()
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = SessionCookie
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.Cookie.Secure = o.Secure
	if o.Proxy == nil {
		o.Proxy = func() string { return "" }
	}
	if o.Limits == nil {
		o.Limits = limits.New(nil)
	}
	if o.Jobs == nil {
		o.Jobs = func(context.Context) ([]jobs.State, error) { return []jobs.State{}, nil }
	}
	now, decode := time.Now, uploads.NewDecoder()
	read := parts.NewReader(parts.Stores{Pieces: s.Pieces, Reaches: s.Reaches, Library: s.Library, Codes: s.Codes}, now)
	here := &Server{
		store: s, sessions: sessions, limits: o.Limits,
		board:   board.New(read, board.Stores{Pieces: s.Pieces, Reaches: s.Reaches, Results: s.Results, Library: s.Library}, decode, now),
		compose: compose.New(read, compose.Stores{Pieces: s.Pieces, Reaches: s.Reaches}, o.Allowed),
		launch:  launch.New(read, launch.Stores{Pieces: s.Pieces}, o.Pages),
		library: library.New(read, library.Stores{Library: s.Library, Codes: s.Codes, Pieces: s.Pieces, Reaches: s.Reaches}, decode),
		people:  people.New(read, people.Stores{Leads: s.Leads}),
		reach:   reach.New(read, reach.Stores{Pieces: s.Pieces, Reaches: s.Reaches, Codes: s.Codes}, logs, now),
		report:  report.New(read, report.Stores{Walks: s.Walks, Results: s.Results, Codes: s.Codes}, now),
		results: results.New(results.Stores{Sites: s.Sites, Pieces: s.Pieces, Results: s.Results, Reaches: s.Reaches, Events: s.Events, Alerts: s.Alerts, PageViews: s.PageViews}, now),
		site:    site.New(read, site.Stores{Sites: s.Sites, PageViews: s.PageViews}, now, o.Proxy, o.Pages, o.Jobs),
	}
	here.account = account.New(here.site, account.Stores{Accounts: s.Accounts, Sites: s.Sites, Quotas: s.Quotas}, sessions)
	here.split = split.New(read, here.reach, split.Stores{Sites: s.Sites, Pieces: s.Pieces, Results: s.Results, Reaches: s.Reaches, Events: s.Events}, logs, now)
	return here
}

// FollowWinners moves shares to the variants that do better.
func (s *Server) FollowWinners(ctx context.Context) error { return s.split.FollowWinners(ctx) }

// Watch keeps what is not as usual on every site.
func (s *Server) Watch(ctx context.Context) error { return s.results.Watch(ctx) }

// Handler is the API below /api: sessions around it, requests from other
// sites refused.
func (s *Server) Handler(engine *gin.Engine) http.Handler {
	route.New(s, s.limits).Mount(engine.Group("/api"), s.Routes())
	engine.NoRoute(func(c *gin.Context) { problem.Write(c, fault.ErrNotFound) })

	s.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		c := gin.CreateTestContextOnly(w, engine)
		c.Request = r
		problem.Write(c, err)
	}
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c := gin.CreateTestContextOnly(w, engine)
		c.Request = r
		problem.Write(c, problem.New(http.StatusForbidden, "cross-site", "Requests from other sites are refused."))
	}))
	return guard.Handler(s.sessions.LoadAndSave(engine))
}

// SignedIn implements route.Gate.
func (s *Server) SignedIn(ctx context.Context) int64 { return s.sessions.GetInt64(ctx, "account") }

// SiteOf implements route.Gate.
func (s *Server) SiteOf(ctx context.Context, account, site int64) (sites.Site, error) {
	return s.store.Sites.OneOf(ctx, account, site)
}
