// Package studio answers the marketer's studio.
package studio

import (
	"errors"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	limiter "github.com/ulule/limiter/v3"
	"golang.org/x/sync/semaphore"

	"gobbet/core/fault"
	"gobbet/core/origin"
	"gobbet/core/reach"
	"gobbet/internal/problem"
	"gobbet/internal/store"
	"gobbet/internal/visitor"
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
}

// New makes a server.
func New(s *store.Store, logs *visits.Logs, o Options) *Server {
	sessions := scs.New()
	sessions.Store = s.Sessions()
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = "gobbet"
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.Cookie.Secure = o.Secure
	if o.Proxy == nil {
		o.Proxy = func() string { return "" }
	}
	return &Server{
		store: s, visits: logs, sessions: sessions, now: time.Now, proxy: o.Proxy, pages: o.Pages,
		browser: browserFor(o.Allowed), fetching: make(chan struct{}, pagesAtOnce),
		own: tries(10), near: tries(10), all: tries(200),
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
	api.POST("/session", visitor.Limited("sign-in", 30, time.Minute), s.reads(16<<10), s.signIn)
	api.DELETE("/session", s.signOut)
	mine := api.Group("", s.signedIn)
	mine.GET("/me", s.me)
	mine.GET("/facts", func(c *gin.Context) { c.JSON(http.StatusOK, FactBook{reach.Facts, reach.Ops}) })
	site := mine.Group("/sites/:site", s.ofSite)
	site.GET("/health", s.health)
	site.DELETE("/data-names/:name", s.forgetDataName)
	site.GET("/deleted", s.deleted)
	site.PUT("", s.reads(maxBody), s.changeSite)
	site.PUT("/settings", s.reads(maxBody), s.changeSettings)
	site.GET("/board", s.board)
	site.POST("/pieces", s.reads(maxBody), s.addPiece)
	site.GET("/pieces/:piece", s.piece)
	site.PUT("/pieces/:piece", s.reads(maxBody), s.saveDraft)
	site.DELETE("/pieces/:piece", s.removePiece(true))
	site.POST("/pieces/:piece/restore", s.removePiece(false))
	site.POST("/pieces/:piece/launch", s.reads(maxBody), s.launch)
	site.POST("/pieces/:piece/rest", s.rest)
	site.GET("/pieces/:piece/split", s.split)
	site.GET("/pieces/:piece/played", s.played)
	site.GET("/qr", s.qr)
	site.GET("/pieces/:piece/answers", s.answers)
	site.GET("/pieces/:piece/answers.csv", s.answersCSV)
	site.GET("/pieces/:piece/goes.csv", s.goesCSV)
	site.POST("/pieces/:piece/inspect", s.reads(maxBody), s.inspectLink)
	site.POST("/try", s.reads(maxBody), s.try)
	site.POST("/walk", s.reads(maxBody), s.walk)
	site.POST("/playthrough", s.reads(maxBody), s.playThrough)
	site.POST("/reckon", s.reads(maxBody), s.reckon)
	site.POST("/rehearse", s.reads(maxBody), s.rehearse)
	site.POST("/visitors", s.reads(maxBody), s.visitors)
	site.POST("/values", s.reads(maxBody), s.values)
	site.GET("/reaches", s.reaches)
	site.PUT("/reaches/:reach", s.reads(maxBody), s.saveReach)
	site.DELETE("/reaches/:reach", s.removeReach)
	site.GET("/order", s.order)
	site.PUT("/order", s.reads(maxBody), s.setOrder)
	site.GET("/pieces/:piece/versions", s.versions)
	site.GET("/pieces/:piece/file", s.exportPiece)
	site.POST("/import", s.reads(maxImport), s.importPiece)
	site.GET("/starts", s.starts)
	site.PUT("/kit", s.reads(maxBody), s.changeKit)
	site.GET("/kit/uses", s.kitUses)
	site.GET("/page", s.page)
	site.GET("/pictures", s.pictures)
	site.POST("/pictures", s.reads(maxPicture), s.addPicture)
	site.DELETE("/pictures/:hash", s.removePicture)
	site.POST("/pictures/:hash/replace", s.reads(maxBody), s.replacePicture)
	site.GET("/files", s.files)
	site.POST("/files", s.reads(maxFile), s.addFile)
	site.DELETE("/files/:hash", s.removeFile)
	site.GET("/keepsakes", s.keepsakes)
	site.POST("/keepsakes", s.reads(maxBody), s.addKeepsake)
	site.DELETE("/keepsakes/:id", s.removeKeepsake)
	site.GET("/pools", s.pools)
	site.PUT("/pools/:id", s.reads(maxBody), s.addCodes)
	site.PUT("/pools/:id/file", s.reads(maxCodeFile), s.addCodeFile)
	site.GET("/pools/:id/codes.csv", s.codesCSV)
	site.DELETE("/pools/:id", s.removePool)
	site.GET("/people", s.people)
	site.GET("/people.csv", s.peopleCSV)
	engine.NoRoute(func(c *gin.Context) { problem.Write(c, store.ErrNotFound) })

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

// body reads a request; what is wrong with it is answered.
func body(c *gin.Context, into any) bool {
	raw, err := io.ReadAll(c.Request.Body)
	if err == nil {
		err = fault.Loosely(raw, into)
	}
	if err != nil {
		problem.Write(c, err)
	}
	return err == nil
}

func (s *Server) signOut(c *gin.Context) {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		problem.Write(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

func (s *Server) signedIn(c *gin.Context) {
	if s.sessions.GetInt64(c.Request.Context(), "account") == 0 {
		problem.Write(c, problem.New(http.StatusUnauthorized, "signed-out", "Sign in to go on."))
	}
}

func (s *Server) me(c *gin.Context) {
	account, err := s.store.Account(c, s.sessions.GetInt64(c.Request.Context(), "account"))
	if errors.Is(err, store.ErrNotFound) {
		err = problem.New(http.StatusUnauthorized, "signed-out", "Sign in to go on.")
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	s.sayMe(c, account)
}

func (s *Server) sayMe(c *gin.Context, account store.Account) {
	sites, err := s.store.SitesOf(c, account.ID)
	if err != nil {
		problem.Write(c, err)
		return
	}
	me := Me{Name: account.Name, Email: account.Email, Sites: []SiteInfo{}}
	for _, site := range sites {
		me.Sites = append(me.Sites, s.siteInfo(site))
	}
	c.JSON(http.StatusOK, me)
}

// ofSite lets only a site's members in; to others it does not exist.
func (s *Server) ofSite(c *gin.Context) {
	id, err := strconv.ParseInt(c.Param("site"), 10, 64)
	if err != nil {
		problem.Write(c, store.ErrNotFound)
		return
	}
	site, err := s.store.SiteOf(c, s.sessions.GetInt64(c.Request.Context(), "account"), id)
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.Set("site", site)
}

func siteOf(c *gin.Context) store.Site { return c.MustGet("site").(store.Site) }

func (s *Server) changeSite(c *gin.Context) {
	var req SiteChange
	if !body(c, &req) {
		return
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
	origins := store.Texts{}
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
		err = s.store.ChangeSite(c, siteOf(c).ID, int(req.Version), name, req.Zone, origins)
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	site := siteOf(c)
	site.Name, site.Zone, site.Origins, site.Version = name, req.Zone, origins, int(req.Version)+1
	c.JSON(http.StatusOK, s.siteInfo(site))
}

func (s *Server) siteInfo(site store.Site) SiteInfo {
	return SiteInfo{
		site.ID, site.Key, site.Name, site.Zone, site.Origins, visitor.PageAddress(s.pages, site.Key),
		site.Settings, site.Kit, site.Version, site.SettingsVersion, site.KitVersion,
	}
}

func (s *Server) changeSettings(c *gin.Context) {
	req := SettingsChange{Settings: store.DefaultSettings()}
	if !body(c, &req) {
		return
	}
	settings := req.Settings
	err := settings.Check()
	if err == nil {
		err = s.store.ChangeSettings(c, siteOf(c).ID, int(req.Version), settings)
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	site := siteOf(c)
	site.Settings, site.SettingsVersion = settings, int(req.Version)+1
	c.JSON(http.StatusOK, s.siteInfo(site))
}
