package visitor

import (
	"context"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"regexp"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/internal/templates"
)

func (v *Server) picture(c *gin.Context) error {
	if art, ok := templates.Art(c.Param("hash")); ok {
		forGood(c)
		c.Header("Access-Control-Allow-Origin", "*")
		c.Data(http.StatusOK, art.Mime, art.Body)
		return nil
	}
	if sameAsBefore(c, c.Param("hash")) {
		return nil
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), longestFile)
	defer cancel()
	p, body, err := v.store.Library.OpenPicture(ctx, c.Param("hash"))
	if err != nil {
		return err
	}
	c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Header("Content-Type", p.Mime)
	serveBlob(c, p.Hash, p.CreatedAt, body)
	return nil
}

// file serves what a piece hands out. Nothing but a video opens in the browser:
// a file that someone uploaded must not act as a page of ours.
func (v *Server) file(c *gin.Context) error {
	if sameAsBefore(c, c.Param("hash")) {
		return nil
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), longestFile)
	defer cancel()
	f, body, err := v.store.Library.OpenFile(ctx, c.Param("hash"))
	if err != nil {
		return err
	}
	c.Header("Content-Security-Policy", "default-src 'none'; media-src 'self'; sandbox")
	if strings.HasPrefix(f.Mime, "video/") {
		c.Header("Content-Type", f.Mime)
	} else {
		c.Header("Content-Type", "application/octet-stream")
		c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}))
	}
	serveBlob(c, f.Hash, f.CreatedAt, body)
	return nil
}

const (
	longestFile = 10 * time.Minute
	// pieceTime is how long a reader may take over one piece of a file: 256 KB,
	// which the slowest of phones read in time.
	pieceTime = 30 * time.Second
)

// sameAsBefore answers who has the content already: by its name it never changes.
func sameAsBefore(c *gin.Context, hash string) bool {
	if c.GetHeader("If-None-Match") != `"`+hash+`"` {
		return false
	}
	forGood(c)
	c.Header("ETag", `"`+hash+`"`)
	c.Header("Access-Control-Allow-Origin", "*")
	c.Status(http.StatusNotModified)
	c.Writer.WriteHeaderNow()
	return true
}

// serveBlob serves a stored body, or the part of it that is asked for, piece by piece.
func serveBlob(c *gin.Context, hash string, at time.Time, body io.ReadSeeker) {
	forGood(c)
	c.Header("ETag", `"`+hash+`"`)
	c.Header("Access-Control-Allow-Origin", "*")
	// One range at a time: several are put together in more memory than they are worth.
	if asked := c.GetHeader("Range"); strings.Contains(asked, ",") {
		c.Request.Header.Del("Range")
	}
	http.ServeContent(c.Writer, c.Request, "", at, unhurried{body, http.NewResponseController(c.Writer)})
}

// unhurried gives the reader of a response more time with each piece, and
// breaks off with one who takes none.
type unhurried struct {
	io.ReadSeeker
	response *http.ResponseController
}

func (u unhurried) Read(into []byte) (int, error) {
	u.response.SetWriteDeadline(time.Now().Add(pieceTime))
	return u.ReadSeeker.Read(into)
}

func forGood(c *gin.Context) { c.Header("Cache-Control", "public, max-age=31536000, immutable") }

var fontName = regexp.MustCompile(`^[a-z_]{2,30}\.woff2$`)

// font serves the letters of a font that ships.
func (v *Server) font(c *gin.Context) error {
	name := c.Param("name")
	if v.fonts == nil || !fontName.MatchString(name) {
		return fault.ErrNotFound
	}
	letters, err := fs.ReadFile(v.fonts, path.Join("fonts", name))
	if err != nil {
		return fault.ErrNotFound
	}
	c.Header("Cache-Control", "public, max-age=2592000")
	c.Header("Access-Control-Allow-Origin", "*")
	c.Data(http.StatusOK, "font/woff2", letters)
	return nil
}
