package reach

import "encoding/json"

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
	switch n.Shape {
	case Asks:
		return n.Test.judge(v)
	case NotOf:
		return Yes - n.Parts[0].judge(v)
	case AllOf:
		least := Yes
		for i := range n.Parts {
			if least = min(least, n.Parts[i].judge(v)); least == No {
				break
			}
		}
		return least
	default:
		greatest := No
		for i := range n.Parts {
			if greatest = max(greatest, n.Parts[i].judge(v)); greatest == Yes {
				break
			}
		}
		return greatest
	}
}

func (t *Test) judge(v *Visit) Verdict { return t.Judge(v.get(t.slot, t.Clause.Fact)) }

// Judge asks the clause of what is known of its fact.
func (t *Test) Judge(got *Value) Verdict {
	if t.Of.IsMoment() {
		if got.kind == unknown {
			return Waits
		}
		return verdict(t.came(got))
	}
	switch {
	case t.Op == Present:
		return verdict(got.kind > unfit)
	case t.Op == Absent:
		return verdict(got.kind <= unfit)
	case got.kind == isTexts && t.asks == isText:
		for _, text := range got.texts {
			if t.holdsText(text) {
				return Yes
			}
		}
		return No
	case got.kind != t.asks:
		return verdict(t.ifAbsent)
	case t.asks == isText:
		return verdict(t.holdsText(got.text))
	case t.asks == isFlag:
		return verdict(got.num == t.low)
	default:
		return verdict(t.holdsNumber(got.num))
	}
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
			return len(got.texts) > 0
		}
		for _, about := range got.texts {
			if about == t.texts[0] {
				return true
			}
		}
	}
	return false
}

func (t *Test) holdsText(text string) bool {
	switch t.Op {
	case Is:
		return foldEqual(text, t.texts[0])
	case IsNot:
		return !foldEqual(text, t.texts[0])
	case Contains:
		_, ok := foldAfter(text, t.texts[0])
		return ok
	case ContainsNot:
		_, ok := foldAfter(text, t.texts[0])
		return !ok
	case StartsWith:
		_, ok := foldPrefix(text, t.texts[0])
		return ok
	case EndsWith:
		return foldSuffix(text, t.texts[0])
	case Like:
		return foldLike(text, t.texts)
	case Matches:
		return t.pattern.MatchString(text)
	}
	for _, one := range t.texts {
		if foldEqual(text, one) {
			return t.Op == In
		}
	}
	return t.Op == NotIn
}

func (t *Test) holdsNumber(n float64) bool {
	switch t.Op {
	case Eq:
		return n == t.low
	case Ne:
		return n != t.low
	case Lt:
		return n < t.low
	case Lte:
		return n <= t.low
	case Gt:
		return n > t.low
	case Gte:
		return n >= t.low
	default:
		return t.low <= n && n <= t.high
	}
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
	switch n.Shape {
	case Asks:
		return n.Test.Clause
	case NotOf:
		if inner, ok := n.Parts[0].waiting(v).(Not); ok {
			return inner.Rule
		}
		return Not{n.Parts[0].waiting(v)}
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
		got := v.get(t.slot, t.Clause.Fact)
		steps = append(steps, Step{at, t.judge(v), got.actual(), t.phrase()})
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
