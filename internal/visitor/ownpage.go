package visitor

import (
	"cmp"
	"crypto/rand"
	_ "embed"
	"html/template"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/refit"
	"gobbet/core/schedule"
	"gobbet/core/style"
	"gobbet/core/words"
	"gobbet/internal/problem"
	"gobbet/internal/templates"
)

// A piece may live at a page of its own, to be shared as a link or printed. The
// pages stand on an origin apart from the studio's, for what marketers write
// stands on them; they run our scripts alone, keep no cookie, and count as the
// site's pages do.

// ownPage is a live piece at its own page.
type ownPage struct {
	live    *choose.Live
	hashes  map[string]string // variant id → its drawing as it stands there
	preview string            // hash of the picture that previews show
	again   bool              // there is something to go through again
}

// takeOwnPages makes ready the pages of what is live. Of two pieces that say one
// address, the one that wins its slots has it.
func (site *Site) takeOwnPages() (written map[string][]byte, err error) {
	site.Pages, written = map[string]*ownPage{}, map[string][]byte{}
	for i := range site.Live {
		l := &site.Live[i]
		at := l.Piece.Page
		if at == nil || site.Pages[at.Address] != nil {
			continue
		}
		own := &ownPage{live: l, hashes: map[string]string{}, preview: l.Piece.Preview()}
		drawings, err := site.ready(refit.OnOwnPage(l.Piece), own.hashes)
		if err != nil {
			return nil, err
		}
		for hash, body := range drawings {
			written[hash] = body
		}
		// Previews of links show no drawings in vectors.
		if _, vectors := templates.Art(own.preview); vectors {
			own.preview = ""
		}
		own.again = slices.ContainsFunc(l.Piece.Split.Variants, func(v piece.Variant) bool {
			return slices.ContainsFunc(v.Design.Scenes, func(s piece.Scene) bool { return s.Kind == piece.QuestionScene || s.Kind == piece.ResultScene })
		})
		site.Pages[at.Address] = own
	}
	return written, nil
}

// open reports whether the piece's hours are open to a visitor. On its own page,
// the visitor's clock is not known before it is decided.
func (own *ownPage) open(clock choose.Clock) bool {
	s := own.live.Piece.Schedule
	wall := clock.Now
	if s.Zone == schedule.OfVisitor {
		wall = clock.Theirs
	}
	return s.None() || s.Open(wall)
}

// askedFor decides about a piece that a visitor asked for by the address of its
// page: on that page, or on one of the site's, where it opens in its own format.
// Its rule and caps are for those who did not ask.
func (v *Server) askedFor(site *Site, req *DecideRequest, onOwn bool, phone bool, m *choose.Memory, clock choose.Clock) []choose.Placement {
	own := site.Pages[req.Own]
	if own == nil || !own.open(clock) {
		return []choose.Placement{}
	}
	variant := choose.Allot(&own.live.Piece.Split, m.Visitor, m.Of(own.live.ID).Variant)
	if onOwn {
		return []choose.Placement{{Piece: own.live.ID, Variant: variant.ID, Design: own.hashes[variant.ID]}}
	}
	// One that stands in a page has its place on some pages only.
	if own.live.Piece.Format == piece.Inline {
		return []choose.Placement{}
	}
	return []choose.Placement{{
		Piece: own.live.ID, Variant: variant.ID, Design: own.live.Hashes[variant.ID],
		Slot: own.live.Piece.Slot(variant, phone), Overlay: own.live.Piece.On(variant, phone).Overlay(),
	}}
}

// OwnPages adds the pages that pieces live at.
func (v *Server) OwnPages(r gin.IRouter) {
	r.GET("/:site/:address", v.limited("pages", 600), v.ownPage)
	r.HEAD("/:site/:address", v.limited("pages", 600), v.ownPage)
}

//go:embed ownpage.html
var ownPageText string

var ownPageForm = template.Must(template.New("page").Parse(ownPageText))

// shownPage is what a page is written from.
type shownPage struct {
	Origin, Nonce, Language, Title, Description, Address string
	Picture, Key, Own, Piece, Site, Home, Script         string
	Again                                                bool
	Closed                                               string // why there is no piece
	Say                                                  words.Table
	Go                                                   string // to the site
	RightToLeft                                          bool
	Paper, Ink, Accent, Soft, Font, Heads                template.CSS
	Faces                                                []template.CSS
}

// apart is how far any visitor's clock is from UTC at most.
const apart = 24 * time.Hour

