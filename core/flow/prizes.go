package flow

import (
	"math"
	"math/rand/v2"
	"slices"

	"gobbet/core/answer"
	"gobbet/core/draw"
	"gobbet/core/fault"
	"gobbet/core/piece"
)

// Undrawn says that a step has to be taken again with what is drawn: the form
// of the scene is filled in, and nothing else is wanting.
type Undrawn struct {
	Draws []piece.PrizeDraw
}

func (u *Undrawn) Error() string { return "the draw of " + u.Draws[0].Key + " is still to be made" }

// drawn puts what was drawn among the answers. A walk draws once from each
// draw, however often it comes by.
func (w *Walk) drawn(s *scene, step Step, into answer.Answers) error {
	var undrawn []piece.PrizeDraw
	for _, d := range s.draws {
		if into[d.Key] != "" {
			continue
		}
		part := step.Drawn[d.Key]
		switch {
		case part == "":
			undrawn = append(undrawn, d)
		case !slices.ContainsFunc(d.Parts, func(p piece.DrawPart) bool { return p.ID == part }):
			return fault.Fault{At: fault.Key("drawn", d.Key), Message: "is not a part of this draw"}
		default:
			into[d.Key] = part
		}
	}
	if undrawn != nil {
		return &Undrawn{undrawn}
	}
	return nil
}

// Draws are the prize draws of a scene.
func (g *Graph) Draws(id string) []piece.PrizeDraw { return g.scenes[g.at[id]].draws }

// HasDraws reports whether there is a prize draw in any scene.
func (g *Graph) HasDraws() bool {
	return slices.ContainsFunc(g.scenes, func(s scene) bool { return len(s.draws) > 0 })
}

// DrawCalled gives a prize draw by its key.
func (g *Graph) DrawCalled(key string) (piece.PrizeDraw, bool) {
	p, ok := g.fields[key]
	if ok {
		for _, d := range g.scenes[p.scene].draws {
			if d.Key == key {
				return d, true
			}
		}
	}
	return piece.PrizeDraw{}, false
}

// PartsOf gives the parts of a draw as package draw takes them, with all of
// their stock.
func PartsOf(d piece.PrizeDraw) []draw.Part {
	parts := make([]draw.Part, len(d.Parts))
	for i, p := range d.Parts {
		parts[i] = draw.Part{Weight: p.Weight, Stock: -1}
		if p.Stock != nil {
			parts[i].Stock = *p.Stock
		}
	}
	return parts
}

// OddsOf gives the odds of a draw's parts by their weights, whatever is left of them.
func OddsOf(d piece.PrizeDraw) []float64 {
	parts := PartsOf(d)
	for i := range parts {
		parts[i].Stock = -1
	}
	pot, err := draw.New(parts)
	if err != nil {
		return make([]float64, len(parts)) // a draw that was read has weights that can be
	}
	return pot.Odds()
}

// Shares gives how much of a wheel each part takes, 0 to 1: its odds, or as much as any other.
func Shares(d piece.PrizeDraw) []float64 {
	if !d.Even {
		return OddsOf(d)
	}
	shares := make([]float64, len(d.Parts))
	for i := range shares {
		shares[i] = 1 / float64(len(shares))
	}
	return shares
}

// drawAll draws for a step that wants it, each time as if it was the first.
func (u *Undrawn) drawAll(source rand.Source) (map[string]string, error) {
	drawn := map[string]string{}
	for _, d := range u.Draws {
		pot, err := draw.New(PartsOf(d))
		if err != nil {
			return nil, err
		}
		i, err := pot.Draw(source)
		if err != nil {
			return nil, fault.Fault{At: fault.Key("values", d.Key), Message: "has nothing left to draw"}
		}
		drawn[d.Key] = d.Parts[i].ID
	}
	return drawn, nil
}

// TakeDrawing takes a step as Take does, and draws from the source what there
// is to draw, for those who only rehearse.
func (w *Walk) TakeDrawing(step Step, source rand.Source) error {
	err := w.Take(step)
	undrawn, ok := err.(*Undrawn)
	if !ok {
		return err
	}
	if step.Drawn, err = undrawn.drawAll(source); err != nil {
		return err
	}
	return w.Take(step)
}

// Drawn lists what the walk has drawn: the keys of draws, and the parts.
func (w *Walk) Drawn() map[string]piece.DrawPart {
	drawn := map[string]piece.DrawPart{}
	for i := range w.g.scenes {
		for _, d := range w.g.scenes[i].draws {
			for _, p := range d.Parts {
				if p.ID == w.Answers[d.Key] {
					drawn[d.Key] = p
				}
			}
		}
	}
	return drawn
}

// projectedDraw is a draw as visitors get it: how its parts look, and the odds
// in words where it states them, but not what is behind them.
func projectedDraw(d piece.PrizeDraw) piece.PrizeDraw {
	shares, labels, limited := Shares(d), make([]string, len(d.Parts)), false
	parts := make([]piece.DrawPart, len(d.Parts))
	for i, p := range d.Parts {
		labels[i] = p.Label
		limited = limited || p.Stock != nil || p.Pool != ""
		parts[i] = piece.DrawPart{ID: p.ID, Label: p.Label, Fill: p.Fill, Share: math.Round(shares[i]*1e6) / 1e6}
	}
	if d.Odds {
		d.Statement = draw.Statement(labels, OddsOf(d), limited)
	}
	if d.Look != "wheel" {
		// Only a wheel shows what there is to win; the others what is won.
		for i := range parts {
			parts[i].Share = 0
		}
	}
	d.Parts = parts
	return d
}
