package flow

import (
	"maps"
	"slices"

	"gobbet/core/captions"
	"gobbet/core/markup"
	"gobbet/core/piece"
)

// What visitors get of a design is a projection: the scenes that can be come to
// without passing a gate, without what is right, what scores and which way is
// gone for it. The rest comes when it is earned.

// Public is the drawing as it is sent ahead.
func (g *Graph) Public(d piece.Drawing) piece.Drawing {
	d.Needs = d.Scripts()
	d.Scenes = make([]piece.Scene, len(g.scenes))
	for i := range g.scenes {
		s := &g.scenes[i]
		if g.open[i] {
			d.Scenes[i] = g.projected(i)
		} else {
			d.Scenes[i] = piece.Scene{ID: s.ID, Name: "…", Kind: s.Kind, Blocks: []piece.Block{}, Withheld: true}
		}
	}
	d.Live = g.live()
	d.Formulas, d.Cases, d.Ties = nil, nil, ""
	return d
}

// Open reports whether a scene can be come to by anyone, from the first on.
func (g *Graph) Open(id string) bool {
	i, ok := g.at[id]
	return ok && (i == 0 || g.open[i])
}

// Given are the scenes that a walk has earned beyond what is public: where it
// is, and what can be come to from there without passing a gate.
func (g *Graph) Given(w *Walk) []piece.Scene {
	from := g.at[w.At()]
	given := []piece.Scene{}
	ahead := g.ahead(from)
	for i := range g.scenes {
		if ahead[i] && !g.open[i] {
			given = append(given, g.projected(i))
		}
	}
	return given
}

// Passed are all scenes a walk has earned beyond what is public, for who goes
// on with it in another window.
func (g *Graph) Passed(w *Walk) []piece.Scene {
	given := g.Given(w)
	for _, id := range w.Path {
		i := g.at[id]
		if !g.open[i] && !slices.ContainsFunc(given, func(s piece.Scene) bool { return s.ID == id }) {
			given = append(given, g.projected(i))
		}
	}
	return given
}

// ahead tells which scenes can be come to from one, by edges that no gate is
// before and no condition decides, and hold nothing that is to be earned.
func (g *Graph) ahead(from int) map[int]bool {
	open := map[int]bool{}
	next := []int{from}
	for len(next) > 0 {
		i := next[0]
		next = next[1:]
		if open[i] {
			continue
		}
		open[i] = true
		s := &g.scenes[i]
		for _, e := range s.edges {
			if e.to < 0 || len(e.tests) > 0 || g.scenes[e.to].earned || s.gate && (e.block == "" || s.presses[e.block].takes) {
				continue
			}
			next = append(next, e.to)
		}
	}
	return open
}

// projected is a scene as visitors get it.
func (g *Graph) projected(i int) piece.Scene {
	s := &g.scenes[i]
	out := *s.Scene
	out.Asks = s.gate || s.reveal || len(s.draws) > 0 || slices.ContainsFunc(s.edges, func(e edge) bool { return len(e.tests) > 0 })
	if out.Asks {
		out.Edges = nil
	}
	out.Tags = nil
	out.Blocks = g.projectedBlocks(s.Blocks)
	return out
}

func (g *Graph) projectedBlocks(blocks []piece.Block) []piece.Block {
	out := make([]piece.Block, len(blocks))
	for i, b := range blocks {
		if f, ok := b.(piece.Field); ok {
			b = g.projectedField(f)
		} else if d, ok := b.(piece.PrizeDraw); ok {
			b = projectedDraw(d)
		} else if h, ok := b.(piece.HTML); ok {
			b = projectedHTML(h)
		} else if v, ok := b.(piece.Video); ok && v.Captions != "" {
			// They were read when the piece was kept.
			v.Cues, _ = captions.Parse(v.Captions)
			v.Captions = ""
			b = v
		} else if held := piece.Within(b); held != nil {
			b = piece.Holding(b, g.projectedBlocks(held))
		}
		out[i] = b
	}
	return out
}

// projectedHTML is markup as elements: visitors' pages read none.
func projectedHTML(h piece.HTML) piece.HTML {
	h.HTML, h.Tree = "", markup.Tree(h.HTML)
	if onPhones, ok := h.Phone["html"].(string); ok {
		h.Phone = maps.Clone(h.Phone)
		delete(h.Phone, "html")
		h.Phone["tree"] = markup.Tree(onPhones)
	}
	return h
}

// projectedField is a field without what is right, and what for. The choices'
// numbers stay where the page computes with them.
func (g *Graph) projectedField(f piece.Field) piece.Field {
	if f.Ask == piece.AskOrder {
		f.Shuffle = true
	}
	f.Right, f.Points, f.Explanation = nil, 0, ""
	computes := g.liveKeys[f.Key]
	choices := make([]piece.Choice, len(f.Choices))
	for i, c := range f.Choices {
		c.Weights, c.Right = nil, false
		if !computes {
			c.Score = 0
		}
		choices[i] = c
	}
	f.Choices = nil
	if len(choices) > 0 {
		f.Choices = choices
	}
	if f.Ask == piece.AskOrder {
		// The order they stand in would be the right one.
		slices.SortFunc(f.Choices, func(a, b piece.Choice) int { return compareHashed(a.ID, b.ID) })
	}
	return f
}
