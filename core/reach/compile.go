package reach

import (
	"math"
	"regexp"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/pattern"
)

// Program is a rule checked and made ready. It may judge any number of visits
// at once, and allocates nothing in doing so.
type Program struct {
	rule Rule
	root Node
	// See AskedFor and MayBeAskedFor.
	asked, mayBeAsked bool
	// called is how it says the site's own data.
	called Called
}

// Rule is what the program was compiled from.
func (p *Program) Rule() Rule { return p.rule }

// Root is the program as a tree, for those who evaluate it over many visits at
// once. It is not to be changed.
func (p *Program) Root() *Node { return &p.root }

// PathBegins is what the page's path, as Visit.Path gives it, begins with on every
// visit that the rule does not say no to; empty where the rule asks no such thing
// at once. It tells most of a site's pieces from those for this page without
// judging them.
func (p *Program) PathBegins() string {
	parts := []Node{p.root}
	if p.root.Shape == AllOf {
		parts = p.root.Parts
	}
	for _, n := range parts {
		if n.Shape == Asks && n.Test.Of.Name == pagePath && !n.Test.turned && (n.Test.does == begins || n.Test.does == equals) {
			return n.Test.texts[0]
		}
	}
	return ""
}

const pagePath = "page.path"

// Shape is what a Node is.
type Shape uint8

const (
	AllOf Shape = iota
	AnyOf
	NotOf // of its one part
	Asks  // a clause
)

// Node is a part of a compiled rule. Saved rules stand in it as what they say.
type Node struct {
	Shape Shape
	Parts []Node
	Test  *Test // of a clause
	At    string
	// rest is what a part that asks of moments alone waits for while none has come:
	// all of it. Nil for other parts.
	rest Rule
}

// keepRest works out rest once, rather than on every page view. It reports
// whether the part asks of moments alone.
func (n *Node) keepRest() bool {
	alone := n.Shape != Asks || n.Test.moment
	for i := range n.Parts {
		alone = n.Parts[i].keepRest() && alone
	}
	if alone {
		n.rest = n.waiting(&Visit{})
	}
	return alone
}

// Test is one clause, ready to be asked.
type Test struct {
	// What judging reads comes first, and close together.
	slot     int
	name     string // of the fact
	does     comparison
	turned   bool
	asks     valueKind // the kind of value the operator needs; unknown: any
	moment   bool
	ifAbsent bool
	low      float64
	high     float64
	texts    []string            // folded, but of happenings
	among    map[string]struct{} // the texts of a long list
	pattern  *regexp.Regexp

	Clause
	Of Fact // what it asks about
}

// fewTexts are looked through faster than looked up.
const fewTexts = 8

const (
	maxValueText = 2000
	maxValues    = 1000
	maxPattern   = 1000
	// maxSteps is how many steps a character all patterns of a rule may take.
	maxSteps = 2 * pattern.Most
)

// Compile checks what a rule means and makes it ready. Its error is
// fault.Faults: every fault there is, each with its place from the rule's root.
//
// Rules that stand on saved ones need CompileWith.
func Compile(r Rule) (*Program, error) { return CompileWith(r, nil) }

// CompileWith is Compile for a rule that may stand on the saved rules of a book.
func CompileWith(r Rule, book Book) (*Program, error) {
	c := compiler{book: book}
	p := &Program{rule: r, root: c.node(r, "", 0)}
	if err := c.faults.Err(); err != nil {
		return nil, err
	}
	p.ask()
	p.root.keepRest()
	return p, nil
}

// Read parses and compiles a rule.
func Read(data []byte) (*Program, error) { return ReadWith(data, nil) }

// ReadWith parses and compiles a rule that may stand on saved ones.
func ReadWith(data []byte, book Book) (*Program, error) {
	r, err := Parse(data)
	if err != nil {
		return nil, err
	}
	return CompileWith(r, book)
}

// ReadNode is ReadWith for a rule that was scanned already; nil is none.
func ReadNode(n *fault.Node, book Book) (*Program, error) {
	r, err := ParseNode(n)
	if err != nil {
		return nil, err
	}
	return CompileWith(r, book)
}

