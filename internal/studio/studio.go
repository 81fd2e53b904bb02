// Package studio answers the marketer's studio.
package studio

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	limiter "github.com/ulule/limiter/v3"
	"github.com/ulule/limiter/v3/drivers/store/memory"

	"gobbet/core/fault"
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
	attempts *limiter.Limiter // sign-ins per account
	now      func() time.Time
}

// New makes a server. Call Close when done with it.
func New(s *store.Store, logs *visits.Logs, secure bool) *Server {
	sessions := scs.New()
	sessions.Store = postgresstore.NewWithCleanupInterval(s.SQL(), time.Hour)
	sessions.Lifetime = 14 * 24 * time.Hour
	sessions.Cookie.Name = "gobbet"
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.Cookie.Secure = secure
	return &Server{
		store: s, visits: logs, sessions: sessions, now: time.Now,
		attempts: limiter.New(memory.NewStore(), limiter.Rate{Period: 15 * time.Minute, Limit: 10}),
	}
}

// Close ends what runs beside the requests.
func (s *Server) Close() { s.sessions.Store.(*postgresstore.PostgresStore).StopCleanup() }

const (
	maxBody    = 2 << 20
	maxPicture = 12 << 20
	maxFile    = 24 << 20
	maxImport  = 48 << 20
	dbPatience = 10 * time.Second
)

// Handler is the API below /api: sessions around it, requests from other
// sites refused.
func (s *Server) Handler(engine *gin.Engine) http.Handler {
	api := engine.Group("/api", s.patience)
	api.POST("/session", visitor.Limited("sign-in", 30, time.Minute), within(16<<10), s.signIn)
	api.DELETE("/session", s.signOut)
	mine := api.Group("", s.signedIn)
	mine.GET("/me", s.me)
	mine.GET("/facts", func(c *gin.Context) { c.JSON(http.StatusOK, FactBook{reach.Facts, reach.Ops}) })
	site := mine.Group("/sites/:site", s.ofSite)
	site.PUT("", within(maxBody), s.changeSite)
	site.PUT("/settings", within(maxBody), s.changeSettings)
	site.GET("/board", s.board)
	site.POST("/pieces", within(maxBody), s.addPiece)
	site.GET("/pieces/:piece", s.piece)
	site.PUT("/pieces/:piece", within(maxBody), s.saveDraft)
	site.DELETE("/pieces/:piece", s.removePiece(true))
	site.POST("/pieces/:piece/restore", s.removePiece(false))
	site.POST("/pieces/:piece/launch", within(maxBody), s.launch)
	site.POST("/pieces/:piece/rest", s.rest)
	site.GET("/pieces/:piece/split", s.split)
	site.POST("/pieces/:piece/inspect", within(maxBody), s.inspectLink)
	site.POST("/try", within(maxBody), s.try)
	site.POST("/rehearse", within(maxBody), s.rehearse)
	site.POST("/visitors", within(maxBody), s.visitors)
	site.POST("/values", within(maxBody), s.values)
	site.GET("/reaches", s.reaches)
	site.PUT("/reaches/:reach", within(maxBody), s.saveReach)
	site.DELETE("/reaches/:reach", s.removeReach)
	site.GET("/order", s.order)
	site.PUT("/order", within(maxBody), s.setOrder)
	site.GET("/pieces/:piece/versions", s.versions)
	site.GET("/pieces/:piece/file", s.exportPiece)
	site.POST("/import", within(maxImport), s.importPiece)
	site.GET("/starts", s.starts)
	site.PUT("/kit", within(maxBody), s.changeKit)
	site.GET("/kit/uses", s.kitUses)
	site.GET("/page", s.page)
	site.GET("/pictures", s.pictures)
	site.POST("/pictures", within(maxPicture), s.addPicture)
	site.DELETE("/pictures/:hash", s.removePicture)
	site.POST("/pictures/:hash/replace", within(maxBody), s.replacePicture)
	site.GET("/files", s.files)
	site.POST("/files", within(maxFile), s.addFile)
	site.DELETE("/files/:hash", s.removeFile)
	site.GET("/keepsakes", s.keepsakes)
	site.POST("/keepsakes", within(maxBody), s.addKeepsake)
	site.DELETE("/keepsakes/:id", s.removeKeepsake)
	site.GET("/pools", s.pools)
	site.PUT("/pools/:id", within(maxBody), s.addCodes)
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

// patience bounds how long a request may wait for the database.
func (s *Server) patience(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), dbPatience)
	defer cancel()
	c.Request = c.Request.WithContext(ctx)
	c.Header("Cache-Control", "no-store")
	c.Next()
}

