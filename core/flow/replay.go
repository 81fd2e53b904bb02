package flow

import (
	"gobbet/core/fault"
)

// Replay walks from the beginning along what a visitor did. It stops at the
// first step that cannot be, whose error is fault.Faults with places from
// answers[i]; the walk up to there comes with it.
func (g *Graph) Replay(steps []Step) (*Walk, error) {
	w := g.Begin()
	for i, step := range steps {
		if err := w.Take(step); err != nil {
			var faults fault.Faults
			faults.Within(fault.Index("answers", i), err)
			return w, faults
		}
	}
	return w, nil
}
