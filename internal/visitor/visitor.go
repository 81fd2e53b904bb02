// Package visitor answers visitors' pages: what may show, the designs, the
// events and the answers.
//
// Everything here is called from other people's pages. What comes in is
// bounded and believed as little as can be; decide reads no database, so that
// it goes on when the database is away.
package visitor

import (
	"bytes"
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"io/fs"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	limiter "github.com/ulule/limiter/v3"
	limit "github.com/ulule/limiter/v3/drivers/middleware/gin"
	"github.com/ulule/limiter/v3/drivers/store/memory"

	"gobbet/core/choose"
	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/place"
	"gobbet/internal/problem"
	"gobbet/internal/starts"
	"gobbet/internal/store"
)

// Server answers visitors' pages.
type Server struct {
	store     *store.Store
	snapshots *Snapshots
	now       func() time.Time
	loader    asset
	renderer  asset
	watcher   asset
	inspector asset
	extras    asset
	fonts     fs.FS
	places    *place.Book
	unlimited bool
}

// Options are what a server may be given.
type Options struct {
	// Page holds loader.js, watcher.js, renderer.js, extras.js and inspector.js, and
	// the letters of the fonts that ship. Where they are not built, nothing shows.
	Page fs.FS
	// Places tells where addresses are; nil knows nothing.
	Places *place.Book
	// Unlimited takes the limits per address off, for measuring.
	Unlimited bool
}

// New makes a server over a store and its snapshots.
func New(s *store.Store, snapshots *Snapshots, o Options) *Server {
	v := &Server{store: s, snapshots: snapshots, now: time.Now, places: o.Places, unlimited: o.Unlimited}
	v.loader, v.renderer = readAsset(o.Page, "loader.js"), readAsset(o.Page, "renderer.js")
	v.watcher, v.inspector = readAsset(o.Page, "watcher.js"), readAsset(o.Page, "inspector.js")
	v.extras, v.fonts = readAsset(o.Page, "extras.js"), o.Page
	return v
}

const (
	maxDecide  = 64 << 10
	maxEvents  = 128 << 10
	maxAnswers = 64 << 10
	maxBatch   = 200
)

// Routes adds the visitor's API.
func (v *Server) Routes(r gin.IRouter) {
	public := r.Group("/v1", func(c *gin.Context) {
		c.Header("X-Content-Type-Options", "nosniff")
		c.Header("Cross-Origin-Resource-Policy", "cross-origin")
	})
	public.GET("/gobbet.js", v.serveLoader)
	for _, script := range []asset{v.renderer, v.watcher, v.extras} {
		public.GET(strings.TrimPrefix(script.path(), "/v1"), func(c *gin.Context) {
			forGood(c)
			script.serve(c)
		})
	}
	public.GET("/inspector.js", func(c *gin.Context) { v.inspector.serve(c) })
	public.GET("/pictures/:hash", v.picture)
	public.GET("/files/:hash/:name", v.file)
	public.GET("/fonts/:name", v.font)
	site := public.Group("/sites/:site", v.site)
	site.GET("/designs/:hash", v.design)
	site.POST("/decide", v.limited("decide", 600), within(maxDecide), v.decide)
	site.POST("/views", v.limited("views", 600), within(maxDecide), v.record)
	site.POST("/inspect", v.limited("inspect", 120), within(maxDecide), v.inspect)
	site.POST("/events", v.limited("events", 300), within(maxEvents), v.events)
	site.POST("/answers", v.limited("answers", 30), within(maxAnswers), v.answers)
	site.POST("/codes", v.limited("codes", 20), within(maxAnswers), v.code)
}

func within(bytes int64) gin.HandlerFunc {
	return func(c *gin.Context) { c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, bytes) }
}

// limited allows so many requests a minute from one address.
func (v *Server) limited(name string, perMinute int64) gin.HandlerFunc {
	if v.unlimited {
		return func(*gin.Context) {}
	}
	return Limited(name, perMinute, time.Minute)
}

// Limited allows so many requests a period from one address.
func Limited(name string, n int64, period time.Duration) gin.HandlerFunc {
	l := limiter.New(memory.NewStoreWithOptions(limiter.StoreOptions{Prefix: name, CleanUpInterval: time.Minute}), limiter.Rate{Period: period, Limit: n})
	return limit.NewMiddleware(l, limit.WithLimitReachedHandler(func(c *gin.Context) {
		problem.Write(c, problem.New(http.StatusTooManyRequests, "too-many", "That is too many at once. Wait a minute and try again."))
	}))
}