type compiler struct {
	faults fault.Faults
	book   Book
	inside bool // of a saved rule
	count  int  // of clauses, those of saved rules too
	steps  int  // of all patterns; see package pattern
}

func (c *compiler) node(r Rule, at string, depth int) Node {
	if depth > MaxDepth {
		c.faults.Add(at, "is nested more than %d deep", MaxDepth)
		return Node{}
	}
	several := func(s Shape, key string, rules []Rule) Node {
		n := Node{Shape: s, At: at, Parts: make([]Node, len(rules))}
		for i, part := range rules {
			n.Parts[i] = c.node(part, fault.Index(fault.Key(at, key), i), depth+1)
		}
		return n
	}
	switch r := r.(type) {
	case All:
		return several(AllOf, "all", r)
	case Any:
		return several(AnyOf, "any", r)
	case Not:
		return Node{Shape: NotOf, At: at, Parts: []Node{c.node(r.Rule, fault.Key(at, "not"), depth+1)}}
	case Saved:
		return c.saved(r, at, depth)
	case Clause:
		if c.count++; c.count == MaxClauses+1 {
			c.faults.Add(at, "is one clause more than the %d a rule may have", MaxClauses)
		}
		return Node{Shape: Asks, At: at, Test: c.test(r, at)}
	}
	c.faults.Add(at, "is not a rule")
	return Node{}
}

func (c *compiler) saved(r Saved, at string, depth int) Node {
	place := fault.Key(at, "saved")
	rule, ok := c.book[r.ID]
	switch {
	case c.inside:
		c.faults.Add(place, "stands inside a saved reach, which may not use another")
	case !ok:
		c.faults.Add(place, "names a saved reach that is not here")
	default:
		c.inside = true
		defer func() { c.inside = false }()
		return c.node(rule, place, depth+1)
	}
	return Node{}
}

func (c *compiler) test(clause Clause, at string) *Test {
	t := &Test{Clause: clause, name: clause.Fact, does: deeds[clause.Op].does, turned: deeds[clause.Op].turned}
	var ok bool
	if t.Of, t.slot, _, ok = find(clause.Fact); !ok {
		c.faults.Add(fault.Key(at, "fact"), "%s is not a fact that can be known", quote(clause.Fact))
		return t
	}
	t.moment = t.Of.IsMoment()
	if !t.Of.allows(clause.Op) {
		c.faults.Add(fault.Key(at, "op"), "%s does not go with %s, which takes %s", quote(string(clause.Op)), clause.Fact, opList(t.Of.Kind))
		return t
	}
	check := clauseCheck{&c.faults, &c.steps, t, fault.Key(at, "value")}
	check.value()
	return t
}

func (f Fact) allows(op Op) bool {
	for _, allowed := range Ops[f.Kind] {
		if op == allowed {
			return true
		}
	}
	return false
}

func opList(k Kind) string {
	names := make([]string, len(Ops[k]))
	for i, op := range Ops[k] {
		names[i] = string(op)
	}
	return strings.Join(names, ", ")
}

func quote(s string) string {
	if len(s) > 60 {
		s = s[:60] + "…"
	}
	return "“" + strings.ToValidUTF8(s, "�") + "”"
}

// clauseCheck reads a clause's value as its operator asks.
type clauseCheck struct {
	faults *fault.Faults
	steps  *int
	*Test
	at string
}

