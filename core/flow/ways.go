package flow

import "gobbet/core/piece"

// What can be come to, and what cannot be left.

// cyclic reports whether one can come to a scene again.
func (g *Graph) cyclic() bool {
	const open, done = 1, 2
	state := make([]int, len(g.scenes))
	var visit func(i int) bool
	visit = func(i int) bool {
		state[i] = open
		for _, e := range g.scenes[i].edges {
			if e.to >= 0 && (state[e.to] == open || state[e.to] == 0 && visit(e.to)) {
				return true
			}
		}
		state[i] = done
		return false
	}
	return visit(0)
}

// Trapped lists the scenes that one can come to, and from which no way leads to
// an end or out of the piece.
func (g *Graph) Trapped() (ids []string) {
	frees := make([]bool, len(g.scenes))
	for changed := true; changed; {
		changed = false
		for i := range g.scenes {
			s := &g.scenes[i]
			free := s.ends
			for press := range s.presses {
				closes := true
				for _, e := range s.edges {
					if e.block == "" || e.block == press {
						free = free || e.to < 0 || frees[e.to]
						closes = closes && len(e.tests) > 0
					}
				}
				free = free || closes // no edge may fit
			}
			if free && !frees[i] {
				frees[i], changed = true, true
			}
		}
	}
	for i, reached := range g.reached(func(*scene, edge) bool { return true }) {
		if reached && !frees[i] {
			ids = append(ids, g.scenes[i].ID)
		}
	}
	return ids
}

// Ungated lists the results that can be come to without passing a gate, in a
// graph that has one.
func (g *Graph) Ungated() (ids []string) {
	free := g.ungated()
	for _, i := range g.results {
		if free[i] {
			ids = append(ids, g.scenes[i].ID)
		}
	}
	return ids
}

// UngatedPrizes lists the scenes with a prize's code that can be come to without
// passing a gate, in a graph that has one.
func (g *Graph) UngatedPrizes() (ids []string) {
	for i, free := range g.ungated() {
		for b := range g.scenes[i].All() {
			if c, ok := b.(piece.Code); ok && c.Draw != "" && free {
				ids = append(ids, g.scenes[i].ID)
				break
			}
		}
	}
	return ids
}

// ungated tells which scenes can be come to without passing a gate; none in a
// graph that has no gate.
func (g *Graph) ungated() []bool {
	gates := false
	for i := range g.scenes {
		gates = gates || g.scenes[i].gate && g.scenes[i].Kind != piece.ResultScene
	}
	if !gates {
		return make([]bool, len(g.scenes))
	}
	return g.reached(func(s *scene, e edge) bool {
		if !s.gate || s.Kind == piece.ResultScene {
			return true
		}
		if e.block != "" {
			return !s.presses[e.block].takes
		}
		for _, w := range s.presses {
			if !w.takes {
				return true
			}
		}
		return false
	})
}

// reached tells which scenes can be come to by edges that pass.
func (g *Graph) reached(passes func(*scene, edge) bool) []bool {
	reached := make([]bool, len(g.scenes))
	next := []int{0}
	for len(next) > 0 {
		i := next[0]
		next = next[1:]
		if reached[i] {
			continue
		}
		reached[i] = true
		for _, e := range g.scenes[i].edges {
			if e.to >= 0 && passes(&g.scenes[i], e) {
				next = append(next, e.to)
			}
		}
	}
	return reached
}
