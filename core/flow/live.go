package flow

import (
	"cmp"
	"hash/fnv"
	"slices"
	"strings"

	"gobbet/core/piece"
)

// live are the formulas as the page has them. It computes those itself, as
// answers change, that are shown on scenes that are sent ahead, and what they
// are computed from. Of the others it is told how their values are written. One
// that depends on the score is among these: it would tell what scores.
func (g *Graph) live() (live []piece.LiveFormula) {
	for i, is := range g.isLive {
		one := g.design.Formulas[i].Live()
		if !is {
			one.Tree = nil
		}
		live = append(live, one)
	}
	return live
}

// findLive finds the formulas that the page computes, and the keys of the
// answers it computes them from.
func (g *Graph) findLive() {
	g.isLive, g.liveKeys = make([]bool, len(g.design.Formulas)), map[string]bool{}
	computable := g.computable()
	for i := range g.scenes {
		if !g.open[i] {
			continue
		}
		for _, name := range shown(g.scenes[i].Scene) {
			if at := g.formula(name); at >= 0 && computable[at] {
				g.withParts(at)
			}
		}
	}
	for i, is := range g.isLive {
		if is {
			for _, name := range g.design.Formulas[i].Parsed.Names() {
				key, _, _ := strings.Cut(name, ".")
				g.liveKeys[key] = true
			}
		}
	}
}

// formula gives the index of a formula by its name; -1 for none.
func (g *Graph) formula(name string) int {
	return slices.IndexFunc(g.design.Formulas, func(f piece.Formula) bool { return f.Name == name })
}

// computable tells which formulas a page may compute. Each is looked at once,
// after those it uses, however often others name it.
func (g *Graph) computable() []bool {
	may := make([]bool, len(g.design.Formulas))
	for _, at := range g.set.Order() {
		may[at] = true
		for _, name := range g.design.Formulas[at].Parsed.Names() {
			_, isField := g.fields[name]
			key, _, _ := strings.Cut(name, ".")
			p, ofField := g.fields[key]
			on := g.formula(name)
			if name == piece.ScoreName && !isField || on >= 0 && !may[on] || ofField && p.field.Judged() {
				may[at] = false
			}
		}
	}
	return may
}

// withParts marks a formula and those it uses.
func (g *Graph) withParts(at int) {
	if g.isLive[at] {
		return
	}
	g.isLive[at] = true
	for _, name := range g.design.Formulas[at].Parsed.Names() {
		if on := g.formula(name); on >= 0 {
			g.withParts(on)
		}
	}
}

// shown lists the names of formulas that a scene may show: in blocks made for
// it, and as merge fields in any of its texts.
func shown(s *piece.Scene) (names []string) {
	for b := range s.All() {
		texts := []string{}
		switch b := b.(type) {
		case piece.Value:
			names = append(names, b.Formula)
		case piece.Heading:
			texts = append(texts, b.Text.String())
		case piece.Text:
			texts = append(texts, b.Text.String())
		case piece.List:
			for _, item := range b.Items {
				texts = append(texts, item.String())
			}
		}
		for _, text := range texts {
			for _, m := range mergeField.FindAllStringSubmatch(text, -1) {
				names = append(names, strings.TrimSpace(m[2]))
			}
		}
	}
	return names
}

// Shown gives the values that the scene a walk is at shows, by the names of
// formulas. No others are told.
func (w *Walk) Shown() map[string]float64 {
	names := shown(w.scene().Scene)
	values := map[string]float64{}
	if len(names) == 0 {
		return values
	}
	computed := w.Values()
	computed[piece.ScoreName] = w.Score()
	for _, name := range names {
		if value, ok := computed[name]; ok {
			values[name] = value
		}
	}
	return values
}

// compareHashed orders texts in a way that says nothing of them, the same each time.
func compareHashed(a, b string) int {
	sum := func(s string) uint64 {
		h := fnv.New64a()
		h.Write([]byte(s))
		return h.Sum64()
	}
	return cmp.Or(cmp.Compare(sum(a), sum(b)), cmp.Compare(a, b))
}