func within(bytes int64) gin.HandlerFunc {
	return func(c *gin.Context) { c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, bytes) }
}

// body reads a request strictly; what is wrong with it is answered.
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

var wrongSignIn = problem.New(http.StatusUnauthorized, "wrong-sign-in", "That address and password do not go together.")

func (s *Server) signIn(c *gin.Context) {
	var req SignInRequest
	if !body(c, &req) {
		return
	}
	email := strings.ToLower(strings.TrimSpace(req.Email))
	tried, err := s.attempts.Get(c, "sign-in:"+email[:min(len(email), 200)])
	if err == nil && tried.Reached {
		problem.Write(c, problem.New(http.StatusTooManyRequests, "too-many", "Too many tries for this account. Wait a quarter of an hour."))
		return
	}
	account, err := s.store.SignIn(c, email, req.Password[:min(len(req.Password), 1000)])
	if errors.Is(err, store.ErrNotFound) {
		err = wrongSignIn
	}
	if err == nil {
		err = s.sessions.RenewToken(c.Request.Context())
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	s.attempts.Reset(c, "sign-in:"+email[:min(len(email), 200)])
	s.sessions.Put(c.Request.Context(), "account", account.ID)
	s.sayMe(c, account)
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
		me.Sites = append(me.Sites, siteInfo(site))
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
	sites, err := s.store.SitesOf(c, s.sessions.GetInt64(c.Request.Context(), "account"))
	if err != nil {
		problem.Write(c, err)
		return
	}
	i := slices.IndexFunc(sites, func(site store.Site) bool { return site.ID == id })
	if i < 0 {
		problem.Write(c, store.ErrNotFound)
		return
	}
	c.Set("site", sites[i])
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
		origin, wrong := normalOrigin(given)
		if wrong != "" {
			faults.Add(fault.Index("origins", i), "%s", wrong)
		} else if !slices.Contains(origins, origin) {
			origins = append(origins, origin)
		}
	}
	err := faults.Err()
	if err == nil {
		err = s.store.ChangeSite(c, siteOf(c).ID, name, req.Zone, origins)
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	site := siteOf(c)
	site.Name, site.Zone, site.Origins = name, req.Zone, origins
	c.JSON(http.StatusOK, siteInfo(site))
}

func siteInfo(s store.Site) SiteInfo {
	return SiteInfo{s.ID, s.Key, s.Name, s.Zone, s.Origins, s.Settings, s.Kit}
}

func (s *Server) changeSettings(c *gin.Context) {
	settings := store.DefaultSettings()
	if !body(c, &settings) {
		return
	}
	err := settings.Check()
	if err == nil {
		err = s.store.ChangeSettings(c, siteOf(c).ID, settings)
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	site := siteOf(c)
	site.Settings = settings
	c.JSON(http.StatusOK, siteInfo(site))
}

// normalOrigin reads a domain as people write it: with or without a scheme.
func normalOrigin(given string) (origin, wrong string) {
	given = strings.ToLower(strings.TrimSpace(given))
	if !strings.Contains(given, "://") {
		given = "https://" + given
	}
	u, err := url.Parse(given)
	switch {
	case err != nil || u.Hostname() == "" || len(given) > 300 || strings.ContainsAny(u.Host, " *<>\"'"):
		return "", "is not a domain such as https://shop.example.com"
	case u.Scheme != "http" && u.Scheme != "https":
		return "", "should start with https:// or http://"
	case u.Path != "" && u.Path != "/" || u.RawQuery != "" || u.Fragment != "" || u.User != nil:
		return "", "should be a domain alone, without a page"
	}
	return u.Scheme + "://" + u.Host, ""
}
