package visitor

import (
	"context"
	"errors"
	"net/http"

	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/problem"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/walks"
)

var (
	drawOver = problem.New(http.StatusConflict, "draw-over", "This draw is over.")
	allGone  = problem.New(http.StatusConflict, "all-gone", "All prizes have been given out. Thank you for taking part.")
	hadGo    = problem.New(http.StatusConflict, "had-go", "You have had your go already.")
	manyGoes = problem.New(http.StatusTooManyRequests, "enough-goes", "Enough goes have been taken from where you are. Try again tomorrow.")
	oneDraw  = problem.New(http.StatusUnprocessableEntity, "one-draw", "One go at a time.")
)

// prizes gives what may be drawn of a draw now, as its piece is live: who began
// with an earlier design draws by the present weights and stock, among what
// both have. nil says that the draw is over.
func (site *Site) prizes(id, variant string, of piece.PrizeDraw) *walk.Draw {
	for _, live := range site.Live {
		if live.ID != id {
			continue
		}
		v, ok := live.Piece.Variant(variant)
		if !ok {
			return nil
		}
		var draw *walk.Draw
		v.Design.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
			if now, ok := b.(piece.PrizeDraw); ok && now.Key == of.Key {
				draw = walk.DrawOf(of, now)
			}
		})
		return draw
	}
	return nil
}

// refusedGo says to the visitor why a go was refused.
func (v *Server) refusedGo(ctx context.Context, site *Site, who walks.Walker, ask *walk.Request, err error) error {
	var over *walk.Over
	switch {
	case errors.As(err, &over):
		if err := v.store.Walks.RefuseGo(ctx, site.ID, site.Zone, who, over.Key, walks.DrawOver); err != nil {
			return err
		}
		return drawOver
	case errors.Is(err, walk.ErrOneDraw):
		return oneDraw
	case errors.Is(err, walks.ErrAllGone):
		return allGone
	case errors.Is(err, codes.ErrDrained):
		return manyGoes
	case errors.Is(err, walks.ErrHadGo):
		err = walk.AddressHadGo(ask.Graph, ask.Steps)
	}
	if errors.Is(err, walk.ErrHadGo) {
		return hadGo
	}
	return err
}