func (c clauseCheck) value() {
	v := c.Value
	switch c.Op {
	case Present, Absent:
		c.ifAbsent = c.Op == Absent
		if v != nil {
			c.faults.Add(c.at, "does not belong: %q asks for none", c.Op)
		}
	case Happened:
		c.asks = isTexts
		if v == nil {
			return
		}
		if c.Of.Name == Exit {
			c.faults.Add(c.at, "does not belong: exit intent is about the whole page")
			return
		}
		c.texts = []string{c.text(v, c.at)}
	case Is, IsNot:
		if flag, ok := v.(bool); ok && c.Op == Is && c.Of.Kind != Text {
			c.asks = isFlag
			if flag {
				c.low = 1
			}
			return
		}
		if c.Of.Kind == Flag {
			c.faults.Add(c.at, "should be true or false")
			return
		}
		c.asks, c.ifAbsent = isText, c.Op == IsNot
		c.texts = []string{c.comparable(v, c.at)}
	case In, NotIn:
		c.asks, c.ifAbsent = isText, c.Op == NotIn
		list, ok := c.list(v)
		if !ok {
			return
		}
		for i, one := range list {
			c.texts = append(c.texts, c.comparable(one, fault.Index(c.at, i)))
		}
		if len(c.texts) > fewTexts {
			c.among = make(map[string]struct{}, len(c.texts))
			for _, text := range c.texts {
				c.among[text] = struct{}{}
			}
		}
	case Contains, ContainsNot, StartsWith, EndsWith:
		c.asks, c.ifAbsent = isText, c.Op == ContainsNot
		c.texts = []string{fold(c.text(v, c.at))}
	case Like:
		c.asks = isText
		for part := range strings.SplitSeq(fold(c.text(v, c.at)), "*") {
			c.texts = append(c.texts, part)
		}
	case Matches:
		c.asks = isText
		text := c.text(v, c.at)
		if len(text) > maxPattern {
			c.faults.Add(c.at, "is a pattern of more than %d characters", maxPattern)
			return
		}
		compiled, steps, err := pattern.Compile(text, pattern.Most)
		if err != nil {
			c.faults.Add(c.at, "%s", err)
			return
		}
		if *c.steps += steps; *c.steps > maxSteps {
			c.faults.Add(c.at, "is one pattern too many: all of the rule's together take more than %d steps for each character", maxSteps)
		}
		c.pattern = compiled
	case Between:
		c.asks = isNumber
		list, ok := c.list(v)
		if !ok || len(list) != 2 {
			c.faults.Add(c.at, "should be two numbers, [low, high]")
			return
		}
		c.low, c.high = c.number(list[0], fault.Index(c.at, 0)), c.number(list[1], fault.Index(c.at, 1))
		if c.low > c.high {
			c.faults.Add(c.at, "has its low end above its high end")
		}
	default: // Eq, Ne, Lt, Lte, Gt, Gte
		c.asks, c.ifAbsent = isNumber, c.Op == Ne
		c.low = c.number(v, c.at)
		c.high = c.low
		if c.Of.Kind == Counted && c.low < 0 {
			c.faults.Add(c.at, "should not be below 0")
		}
	}
}

func (c clauseCheck) list(v any) ([]any, bool) {
	list, ok := v.([]any)
	if texts, isTexts := v.([]string); isTexts {
		for _, text := range texts {
			list = append(list, text)
		}
		ok = true
	}
	switch {
	case !ok:
		c.faults.Add(c.at, "should be a list")
	case len(list) > maxValues:
		c.faults.Add(c.at, "has more than %d values", maxValues)
		ok = false
	}
	return list, ok
}

func (c clauseCheck) text(v any, at string) string {
	text, ok := v.(string)
	switch {
	case v == nil:
		c.faults.Add(at, "is missing")
	case !ok:
		c.faults.Add(at, "should be a text")
	case len(text) > maxValueText:
		c.faults.Add(at, "is a text of more than %d characters", maxValueText)
	}
	return text
}

// comparable is a text to be compared whole: folded, treated as the fact's own
// values are, and one of its set where it has one.
func (c clauseCheck) comparable(v any, at string) string {
	text := c.text(v, at)
	if c.Fact == "page.path" {
		text = NormalPath(text)
	}
	folded := fold(text)
	if _, ok := v.(string); !ok || c.Of.Values == nil {
		return folded
	}
	for _, allowed := range c.Of.Values {
		if fold(allowed) == folded {
			return folded
		}
	}
	if len(c.Of.Values) > 20 {
		c.faults.Add(at, "%s is not a code of %s", quote(text), c.Fact)
	} else {
		c.faults.Add(at, "%s is not one of %s", quote(text), strings.Join(c.Of.Values, ", "))
	}
	return folded
}

func (c clauseCheck) number(v any, at string) float64 {
	var n float64
	switch v := v.(type) {
	case nil:
		c.faults.Add(at, "is missing")
	case float64:
		n = v
	case int:
		n = float64(v)
	default:
		c.faults.Add(at, "should be a number")
	}
	if math.IsNaN(n) || math.IsInf(n, 0) {
		c.faults.Add(at, "should be a number")
	}
	return n
}
