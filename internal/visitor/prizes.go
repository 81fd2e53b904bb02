package visitor

import (
	"context"
	"encoding/binary"
	"errors"
	"hash/fnv"
	"net/http"
	"slices"

	"github.com/google/uuid"

	"gobbet/core/answer"
	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/internal/problem"
	"gobbet/internal/store"
)

var (
	drawOver = problem.New(http.StatusConflict, "draw-over", "This draw is over.")
	allGone  = problem.New(http.StatusConflict, "all-gone", "All prizes have been given out. Thank you for taking part.")
	hadGo    = problem.New(http.StatusConflict, "had-go", "You have had your go already.")
	manyGoes = problem.New(http.StatusTooManyRequests, "enough-goes", "Enough goes have been taken from where you are. Try again tomorrow.")
	oneDraw  = problem.New(http.StatusUnprocessableEntity, "one-draw", "One go at a time.")
)

// errOver is that a step draws from what shows no more.
var errOver = errors.New("the draw is over")

// prizes gives what may be drawn of a draw now, as its piece is live: who began
// with an earlier design draws by the present weights and stock, among what
// both have. nil says that the draw is over.
func (site *Site) prizes(id, variant string, of piece.PrizeDraw) *store.Want {
	for _, live := range site.Live {
		if live.ID != id {
			continue
		}
		v, ok := live.Piece.Variant(variant)
		if !ok {
			return nil
		}
		var want *store.Want
		v.Design.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
			if now, ok := b.(piece.PrizeDraw); ok && now.Key == of.Key {
				want = wantOf(of, now)
			}
		})
		return want
	}
	return nil
}

// wantOf asks for a draw among its parts, with the weights, stock and codes
// that they have now. What is there no more is not drawn.
func wantOf(d, now piece.PrizeDraw) *store.Want {
	want := &store.Want{Key: d.Key}
	for _, p := range d.Parts {
		part := store.WantPart{ID: p.ID, Label: p.Label}
		if i := slices.IndexFunc(now.Parts, func(n piece.DrawPart) bool { return n.ID == p.ID }); i >= 0 {
			n := now.Parts[i]
			part.Weight, part.Stock, part.Code, part.Pool = n.Weight, n.Stock, n.Code, n.Pool
		}
		want.Parts = append(want.Parts, part)
	}
	return want
}

// want asks the store for a draw.
func (t *turn) want(d piece.PrizeDraw, drawn *store.Drawn) (*store.Moved, error) {
	if drawn != nil {
		if drawn.Key == d.Key {
			return nil, hadGo // for what is no part of this design
		}
		return nil, oneDraw
	}
	want := t.prizes(d)
	if want == nil {
		t.over = d.Key
		return nil, errOver
	}
	return &store.Moved{Want: want}, nil
}

// took notes a go that the walk has taken.
func (t *turn) took(w *flow.Walk, scene string, drawn *store.Drawn, moved *store.Moved) {
	t.drawn = drawn
	if drawn.Again {
		return
	}
	d, _ := t.graph.DrawCalled(drawn.Key)
	moved.Go = &store.Go{Key: drawn.Key}
	if email := t.graph.Form(scene).Email(w.Answers); email != "" {
		moved.Go.Email = t.digest(email)
	}
	for _, p := range t.prizes(d).Parts {
		if p.ID == drawn.Part {
			moved.Go.Part = p
		}
	}
}

// told is what was drawn, as the page is told.
func (t *turn) told() map[string]DrawnPart {
	if t.drawn == nil {
		return nil
	}
	part := drawnPart(t.graph, t.walk, t.drawn.Key, t.drawn.Part)
	part.Again = t.drawn.Again
	return map[string]DrawnPart{t.drawn.Key: part}
}

// drawnPart says what was drawn on a walk, and where on its wheel that stops:
// the same place each time it is asked.
func drawnPart(g *flow.Graph, walk uuid.UUID, key, part string) DrawnPart {
	d, _ := g.DrawCalled(key)
	i := slices.IndexFunc(d.Parts, func(p piece.DrawPart) bool { return p.ID == part })
	if i < 0 {
		return DrawnPart{Part: part}
	}
	at := float64(seedOf(walk.String()+key)>>11) / (1 << 53)
	return DrawnPart{Part: part, Label: d.Parts[i].Label, Nothing: d.Parts[i].Nothing, Rest: draw.Rest(flow.Shares(d), i, at)}
}

// seedOf makes a number of a text.
func seedOf(text string) uint64 {
	h := fnv.New128a()
	h.Write([]byte(text))
	return binary.BigEndian.Uint64(h.Sum(nil))
}

// drawnSince gives what a walk has drawn that was not drawn before.
func drawnSince(g *flow.Graph, before answer.Answers, w *flow.Walk) map[string]string {
	drawn := map[string]string{}
	for key, p := range w.Drawn() {
		if before[key] == "" {
			drawn[key] = p.ID
		}
	}
	return drawn
}

// whyNoGo says to the visitor why a go was refused.
func (v *Server) whyNoGo(ctx context.Context, site *Site, who store.Walker, t *turn, err error) error {
	switch {
	case errors.Is(err, errOver):
		if err := v.store.RefuseGo(ctx, site.ID, site.Zone, who, t.over, store.DrawOver); err != nil {
			return err
		}
		return drawOver
	case errors.Is(err, store.ErrAllGone):
		return allGone
	case errors.Is(err, store.ErrDrained):
		return manyGoes
	case errors.Is(err, store.ErrHadGo):
		return t.addressHadGo()
	}
	return err
}

// addressHadGo says it at the field that asked for the address.
func (t *turn) addressHadGo() error {
	for i := len(t.steps) - 1; i >= 0; i-- {
		for _, f := range t.graph.Form(t.steps[i].Scene).Fields {
			if f.Ask == piece.AskEmail && t.steps[i].Values[f.Key] != "" {
				return fault.Fault{At: fault.Key(fault.Key(fault.Index("steps", i), "values"), f.Key), Message: "This address has had its go already."}
			}
		}
	}
	return hadGo
}