// site finds the site a request is for and lets only its own pages in. The
// request is a simple one (text/plain), so no preflight comes before it.
func (v *Server) site(c *gin.Context) {
	c.Header("Vary", "Origin")
	site := v.snapshots.Site(c.Param("site"))
	if site == nil {
		c.Header("Access-Control-Allow-Origin", "*") // so that the page's console can say why
		problem.Write(c, problem.New(http.StatusNotFound, "unknown-site", "No site has this key. Copy the script line again from Site."))
		return
	}
	c.Set("site", site)
	if c.Request.Method == http.MethodGet {
		c.Header("Access-Control-Allow-Origin", "*")
		return
	}
	origin := c.GetHeader("Origin")
	if !site.Allowed[origin] {
		problem.Write(c, problem.New(http.StatusForbidden, "domain-not-allowed", "This page's domain is not among the site's allowed ones."))
		return
	}
	c.Header("Access-Control-Allow-Origin", origin)
}

func siteOf(c *gin.Context) *Site { return c.MustGet("site").(*Site) }

// body reads JSON, whatever content type it came with. Unknown keys pass: an
// older server may be asked by a newer page.
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

func (v *Server) decide(c *gin.Context) {
	var req DecideRequest
	if !body(c, &req) {
		return
	}
	site, now := siteOf(c), v.now()
	answer := DecideAnswer{
		Placements: []choose.Placement{}, Renderer: v.renderer.path(), Watcher: v.watcher.path(), Extras: v.extras.path(), Cookies: site.Cookies,
		Overlays: site.Settings.Limits.Overlays, Quiet: site.quiet, Exit: site.exit,
	}
	m := readMemory(&req, now)
	answer.Record = recorded(site, m.Visitor)
	if len(site.Live) > 0 && v.renderer.plain != nil {
		answer.Placements = choose.Decide(site.Live, visitOf(site, site.asks, &req, m, v.browser(c, site.asks), now), m, clock(site, &req, now), site.Settings.Limits)
	}
	c.JSON(http.StatusOK, answer)
}

func (v *Server) design(c *gin.Context) {
	site, hash := siteOf(c), c.Param("hash")
	drawing, err := v.drawing(c, site, hash)
	if err != nil {
		problem.Write(c, err)
		return
	}
	forGood(c)
	c.Data(http.StatusOK, "application/json", drawing)
}

// drawing finds a design in the snapshot, or, for a page that was open before
// the last launch, in the store.
func (v *Server) drawing(c *gin.Context, site *Site, hash string) ([]byte, error) {
	if drawing, ok := site.Designs[hash]; ok {
		return drawing, nil
	}
	return v.store.Design(c, site.ID, hash)
}

func (v *Server) picture(c *gin.Context) {
	if art, ok := starts.Art(c.Param("hash")); ok {
		forGood(c)
		c.Header("Access-Control-Allow-Origin", "*")
		c.Data(http.StatusOK, art.Mime, art.Body)
		return
	}
	p, err := v.store.Picture(c, c.Param("hash"))
	if err != nil {
		problem.Write(c, err)
		return
	}
	forGood(c)
	c.Header("Access-Control-Allow-Origin", "*")
	c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Data(http.StatusOK, p.Mime, p.Body)
}

func forGood(c *gin.Context) { c.Header("Cache-Control", "public, max-age=31536000, immutable") }

// token is what the loader makes for visitors and visits.
var token = regexp.MustCompile(`^[A-Za-z0-9_-]{8,64}$`)

// The oldest a late event may be, such as one a browser kept while offline.
const oldest = 7 * 24 * time.Hour

func (v *Server) events(c *gin.Context) {
	var req EventsRequest
	if !body(c, &req) {
		return
	}
	site, now := siteOf(c), v.now()
	if !token.MatchString(req.Visitor) || len(req.Events) > maxBatch {
		problem.Write(c, fault.Fault{At: "visitor", Message: "is not a visitor, or says too much at once"})
		return
	}
	var good []store.Event
	for _, e := range req.Events {
		if id, err := uuid.Parse(e.ID); err == nil && site.Known[e.Piece][e.Variant] && slices.Contains(kinds, e.Kind) {
			good = append(good, store.Event{
				ID: id.String(), Kind: e.Kind, At: believable(e.At, now), Piece: e.Piece, Variant: e.Variant,
				Visitor: req.Visitor, Visit: visitToken(req.Visit), Page: pagePath(e.Page),
			})
		}
	}
	ctx, done := finishing(c)
	defer done()
	if err := v.store.AddEvents(ctx, site.ID, site.Zone, good); err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusOK, EventsAnswer{Stored: len(good), Refused: len(req.Events) - len(good)})
}

// finishing outlives the page that asked: what a visitor sends while leaving is
// stored although nobody waits for the answer.
func finishing(c *gin.Context) (context.Context, context.CancelFunc) {
	return context.WithTimeout(context.WithoutCancel(c.Request.Context()), 10*time.Second)
}

var kinds = []string{store.Shown, store.Closed, store.Converted}

