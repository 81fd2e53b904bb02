package launch

import (
	"context"
	"fmt"
	"strings"

	qrcode "github.com/skip2/go-qrcode"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
)

// moduleSize is that of a code's modules as PNG, in pixels: about a thousand
// across, which prints well at the size of a hand.
const moduleSize = 24

// qr gives the address of a piece's own page as a QR code, as SVG for print or PNG.
func (s *Place) qr(c *route.Call, ask QRQuery) error {
	address := ask.Address
	code, err := s.qrOf(c.Site, address)
	if err != nil {
		return err
	}
	c.Writer.Header().Set("Cache-Control", "private, max-age=60")
	c.Writer.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	if ask.Form != "png" {
		c.Writer.Header().Set("Content-Disposition", `inline; filename="`+address+`.svg"`)
		c.Data("image/svg+xml", qrDrawing(code.Bitmap()))
		return nil
	}
	body, err := code.PNG(-moduleSize)
	if err != nil {
		return err
	}
	c.Writer.Header().Set("Content-Disposition", `attachment; filename="`+address+`.png"`)
	c.Data("image/png", body)
	return nil
}

func (s *Place) qrOf(site sites.Site, address string) (*qrcode.QRCode, error) {
	if s.pages == "" || !piece.IsPageAddress(address) {
		return nil, fault.ErrNotFound
	}
	// A quarter of it may be worn off or covered.
	return qrcode.New(piece.PagesAt(s.pages, site.Key)+address, qrcode.High)
}

// qrDrawing draws a code's modules, row by row, as runs of one unit's height.
func qrDrawing(modules [][]bool) []byte {
	var path strings.Builder
	for y, row := range modules {
		for x := 0; x < len(row); x++ {
			begins := x
			for x < len(row) && row[x] {
				x++
			}
			if x > begins {
				fmt.Fprintf(&path, "M%d %dh%dv1h-%dz", begins, y, x-begins, x-begins)
			}
		}
	}
	n := len(modules)
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" shape-rendering="crispEdges"><path fill="#fff" d="M0 0h%dv%dH0z"/><path d="%s"/></svg>`, n, n, n, n, path.String())
}

// pageIsFree reports, as a fault, that another live piece of the site has the
// address that a piece says for its own page.
func (s *Place) pageIsFree(ctx context.Context, site sites.Site, id string, p *piece.Piece) error {
	if p.Page == nil {
		return nil
	}
	taken, err := s.store.Pieces.PageTaken(ctx, site.ID, id, p.Page.Address)
	if err == nil && taken {
		err = fault.Fault{At: "page.address", Message: "is that of another live piece's own page. Choose another."}
	}
	return err
}
