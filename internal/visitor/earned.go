package visitor

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/store"
)

var (
	unknownPiece = problem.New(http.StatusUnprocessableEntity, "unknown-piece", "This piece has no such thing.")
	noCodeLeft   = problem.New(http.StatusNotFound, "no-code-left", "No code is left to give.")
	notShown     = problem.New(http.StatusConflict, "not-shown", "No showing of this piece is recorded yet.")
	enoughCodes  = problem.New(http.StatusTooManyRequests, "enough-codes", "Enough codes have gone to where you are. Try again tomorrow.")
	notReached   = problem.New(http.StatusForbidden, "not-reached", "This comes a step later.")
)

// scenes gives a scene that was withheld to who has reached it.
func (v *Server) scenes(c *gin.Context) {
	var req SceneRequest
	if !body(c, &req) {
		return
	}
	site := siteOf(c)
	d, err := v.reached(c, site, &req.Walk, req.Scene, req.Token)
	if err != nil {
		problem.Write(c, err)
		return
	}
	for _, s := range d.Scenes {
		if s.ID == req.Scene {
			c.JSON(http.StatusOK, SceneAnswer{s})
			return
		}
	}
	problem.Write(c, unknownPiece)
}

// reached reads the drawing a walk is on, if the walk has come to a scene of
// it, or a pass lets one look.
func (v *Server) reached(c *gin.Context, site *Site, w *WalkRef, scene, token string) (*piece.Drawing, error) {
	if !site.Known[w.Piece][w.Variant] || !tokenForm.MatchString(w.Visitor) {
		return nil, unknownPiece
	}
	d, err := v.drawn(c, site, w.Design)
	if errors.Is(err, store.ErrNotFound) || err == nil && len(d.Scenes) == 0 {
		err = unknownPiece
	}
	if err != nil {
		return nil, err
	}
	if _, ok := readPass(site.Site, token, v.now()); token != "" && ok {
		return d, nil
	}
	first := []string{d.Scenes[0].ID}
	if d.Reached(first, nil)[scene] {
		return d, nil
	}
	id, err := uuid.Parse(w.ID)
	if err != nil {
		return nil, notReached
	}
	sent, err := v.store.SentScenes(c, site.ID, id.String(), w.Piece, w.Visitor)
	if err == nil && !d.Reached(first, sent)[scene] {
		err = notReached
	}
	return d, err
}

// code gives a visitor a code of a pool, if a live piece that gives codes of it
// was shown to them or answered by them, and they have come to where it does.
func (v *Server) code(c *gin.Context) {
	var req CodeRequest
	if !body(c, &req) {
		return
	}
	site := siteOf(c)
	if !site.IsLive[req.Walk.Piece] {
		problem.Write(c, unknownPiece)
		return
	}
	d, err := v.reached(c, site, &req.Walk, req.Scene, "")
	if err == nil && !gives(d, req.Scene, req.Pool) {
		err = unknownPiece
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	address, network := Whereabouts(c.ClientIP())
	code, err := v.store.TakeCode(c, site.ID, store.CodeTaker{
		Pool: req.Pool, Piece: req.Walk.Piece, Visitor: req.Walk.Visitor, Unwatched: req.Unwatched,
		Address: secretly(site, "address", address), Network: secretly(site, "network", network),
	})
	switch {
	case errors.Is(err, store.ErrNotFound):
		err = noCodeLeft
	case errors.Is(err, store.ErrUnseen):
		err = notShown
	case errors.Is(err, store.ErrDrained):
		err = enoughCodes
	}
	if err != nil {
		problem.Write(c, err)
		return
	}
	c.JSON(http.StatusOK, CodeAnswer{code})
}

// gives reports whether a scene gives codes of a pool.
func gives(d *piece.Drawing, scene, pool string) bool {
	for _, s := range d.Scenes {
		for b := range s.All() {
			if code, ok := b.(piece.Code); ok && s.ID == scene && code.Pool == pool && pool != "" {
				return true
			}
		}
	}
	return false
}

// secretly tells one text from another without saying which.
func secretly(site *Site, kind, of string) string {
	h := hmac.New(sha256.New, site.Secret)
	h.Write([]byte(kind + "\x00" + of))
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil)[:12])
}
