// Package servertest lets tests talk to the whole server over a real database.
package servertest

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"testing/fstest"

	"gobbet/core/piece"
	"gobbet/core/setup"
	"gobbet/core/style"
	"gobbet/internal/server"
	"gobbet/internal/store"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/storetest"
)

// Origin is where the test's site is.
const Origin = "https://shop.test"

// Harness is a server over a store with one site.
type Harness struct {
	*httptest.Server
	T       testing.TB
	Store   *store.Store
	Site    int64
	Account int64
	Client  *http.Client
	// Pages answers as browsers reach it at PagesOrigin.
	Pages *httptest.Server
}

// PagesOrigin is that of the pages that pieces live at.
const PagesOrigin = "https://pages.test"

// New starts a server with a site of key shop, followed until the test ends.
func New(t testing.TB, allowed ...string) *Harness {
	t.Helper()
	return Over(t, storetest.New(t), allowed...)
}

// Over is New over a store that is there.
func Over(t testing.TB, s *store.Store, allowed ...string) *Harness {
	t.Helper()
	site, account := storetest.Site(t, s)
	h := &Harness{T: t, Store: s, Site: site, Account: account}
	h.Server, h.Pages = serve(t, s, allowed...)
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	h.Client = &http.Client{Jar: jar}
	return h
}

// Serve starts one more server on a store.
func Serve(t testing.TB, s *store.Store, allowed ...string) *httptest.Server {
	t.Helper()
	web, _ := serve(t, s, allowed...)
	return web
}

func serve(t testing.TB, s *store.Store, allowed ...string) (web, pages *httptest.Server) {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	var follows sync.WaitGroup
	t.Cleanup(func() {
		// It sums up once more, while there is a database to do it in.
		cancel()
		follows.Wait()
	})
	files := fstest.MapFS{"loader.js": {Data: []byte(`loader("/v1/visit.js")`)}, "visit.js": {Data: []byte("visit()")}, "renderer.js": {Data: []byte("export {}")}, "renderer.js.br": {Data: []byte("pressed")}}
	srv, err := server.New(ctx, server.Config{
		Store: s, Page: files, Allowed: allowed, Pages: PagesOrigin, Studio: fstest.MapFS{"index.html": {Data: []byte(`<meta nonce="gobbet-nonce">`)}, "sign-in.html": {Data: []byte(`<form nonce="gobbet-nonce">`)}},
	})
	if err != nil {
		t.Fatal(err)
	}
	follows.Go(func() {
		if err := srv.Follow(ctx); err != nil {
			t.Log("what follows the store ended with:", err)
		}
	})
	web, pages = httptest.NewServer(srv), httptest.NewServer(srv.Pages)
	t.Cleanup(web.Close)
	t.Cleanup(pages.Close)
	return web, pages
}

// Launch puts a piece live.
func (h *Harness) Launch(id string, p *piece.Piece) {
	h.T.Helper()
	raw, err := json.Marshal(p)
	if err != nil {
		h.T.Fatal(err)
	}
	ctx := context.Background()
	if err := h.Store.Pieces.Add(ctx, h.Site, id, raw); err != nil {
		h.T.Fatal(err)
	}
	if err := h.Store.Pieces.Launch(ctx, pieces.Act{Site: h.Site}, id, 1, p.Drawings(UsualKit(), nil)); err != nil {
		h.T.Fatal(err)
	}
}

// Settings changes the site's settings.
func (h *Harness) Settings(settings setup.Settings) {
	h.T.Helper()
	ctx := context.Background()
	site, err := h.Store.Sites.OneOf(ctx, h.Account, h.Site)
	if err == nil {
		err = h.Store.Sites.ChangeSettings(ctx, h.Site, site.SettingsVersion, settings)
	}
	if err != nil {
		h.T.Fatal(err)
	}
}

// Answer is what came back.
type Answer struct {
	Status int
	Header http.Header
	Body   string
}

// Into decodes the body.
func (a Answer) Into(t testing.TB, into any) {
	t.Helper()
	if err := json.Unmarshal([]byte(a.Body), into); err != nil {
		t.Fatalf("%v in %.200s", err, a.Body)
	}
}

// Call sends a request to the harness; head is pairs of header and value.
func (h *Harness) Call(method, path, body string, head ...string) Answer {
	h.T.Helper()
	return Call(h.T, h.Client, h.URL+path, method, body, head...)
}

// Page sends what a visitor's page would.
func (h *Harness) Page(path, body string) Answer {
	h.T.Helper()
	return h.Call("POST", "/v1/sites/shop/"+path, body, "Origin", Origin, "Content-Type", "text/plain")
}

// Call sends a request.
func Call(t testing.TB, client *http.Client, url, method, body string, head ...string) Answer {
	t.Helper()
	req, err := http.NewRequest(method, url, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	for i := 0; i+1 < len(head); i += 2 {
		req.Header.Set(head[i], head[i+1])
	}
	res, err := client.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	said, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	return Answer{res.StatusCode, res.Header, string(said)}
}

// UsualKit is the style kit of a site that chose none.
func UsualKit() *style.Kit {
	kit := style.UsualKit()
	return &kit
}
