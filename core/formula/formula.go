// Package formula is the language a calculator's formulas are written in:
// arithmetic over named numbers, and nothing else.
//
//	bags * 12.5 * (1 - discount / 100)
//	firings > 3 ? firings * 16 : firings * 18.20
//	payment(rate / 1200, months, price)
//
// From the loosest to the tightest: ? :, or, and, comparison, + and −, × and ÷,
// a leading minus, and ^ for powers, which groups to the right and binds
// tighter than a leading minus, so that -2 ^ 2 is −4. × ÷ − ≤ ≥ ≠ may be
// written for * / - <= >= !=. A condition is a comparison, or several joined by
// and, or and not; it is not a number and a number is not a condition.
//
// A formula ends: it has no loops and calls only the functions listed in
// Functions, and its length, depth and number of operations are bounded.
package formula

import (
	"fmt"
	"slices"
)

// Bounds on a formula.
const (
	MaxLength = 2000 // characters
	maxDepth  = 60
	maxNodes  = 1000
)

// Formula is one that was read. It never changes, and may be used by several
// goroutines at once.
type Formula struct {
	text  string
	root  node
	names []string
}

// Error says what is wrong with a formula, and at which characters of it.
type Error struct {
	At, Length int // in characters, At from 0
	Message    string
}

func (e *Error) Error() string { return fmt.Sprintf("%s (at character %d)", e.Message, e.At+1) }

// Parse reads a formula. Its error is *Error.
func Parse(text string) (*Formula, error) {
	p := parser{runes: []rune(text)}
	root, err := p.whole()
	if err != nil {
		return nil, err
	}
	f := &Formula{text: text, root: root}
	each(root, func(n node) {
		if n, ok := n.(*name); ok && !slices.Contains(f.names, n.name) {
			f.names = append(f.names, n.name)
		}
	})
	return f, nil
}

// String gives the formula as it was written.
func (f *Formula) String() string { return f.text }

// Names lists the names it uses, in the order of first use.
func (f *Formula) Names() []string { return f.names }

// Unknown gives the place of the first name that is not known, or nil.
func (f *Formula) Unknown(known func(name string) bool) *Error {
	var found *Error
	each(f.root, func(n node) {
		if n, ok := n.(*name); ok && found == nil && !known(n.name) {
			found = n.wrong("%s is not known here", n.name)
		}
	})
	return found
}

// Value computes the formula with the values of its names. Its error is *Error:
// a name without a value, a division by zero, a root or logarithm that does not
// exist, or a value too large to be a number.
func (f *Formula) Value(of func(name string) (value float64, ok bool)) (float64, error) {
	values := make([]float64, len(f.names))
	for i, name := range f.names {
		value, ok := of(name)
		if !ok || value-value != 0 {
			return 0, f.Unknown(func(known string) bool { return known != name }).saying("%s has no value", name)
		}
		values[i] = value
	}
	return f.Bind(func(name string) int { return slices.Index(f.names, name) }).Value(values)
}

func (e *Error) saying(format string, args ...any) *Error {
	return &Error{e.At, e.Length, fmt.Sprintf(format, args...)}
}

// each visits a node and what it is made of, in the order they were written.
func each(n node, do func(node)) {
	do(n)
	for _, part := range n.parts() {
		each(part, do)
	}
}
