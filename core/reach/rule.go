// Package reach decides when a piece may show.
//
// A rule is a tree of joint conditions, alternatives and denials over clauses,
// each a question about one fact of the visit:
//
//	{"all": [
//	    {"fact": "page.path", "op": "starts_with", "value": "/journal"},
//	    {"any": [
//	        {"fact": "moment.seconds_on_page", "op": "gte", "value": 30},
//	        {"fact": "moment.exit_intent", "op": "happened"}]}]}
//
// Parse reads one, Compile checks it and makes a Program, and a Program judges
// a Visit: yes, no, or waits where it hangs on moments that have not come. What
// it waits for is again a rule, over moments alone, which the page watches.
package reach

import (
	"encoding/json"

	"gobbet/core/fault"
)

// Rule is All, Any, Not, Clause or Saved.
type Rule interface {
	json.Marshaler
	rule()
}

// All holds when every part holds; an empty one always does.
type All []Rule

// Any holds when a part holds; an empty one never does.
type Any []Rule

// Not holds when its part does not.
type Not struct{ Rule Rule }

// Clause asks one thing of one fact. Value is a string, a float64, a bool, a
// list of strings or numbers, or nil, as Op asks.
type Clause struct {
	Fact  string `json:"fact"`
	Op    Op     `json:"op"`
	Value any    `json:"value,omitempty"`
}

// Saved stands for a rule that is kept under a name of its own, {"saved": ID},
// and used by several pieces.
type Saved struct{ ID string }

// Book is the saved rules that a rule may stand on, by id. None of them holds
// a Saved itself.
type Book map[string]Rule

func (All) rule()    {}
func (Any) rule()    {}
func (Not) rule()    {}
func (Clause) rule() {}
func (Saved) rule()  {}

func (r All) MarshalJSON() ([]byte, error)    { return appendRule(make([]byte, 0, 160), r) }
func (r Any) MarshalJSON() ([]byte, error)    { return appendRule(make([]byte, 0, 160), r) }
func (r Not) MarshalJSON() ([]byte, error)    { return appendRule(make([]byte, 0, 160), r) }
func (r Clause) MarshalJSON() ([]byte, error) { return appendRule(make([]byte, 0, 160), r) }
func (r Saved) MarshalJSON() ([]byte, error)  { return appendRule(make([]byte, 0, 160), r) }

// EachSaved visits the saved rules that a rule stands on, in order, with repeats.
func EachSaved(r Rule, do func(id string)) {
	switch r := r.(type) {
	case All:
		for _, part := range r {
			EachSaved(part, do)
		}
	case Any:
		for _, part := range r {
			EachSaved(part, do)
		}
	case Not:
		EachSaved(r.Rule, do)
	case Saved:
		do(r.ID)
	}
}

// Bounds on a rule, far above what a person writes.
const (
	MaxDepth   = 100
	MaxClauses = 5000
)

// Parse reads a rule. It finds faults of form; Compile finds those of meaning.
// Its error is fault.Faults, each with its place from the rule's root.
func Parse(data []byte) (Rule, error) {
	n, err := fault.Read(data)
	if err != nil {
		return nil, fault.Faults{{Message: notARule}}
	}
	return ParseNode(n)
}

// ParseNode is Parse for a rule that was scanned already; nil is none.
func ParseNode(n *fault.Node) (Rule, error) {
	p := parser{}
	r := p.rule(n, "", 0)
	if err := p.faults.Err(); err != nil {
		return nil, err
	}
	return r, nil
}

type parser struct {
	faults  fault.Faults
	clauses int
}

const notARule = `should be {"all": […]}, {"any": […]}, {"not": …} or a clause {"fact", "op", "value"}`

var shapes = []string{"all", "any", "not", "saved"}

func (p *parser) rule(n *fault.Node, at string, depth int) Rule {
	if depth > MaxDepth {
		p.faults.Add(at, "is nested more than %d deep", MaxDepth)
		return nil
	}
	keys, ok := n.Keys()
	if !ok {
		p.faults.Add(at, notARule)
		return nil
	}
	for _, shape := range shapes {
		inner := n.Get(shape)
		if inner == nil {
			continue
		}
		for _, key := range keys {
			if key != shape {
				p.faults.Add(fault.Key(at, key), "does not belong beside %q", shape)
			}
		}
		if shape == "saved" {
			id, _ := inner.Text()
			if id == "" {
				p.faults.Add(fault.Key(at, "saved"), "should be the id of a saved reach")
			}
			return Saved{id}
		}
		if shape == "not" {
			return Not{p.rule(inner, fault.Key(at, "not"), depth+1)}
		}
		parts := p.parts(inner, fault.Key(at, shape), depth)
		if shape == "all" {
			return All(parts)
		}
		return Any(parts)
	}
	return p.clause(n, keys, at)
}

func (p *parser) parts(n *fault.Node, at string, depth int) []Rule {
	items, ok := n.Items()
	if !ok {
		p.faults.Add(at, "should be a list of rules")
		return nil
	}
	parts := make([]Rule, len(items))
	for i, part := range items {
		if p.clauses > MaxClauses {
			break
		}
		parts[i] = p.rule(part, fault.Index(at, i), depth+1)
	}
	return parts
}

func (p *parser) clause(n *fault.Node, keys []string, at string) Rule {
	if p.clauses++; p.clauses > MaxClauses {
		p.faults.Add(at, "is one clause more than the %d a rule may have", MaxClauses)
		return nil
	}
	var c Clause
	for _, key := range keys {
		var err error
		switch key {
		case "fact":
			err = n.Get(key).Loosely("", &c.Fact)
		case "op":
			err = n.Get(key).Loosely("", &c.Op)
		case "value":
			err = n.Get(key).Loosely("", &c.Value)
		default:
			p.faults.Add(fault.Key(at, key), "is not a key of a rule")
		}
		if err != nil {
			p.faults.Add(fault.Key(at, key), "should be a text")
		}
	}
	for _, key := range []string{"fact", "op"} {
		if n.Get(key) == nil {
			p.faults.Add(fault.Key(at, key), "is missing")
		}
	}
	return c
}
