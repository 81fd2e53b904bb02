package formula

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// node is a part of a formula.
type node interface {
	parts() []node
	place() span
}

// span is where a node stands in the text, in characters.
type span struct{ at, end int }

func (s span) place() span { return s }

func (s span) wrong(format string, args ...any) *Error {
	return &Error{s.at, max(1, s.end-s.at), fmt.Sprintf(format, args...)}
}

type (
	number struct {
		span
		value float64
	}
	name struct {
		span
		name string
	}
	negation struct {
		span
		of node
	}
	// operation is + - * / ^ on two numbers. Its span is that of its sign.
	operation struct {
		span
		sign        string
		left, right node
	}
	// comparison is < <= > >= = != of two numbers.
	comparison struct {
		span
		sign        string
		left, right node
	}
	// junction is and, or; and not, which has no left.
	junction struct {
		span
		sign        string
		left, right node
	}
	choice struct {
		span
		condition, yes, no node
	}
	call struct {
		span
		function *function
		with     []node
	}
)

func (number) parts() []node       { return nil }
func (name) parts() []node         { return nil }
func (n negation) parts() []node   { return []node{n.of} }
func (n operation) parts() []node  { return []node{n.left, n.right} }
func (n comparison) parts() []node { return []node{n.left, n.right} }
func (n choice) parts() []node     { return []node{n.condition, n.yes, n.no} }
func (n call) parts() []node       { return n.with }
func (n junction) parts() []node {
	if n.left == nil {
		return []node{n.right}
	}
	return []node{n.left, n.right}
}

// isCondition tells comparisons from numbers.
func isCondition(n node) bool {
	switch n.(type) {
	case *comparison, *junction:
		return true
	}
	return false
}

// token is a number, a name, a sign, or the end.
type token struct {
	span
	kind tokenKind
	text string
}

type tokenKind int

const (
	end tokenKind = iota
	numeral
	word
	sign
)

// spellings are other ways to write a sign.
var spellings = map[string]string{"×": "*", "·": "*", "÷": "/", "−": "-", "–": "-", "≤": "<=", "≥": ">=", "≠": "!=", "==": "=", "<>": "!="}

var signs = []string{"<=", ">=", "!=", "==", "<>", "<", ">", "=", "+", "-", "*", "/", "^", "(", ")", ",", "?", ":", "×", "·", "÷", "−", "–", "≤", "≥", "≠"}

type parser struct {
	runes []rune
	at    int
	next  token
	nodes int
	depth int
}

func (p *parser) whole() (node, error) {
	if len(p.runes) > MaxLength {
		return nil, &Error{MaxLength, len(p.runes) - MaxLength, fmt.Sprintf("a formula has at most %d characters", MaxLength)}
	}
	if err := p.advance(); err != nil {
		return nil, err
	}
	if p.next.kind == end {
		return nil, &Error{0, 1, "a formula is missing"}
	}
	n, err := p.number(p.choice)
	if err != nil {
		return nil, err
	}
	if p.next.kind != end {
		return nil, p.next.wrong("%q is not expected here", p.next.text)
	}
	return n, nil
}

// advance reads the next token.
func (p *parser) advance() error {
	for p.at < len(p.runes) && unicode.IsSpace(p.runes[p.at]) {
		p.at++
	}
	from := p.at
	take := func(kind tokenKind, to int) {
		p.at = to
		p.next = token{span{from, to}, kind, string(p.runes[from:to])}
	}
	if from == len(p.runes) {
		take(end, from)
		return nil
	}
	switch c := p.runes[from]; {
	case c >= '0' && c <= '9' || c == '.' && p.digit(from+1):
		take(numeral, p.numeral(from))
	case letter(c):
		to := from
		for to < len(p.runes) && (letter(p.runes[to]) || p.digit(to) || p.runes[to] == '.' && to+1 < len(p.runes) && (letter(p.runes[to+1]) || p.digit(to+1))) {
			to++
		}
		take(word, to)
	default:
		rest := string(p.runes[from:min(len(p.runes), from+2)])
		i := slices.IndexFunc(signs, func(s string) bool { return strings.HasPrefix(rest, s) })
		if i < 0 {
			return span{from, from + 1}.wrong("%q means nothing in a formula", string(c))
		}
		take(sign, from+len([]rune(signs[i])))
		if plain, ok := spellings[p.next.text]; ok {
			p.next.text = plain
		}
	}
	return nil
}

