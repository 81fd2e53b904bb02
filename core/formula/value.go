package formula

import (
	"math"
	"slices"
)

// function is one that formulas may call.
type function struct {
	name        string
	takes       string // in words
	least, most int    // numbers it takes; most 0: any
	// of computes it; a message says why there is no value.
	of func(x []float64) (value float64, wrong string)
}

var functions = []*function{
	{"min", "one number or more", 1, 0, func(x []float64) (float64, string) { return slices.Min(x), "" }},
	{"max", "one number or more", 1, 0, func(x []float64) (float64, string) { return slices.Max(x), "" }},
	{"abs", "one number", 1, 1, func(x []float64) (float64, string) { return math.Abs(x[0]), "" }},
	{"round", "a number, and how many places to keep", 1, 2, func(x []float64) (float64, string) {
		places := 0.0
		if len(x) == 2 {
			places = x[1]
		}
		if places != math.Trunc(places) || math.Abs(places) > 15 {
			return 0, "places are a whole number from -15 to 15"
		}
		return Round(x[0], int(places)), ""
	}},
	{"floor", "one number", 1, 1, func(x []float64) (float64, string) { return math.Floor(x[0]), "" }},
	{"ceil", "one number", 1, 1, func(x []float64) (float64, string) { return math.Ceil(x[0]), "" }},
	{"sqrt", "one number", 1, 1, func(x []float64) (float64, string) {
		if x[0] < 0 {
			return 0, "there is no square root of a negative number"
		}
		return math.Sqrt(x[0]), ""
	}},
	{"ln", "one number", 1, 1, func(x []float64) (float64, string) {
		if x[0] <= 0 {
			return 0, "there is a logarithm only of a number above zero"
		}
		return math.Log(x[0]), ""
	}},
	{"exp", "one number", 1, 1, func(x []float64) (float64, string) { return math.Exp(x[0]), "" }},
	{"pow", "two numbers", 2, 2, func(x []float64) (float64, string) { return power(x[0], x[1]) }},
	{"payment", "a rate per period, a number of periods and a principal", 3, 3, func(x []float64) (float64, string) { return payment(x[0], x[1], x[2]) }},
	{"if", "a condition, a number where it holds, and one where it does not", 3, 3, nil},
}

// Functions lists the names of all functions.
func Functions() []string {
	names := make([]string, len(functions))
	for i, f := range functions {
		names[i] = f.name
	}
	return names
}

func functionOf(name string) *function {
	for _, f := range functions {
		if f.name == name {
			return f
		}
	}
	return nil
}

func power(base, exponent float64) (float64, string) {
	if base == 0 && exponent < 0 {
		return 0, "this divides by zero"
	}
	if base < 0 && exponent != math.Trunc(exponent) {
		return 0, "a negative number has no such power"
	}
	return math.Pow(base, exponent), ""
}

// payment is what is paid each period to pay back a principal, with interest,
// in equal parts: principal · r / (1 − (1 + r)^−n).
func payment(rate, periods, principal float64) (float64, string) {
	switch {
	case periods <= 0:
		return 0, "a payment takes one period or more"
	case rate <= -1:
		return 0, "a rate is above -1"
	case rate == 0:
		return principal / periods, ""
	}
	return principal * rate / -math.Expm1(-periods*math.Log1p(rate)), ""
}

// Program is a formula whose names stand for places in a list of values.
type Program struct {
	root  node
	slots map[string]int
	run   func(values []float64) (float64, *Error)
}

// Bind gives each name its place among the values that Value is called with.
func (f *Formula) Bind(slot func(name string) int) *Program {
	p := &Program{root: f.root, slots: make(map[string]int, len(f.names))}
	for _, name := range f.names {
		p.slots[name] = slot(name)
	}
	p.run = p.compile(f.root)
	return p
}

// Value computes the formula. Its error is *Error.
func (p *Program) Value(values []float64) (float64, error) {
	value, wrong := p.value(values)
	if wrong != nil {
		return 0, wrong
	}
	return value, nil
}

func (p *Program) value(values []float64) (float64, *Error) {
	value, wrong := p.run(values)
	if wrong == nil && value-value != 0 {
		wrong = p.root.place().wrong("the value is too large to be a number")
	}
	return value, wrong
}

