package flow

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"gobbet/core/answer"
	"gobbet/core/piece"
)

// Breaks says with which inputs a formula has no value, within what its inputs
// may be: tried at the bounds, at zero, and in between.
type Breaks struct {
	Formula int // its index
	At      int // character, from 0
	Message string
	Inputs  map[string]float64
}

// MaxTries is how often formulas are computed to look one document over.
const MaxTries = 20_000

// Breaking finds formulas that have no value for some inputs. Each is tried at
// as many as its share of so many tries.
func (g *Graph) Breaking(tries int) (breaks []Breaks) {
	for i, f := range g.design.Formulas {
		if b, found := g.breaking(i, f, max(1, tries/len(g.design.Formulas))); found {
			breaks = append(breaks, b)
		}
	}
	return breaks
}

func (g *Graph) breaking(i int, f piece.Formula, most int) (Breaks, bool) {
	names := f.Parsed.Names()
	for _, name := range names {
		if g.formula(name) >= 0 {
			return Breaks{}, false // what it uses is looked at by itself
		}
	}
	values := make([][]float64, len(names))
	tries := 1
	for j, name := range names {
		values[j] = g.possible(name)
		tries = min(most, tries*len(values[j]))
	}
	program := f.Parsed.Bind(func(name string) int { return slices.Index(names, name) })
	at := make([]float64, len(names))
	for try := range tries {
		rest := try
		for j := range names {
			at[j] = values[j][rest%len(values[j])]
			rest /= len(values[j])
		}
		if _, err := program.Value(at); err != nil {
			b := Breaks{Formula: i, Inputs: map[string]float64{}}
			for j, name := range names {
				b.Inputs[name] = at[j]
			}
			b.At, b.Message = wrongAt(err)
			return b, true
		}
	}
	return Breaks{}, false
}

// possible lists values that a name may have.
func (g *Graph) possible(name string) []float64 {
	p, ok := g.fields[name]
	if !ok {
		if name == piece.ScoreName {
			return []float64{0, 1, 10}
		}
		return []float64{0, 1}
	}
	f := p.field
	switch f.Ask {
	case piece.AskNumber, piece.AskSlider:
		low, high := bounds(f)
		numbers := []float64{low, high, low + math.Trunc((high-low)/2)}
		if step := f.StepSize(); f.Ask == piece.AskSlider && (high-low)/step <= 200 {
			for n := low; n <= high; n += step {
				numbers = append(numbers, n)
			}
		}
		if low <= 0 && high >= 0 {
			numbers = append(numbers, 0)
		}
		return numbers
	case piece.AskStars, piece.AskScale:
		low, high := answer.Steps(f.Ask)
		return []float64{float64(low), float64(high), float64(low+high) / 2}
	}
	values := []float64{}
	if !f.Required {
		values = append(values, 0)
	}
	for _, c := range f.Choices {
		values = append(values, c.Score)
	}
	if len(values) == 0 {
		values = []float64{0, f.Points}
	}
	return values
}

// String says the inputs as a person reads them.
func (b Breaks) String() string {
	var said []string
	for _, name := range slices.Sorted(maps.Keys(b.Inputs)) {
		said = append(said, fmt.Sprintf("%s = %s", name, strconv.FormatFloat(b.Inputs[name], 'f', -1, 64)))
	}
	return strings.Join(said, ", ")
}
