package compose

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"slices"
	"time"

	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/formula"
	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/route"
)

// walk takes a design that is worked on as visitors would take it. Nothing is
// stored.
func (s *Place) walk(c *route.Call, req WalkRequest) (answer WalkAnswer, err error) {
	answer, err = walked(&req)
	return answer, err
}

func walked(req *WalkRequest) (answer WalkAnswer, err error) {
	d, g, err := workedGraph(req.Drawing)
	if err != nil {
		return answer, err
	}
	answer.Drawing = g.Public(*d)
	if len(req.Steps) > flow.MaxPath {
		return answer, fault.Fault{At: "steps", Message: "are too many"}
	}
	steps, err := walk.Read(req.Steps, time.Now())
	if err == nil {
		answer.At, err = walk.Rehearse(g, steps, req.Seed)
	}
	return answer, err
}

func workedGraph(drawing json.RawMessage) (*piece.Drawing, *flow.Graph, error) {
	d, err := piece.ReadDrawing(drawing)
	if err != nil {
		return nil, nil, err
	}
	g, err := flow.Of(d.Design)
	return d, g, err
}

const (
	madeUp    = 1000 // visitors of a play-through
	playsLong = 2 * time.Second
)

// playThrough tells what comes of visitors who answer at random.
func (s *Place) playThrough(c *route.Call, req PlayThroughRequest) (answer flow.PlayThrough, err error) {
	_, g, err := workedGraph(req.Drawing)
	if err != nil {
		return answer, err
	}
	ctx, done := context.WithTimeout(c, playsLong)
	defer done()
	return g.PlayThrough(ctx, madeUp, req.Seed), nil
}

const (
	maxReckoned = 60
	maxSamples  = 60
)

// reckon computes formulas that are worked on, for samples of their inputs.
func (s *Place) reckon(c *route.Call, req ReckonRequest) (answer ReckonAnswer, err error) {
	if len(req.Formulas) > maxReckoned || len(req.Samples) > maxSamples {
		return answer, fault.Fault{At: "samples", Message: "are too many at once"}
	}
	return reckoned(&req), nil
}

// reckoned gives each formula's value for each sample, or what is wrong with
// it. One that is wrong does not keep the others from being computed.
func reckoned(req *ReckonRequest) ReckonAnswer {
	answer := ReckonAnswer{Values: make([][]*float64, len(req.Samples)), Faults: fault.Faults{}, Live: make([]piece.LiveFormula, len(req.Formulas))}
	wrong := func(i int, err error) {
		var at *formula.Error
		if errors.As(err, &at) {
			answer.Faults = append(answer.Faults, fault.Fault{At: fault.Index("formulas", i), Message: at.Message, Character: at.At + 1})
		}
	}
	sound := map[int]*formula.Formula{}
	for i, f := range req.Formulas {
		parsed, err := formula.Parse(f.Formula)
		f.Parsed = parsed
		answer.Live[i] = f.Live()
		if err != nil {
			wrong(i, err)
		} else {
			sound[i] = parsed
		}
	}
	// Those that use what is not sound are not sound either.
	var set *formula.Set
	for set == nil {
		var names []string
		var formulas []*formula.Formula
		var which []int
		for i, f := range req.Formulas {
			if sound[i] != nil && !slices.Contains(names, f.Name) && !slices.Contains(req.Inputs, f.Name) {
				names, formulas, which = append(names, f.Name), append(formulas, sound[i]), append(which, i)
			}
		}
		made, err := formula.NewSet(names, formulas, req.Inputs)
		var at *formula.NamedError
		if errors.As(err, &at) {
			wrong(which[at.Index], err)
			delete(sound, which[at.Index])
			continue
		}
		set = made
	}
	for k, sample := range req.Samples {
		out := make([]float64, len(req.Inputs)+len(req.Formulas))
		for i, name := range req.Inputs {
			value, ok := sample[name]
			if out[i] = value; !ok {
				out[i] = math.NaN()
			}
		}
		err := set.Values(out)
		var at *formula.NamedError
		if k == 0 && errors.As(err, &at) {
			for i, f := range req.Formulas {
				if sound[i] != nil && set.Of(f.Name) == len(req.Inputs)+at.Index {
					wrong(i, err)
				}
			}
		}
		for _, f := range req.Formulas {
			var value *float64
			if at := set.Of(f.Name); at >= 0 && !math.IsNaN(out[at]) {
				value = &out[at]
			}
			answer.Values[k] = append(answer.Values[k], value)
		}
	}
	return answer
}
