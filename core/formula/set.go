package formula

import (
	"math"
	"slices"
)

var nan = math.NaN()

// Set is named formulas that may use each other, in an order in which each
// comes after those it uses.
type Set struct {
	names    []string
	inputs   []string
	programs []*Program
	order    []int
}

// NamedError is an error of one formula of a set.
type NamedError struct {
	Index int // of the formula
	Wrong *Error
}

func (e *NamedError) Error() string { return e.Wrong.Error() }
func (e *NamedError) Unwrap() error { return e.Wrong }

// NewSet puts formulas together. They may use the inputs and each other, but
// none itself, by whatever way. Its error is *NamedError. No name may be given
// twice.
func NewSet(names []string, formulas []*Formula, inputs []string) (*Set, error) {
	s := &Set{names: names, inputs: inputs, programs: make([]*Program, len(formulas))}
	slots := make(map[string]int, len(inputs)+len(names))
	for i, name := range inputs {
		slots[name] = i
	}
	for i, name := range names {
		slots[name] = len(inputs) + i
	}
	for i, f := range formulas {
		if wrong := f.Unknown(func(name string) bool { _, ok := slots[name]; return ok }); wrong != nil {
			return nil, &NamedError{i, wrong}
		}
		s.programs[i] = f.Bind(func(name string) int { return slots[name] })
	}
	const unseen, open, done = 0, 1, 2
	state := make([]int, len(formulas))
	var visit func(i int) error
	visit = func(i int) error {
		state[i] = open
		for _, name := range formulas[i].Names() {
			on := slots[name] - len(inputs)
			if on < 0 || state[on] == done {
				continue
			}
			if state[on] == open {
				at := formulas[i].Unknown(func(known string) bool { return known != name })
				return &NamedError{i, at.saying("%s is computed from %s itself, which never ends", name, names[i])}
			}
			if err := visit(on); err != nil {
				return err
			}
		}
		state[i] = done
		s.order = append(s.order, i)
		return nil
	}
	for i := range formulas {
		if state[i] == unseen {
			if err := visit(i); err != nil {
				return nil, err
			}
		}
	}
	return s, nil
}

// Order lists the formulas by their indices, each after those it uses.
func (s *Set) Order() []int { return s.order }

// Values computes all formulas into out, which is as long as there are inputs
// and formulas and begins with the inputs' values. A formula that has no value,
// or uses one that has none, gets NaN; the first such error is returned as
// *NamedError, and the others are computed all the same.
func (s *Set) Values(out []float64) error {
	var first error
	for _, i := range s.order {
		value, wrong := s.programs[i].value(out)
		if wrong != nil {
			value = nan
			if first == nil {
				first = &NamedError{i, wrong}
			}
		}
		out[len(s.inputs)+i] = value
	}
	return first
}

// Of gives the place of a formula's value among what Values computes; -1 for none.
func (s *Set) Of(name string) int {
	if i := slices.Index(s.names, name); i >= 0 {
		return len(s.inputs) + i
	}
	return -1
}