func believable(milliseconds int64, now time.Time) time.Time {
	at := time.UnixMilli(milliseconds)
	switch {
	case at.After(now):
		return now
	case at.Before(now.Add(-oldest)):
		return now.Add(-oldest)
	}
	return at
}

func visitToken(s string) string {
	if token.MatchString(s) {
		return s
	}
	return ""
}

// pagePath keeps of a page's address what tells pages apart, and nothing personal
// that a query might hold. A NUL, which PostgreSQL cannot keep, is dropped.
func pagePath(address string) string {
	path, _, _ := strings.Cut(clip(address), "?")
	path, _, _ = strings.Cut(path, "#")
	path = strings.ReplaceAll(path, "\x00", "")
	return path[:min(len(path), 1000)]
}

func (v *Server) answers(c *gin.Context) {
	var req AnswersRequest
	if !body(c, &req) {
		return
	}
	site := siteOf(c)
	id, err := uuid.Parse(req.ID)
	if err != nil || !site.Known[req.Piece][req.Variant] || !token.MatchString(req.Visitor) {
		problem.Write(c, problem.New(http.StatusUnprocessableEntity, "unknown-piece", "This form is not one that can be sent."))
		return
	}
	drawing, err := v.drawing(c, site, req.Design)
	if err == nil {
		err = v.submit(c, site, id, &req, drawing)
	} else if errors.Is(err, store.ErrNotFound) {
		err = problem.New(http.StatusUnprocessableEntity, "unknown-piece", "This form is not one that can be sent.")
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusOK, AnswersAnswer{Stored: true})
}

// submit judges answers by the very scene that the visitor had before them.
func (v *Server) submit(c *gin.Context, site *Site, id uuid.UUID, req *AnswersRequest, drawing []byte) error {
	d, err := piece.ReadDrawing(drawing)
	if err != nil {
		return err
	}
	scene, ok := piece.Design{Frame: d.Frame, Scenes: d.Scenes}.Scene(req.Scene)
	if !ok {
		return problem.New(http.StatusUnprocessableEntity, "unknown-scene", "This form is not one that can be sent.")
	}
	answers, err := scene.Answers(req.Answers)
	if err != nil {
		return err
	}
	source := sourceOf(site, req.Landing, req.Referrer)
	ctx, done := finishing(c)
	defer done()
	return v.store.AddSubmission(ctx, site.ID, site.Zone, store.Submission{
		ID: id.String(), Piece: req.Piece, Variant: req.Variant, Visitor: req.Visitor, Visit: visitToken(req.Visit), Page: pagePath(req.Page),
		Channel: source.Channel, Campaign: noNUL(source.UTM["campaign"]), Referrer: noNUL(source.Host),
		Email: scene.EmailIn(answers), Name: scene.NameIn(answers), Answers: answers, At: v.now(),
		Converts: scene.SendingConverts(), Unwatched: req.Unwatched,
	})
}

func noNUL(s string) string {
	s = strings.ReplaceAll(s, "\x00", "")
	return strings.ToValidUTF8(s[:min(len(s), 300)], "")
}

// asset is a script, as it is and gzipped.
type asset struct {
	name          string
	plain, zipped []byte
	hash          string
}

// path is where the asset is served for good.
func (a asset) path() string {
	return "/v1/" + strings.TrimSuffix(a.name, ".js") + "-" + a.hash + ".js"
}

func readAsset(files fs.FS, name string) asset {
	if files == nil {
		return asset{name: name}
	}
	plain, err := fs.ReadFile(files, name)
	if err != nil {
		return asset{name: name}
	}
	var zipped bytes.Buffer
	w, _ := gzip.NewWriterLevel(&zipped, gzip.BestCompression)
	w.Write(plain)
	w.Close()
	sum := sha256.Sum256(plain)
	return asset{name, plain, zipped.Bytes(), hex.EncodeToString(sum[:8])}
}

func (a asset) serve(c *gin.Context) {
	c.Header("Access-Control-Allow-Origin", "*")
	if a.plain == nil {
		c.Data(http.StatusOK, "text/javascript; charset=utf-8", []byte("// The page script is not built: run make build.\n"))
		return
	}
	tag := `"` + a.hash + `"`
	c.Header("ETag", tag)
	c.Header("Vary", "Accept-Encoding")
	if c.GetHeader("If-None-Match") == tag {
		c.Status(http.StatusNotModified)
		return
	}
	if strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
		c.Header("Content-Encoding", "gzip")
		c.Data(http.StatusOK, "text/javascript; charset=utf-8", a.zipped)
		return
	}
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", a.plain)
}

func (v *Server) serveLoader(c *gin.Context) {
	c.Header("Cache-Control", "public, max-age=300")
	v.loader.serve(c)
}
