package visitor

import (
	"bytes"
	"errors"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"regexp"
	"strings"

	"github.com/gin-gonic/gin"

	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/store"
)

// file serves what a piece hands out. Nothing but a video opens in the browser:
// a file that someone uploaded must not act as a page of ours.
func (v *Server) file(c *gin.Context) {
	f, err := v.store.File(c, c.Param("hash"))
	if err != nil {
		problem.Write(c, err)
		return
	}
	forGood(c)
	c.Header("Access-Control-Allow-Origin", "*")
	c.Header("Content-Security-Policy", "default-src 'none'; media-src 'self'; sandbox")
	if strings.HasPrefix(f.Mime, "video/") {
		c.Header("Content-Type", f.Mime)
	} else {
		c.Header("Content-Type", "application/octet-stream")
		c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}))
	}
	http.ServeContent(c.Writer, c.Request, "", f.CreatedAt, bytes.NewReader(f.Body))
}

var fontName = regexp.MustCompile(`^[a-z_]{2,30}\.woff2$`)

// font serves the letters of a font that ships.
func (v *Server) font(c *gin.Context) {
	name := c.Param("name")
	if v.fonts == nil || !fontName.MatchString(name) {
		problem.Write(c, store.ErrNotFound)
		return
	}
	letters, err := fs.ReadFile(v.fonts, path.Join("fonts", name))
	if err != nil {
		problem.Write(c, store.ErrNotFound)
		return
	}
	c.Header("Cache-Control", "public, max-age=2592000")
	c.Header("Access-Control-Allow-Origin", "*")
	c.Data(http.StatusOK, "font/woff2", letters)
}

var noCodeLeft = problem.New(http.StatusNotFound, "no-code-left", "No code is left to give.")

// code gives a visitor a code of a pool, if the design they have before them
// gives codes of it.
func (v *Server) code(c *gin.Context) {
	var req CodeRequest
	if !body(c, &req) {
		return
	}
	site := siteOf(c)
	unknown := problem.New(http.StatusUnprocessableEntity, "unknown-piece", "This piece gives no such code.")
	if !site.Known[req.Piece][req.Variant] || !token.MatchString(req.Visitor) {
		problem.Write(c, unknown)
		return
	}
	drawing, err := v.drawing(c, site, req.Design)
	if errors.Is(err, store.ErrNotFound) {
		err = unknown
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	d, err := piece.ReadDrawing(drawing)
	if err != nil {
		problem.Write(c, err)
		return
	}
	gives := false
	piece.Design{Frame: d.Frame, Scenes: d.Scenes}.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
		code, ok := b.(piece.Code)
		gives = gives || ok && code.Pool == req.Pool && req.Pool != ""
	})
	if !gives {
		problem.Write(c, unknown)
		return
	}
	code, err := v.store.TakeCode(c, site.ID, req.Pool, req.Visitor, req.Piece)
	if errors.Is(err, store.ErrNotFound) {
		err = noCodeLeft
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusOK, CodeAnswer{code})
}
