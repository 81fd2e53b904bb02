// Package read is how documents of the core are read and checked: each part is
// asked for by what it may be, and what does not fit is noted as a fault at its
// place, so that one reading finds all of them.
package read

import (
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"gobbet/core/fault"
)

// Reader gathers what is wrong with a document.
type Reader struct {
	Faults fault.Faults
}

// Decode reads strictly, so that a misspelt key is a fault and not a loss.
func (r *Reader) Decode(n *fault.Node, at string, into any) bool {
	if n.IsNull() {
		r.Faults.Add(at, "is missing")
		return false
	}
	err := n.Strictly(at, into)
	r.Faults.Within("", err)
	return err == nil
}

// Scan reads JSON into a node; nil where it cannot be read.
func (r *Reader) Scan(data []byte) *fault.Node {
	n, err := fault.Read(data)
	r.Faults.Within("", err)
	return n
}

var idForm = regexp.MustCompile(`^[a-z0-9][a-z0-9_-]{0,39}$`)

// IsID reports whether a text may be an id.
func IsID(id string) bool { return idForm.MatchString(id) }

// ID checks an id.
func (r *Reader) ID(at, id string) string {
	if !IsID(id) {
		r.Faults.Add(at, "should be 1 to 40 small letters, digits, - and _")
	}
	return id
}

// Unique notes an id that was seen before. An empty one has been noted already.
func (r *Reader) Unique(seen map[string]bool, id, at string) {
	if seen[id] && id != "" {
		r.Faults.Add(at, "is used twice")
	}
	seen[id] = true
}

// Between checks a whole number; both bounds are included.
func (r *Reader) Between(at string, n, low, high int) {
	if n < low || n > high {
		r.Faults.Add(at, "should be %d to %d", low, high)
	}
}

// Text checks the length, in characters, of a text that may be empty.
func (r *Reader) Text(at, s string, most int) {
	if utf8.RuneCountInString(s) > most {
		r.Faults.Add(at, "is longer than %d characters", most)
	}
	if strings.ContainsRune(s, 0) {
		r.Faults.Add(at, "holds a character that cannot be stored")
	}
}

// Line trims a text that may not be empty, and checks its length.
func (r *Reader) Line(at, s string, most int) string {
	s = strings.TrimSpace(s)
	if s == "" {
		r.Faults.Add(at, "should not be empty")
	}
	r.Text(at, s, most)
	return s
}

// OneOf checks a text that is one of several.
func OneOf[T ~string](r *Reader, at string, got T, allowed ...T) {
	if slices.Contains(allowed, got) {
		return
	}
	names := make([]string, len(allowed))
	for i, a := range allowed {
		names[i] = string(a)
	}
	r.Faults.Add(at, "should be one of %s", strings.Join(names, ", "))
}

// Optional is OneOf for what may be left out.
func Optional[T ~string](r *Reader, at string, got T, allowed ...T) {
	if got != "" {
		OneOf(r, at, got, allowed...)
	}
}
