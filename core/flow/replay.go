package flow

import (
	"math/rand/v2"

	"gobbet/core/fault"
)

// Replay walks from the beginning along what a visitor did. It stops at the
// first step that cannot be, whose error is fault.Faults with places from
// answers[i]; the walk up to there comes with it. What there is to draw is drawn
// from the source.
func (g *Graph) Replay(steps []Step, source rand.Source) (*Walk, error) {
	w := g.Begin()
	for i, step := range steps {
		if err := w.TakeDrawing(step, source); err != nil {
			var faults fault.Faults
			faults.Within(fault.Index("answers", i), err)
			return w, faults
		}
	}
	return w, nil
}
