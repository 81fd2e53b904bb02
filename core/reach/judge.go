package reach

import (
	"encoding/json"
	"slices"
	"strings"
)

// Verdict is what a rule says of a visit. Its order is that of being held
// back: an All is the least of its parts, an Any the greatest.
type Verdict int8

const (
	No Verdict = iota
	Waits
	Yes
)

func (v Verdict) String() string { return [...]string{"no", "waits", "yes"}[v] }

func (v Verdict) MarshalJSON() ([]byte, error) { return json.Marshal(v.String()) }

func verdict(holds bool) Verdict {
	if holds {
		return Yes
	}
	return No
}

// Judge evaluates the rule as far as the visit is known.
func (p *Program) Judge(v *Visit) Verdict { return p.root.judge(v) }

func (n *Node) judge(v *Visit) Verdict {
	if n.Shape == Asks {
		return n.Test.Judge(v.get(n.Test.slot, n.Test.name))
	}
	switch n.Shape {
	case NotOf:
		return Yes - n.Parts[0].judge(v)
	case AllOf:
		least := Yes
		for i := range n.Parts {
			if got := n.Parts[i].judge(v); got < least {
				if least = got; least == No {
					return No
				}
			}
		}
		return least
	default:
		greatest := No
		for i := range n.Parts {
			if got := n.Parts[i].judge(v); got > greatest {
				if greatest = got; greatest == Yes {
					return Yes
				}
			}
		}
		return greatest
	}
}

// Judge asks the clause of what is known of its fact.
func (t *Test) Judge(got *Value) Verdict {
	switch {
	case t.moment:
		if got.kind == unknown {
			return Waits
		}
		return verdict(t.came(got))
	case t.does == asksPresent:
		return verdict(got.kind > unfit)
	case t.does == asksAbsent:
		return verdict(got.kind <= unfit)
	case got.kind == isTexts && t.asks == isText:
		for i, text := range got.list.plain {
			if t.holdsText(text, got.list.folded[i]) {
				return Yes
			}
		}
		return No
	case got.kind != t.asks:
		return verdict(t.ifAbsent)
	case t.asks == isText:
		return verdict(t.holdsText(got.text, got.folded))
	case t.asks == isFlag:
		return verdict(got.num == t.low)
	}
	return verdict(t.holdsNumber(got.num))
}

// came judges a moment that the visit mentions.
func (t *Test) came(got *Value) bool {
	switch got.kind {
	case isNumber:
		return got.num >= t.low
	case isFlag:
		return got.num == 1 && t.texts == nil
	case isTexts:
		if t.texts == nil {
			return len(got.list.plain) > 0
		}
		return slices.Contains(got.list.plain, t.texts[0])
	}
	return false
}

// comparison is what a clause does with a value: an operator, or its opposite with
// turned set.
type comparison uint8

const (
	equals comparison = iota // a text, or a number between two bounds
	holds
	begins
	ends
	isLike
	fits
	isAmong
	within // both bounds included
	below  // the high bound
	atMost // the high bound
	asksPresent
	asksAbsent
)

// deeds is what each operator does; negative ones turn it round.
var deeds = map[Op]struct {
	does   comparison
	turned bool
}{
	Is: {equals, false}, IsNot: {equals, true}, Contains: {holds, false}, ContainsNot: {holds, true}, StartsWith: {begins, false}, EndsWith: {ends, false},
	Like: {isLike, false}, Matches: {fits, false}, In: {isAmong, false}, NotIn: {isAmong, true}, Present: {asksPresent, false}, Absent: {asksAbsent, false},
	Eq: {within, false}, Ne: {within, true}, Between: {within, false}, Lt: {below, false}, Gte: {below, true}, Lte: {atMost, false}, Gt: {atMost, true},
}

// holdsText asks of a text as it is and folded.
func (t *Test) holdsText(text, folded string) (is bool) {
	switch t.does {
	case equals:
		is = folded == t.texts[0]
	case holds:
		is = strings.Contains(folded, t.texts[0])
	case begins:
		is = strings.HasPrefix(folded, t.texts[0])
	case ends:
		is = strings.HasSuffix(folded, t.texts[0])
	case isLike:
		is = like(folded, t.texts)
	case fits:
		is = t.pattern.MatchString(text)
	default:
		if t.among != nil {
			_, is = t.among[folded]
		} else {
			is = slices.Contains(t.texts, folded)
		}
	}
	return is != t.turned
}

func (t *Test) holdsNumber(n float64) (is bool) {
	switch t.does {
	case below:
		is = n < t.low
	case atMost:
		is = n <= t.low
	default:
		is = t.low <= n && n <= t.high
	}
	return is != t.turned
}

// Waiting is what the rule still waits for: the rule with everything settled
// removed. It holds moments only, no All or Any of fewer than two parts and no
// double Not. It is nil unless Judge says Waits.
func (p *Program) Waiting(v *Visit) Rule {
	if p.Judge(v) != Waits {
		return nil
	}
	return p.root.waiting(v)
}

// waiting is called only on nodes that wait. Of such a node the settled parts
// are the yes of an All and the no of an Any, which change nothing.
func (n *Node) waiting(v *Visit) Rule {
	if n.rest != nil && !v.moments {
		return n.rest
	}
	switch n.Shape {
	case Asks:
		return n.Test.Clause
	case NotOf:
		// Asked once: of nots in nots, asking twice would double with each.
		rest := n.Parts[0].waiting(v)
		if inner, ok := rest.(Not); ok {
			return inner.Rule
		}
		return Not{rest}
	}
	var rest []Rule
	for i := range n.Parts {
		if n.Parts[i].judge(v) == Waits {
			rest = append(rest, n.Parts[i].waiting(v))
		}
	}
	switch {
	case len(rest) == 1:
		return rest[0]
	case n.Shape == AllOf:
		return All(rest)
	default:
		return Any(rest)
	}
}

// Trace judges every clause on its own, in document order.
func (p *Program) Trace(v *Visit) []Step {
	steps := []Step{}
	p.EachTest(func(at string, t *Test) {
		got := v.get(t.slot, t.name)
		steps = append(steps, Step{at, t.Judge(got), got.actual(), t.phrase(p.called, OpSays)})
	})
	return steps
}

// Facts lists the facts the rule asks about, in document order, with repeats.
func (p *Program) Facts() []Fact {
	var facts []Fact
	p.EachTest(func(_ string, t *Test) { facts = append(facts, t.Of) })
	return facts
}

// EachTest visits every clause with its place, in document order.
func (p *Program) EachTest(do func(at string, t *Test)) {
	var walk func(n *Node)
	walk = func(n *Node) {
		if n.Shape == Asks {
			do(n.At, n.Test)
		}
		for i := range n.Parts {
			walk(&n.Parts[i])
		}
	}
	walk(&p.root)
}
