// Package studio answers the marketer's studio.
package studio

import (
	"context"
	"errors"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"gobbet/core/piece"
	"gobbet/internal/limits"

	"gobbet/internal/store/accounts"
	"gobbet/internal/store/sites"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	limiter "github.com/ulule/limiter/v3"
	"golang.org/x/sync/semaphore"

	"gobbet/core/fault"
	"gobbet/core/origin"
	"gobbet/core/reach"
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
	// What uploads, and pictures once decoded, may take at once.
	uploads, pixels *semaphore.Weighted
	lightens        atomic.Bool // see lighten
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
		uploads: semaphore.NewWeighted(uploadsAtOnce), pixels: semaphore.NewWeighted(pixelsAtOnce),
	}
}

const (
	maxBody    = 2 << 20
	maxPicture = 12 << 20
	maxFile    = 24 << 20
	maxImport  = 48 << 20
)

// Handler is the API below /api: sessions around it, requests from other
// sites refused.
func (s *Server) Handler(engine *gin.Engine) http.Handler {
	api := engine.Group("/api", s.patience)
	api.POST("/session", limits.Address("sign-in", 30, time.Minute), s.reads(16<<10), problem.Handle(s.signIn))
	api.DELETE("/session", problem.Handle(s.signOut))
	mine := api.Group("", problem.Handle(s.signedIn))
	mine.GET("/me", problem.Handle(s.me))
	mine.GET("/facts", func(c *gin.Context) { c.JSON(http.StatusOK, FactBook{reach.Facts, reach.Ops}) })
	site := mine.Group("/sites/:site", problem.Handle(s.ofSite))
	site.GET("/health", problem.Handle(s.health))
	site.DELETE("/data-names/:name", problem.Handle(s.forgetDataName))
	site.GET("/deleted", problem.Handle(s.deleted))
	site.PUT("", s.reads(maxBody), problem.Handle(s.changeSite))
	site.PUT("/settings", s.reads(maxBody), problem.Handle(s.changeSettings))
	site.GET("/board", problem.Handle(s.board))
	site.POST("/pieces", s.reads(maxBody), problem.Handle(s.addPiece))
	site.GET("/pieces/:piece", problem.Handle(s.piece))
	site.PUT("/pieces/:piece", s.reads(maxBody), problem.Handle(s.saveDraft))
	site.DELETE("/pieces/:piece", problem.Handle(s.removePiece))
	site.POST("/pieces/:piece/restore", problem.Handle(s.restorePiece))
	site.POST("/pieces/:piece/launch", s.reads(maxBody), problem.Handle(s.launch))
	site.GET("/pieces", problem.Handle(s.pieceNames))
	site.POST("/pause", s.reads(maxBody), problem.Handle(s.pause))
	site.POST("/resume", s.reads(maxBody), problem.Handle(s.resume))
	site.GET("/pieces/:piece/split", problem.Handle(s.split))
	site.GET("/pieces/:piece/split/cuts", problem.Handle(s.splitCuts))
	site.GET("/pieces/:piece/plan", problem.Handle(s.plan))
	site.GET("/results", problem.Handle(s.siteResults))
	site.GET("/results.csv", problem.Handle(s.resultsCSV))
	site.GET("/results/behind", problem.Handle(s.behind))
	site.GET("/alerts", problem.Handle(s.alerts))
	site.GET("/pieces/:piece/played", problem.Handle(s.played))
	site.GET("/qr", problem.Handle(s.qr))
	site.GET("/pieces/:piece/answers", problem.Handle(s.answers))
	site.GET("/pieces/:piece/answers.csv", problem.Handle(s.answersCSV))
	site.GET("/pieces/:piece/goes.csv", problem.Handle(s.goesCSV))
	site.POST("/pieces/:piece/inspect", s.reads(maxBody), problem.Handle(s.inspectLink))
	site.POST("/try", s.reads(maxBody), problem.Handle(s.try))
	site.POST("/walk", s.reads(maxBody), problem.Handle(s.walk))
	site.POST("/playthrough", s.reads(maxBody), problem.Handle(s.playThrough))
	site.POST("/reckon", s.reads(maxBody), problem.Handle(s.reckon))
	site.POST("/rehearse", s.reads(maxBody), problem.Handle(s.rehearse))
	site.POST("/visitors", s.reads(maxBody), problem.Handle(s.visitors))
	site.POST("/values", s.reads(maxBody), problem.Handle(s.values))
	site.GET("/reaches", problem.Handle(s.reaches))
	site.PUT("/reaches/:reach", s.reads(maxBody), problem.Handle(s.saveReach))
	site.DELETE("/reaches/:reach", problem.Handle(s.removeReach))
	site.GET("/order", problem.Handle(s.order))
	site.PUT("/order", s.reads(maxBody), problem.Handle(s.setOrder))
	site.GET("/pieces/:piece/versions", problem.Handle(s.versions))
	site.GET("/pieces/:piece/file", problem.Handle(s.exportPiece))
	site.POST("/import", s.reads(maxImport), problem.Handle(s.importPiece))
	site.GET("/templates", problem.Handle(s.templates))
	site.PUT("/kit", s.reads(maxBody), problem.Handle(s.changeKit))
	site.GET("/kit/uses", problem.Handle(s.kitUses))
	site.GET("/page", problem.Handle(s.page))
	site.GET("/pictures", problem.Handle(s.pictures))
	site.POST("/pictures", s.reads(maxPicture), problem.Handle(s.addPicture))
	site.PUT("/pictures/:hash", s.reads(maxBody), problem.Handle(s.renamePicture))
	site.DELETE("/pictures/:hash", problem.Handle(s.removePicture))
	site.POST("/pictures/:hash/replace", s.reads(maxBody), problem.Handle(s.replacePicture))
	site.GET("/files", problem.Handle(s.files))
	site.POST("/files", s.reads(maxFile), problem.Handle(s.addFile))
	site.PUT("/files/:hash", s.reads(maxBody), problem.Handle(s.renameFile))
	site.DELETE("/files/:hash", problem.Handle(s.removeFile))
	site.GET("/snippets", problem.Handle(s.snippets))
	site.POST("/snippets", s.reads(maxBody), problem.Handle(s.addSnippet))
	site.PUT("/snippets/:id", s.reads(maxBody), problem.Handle(s.renameSnippet))
	site.DELETE("/snippets/:id", problem.Handle(s.removeSnippet))
	site.GET("/pools", problem.Handle(s.pools))
	site.PUT("/pools/:id", s.reads(maxBody), problem.Handle(s.addCodes))
	site.PUT("/pools/:id/file", s.reads(maxCodeFile), problem.Handle(s.addCodeFile))
	site.GET("/pools/:id/codes", problem.Handle(s.codes))
	site.GET("/pools/:id/codes.csv", problem.Handle(s.codesCSV))
	site.DELETE("/pools/:id", problem.Handle(s.removePool))
	site.GET("/people", problem.Handle(s.people))
	site.GET("/people.csv", problem.Handle(s.peopleCSV))
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

// body reads a request's JSON.
func body(c *gin.Context, into any) error {
	raw, err := io.ReadAll(c.Request.Body)
	if err != nil {
		return err
	}
	return fault.Loosely(raw, into)
}

func (s *Server) signOut(c *gin.Context) error {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		return err
	}
	c.Status(http.StatusNoContent)
	return nil
}