func letter(c rune) bool { return c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' }

func (p *parser) digit(at int) bool {
	return at < len(p.runes) && p.runes[at] >= '0' && p.runes[at] <= '9'
}

// numeral gives where a number that begins at a place ends: 12, 1.5, .5, 2e-3.
func (p *parser) numeral(at int) int {
	digits := func() {
		for p.digit(at) {
			at++
		}
	}
	digits()
	if at < len(p.runes) && p.runes[at] == '.' {
		at++
		digits()
	}
	if at < len(p.runes) && (p.runes[at] == 'e' || p.runes[at] == 'E') {
		power := at + 1
		if power < len(p.runes) && (p.runes[power] == '-' || p.runes[power] == '+') {
			power++
		}
		if p.digit(power) {
			at = power
			digits()
		}
	}
	return at
}

// made counts the nodes of a formula.
func (p *parser) made(n node) (node, error) {
	if p.nodes++; p.nodes > maxNodes {
		return nil, n.place().wrong("a formula has at most %d parts", maxNodes)
	}
	return n, nil
}

// deeper guards the stack.
func (p *parser) deeper(read func() (node, error)) (node, error) {
	if p.depth++; p.depth > maxDepth {
		return nil, p.next.wrong("this is nested more than %d deep", maxDepth)
	}
	n, err := read()
	p.depth--
	return n, err
}

// number reads what has to be a number, and condition what has to be a comparison.
func (p *parser) number(read func() (node, error)) (node, error) {
	n, err := read()
	if err == nil && isCondition(n) {
		return nil, n.place().wrong("this is a condition, and a number is needed here")
	}
	return n, err
}

func (p *parser) condition(read func() (node, error)) (node, error) {
	n, err := read()
	if err == nil && !isCondition(n) {
		return nil, n.place().wrong("this is a number, and a condition such as bags > 3 is needed here")
	}
	return n, err
}

// take passes over the sign if it comes next.
func (p *parser) take(text string) (bool, error) {
	if p.next.text != text || p.next.kind == numeral || p.next.kind == end {
		return false, nil
	}
	return true, p.advance()
}

func (p *parser) want(text, why string) error {
	ok, err := p.take(text)
	if err == nil && !ok {
		return p.next.wrong("%q is missing here, %s", text, why)
	}
	return err
}

// choice reads condition ? number : number.
func (p *parser) choice() (node, error) {
	return p.deeper(func() (node, error) {
		n, err := p.joined("or")
		if err != nil || p.next.text != "?" {
			return n, err
		}
		at := p.next.span
		if !isCondition(n) {
			return nil, n.place().wrong("this is a number, and a condition such as bags > 3 is needed before ?")
		}
		if err := p.advance(); err != nil {
			return nil, err
		}
		yes, err := p.number(p.choice)
		if err != nil {
			return nil, err
		}
		if err := p.want(":", "with what holds otherwise"); err != nil {
			return nil, err
		}
		no, err := p.number(p.choice)
		if err != nil {
			return nil, err
		}
		return p.made(&choice{at, n, yes, no})
	})
}

// joined reads conditions joined by or, or those joined by and.
func (p *parser) joined(by string) (node, error) {
	below := p.not
	if by == "or" {
		below = func() (node, error) { return p.joined("and") }
	}
	left, err := below()
	for err == nil && p.next.kind == word && p.next.text == by {
		at := p.next.span
		if !isCondition(left) {
			return nil, left.place().wrong("this is a number, and a condition such as bags > 3 is needed before %s", by)
		}
		if err = p.advance(); err != nil {
			break
		}
		var right node
		if right, err = p.condition(below); err == nil {
			left, err = p.made(&junction{at, by, left, right})
		}
	}
	return left, err
}

func (p *parser) not() (node, error) {
	if p.next.kind != word || p.next.text != "not" {
		return p.comparison()
	}
	at := p.next.span
	return p.deeper(func() (node, error) {
		if err := p.advance(); err != nil {
			return nil, err
		}
		n, err := p.condition(p.not)
		if err != nil {
			return nil, err
		}
		return p.made(&junction{at, "not", nil, n})
	})
}

func (p *parser) comparison() (node, error) {
	left, err := p.sum()
	if err != nil || p.next.kind != sign || !slices.Contains([]string{"<", "<=", ">", ">=", "=", "!="}, p.next.text) {
		return left, err
	}
	at, how := p.next.span, p.next.text
	if isCondition(left) {
		return nil, at.wrong("comparisons are joined by and: a < b and b < c")
	}
	if err := p.advance(); err != nil {
		return nil, err
	}
	right, err := p.number(p.sum)
	if err != nil {
		return nil, err
	}
	if p.next.kind == sign && slices.Contains([]string{"<", "<=", ">", ">=", "=", "!="}, p.next.text) {
		return nil, p.next.wrong("comparisons are joined by and: a < b and b < c")
	}
	return p.made(&comparison{at, how, left, right})
}

func (p *parser) sum() (node, error)     { return p.chain(p.product, "+", "-") }
func (p *parser) product() (node, error) { return p.chain(p.signed, "*", "/") }

// chain reads operations that group to the left.
func (p *parser) chain(below func() (node, error), how ...string) (node, error) {
	left, err := below()
	for err == nil && p.next.kind == sign && slices.Contains(how, p.next.text) {
		at, how := p.next.span, p.next.text
		if isCondition(left) {
			return nil, left.place().wrong("this is a condition, and a number is needed here")
		}
		if err = p.advance(); err != nil {
			break
		}
		var right node
		if right, err = p.number(below); err == nil {
			left, err = p.made(&operation{at, how, left, right})
		}
	}
	return left, err
}

// signed reads a leading minus, or plus.
func (p *parser) signed() (node, error) {
	if p.next.kind != sign || p.next.text != "-" && p.next.text != "+" {
		return p.power()
	}
	at, minus := p.next.span, p.next.text == "-"
	return p.deeper(func() (node, error) {
		if err := p.advance(); err != nil {
			return nil, err
		}
		n, err := p.number(p.signed)
		if err != nil || !minus {
			return n, err
		}
		return p.made(&negation{at, n})
	})
}

func (p *parser) power() (node, error) {
	base, err := p.atom()
	if err != nil || p.next.text != "^" {
		return base, err
	}
	at := p.next.span
	if isCondition(base) {
		return nil, base.place().wrong("this is a condition, and a number is needed here")
	}
	return p.deeper(func() (node, error) {
		if err := p.advance(); err != nil {
			return nil, err
		}
		exponent, err := p.number(p.signed)
		if err != nil {
			return nil, err
		}
		return p.made(&operation{at, "^", base, exponent})
	})
}

func (p *parser) atom() (node, error) {
	t := p.next
	switch {
	case t.kind == numeral:
		value, err := strconv.ParseFloat(t.text, 64)
		if err != nil {
			return nil, t.wrong("%s is too large", t.text)
		}
		if err := p.advance(); err != nil {
			return nil, err
		}
		if err := p.unjoined(); err != nil {
			return nil, err
		}
		return p.made(&number{t.span, value})
	case t.kind == word && (t.text == "and" || t.text == "or" || t.text == "not"):
		return nil, t.wrong("%q is not expected here", t.text)
	case t.kind == word:
		if err := p.advance(); err != nil {
			return nil, err
		}
		if p.next.text == "(" {
			return p.call(t)
		}
		if err := p.unjoined(); err != nil {
			return nil, err
		}
		return p.made(&name{t.span, t.text})
	case t.text == "(":
		if err := p.advance(); err != nil {
			return nil, err
		}
		n, err := p.choice()
		if err != nil {
			return nil, err
		}
		return n, p.want(")", "to close the one before")
	case t.kind == end:
		return nil, t.wrong("a number or a name is missing at the end")
	}
	return nil, t.wrong("a number or a name is needed here, not %q", t.text)
}

// unjoined refuses a number or a name right after another.
func (p *parser) unjoined() error {
	if p.next.kind == word && p.next.text != "and" && p.next.text != "or" || p.next.kind == numeral {
		return p.next.wrong("a sign such as × is missing before %s", p.next.text)
	}
	return nil
}

func (p *parser) call(of token) (node, error) {
	f := functionOf(of.text)
	if f == nil {
		return nil, of.wrong("%s is not a function; there are %s", of.text, strings.Join(Functions(), ", "))
	}
	if err := p.advance(); err != nil {
		return nil, err
	}
	c := &call{span: of.span, function: f}
	for p.next.text != ")" || p.next.kind != sign {
		if len(c.with) > 0 {
			if err := p.want(",", "or a closing )"); err != nil {
				return nil, err
			}
		}
		read := p.number
		if f.name == "if" && len(c.with) == 0 {
			read = p.condition
		}
		n, err := read(p.choice)
		if err != nil {
			return nil, err
		}
		c.with = append(c.with, n)
	}
	if n := len(c.with); n < f.least || f.most > 0 && n > f.most {
		return nil, of.wrong("%s takes %s", of.text, f.takes)
	}
	if err := p.advance(); err != nil {
		return nil, err
	}
	if f.name == "if" {
		return p.made(&choice{of.span, c.with[0], c.with[1], c.with[2]})
	}
	return p.made(c)
}
