package visitor

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"net/http"
	"slices"

	"github.com/google/uuid"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/store/codes"
)

var (
	unknownPiece = problem.New(http.StatusUnprocessableEntity, "unknown-piece", "This piece has no such thing.")
	noCodeLeft   = problem.New(http.StatusNotFound, "no-code-left", "No code is left to give.")
	notShown     = problem.New(http.StatusConflict, "not-shown", "No showing of this piece is recorded yet.")
	enoughCodes  = problem.New(http.StatusTooManyRequests, "enough-codes", "Enough codes have gone to where you are. Try again tomorrow.")
	notReached   = problem.New(http.StatusForbidden, "not-reached", "This comes a step later.")
)

// reached refuses who has not come to a scene of a design. Scenes that are sent
// ahead are everyone's.
func (v *Server) reached(c *Call, w *WalkRef, scene string) (*walked, error) {
	site := c.Site
	if !site.Known[w.Piece][w.Variant] || !isToken(w.Visitor) {
		return nil, unknownPiece
	}
	d, err := v.walked(c, site, w.Design)
	if errors.Is(err, fault.ErrNotFound) {
		err = unknownPiece
	}
	if err != nil || d.Open(scene) {
		return d, err
	}
	id, err := uuid.Parse(w.ID)
	if err != nil {
		return nil, notReached
	}
	at, err := v.store.Walks.State(c, site.ID, id.String(), w.Piece, w.Visitor)
	if errors.Is(err, fault.ErrNotFound) || err == nil && (at.Design != w.Design || !slices.Contains(at.State.Path, scene)) {
		err = notReached
	}
	return d, err
}

// code gives a visitor a code of a pool, if a live piece that gives codes of it
// was shown to them or answered by them, and they have come to where it does.
func (v *Server) code(c *Call, req *CodeRequest) (CodeAnswer, error) {
	answer, err := v.given(c, req)
	return answer, c.Site.inWords(req.Language, err)
}

func (v *Server) given(c *Call, req *CodeRequest) (CodeAnswer, error) {
	site := c.Site
	// What was won stays won, when the piece is paused too.
	if req.Draw == "" && !site.IsLive[req.Walk.Piece] {
		return CodeAnswer{}, unknownPiece
	}
	d, err := v.reached(c, &req.Walk, req.Scene)
	if err == nil && !gives(d.Drawing, req.Scene, req.Pool, req.Draw) {
		err = unknownPiece
	}
	if err != nil {
		return CodeAnswer{}, err
	}
	if req.Draw != "" {
		return v.wonCode(c, req)
	}
	walk := ""
	if id, err := uuid.Parse(req.Walk.ID); err == nil {
		walk = id.String()
	}
	if why, _ := v.outsider(c, req.Automated); why != "" {
		req.Unwatched = true // nothing is recorded of them
	}
	address, network := c.whereabouts()
	code, err := v.store.Codes.Take(c, site.ID, codes.Taker{
		Pool: req.Pool, Piece: req.Walk.Piece, Visitor: req.Walk.Visitor, Walk: walk, Unwatched: req.Unwatched,
		Address: address, Network: network,
	})
	switch {
	case errors.Is(err, fault.ErrNotFound):
		err = noCodeLeft
	case errors.Is(err, codes.ErrUnseen):
		err = notShown
	case errors.Is(err, codes.ErrDrained):
		err = enoughCodes
	}
	return CodeAnswer{code}, err
}

// wonCode gives a visitor the code of what they drew.
func (v *Server) wonCode(c *Call, req *CodeRequest) (CodeAnswer, error) {
	code, err := v.store.Walks.WonCode(c, c.Site.ID, req.Walk.Piece, req.Draw, req.Walk.Visitor)
	if errors.Is(err, fault.ErrNotFound) {
		err = notReached
	}
	return CodeAnswer{code}, err
}

// gives reports whether a scene gives codes of a pool, or of a draw.
func gives(d *piece.Drawing, scene, pool, draw string) bool {
	for _, s := range d.Scenes {
		for b := range s.All() {
			if code, ok := b.(piece.Code); ok && s.ID == scene && code.Pool == pool && code.Draw == draw && pool+draw != "" {
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
