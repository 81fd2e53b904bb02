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
	"encoding/json"
	"errors"
	"io/fs"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/text"
	"gobbet/core/words"
	"gobbet/internal/limits"
	"gobbet/internal/place"
	"gobbet/internal/problem"
)

// Server answers visitors' pages.
type Server struct {
	limits    *limits.Limits
	store     Stores
	snapshots *Snapshots
	now       func() time.Time
	loader    asset
	visit     asset
	renderer  asset
	watcher   asset
	inspector asset
	walk      asset
	sending   asset
	clicks    asset
	links     asset
	extras    asset
	play      asset
	draw      asset
	chat      asset
	frames    asset
	own       asset
	cost      asset
	pages     string
	fonts     fs.FS
	places    *place.Book
	streams   *gate
	refused   refused
	leftOut   leftOut
	generous  int64
	addresses func(from string) error // limits how many addresses are left from one place
	// earlier are designs that were live before, the latest asked for.
	earlier *lru.Cache[string, *walked]
}

const maxEarlier = 64

// Options are what a server may be given.
type Options struct {
	// Page holds loader.js, visit.js, watcher.js, renderer.js, walk.js, sending.js, clicks.js, links.js, extras.js, play.js, draw.js, chat.js, frames.js, own.js, cost.js and inspector.js, and
	// the letters of the fonts that ship. Where they are not built, nothing shows.
	Page fs.FS
	// Places tells where addresses are; nil knows nothing.
	Places *place.Book
	// Pages is the origin of the pages that pieces live at; empty: there are none.
	Pages string
	// Limits counts requests; nil: by itself.
	Limits *limits.Limits
	// Generous is by how much the limits per address are multiplied, for
	// measuring; 0 is 1.
	Generous int64
}

// New makes a server over a store and its snapshots.
func New(s Stores, snapshots *Snapshots, o Options) *Server {
	if o.Limits == nil {
		o.Limits = limits.New(nil)
	}
	v := &Server{limits: o.Limits, store: s, snapshots: snapshots, now: time.Now, places: o.Places, generous: max(1, o.Generous), streams: newGate(maxStreams, maxStreamsEach)}
	v.addresses = o.Limits.From("addresses", 30*v.generous, time.Minute)
	v.earlier, _ = lru.New[string, *walked](maxEarlier) // fails only for sizes below 1
	v.visit, v.renderer = readAsset(o.Page, "visit.js"), readAsset(o.Page, "renderer.js")
	v.loader = readAsset(o.Page, "loader.js", "/v1/visit.js", v.visit.path())
	v.watcher, v.inspector = readAsset(o.Page, "watcher.js"), readAsset(o.Page, "inspector.js")
	v.walk, v.sending = readAsset(o.Page, "walk.js"), readAsset(o.Page, "sending.js")
	v.clicks, v.links = readAsset(o.Page, "clicks.js"), readAsset(o.Page, "links.js")
	v.extras, v.play, v.fonts = readAsset(o.Page, "extras.js"), readAsset(o.Page, "play.js"), o.Page
	v.draw, v.chat = readAsset(o.Page, "draw.js"), readAsset(o.Page, "chat.js")
	v.frames, v.own, v.pages = readAsset(o.Page, "frames.js"), readAsset(o.Page, "own.js"), o.Pages
	v.cost = readAsset(o.Page, "cost.js")
	return v
}

// Said with every answer, and so made once.
var nosniff, crossOrigin, varyOrigin, everyOrigin = []string{"nosniff"}, []string{"cross-origin"}, []string{"Origin"}, []string{"*"}

const (
	maxDecide  = 128 << 10 // a memory of 40,000 letters and the site's data
	maxEvents  = 128 << 10
	maxAnswers = 64 << 10
	maxBatch   = 200
	// Bodies of files and pictures on their way at once, each in 256 KB of memory.
	maxStreams     = 96
	maxStreamsEach = 16
)

// Routes adds the visitor's API.
func (v *Server) Routes(r gin.IRouter) {
	public := r.Group("/v1", func(c *gin.Context) {
		head := c.Writer.Header()
		head["X-Content-Type-Options"], head["Cross-Origin-Resource-Policy"] = nosniff, crossOrigin
		head["Timing-Allow-Origin"] = everyOrigin // so that a page can tell what the script costs it
	})
	// From memory, and cheap; many visitors may share an address.
	script := public.Group("", v.limited("scripts", 6000))
	script.GET("/gobbet.js", v.serveLoader)
	script.GET("/visit-:hash", v.serveVisit)
	for _, one := range []asset{v.renderer, v.watcher, v.walk, v.sending, v.clicks, v.links, v.extras, v.play, v.draw, v.chat, v.frames, v.own, v.cost} {
		script.GET(strings.TrimPrefix(one.path(), "/v1"), func(c *gin.Context) {
			forGood(c)
			one.serve(c)
		})
	}
	script.GET("/inspector.js", func(c *gin.Context) { v.inspector.serve(c) })
	script.GET("/fonts/:name", problem.Handle(v.font))
	script.GET("/words/:name", problem.Handle(v.words))
	public.GET("/pictures/:hash", v.limited("pictures", 1800), v.streams.through, problem.Handle(v.picture))
	public.GET("/files/:hash/:name", v.limited("files", 600), v.streams.through, problem.Handle(v.file))
	site := public.Group("/sites/:site", problem.Handle(v.site))
	site.GET("/words/:name", v.limited("scripts", 6000), problem.Handle(v.words))
	site.GET("/designs/:hash", deadline, v.limited("designs", 1800), problem.Handle(v.design))
	v.open(site)
}