func (s *Server) signedIn(c *gin.Context) error {
	if s.sessions.GetInt64(c.Request.Context(), "account") == 0 {
		return problem.New(http.StatusUnauthorized, "signed-out", "Sign in to go on.")
	}
	return nil
}

func (s *Server) me(c *gin.Context) error {
	account, err := s.store.Accounts.Get(c, s.sessions.GetInt64(c.Request.Context(), "account"))
	if errors.Is(err, fault.ErrNotFound) {
		err = problem.New(http.StatusUnauthorized, "signed-out", "Sign in to go on.")
	}
	if err != nil {
		return err
	}
	return s.sayMe(c, account)
}

func (s *Server) sayMe(c *gin.Context, account accounts.Account) error {
	sites, err := s.store.Sites.Of(c, account.ID)
	if err != nil {
		return err
	}
	me := Me{Name: account.Name, Email: account.Email, Sites: []SiteInfo{}}
	for _, site := range sites {
		me.Sites = append(me.Sites, s.siteInfo(site))
	}
	c.JSON(http.StatusOK, me)
	return nil
}

// ofSite lets only a site's members in; to others it does not exist.
func (s *Server) ofSite(c *gin.Context) error {
	id, err := strconv.ParseInt(c.Param("site"), 10, 64)
	if err != nil {
		return fault.ErrNotFound
	}
	site, err := s.store.Sites.OneOf(c, s.sessions.GetInt64(c.Request.Context(), "account"), id)
	if err != nil {
		return err
	}
	c.Set("site", site)
	return nil
}

func siteOf(c *gin.Context) sites.Site { return c.MustGet("site").(sites.Site) }

func (s *Server) changeSite(c *gin.Context) error {
	var req SiteChange
	if err := body(c, &req); err != nil {
		return err
	}
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
	err := faults.Err()
	if err == nil {
		err = s.store.Sites.Change(c, siteOf(c).ID, int(req.Version), name, req.Zone, origins)
	}
	if err != nil {
		return err
	}
	site := siteOf(c)
	site.Name, site.Zone, site.Origins, site.Version = name, req.Zone, origins, int(req.Version)+1
	c.JSON(http.StatusOK, s.siteInfo(site))
	return nil
}

func (s *Server) siteInfo(site sites.Site) SiteInfo {
	return SiteInfo{
		site.ID, site.Key, site.Name, site.Zone, site.Origins, piece.PagesAt(s.pages, site.Key),
		site.Settings, site.Kit, site.Version, site.SettingsVersion, site.KitVersion,
	}
}

func (s *Server) changeSettings(c *gin.Context) error {
	req := SettingsChange{Settings: sites.DefaultSettings()}
	if err := body(c, &req); err != nil {
		return err
	}
	settings := req.Settings
	err := settings.Check()
	if err == nil {
		err = s.store.Sites.ChangeSettings(c, siteOf(c).ID, int(req.Version), settings)
	}
	if err != nil {
		return err
	}
	site := siteOf(c)
	site.Settings, site.SettingsVersion = settings, int(req.Version)+1
	c.JSON(http.StatusOK, s.siteInfo(site))
	return nil
}