type (
	computing = func(values []float64) (float64, *Error)
	judging   = func(values []float64) (bool, *Error)
)

// compile makes a function of a number's node. Infinity may come up on the way,
// as it does in 1 / exp(1000); what is not a number at all is an error at once.
func (p *Program) compile(n node) computing {
	switch n := n.(type) {
	case *number:
		return func([]float64) (float64, *Error) { return n.value, nil }
	case *name:
		at := p.slots[n.name]
		return func(values []float64) (float64, *Error) {
			if value := values[at]; value == value {
				return value, nil
			}
			return 0, n.wrong("%s has no value", n.name)
		}
	case *negation:
		of := p.compile(n.of)
		return func(values []float64) (float64, *Error) {
			x, wrong := of(values)
			return -x, wrong
		}
	case *operation:
		left, right := p.compile(n.left), p.compile(n.right)
		do := operations[n.sign]
		return func(values []float64) (float64, *Error) {
			x, wrong := left(values)
			if wrong != nil {
				return 0, wrong
			}
			y, wrong := right(values)
			if wrong != nil {
				return 0, wrong
			}
			z, say := do(x, y)
			return n.sound(z, say)
		}
	case *choice:
		condition, yes, no := p.judge(n.condition), p.compile(n.yes), p.compile(n.no)
		return func(values []float64) (float64, *Error) {
			holds, wrong := condition(values)
			switch {
			case wrong != nil:
				return 0, wrong
			case holds:
				return yes(values)
			}
			return no(values)
		}
	case *call:
		with := make([]computing, len(n.with))
		for i, part := range n.with {
			with[i] = p.compile(part)
		}
		return func(values []float64) (float64, *Error) {
			var room [4]float64
			x := room[:0]
			for _, one := range with {
				value, wrong := one(values)
				if wrong != nil {
					return 0, wrong
				}
				x = append(x, value)
			}
			z, say := n.function.of(x)
			return n.sound(z, say)
		}
	}
	panic("formula: a condition where a number should be")
}

func (s span) sound(value float64, say string) (float64, *Error) {
	if say != "" {
		return 0, s.wrong("%s", say)
	}
	if math.IsNaN(value) {
		return 0, s.wrong("this has no value")
	}
	return value, nil
}

var operations = map[string]func(x, y float64) (float64, string){
	"+": func(x, y float64) (float64, string) { return x + y, "" },
	"-": func(x, y float64) (float64, string) { return x - y, "" },
	"*": func(x, y float64) (float64, string) { return x * y, "" },
	"/": func(x, y float64) (float64, string) {
		if y == 0 {
			return 0, "this divides by zero"
		}
		return x / y, ""
	},
	"^": power,
}

var comparisons = map[string]func(x, y float64) bool{
	"<":  func(x, y float64) bool { return x < y },
	"<=": func(x, y float64) bool { return x <= y },
	">":  func(x, y float64) bool { return x > y },
	">=": func(x, y float64) bool { return x >= y },
	"=":  func(x, y float64) bool { return x == y },
	"!=": func(x, y float64) bool { return x != y },
}

// judge makes a function of a condition's node. What settles and, and or, is
// looked at first; the rest then is not.
func (p *Program) judge(n node) judging {
	switch n := n.(type) {
	case *comparison:
		left, right, holds := p.compile(n.left), p.compile(n.right), comparisons[n.sign]
		return func(values []float64) (bool, *Error) {
			x, wrong := left(values)
			if wrong != nil {
				return false, wrong
			}
			y, wrong := right(values)
			return wrong == nil && holds(x, y), wrong
		}
	case *junction:
		right := p.judge(n.right)
		if n.sign == "not" {
			return func(values []float64) (bool, *Error) {
				holds, wrong := right(values)
				return !holds && wrong == nil, wrong
			}
		}
		left, settles := p.judge(n.left), n.sign == "or"
		return func(values []float64) (bool, *Error) {
			holds, wrong := left(values)
			if wrong != nil || holds == settles {
				return holds, wrong
			}
			return right(values)
		}
	}
	panic("formula: a number where a condition should be")
}