// A few times the connections to the database.
const mostStoring = 64

// WriteDown writes down what was refused and what was left out, which is counted
// in memory until then.
func (v *Server) WriteDown(ctx context.Context) error {
	return errors.Join(v.refused.write(ctx, v.store), v.leftOut.write(ctx, v.store))
}

// site finds the site a request is for and lets only its own pages in. The
// request is a simple one (text/plain), so no preflight comes before it.
func (v *Server) site(c *gin.Context) error {
	c.Writer.Header()["Vary"] = varyOrigin
	site := v.snapshots.loaded(c.Param("site"))
	if site == nil {
		ctx, cancel := context.WithTimeout(c.Request.Context(), sitePatience)
		defer cancel()
		var err error
		if site, err = v.snapshots.Site(ctx, c.Param("site")); err != nil {
			c.Header("Access-Control-Allow-Origin", "*")
			return notLoaded
		}
	}
	if site == nil {
		c.Header("Access-Control-Allow-Origin", "*") // so that the page's console can say why
		return problem.New(http.StatusNotFound, "unknown-site", "No site has this key. Copy the script line again from Site.")
	}
	c.Set("site", site)
	if c.Request.Method == http.MethodGet {
		c.Header("Access-Control-Allow-Origin", "*")
		return nil
	}
	origin := c.GetHeader("Origin")
	if !site.Allowed[origin] && !v.onOwnPage(c.Request.Header) {
		return problem.New(http.StatusForbidden, "domain-not-allowed", "This page's domain is not among the site's allowed ones.")
	}
	c.Header("Access-Control-Allow-Origin", origin)
	return nil
}

// sitePatience is how long a page waits for a site that nobody asked for before.
const sitePatience = 3 * time.Second

var notLoaded = problem.New(http.StatusServiceUnavailable, "site-not-loaded", "This site cannot be loaded just now.")

// onOwnPage reports whether a request comes from a page that a piece lives at.
func (v *Server) onOwnPage(h http.Header) bool {
	return v.pages != "" && h.Get("Origin") == v.pages
}

func siteOf(c *gin.Context) *Site { return c.MustGet("site").(*Site) }

func (v *Server) decide(c *Call, req *DecideRequest) (*DecideAnswer, error) {
	site, now := c.Site, v.now()
	answer := &DecideAnswer{
		Placements: []choose.Placement{}, Renderer: v.renderer.path(), Watcher: v.watcher.path(), Walk: v.walk.path(), Sending: v.sending.path(), Clicks: v.clicks.path(), Links: v.links.path(), Extras: v.extras.path(), Play: v.play.path(), Draw: v.draw.path(), Chat: v.chat.path(), Frames: v.frames.path(), Cookies: site.Cookies,
		Overlays: site.Settings.Limits.Overlays, Quiet: site.quiet, Exit: site.exit, Clock: now.UnixMilli(), Layer: site.Settings.DataLayer,
	}
	answer.Language = words.Choose(req.PageLanguage, site.Settings.Language)
	answer.Words = site.wordsAt(answer.Language)
	m := readMemory(site, req, now)
	answer.Phone = deviceOf(c.Header.Get("User-Agent")).on(req.Width) == phone
	onOwn := v.onOwnPage(c.Header)
	if len(site.Pages) > 0 && !onOwn {
		answer.Pages = piece.PagesAt(v.pages, site.Key)
	}
	if len(site.Settings.Goals) > 0 && !onOwn {
		answer.Goals = site.goalsAt(req.URL)
	}
	// The log of visits is of the site's pages.
	answer.Record = !onOwn && recorded(site, m.Visitor)
	if answer.Record && costed() {
		answer.Cost = v.cost.path()
	}
	switch {
	case v.renderer.plain == nil:
	case onOwn || req.Own != "":
		answer.Placements = v.askedFor(site, req, onOwn, answer.Phone, m, clock(site, req, now))
	case len(site.Live) > 0:
		visit := visits.Get().(*reach.Visit)
		tellVisit(visit, site, site.asks, req, m, v.browser(c, site.asks), now)
		answer.Placements, answer.Eligible = site.lineup.Decide(visit, m, clock(site, req, now), site.Settings.Limits)
		*visit = reach.Visit{}
		visits.Put(visit)
	}
	answer.Watch = answer.Record || len(answer.Goals)+len(answer.Eligible) > 0
	return answer, nil
}

