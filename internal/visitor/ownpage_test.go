package visitor_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/servertest"
	"gobbet/internal/store/pieces"
)

// shared is a piece that shows nowhere on the site, and lives at a page of its own.
func shared(format piece.Format, address string) *piece.Piece {
	p := piece.New("Sign-up", format, "salt")
	p.Rule = reach.All{reach.Clause{Fact: "page.path", Op: reach.Is, Value: "/nowhere"}}
	p.Page = &piece.OwnPage{Address: address, Title: "Sign up", Description: "For the letter."}
	return p
}

func (h opened) page(address string) servertest.Answer {
	return servertest.Call(h.T, h.Client, h.Pages.URL+"/shop/"+address, "GET", "")
}

// asks decides about a page of its own, from an origin.
func (h opened) asks(origin, address string) (d placed) {
	h.T.Helper()
	a := servertest.Call(h.T, h.Client, h.Pages.URL+"/v1/sites/shop/decide", "POST", fmt.Sprintf(`{"url":"https://x.test/","own":%q,"memory":{}}`, address), "Origin", origin)
	if a.Status != http.StatusOK {
		h.T.Fatal(a)
	}
	a.Into(h.T, &d)
	return d
}

type opened struct{ *servertest.Harness }

func withPages(t *testing.T, pieces ...*piece.Piece) opened {
	t.Helper()
	h := opened{servertest.New(t)}
	for i, p := range pieces {
		h.Launch(fmt.Sprintf("piece-%d", i), p)
	}
	last := pieces[len(pieces)-1].Page.Address
	eventually(t, "the page", func() bool { return h.page(last).Status == http.StatusOK })
	return h
}

func TestAPieceStandsInTheMiddleOfItsOwnPageWhateverItsRuleSays(t *testing.T) {
	h := withPages(t, shared(piece.Popup, "popup"), shared(piece.Bar, "bar"))
	for _, address := range []string{"popup", "bar"} {
		d := h.asks(servertest.PagesOrigin, address)
		if len(d.Placements) != 1 || d.Placements[0].Slot != "" {
			t.Fatalf("%s: %+v", address, d.Placements)
		}
		var drawing struct {
			Format piece.Format
			Frame  piece.Frame
		}
		servertest.Call(t, h.Client, h.Pages.URL+"/v1/sites/shop/designs/"+d.Placements[0].Design, "GET", "").Into(t, &drawing)
		if drawing.Format != piece.Inline || drawing.Frame.Close.Shown || drawing.Frame.Anchor.Selector != "" {
			t.Errorf("%s stands there as %s, with %+v", address, drawing.Format, drawing.Frame)
		}
	}
	if n := len(h.asks(servertest.PagesOrigin, "").Placements) + len(h.asks(servertest.PagesOrigin, "other").Placements); n != 0 {
		t.Errorf("%d pieces on a page that is none's", n)
	}
}

func TestALinkOnTheSiteOpensThePieceInItsOwnFormat(t *testing.T) {
	h := withPages(t, shared(piece.Inline, "inline"), shared(piece.Popup, "popup"))
	if d := h.asks(servertest.Origin, "popup"); len(d.Placements) != 1 || d.Placements[0].Slot != "overlay" {
		t.Errorf("%+v", d)
	}
	if d := h.asks(servertest.Origin, "inline"); len(d.Placements) != 0 {
		t.Errorf("what stands in the flow of another page was opened here: %+v", d)
	}
	if a := servertest.Call(t, h.Client, h.URL+"/v1/sites/shop/decide", "POST", `{"url":"https://x.test/","memory":{}}`, "Origin", servertest.Origin); !strings.Contains(a.Body, `"pages":"https://pages.test/shop/"`) {
		t.Errorf("the page is not told where pages are: %s", a.Body)
	}
	if a := servertest.Call(t, h.Client, h.Pages.URL+"/v1/sites/shop/decide", "POST", `{"own":"popup","memory":{}}`, "Origin", "https://other.test"); a.Status != http.StatusForbidden {
		t.Errorf("another's page was answered: %+v", a)
	}
}

func TestWhatIsWrittenOnAPageIsWordsAlone(t *testing.T) {
	p := shared(piece.Popup, "hostile")
	p.Page.Title, p.Page.Description = `</title><script>alert(1)</script>`, `"><img src=x onerror=alert(1)>`
	h := withPages(t, p)
	a := h.page("hostile")
	if strings.Contains(a.Body, "<script>") || strings.Contains(a.Body, "<img") || !strings.Contains(a.Body, "&lt;script&gt;") {
		t.Errorf("%s", a.Body)
	}
	policy := a.Header.Get("Content-Security-Policy")
	for _, part := range []string{"default-src 'none'", "script-src 'self'", "connect-src 'self'", "form-action 'none'", "frame-ancestors 'none'"} {
		if !strings.Contains(policy, part) {
			t.Errorf("%s is not in %s", part, policy)
		}
	}
	if strings.Contains(policy, "unsafe") {
		t.Error(policy)
	}
	if c := a.Header.Values("Set-Cookie"); len(c) != 0 {
		t.Errorf("a cookie: %v", c)
	}
}

func TestThePagesOriginKnowsNothingOfTheStudio(t *testing.T) {
	h := withPages(t, shared(piece.Popup, "popup"))
	for _, path := range []string{"/", "/api/me", "/api/session", "/board", "/assets/index.js", "/shop", "/shop/", "/nobody/popup", "/shop/../api/me"} {
		if a := servertest.Call(t, h.Client, h.Pages.URL+path, "GET", ""); a.Status != http.StatusNotFound {
			t.Errorf("%s: %d %.80s", path, a.Status, a.Body)
		}
	}
	if a := servertest.Call(t, h.Client, h.URL+"/shop/popup", "GET", ""); strings.Contains(a.Body, "og:title") {
		t.Error("the page stands on the studio's origin too")
	}
}

func TestAPageGoesWithItsPieceAndItsHours(t *testing.T) {
	over := shared(piece.Popup, "over")
	over.Schedule.Until = time.Now().AddDate(-1, 0, 0).Format("2006-01-02T15:04")
	h := withPages(t, over, shared(piece.Popup, "popup"))
	if a := h.page("over"); !strings.Contains(a.Body, "not open") || strings.Contains(a.Body, "gobbet.js") {
		t.Errorf("%s", a.Body)
	}
	if d := h.asks(servertest.PagesOrigin, "over"); len(d.Placements) != 0 {
		t.Errorf("%+v", d)
	}
	if err := h.Store.Pieces.PauseOne(t.Context(), pieces.Act{Site: h.Site}, "piece-1"); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the page's end", func() bool { return h.page("popup").Status == http.StatusNotFound })
}
