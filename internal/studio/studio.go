// Package studio answers the marketer's studio.
package studio

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"gobbet/internal/uploads"

	"gobbet/internal/route"

	"gobbet/core/piece"

	"gobbet/internal/store/accounts"
	"gobbet/internal/store/sites"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	limiter "github.com/ulule/limiter/v3"

	"gobbet/core/fault"
	"gobbet/core/origin"
	"gobbet/internal/jobs"
	"gobbet/internal/problem"
	"gobbet/internal/store"
	"gobbet/internal/visits"
)

// Server answers the studio's requests.
type Server struct {
	store    *store.Store
	visits   *visits.Logs
	sessions *scs.SessionManager
	now      func() time.Time
	proxy    func() string // the address of a proxy that is not named
	pages    string        // origin of the pages that pieces live at
	browser  *http.Client
	fetching chan struct{}
	// Wrong passwords for an account: from a browser that has signed in to it,
	// from one address, and from everywhere.
	own, near, all *limiter.Limiter
	jobs           func(ctx context.Context) ([]jobs.State, error)
	// What pictures may take at once, once they are decoded.
	decode *uploads.Decoder
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
	// Jobs tells how the work in the background ran last; nil: there is none.
	Jobs func(ctx context.Context) ([]jobs.State, error)
}

// New makes a server.
func New(s *store.Store, logs *visits.Logs, o Options) *Server {
	sessions := scs.New()
	sessions.Store = s.Accounts.Sessions()
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = "gobbet"
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.Cookie.Secure = o.Secure
	if o.Proxy == nil {
		o.Proxy = func() string { return "" }
	}
	if o.Jobs == nil {
		o.Jobs = func(context.Context) ([]jobs.State, error) { return []jobs.State{}, nil }
	}
	return &Server{
		store: s, visits: logs, sessions: sessions, now: time.Now, proxy: o.Proxy, pages: o.Pages, jobs: o.Jobs,
		browser: browserFor(o.Allowed), fetching: make(chan struct{}, pagesAtOnce),
		own: tries(s, "own", 10), near: tries(s, "near", 10), all: tries(s, "all", 200),
		decode: uploads.NewDecoder(),
	}
}

// Handler is the API below /api: sessions around it, requests from other
// sites refused.
func (s *Server) Handler(engine *gin.Engine) http.Handler {
	route.New(s).Mount(engine.Group("/api"), s.Routes())
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

func (s *Server) signOut(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.sessions.Destroy(c)
}

// SignedIn implements route.Gate.
func (s *Server) SignedIn(ctx context.Context) int64 { return s.sessions.GetInt64(ctx, "account") }

// SiteOf implements route.Gate.
func (s *Server) SiteOf(ctx context.Context, account, site int64) (sites.Site, error) {
	return s.store.Sites.OneOf(ctx, account, site)
}

func (s *Server) me(c *route.Call, _ route.None) (answer Me, err error) {
	account, err := s.store.Accounts.Get(c, c.Account)
	if errors.Is(err, fault.ErrNotFound) {
		err = route.SignedOut
	}
	if err != nil {
		return answer, err
	}
	return s.sayMe(c, account)
}

func (s *Server) sayMe(c *route.Call, account accounts.Account) (answer Me, err error) {
	sites, err := s.store.Sites.Of(c, account.ID)
	if err != nil {
		return answer, err
	}
	me := Me{Name: account.Name, Email: account.Email, Sites: []SiteInfo{}}
	for _, site := range sites {
		me.Sites = append(me.Sites, s.siteInfo(site))
	}
	return me, nil
}

func (s *Server) changeSite(c *route.Call, req SiteChange) (answer SiteInfo, err error) {
	var faults fault.Faults
	name := strings.TrimSpace(req.Name)
	if name == "" || len(name) > 120 {
		faults.Add("name", "needs 1 to 120 characters")
	}
	if _, err := time.LoadLocation(req.Zone); err != nil || req.Zone == "" || req.Zone == "Local" {
		faults.Add("zone", "is not a time zone such as Europe/Dublin")
	}
	if len(req.Origins) > 50 {
		faults.Add("origins", "are more than 50")
	}
	origins := sites.Texts{}
	for i, given := range req.Origins {
		origin, err := origin.Parse(given)
		if err != nil {
			faults.Within(fault.Index("origins", i), err)
		} else if !slices.Contains(origins, origin) {
			origins = append(origins, origin)
		}
	}
	err = faults.Err()
	if err == nil {
		err = s.store.Sites.Change(c, c.Site.ID, int(req.Version), name, req.Zone, origins)
	}
	if err != nil {
		return answer, err
	}
	site := c.Site
	site.Name, site.Zone, site.Origins, site.Version = name, req.Zone, origins, int(req.Version)+1
	return s.siteInfo(site), nil
}

func (s *Server) siteInfo(site sites.Site) SiteInfo {
	return SiteInfo{
		site.ID, site.Key, site.Name, site.Zone, site.Origins, piece.PagesAt(s.pages, site.Key),
		site.Settings, site.Kit, site.Version, site.SettingsVersion, site.KitVersion,
	}
}

func (s *Server) changeSettings(c *route.Call, req SettingsChange) (answer SiteInfo, err error) {
	settings := req.Settings
	err = settings.Check()
	if err == nil {
		err = s.store.Sites.ChangeSettings(c, c.Site.ID, int(req.Version), settings)
	}
	if err != nil {
		return answer, err
	}
	site := c.Site
	site.Settings, site.SettingsVersion = settings, int(req.Version)+1
	return s.siteInfo(site), nil
}