func (v *Server) design(c *gin.Context) error {
	site, hash := siteOf(c), c.Param("hash")
	public, ok := site.Public[hash]
	if !ok {
		d, err := v.walked(c.Request.Context(), site, hash)
		if err == nil {
			public, err = json.Marshal(d.Public(*d.Drawing))
		}
		if err != nil {
			return err
		}
	}
	forGood(c)
	c.Data(http.StatusOK, "application/json", public)
	return nil
}

// walked finds a design in the snapshot, or, for a page that was open before
// the last launch, in the store.
func (v *Server) walked(ctx context.Context, site *Site, hash string) (*walked, error) {
	if d, ok := site.Designs[hash]; ok {
		return d, nil
	}
	key := site.Key + " " + hash
	if d, ok := v.earlier.Get(key); ok {
		return d, nil
	}
	body, err := v.store.Designs.Get(ctx, site.ID, hash)
	if err != nil {
		return nil, err
	}
	drawing, err := piece.ReadDrawing(body)
	if err != nil {
		return nil, err
	}
	d, err := readyToWalk(drawing)
	if err == nil {
		v.earlier.Add(key, d)
	}
	return d, err
}

// isToken reports whether s is as the loader makes tokens for visitors and visits:
// 8 to 64 of A-Z, a-z, 0-9, _ and -.
func isToken(s string) bool {
	for i := range len(s) {
		if c := s[i] | 0x20; (c < 'a' || c > 'z') && (s[i] < '0' || s[i] > '9') && s[i] != '_' && s[i] != '-' {
			return false
		}
	}
	return len(s) >= 8 && len(s) <= 64
}

func visitToken(s string) string {
	if isToken(s) {
		return s
	}
	return ""
}

// pagePath keeps of a page's address what tells pages apart, and nothing personal
// that a query might hold. A NUL, which PostgreSQL cannot keep, is dropped.
func pagePath(address string) string {
	path, _, _ := strings.Cut(address, "?")
	path, _, _ = strings.Cut(path, "#")
	return text.Keepable(path, 1000)
}

const maxKept = 300 // bytes of a text that is kept beside answers

func noNUL(s string) string { return text.Keepable(s, maxKept) }

// asset is a script, as it is, gzipped, and as Brotli has it where the build did that.
type asset struct {
	name                  string
	plain, zipped, brotli []byte
	hash                  string
}

// path is where the asset is served for good.
func (a asset) path() string {
	return "/v1/" + strings.TrimSuffix(a.name, ".js") + "-" + a.hash + ".js"
}

// readAsset reads a script, with old words in it replaced by new ones.
func readAsset(files fs.FS, name string, oldnew ...string) asset {
	if files == nil {
		return asset{name: name}
	}
	plain, err := fs.ReadFile(files, name)
	if err != nil {
		return asset{name: name}
	}
	var brotli []byte
	if len(oldnew) == 0 {
		brotli, _ = fs.ReadFile(files, name+".br")
	}
	plain = []byte(strings.NewReplacer(oldnew...).Replace(string(plain)))
	var zipped bytes.Buffer
	w, _ := gzip.NewWriterLevel(&zipped, gzip.BestCompression)
	w.Write(plain)
	w.Close()
	sum := sha256.Sum256(plain)
	return asset{name, plain, zipped.Bytes(), brotli, hex.EncodeToString(sum[:8])}
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
	body, accepted := a.plain, codings(c.GetHeader("Accept-Encoding"))
	switch {
	case a.brotli != nil && slices.Contains(accepted, "br"):
		c.Header("Content-Encoding", "br")
		body = a.brotli
	case slices.Contains(accepted, "gzip"):
		c.Header("Content-Encoding", "gzip")
		body = a.zipped
	}
	c.Data(http.StatusOK, "text/javascript; charset=utf-8", body)
}

// codings are the names that an Accept-Encoding (RFC 9110, 12.5.3) allows.
func codings(header string) (names []string) {
	for part := range strings.SplitSeq(header, ",") {
		name, weight, _ := strings.Cut(strings.ReplaceAll(part, " ", ""), ";")
		if strings.Trim(weight, "q=0.") != "" || weight == "" {
			names = append(names, name)
		}
	}
	return names
}

// serveVisit serves what the loader names, for good under its present address. A
// loader that a browser has kept names an earlier one for a while, and gets the present.
func (v *Server) serveVisit(c *gin.Context) {
	if strings.HasSuffix(v.visit.path(), "/visit-"+c.Param("hash")) {
		forGood(c)
	} else {
		c.Header("Cache-Control", "no-cache")
	}
	v.visit.serve(c)
}

func (v *Server) serveLoader(c *gin.Context) {
	c.Header("Cache-Control", "public, max-age=300")
	v.loader.serve(c)
}
