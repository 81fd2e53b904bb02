package reach

import (
	"fmt"
	"strconv"
	"strings"
)

// Phrase says the rule as a sentence without its full stop.
func (p *Program) Phrase() string { return p.root.phrase(true) }

func (n *Node) phrase(outermost bool) string {
	switch n.Shape {
	case Asks:
		return n.Test.phrase()
	case NotOf:
		return "not (" + n.Parts[0].phrase(true) + ")"
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
		said[i] = n.Parts[i].phrase(len(n.Parts) == 1 && outermost)
	}
	joined := strings.Join(said, " "+word+" ")
	if len(said) == 1 || outermost {
		return joined
	}
	return "(" + joined + ")"
}

var opSays = map[Op]string{
	Is: "is", IsNot: "is not", Contains: "contains", ContainsNot: "does not contain",
	StartsWith: "starts with", EndsWith: "ends with", Like: "is like", Matches: "matches",
	In: "is one of", NotIn: "is none of", Present: "is known", Absent: "is not known",
	Eq: "is", Ne: "is not", Lt: "is below", Lte: "is at most", Gt: "is above", Gte: "is at least", Between: "is between",
}

func (t *Test) phrase() string {
	_, _, name, _ := find(t.Clause.Fact)
	says := strings.ReplaceAll(t.Of.Says, "{}", name)
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
		return says + " " + opSays[t.Op]
	case t.Op == Between:
		return says + " is between " + amount(t.low, "") + " and " + amount(t.high, t.Of.Unit)
	case t.asks == isNumber:
		return says + " " + opSays[t.Op] + " " + amount(t.low, t.Of.Unit)
	}
	list, ok := t.Value.([]any)
	if !ok {
		return says + " " + opSays[t.Op] + " " + fmt.Sprint(t.Value)
	}
	shown := make([]string, len(list))
	for i, one := range list {
		shown[i] = fmt.Sprint(one)
	}
	return says + " " + opSays[t.Op] + " " + strings.Join(shown, ", ")
}

func amount(n float64, unit string) string {
	s := strconv.FormatFloat(n, 'f', -1, 64)
	if unit != "" {
		s += " " + unit
	}
	return s
}
