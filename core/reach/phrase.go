package reach

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Phrase says the rule as a sentence without its full stop.
func (p *Program) Phrase() string { return p.root.phrase(p.called, true) }

// Called is what a site calls its own data, by the name its pages send it under.
type Called map[string]string

// As is the program that says the site's own data by its names.
func (p *Program) As(called Called) *Program {
	said := *p
	said.called = called
	return &said
}

func (n *Node) phrase(called Called, outermost bool) string {
	switch n.Shape {
	case Asks:
		return n.Test.phrase(called, OpSays)
	case NotOf:
		if of := &n.Parts[0]; of.Shape == Asks && OpSaysNot[of.Test.Op] != "" {
			return of.Test.phrase(called, OpSaysNot)
		}
		return "not (" + n.Parts[0].phrase(called, true) + ")"
	}
	word, empty := "and", "always"
	if n.Shape == AnyOf {
		word, empty = "or", "never"
	}
	if len(n.Parts) == 0 {
		return empty
	}
	said := make([]string, len(n.Parts))
	for i := range n.Parts {
		said[i] = n.Parts[i].phrase(called, len(n.Parts) == 1 && outermost)
	}
	if len(said) == 1 || outermost {
		return strings.Join(said, " "+word+" ")
	}
	// Within another a group begins with a word that tells where it does:
	// brackets within brackets are not read.
	begins := "either "
	switch {
	case n.Shape == AllOf && len(said) == 2:
		begins = "both "
	case n.Shape == AllOf:
		begins = "all of "
	}
	last := len(said) - 1
	return begins + strings.Join(said[:last], ", ") + " " + word + " " + said[last]
}

// OpSays is how operators are said in a sentence.
var OpSays = map[Op]string{
	Is: "is", IsNot: "is not", Contains: "contains", ContainsNot: "does not contain",
	StartsWith: "starts with", EndsWith: "ends with", Like: "is like", Matches: "matches",
	In: "is one of", NotIn: "is none of", Present: "is known", Absent: "is not known",
	Eq: "is", Ne: "is not", Lt: "is below", Lte: "is at most", Gt: "is above", Gte: "is at least", Between: "is between", Happened: "happens",
}

// OpSaysNot is how those are said that have no operator for their opposite.
var OpSaysNot = map[Op]string{
	StartsWith: "does not start with", EndsWith: "does not end with", Like: "is not like", Matches: "does not match", Between: "is not between",
}

func (t *Test) phrase(called Called, op map[Op]string) string {
	_, _, name, _ := find(t.Clause.Fact)
	if says := called[name]; says != "" && t.Of.Name == siteData {
		name = says
	}
	says := strings.ReplaceAll(t.Of.Says, "{}", name)
	compared := says + " " + op[t.Op] + " "
	switch {
	case t.Of.Kind == Counted:
		return says + " reaches " + amount(t.low, t.Of.Unit)
	case t.Op == Happened && t.Value == nil && t.Of.SaysNot != "":
		return t.Of.SaysNot
	case t.Op == Happened:
		return strings.ReplaceAll(t.Of.Says, "{}", fmt.Sprint(t.Value))
	case t.Of.Kind == Flag && t.Op == Is && t.low == 1:
		return says
	case t.Of.Kind == Flag && t.Op == Is:
		return t.Of.SaysNot
	case t.Op == Present || t.Op == Absent:
		return strings.TrimSuffix(compared, " ")
	case t.Op == Between && t.Of.Unit == Clock:
		return compared + amount(t.low, Clock) + " and " + amount(t.high, Clock)
	case t.Op == Between:
		return compared + amount(t.low, "") + " and " + amount(t.high, t.Of.Unit)
	case t.asks == isNumber:
		return compared + amount(t.low, t.Of.Unit)
	}
	list, ok := t.Value.([]any)
	if !ok {
		return compared + t.Of.named(t.Value)
	}
	if t.Of.Names != nil {
		// Weekdays are said in the week's order, however they were picked.
		list = slices.Clone(list)
		slices.SortStableFunc(list, func(a, b any) int {
			return slices.Index(t.Of.Values, fmt.Sprint(a)) - slices.Index(t.Of.Values, fmt.Sprint(b))
		})
	}
	shown := make([]string, len(list))
	for i, one := range list {
		shown[i] = t.Of.named(one)
	}
	return compared + strings.Join(shown, ", ")
}

// named gives what people call a value of the fact.
func (f Fact) named(value any) string {
	said := fmt.Sprint(value)
	if name, ok := f.Names[said]; ok {
		return name
	}
	return said
}

func amount(n float64, unit string) string {
	if whole := int(n); unit == Clock && n == float64(whole) && whole >= 0 && whole <= 24*60 {
		return fmt.Sprintf("%02d:%02d", whole/60, whole%60)
	}
	s := strconv.FormatFloat(n, 'f', -1, 64)
	if unit == Clock {
		unit = "minutes after midnight"
	}
	if unit != "" {
		s += " " + unit
	}
	return s
}
