package walk

import (
	"encoding/binary"
	"errors"
	"hash/fnv"
	"slices"

	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
)

// Draw is a prize draw to be made.
type Draw struct {
	Key    string
	Prizes []Prize
}

// Prize is what may be drawn, as it stands in what is live now.
type Prize struct {
	ID, Label string
	Weight    float64
	Stock     *int   // in all; nil: any number
	Code      string // that comes with it
	Pool      string // or that its code is taken from
}

// Drawn is what a draw came to.
type Drawn struct {
	Key, Part, Label string
	// Again says that it is what this visitor drew on an earlier walk.
	Again bool
}

// Go is one taken at a draw.
type Go struct {
	Key   string
	Prize Prize
	Email string // that is left with it; empty: none is
}

var (
	// ErrHadGo is that a draw came to what is no part of the walk's design.
	ErrHadGo = errors.New("the go was had already")
	// ErrOneDraw is that steps draw more than once.
	ErrOneDraw = errors.New("one go at a time")
)

// Over is that a step draws from what shows no more.
type Over struct{ Key string }

func (o *Over) Error() string { return "the draw of " + o.Key + " is over" }

// DrawOf asks for a draw among its parts, with the weights, stock and codes that
// they have now. What is there no more is not drawn.
func DrawOf(d, now piece.PrizeDraw) *Draw {
	out := &Draw{Key: d.Key}
	for _, p := range d.Parts {
		prize := Prize{ID: p.ID, Label: p.Label}
		if i := slices.IndexFunc(now.Parts, func(n piece.DrawPart) bool { return n.ID == p.ID }); i >= 0 {
			n := now.Parts[i]
			prize.Weight, prize.Stock, prize.Code, prize.Pool = n.Weight, n.Stock, n.Code, n.Pool
		}
		out.Prizes = append(out.Prizes, prize)
	}
	return out
}

// draw says what is to be drawn for the step at hand.
func (t *turn) draw(d piece.PrizeDraw) (*Draw, error) {
	if drawn := t.before.Drawn; drawn != nil {
		if drawn.Key == d.Key {
			return nil, ErrHadGo
		}
		return nil, ErrOneDraw
	}
	out := t.Draw(d)
	if out == nil {
		return nil, &Over{d.Key}
	}
	return out, nil
}

// took notes that the walk has taken what was drawn.
func (t *turn) took(scene string, drawn *Drawn) {
	t.state.Draws = append(t.state.Draws, Draws{drawn.Key, t.next.Steps + 1, drawn.Again})
	if drawn.Again {
		return
	}
	d, _ := t.Graph.DrawCalled(drawn.Key)
	t.next.Go = &Go{Key: drawn.Key, Email: t.Graph.Form(scene).Email(t.walk.Answers)}
	if all := t.Draw(d); all != nil {
		for _, p := range all.Prizes {
			if p.ID == drawn.Part {
				t.next.Go.Prize = p
			}
		}
	}
}

// Drawn is what the request's steps drew, now or when they were sent first, by
// the keys of draws. id is the walk's: a wheel stops at the same place each time
// it is asked about.
func (n *Next) Drawn(g *flow.Graph, id string) map[string]DrawnPart {
	var drawn map[string]DrawnPart
	for i, s := range n.asked {
		if _, ok := g.Scene(s.Scene); !ok || s.Back {
			continue
		}
		if takes, _ := g.Counts(s); !takes {
			continue
		}
		for _, d := range g.Draws(s.Scene) {
			part := n.State.Answers[d.Key]
			if part == "" {
				continue
			}
			if drawn == nil {
				drawn = map[string]DrawnPart{}
			}
			one := drawnPart(d, id, part)
			// Who comes by a draw once more has had their go, too.
			if by := slices.IndexFunc(n.State.Draws, func(made Draws) bool { return made.Key == d.Key }); by >= 0 {
				one.Again = n.State.Draws[by].Again || n.State.Draws[by].Step < n.from+i+1
			}
			drawn[d.Key] = one
		}
	}
	return drawn
}

func drawnPart(d piece.PrizeDraw, id, part string) DrawnPart {
	i := slices.IndexFunc(d.Parts, func(p piece.DrawPart) bool { return p.ID == part })
	if i < 0 {
		return DrawnPart{Part: part}
	}
	at := float64(seedOf(id+d.Key)>>11) / (1 << 53)
	return DrawnPart{Part: part, Label: d.Parts[i].Label, Nothing: d.Parts[i].Nothing, Rest: draw.Rest(flow.Shares(d), i, at)}
}

// seedOf makes a number of a text.
func seedOf(text string) uint64 {
	h := fnv.New128a()
	h.Write([]byte(text))
	return binary.BigEndian.Uint64(h.Sum(nil))
}

// AddressHadGo says that an address has had its go, at the field that asked for it.
func AddressHadGo(g *flow.Graph, steps []Step) error {
	for i := len(steps) - 1; i >= 0; i-- {
		for _, f := range g.Form(steps[i].Scene).Fields {
			if f.Ask == piece.AskEmail && steps[i].Values[f.Key] != "" {
				return fault.Fault{At: fault.Key(fault.Key(fault.Index("steps", i), "values"), f.Key), Message: "This address has had its go already."}
			}
		}
	}
	return ErrHadGo
}