func (v *Server) ownPage(c *gin.Context) {
	site, err := v.snapshots.Site(c.Request.Context(), c.Param("site"))
	now, page, status := v.now(), shownPage{Origin: v.pages, Nonce: rand.Text(), Language: words.Usual, Script: v.own.path()}, http.StatusNotFound
	kit, closed := style.UsualKit(), "own_nothing"
	var own words.Table
	if err != nil {
		status, closed = http.StatusServiceUnavailable, "own_closed"
	}
	if site != nil {
		kit, page.Site = site.Kit, site.Name
		page.Language = cmp.Or(site.Settings.Language, words.Usual)
		if len(site.Origins) > 0 {
			page.Home = site.Origins[0]
		}
		if at := site.Pages[c.Param("address")]; at != nil {
			status, closed = http.StatusOK, ""
			page.of(at, site, v.pages)
			if !at.mayOpen(now, site.Zone) {
				closed = "own_closed"
			}
		}
		own = site.Settings.Words[words.Choose(page.Language)]
	}
	page.speak(own, closed)
	page.applyKit(kit)
	head := c.Writer.Header()
	head.Set("Content-Security-Policy", strings.Join([]string{
		"default-src 'none'", "script-src 'self'", "style-src 'nonce-" + page.Nonce + "'", "img-src 'self' data:", "font-src 'self'", "media-src 'self'",
		"connect-src 'self'", "frame-src https:", "base-uri " + cmp.Or(page.Home, "'none'"), "form-action 'none'", "frame-ancestors 'none'",
	}, "; "))
	head.Set("X-Content-Type-Options", "nosniff")
	head.Set("Referrer-Policy", "strict-origin-when-cross-origin")
	head.Set("Cross-Origin-Opener-Policy", "same-origin")
	head.Set("Cache-Control", "no-cache")
	head.Set("Content-Type", "text/html; charset=utf-8")
	c.Status(status)
	if err := ownPageForm.Execute(c.Writer, page); err != nil {
		problem.Write(c, err)
	}
}

// mayOpen reports whether the piece's hours are open to anyone now.
func (own *ownPage) mayOpen(now time.Time, zone *time.Location) bool {
	s := own.live.Piece.Schedule
	if s.None() || s.Zone != schedule.OfVisitor {
		return s.None() || s.Open(now.In(zone))
	}
	for at := now.UTC().Add(-apart); !at.After(now.Add(apart)); at = at.Add(time.Hour) {
		if s.Open(at) {
			return true
		}
	}
	return false
}

func (p *shownPage) of(own *ownPage, site *Site, origin string) {
	at := own.live.Piece.Page
	p.Title, p.Description, p.Address = at.Title, at.Description, piece.PagesAt(origin, site.Key)+at.Address
	p.Key, p.Own, p.Piece, p.Again = site.Key, at.Address, own.live.ID, own.again
	p.Language = cmp.Or(at.Language, p.Language)
	if own.preview != "" {
		p.Picture = origin + "/v1/pictures/" + own.preview
	}
}

// speak gives the page its fixed words, those of own instead of the language's; closed
// is the word that says why there is no piece, empty where there is one.
func (p *shownPage) speak(own words.Table, closed string) {
	p.Say = words.In(p.Language, own)
	p.Closed, p.Title = p.Say[closed], cmp.Or(p.Title, p.Say["own_title"])
	p.Go = strings.ReplaceAll(p.Say["own_go"], "{site}", p.Site)
	p.RightToLeft = words.RightToLeft(p.Language)
}

// applyKit gives the page the site's colours and fonts. A kit is checked when it is
// saved: its colours are #rrggbb, and its fonts names of ours.
func (p *shownPage) applyKit(kit style.Kit) {
	color := func(role string) template.CSS {
		for _, c := range kit.Colors {
			if c.ID == role {
				return template.CSS(c.Value)
			}
		}
		return "#808080"
	}
	p.Paper, p.Ink, p.Accent, p.Soft = color("background"), color("ink"), color("accent"), color("soft")
	family := func(f style.Font) template.CSS {
		switch {
		case f == style.Serif:
			return "Georgia, serif"
		case slices.Contains(style.Shipped, f):
			if face := template.CSS(f); !slices.Contains(p.Faces, face) {
				p.Faces = append(p.Faces, face)
			}
			return template.CSS(`"page ` + string(f) + `", system-ui, sans-serif`)
		}
		return "system-ui, sans-serif"
	}
	p.Font, p.Heads = family(kit.Text), family(kit.Heading)
}
