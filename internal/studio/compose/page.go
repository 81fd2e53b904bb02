package compose

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"net/url"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"gobbet/internal/route"
)

// page gives a page of the site as something to design on: as it looks,
// without anything that runs. It comes from the studio's own address, so that
// the designer can look into it, and from nowhere but the site's own domains.
func (s *Place) page(c *route.Call, ask PageQuery) error {
	c.Writer.Header().Set("Content-Security-Policy", strings.Join([]string{
		"default-src 'none'", "style-src * 'unsafe-inline'", "img-src * data:", "font-src * data:", "media-src *", "frame-ancestors 'self'", "form-action 'none'", "sandbox allow-same-origin",
	}, "; "))
	c.Writer.Header().Set("X-Content-Type-Options", "nosniff")
	site := c.Site
	body := blankPage
	if len(site.Origins) > 0 && ask.Path != "" {
		if still, there, err := s.fetchStill(c, site.Origins[0], ask.Path); err == nil {
			body = still
			if !there {
				c.Writer.Header().Set("X-Gobbet-Page", "missing")
			}
		} else if c.Err() != nil {
			return c.Err()
		} else {
			c.Writer.Header().Set("X-Gobbet-Page", "away")
		}
	}
	c.Data("text/html; charset=utf-8", body)
	return nil
}

// blankPage stands in where the site has no page to show.
var blankPage = []byte(`<!doctype html><html lang="en"><meta charset="utf-8"><title>A plain page</title><style>
body{margin:0;font:17px/1.6 system-ui,sans-serif;color:#3d3a44;background:#faf8f4}main{max-width:860px;margin:0 auto;padding:48px 24px}
i{display:block;height:14px;border-radius:4px;background:#e5dfd3;margin:14px 0}i.h{height:38px;width:46%;background:#d8cfbf}i.p{height:240px;margin:28px 0}
</style><main><i class="h"></i><i></i><i style="width:92%"></i><i style="width:70%"></i><i class="p"></i><i></i><i style="width:88%"></i><i style="width:94%"></i><i style="width:60%"></i><i class="p"></i><i></i><i style="width:80%"></i></main></html>`)

var errNoPage = errors.New("no page")

// fetchStill gives a page of the site, and whether the site has it: what says
// that there is none is a page too.
func (s *Place) fetchStill(ctx context.Context, origin, path string) (still []byte, there bool, err error) {
	base, err := url.Parse(origin)
	if err != nil || !strings.HasPrefix(path, "/") {
		return nil, false, errNoPage
	}
	address, err := base.Parse(path)
	if err != nil || address.Host != base.Host || address.Scheme != base.Scheme {
		return nil, false, errNoPage
	}
	ctx, cancel := context.WithTimeout(ctx, pagePatience)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, address.String(), nil)
	if err != nil {
		return nil, false, err
	}
	req.Header.Set("Accept", "text/html")
	select {
	case s.fetching <- struct{}{}:
		defer func() { <-s.fetching }()
	case <-ctx.Done():
		return nil, false, ctx.Err()
	}
	client := *s.browser
	client.CheckRedirect = func(to *http.Request, via []*http.Request) error {
		if to.URL.Host != base.Host || len(via) > 4 {
			return errNoPage
		}
		return nil
	}
	r, err := client.Do(req)
	if err != nil {
		return nil, false, err
	}
	defer r.Body.Close()
	if r.StatusCode >= 500 || !strings.HasPrefix(r.Header.Get("Content-Type"), "text/html") {
		return nil, false, errNoPage
	}
	raw, err := io.ReadAll(io.LimitReader(r.Body, maxPage))
	if err != nil {
		return nil, false, err
	}
	still, err = stillPage(raw, r.Request.URL)
	return still, r.StatusCode < 400, err
}

// stillPage takes out of a page all that could run or lead away from it.
func stillPage(raw []byte, at *url.URL) ([]byte, error) {
	doc, err := html.Parse(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	strip(doc)
	if head := first(doc, atom.Head); head != nil {
		head.InsertBefore(&html.Node{Type: html.ElementNode, DataAtom: atom.Base, Data: "base", Attr: []html.Attribute{{Key: "href", Val: at.String()}}}, head.FirstChild)
	}
	var out bytes.Buffer
	err = html.Render(&out, doc)
	return out.Bytes(), err
}

func strip(n *html.Node) {
	for child := n.FirstChild; child != nil; {
		next := child.NextSibling
		switch child.DataAtom {
		case atom.Script, atom.Iframe, atom.Object, atom.Embed, atom.Base, atom.Frame, atom.Frameset, atom.Noscript, atom.Template:
			n.RemoveChild(child)
		case atom.Meta:
			n.RemoveChild(child) // it may refresh, or set another policy
		default:
			kept := child.Attr[:0]
			for _, a := range child.Attr {
				if !strings.HasPrefix(strings.ToLower(a.Key), "on") {
					kept = append(kept, a)
				}
			}
			child.Attr = kept
			strip(child)
		}
		child = next
	}
}

func first(n *html.Node, a atom.Atom) *html.Node {
	if n.DataAtom == a && n.Type == html.ElementNode {
		return n
	}
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		if found := first(child, a); found != nil {
			return found
		}
	}
	return nil
}
