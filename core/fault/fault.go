// Package fault is how the core says what is wrong with an input, and where.
//
// A place is a path from the root of the document it is about, in the manner
// of JavaScript: scenes[2].blocks[0].label. The studio puts each message beside
// the input that its place names.
package fault

import (
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"
)

// Fault is one thing wrong with an input. An empty At means all of it.
type Fault struct {
	At      string `json:"at"`
	Message string `json:"message"`
	// Character is where in the text at that place, from 1; 0: all of it.
	Character int `json:"character,omitempty"`
}

func (f Fault) Error() string {
	if f.At == "" {
		return f.Message
	}
	return f.At + ": " + f.Message
}

// Faults is everything found wrong with one input, in document order.
type Faults []Fault

func (fs Faults) Error() string {
	said := make([]string, len(fs))
	for i, f := range fs {
		said[i] = f.Error()
	}
	return strings.Join(said, "; ")
}

// Add notes a fault at a place, with its message formatted as by fmt.Sprintf.
func (fs *Faults) Add(at, format string, args ...any) {
	*fs = append(*fs, Fault{At: at, Message: fmt.Sprintf(format, args...)})
}

// Within adds the faults in err below the place at. An err of another kind
// becomes one fault there; nil adds nothing.
func (fs *Faults) Within(at string, err error) {
	for _, f := range Of(err) {
		*fs = append(*fs, Fault{Join(at, f.At), f.Message, f.Character})
	}
}

// Err is nil where nothing was found.
func (fs Faults) Err() error {
	if len(fs) == 0 {
		return nil
	}
	return fs
}

// Of gives the faults an error holds. An error that holds none is one fault
// about the whole input.
func Of(err error) Faults {
	if err == nil {
		return nil
	}
	return faultsIn(err)
}

func faultsIn(err error) Faults {
	var many Faults
	var one Fault
	switch {
	case errors.As(err, &many):
		return many
	case errors.As(err, &one):
		return Faults{one}
	}
	return Faults{{Message: err.Error()}}
}

// Key is the place of a key below at.
func Key(at, key string) string {
	if at == "" {
		return key
	}
	return at + "." + key
}

// Index is the place of an element below at.
func Index(at string, i int) string { return at + "[" + strconv.Itoa(i) + "]" }

// Join is the place rest below at, where rest may itself be a path.
func Join(at, rest string) string {
	if at == "" || rest == "" || strings.HasPrefix(rest, "[") {
		return at + rest
	}
	return at + "." + rest
}

// JSON puts an error of encoding/json in plain words, with the place it knows.
func JSON(err error) Fault {
	var kind *json.UnmarshalTypeError
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &kind):
		return Fault{At: keysOf(kind.Field), Message: "is " + article(kind.Value) + ", but should be " + wanted(kind.Type.Kind().String())}
	case errors.As(err, &syntax):
		return Fault{Message: fmt.Sprintf("is not JSON: %s (at character %d)", syntax.Error(), syntax.Offset)}
	}
	if name, ok := strings.CutPrefix(err.Error(), "json: unknown field "); ok {
		return Fault{At: strings.Trim(name, `"`), Message: "is not a key known here"}
	}
	return Fault{Message: "is not JSON: " + err.Error()}
}

// keysOf drops from a path of encoding/json the names of embedded structs,
// which are no keys of the document.
func keysOf(path string) string {
	keys := []string{}
	for key := range strings.SplitSeq(path, ".") {
		if key == "" || key[0] < 'A' || key[0] > 'Z' {
			keys = append(keys, key)
		}
	}
	return strings.Join(keys, ".")
}

func article(value string) string {
	kind, _, _ := strings.Cut(value, " ")
	switch kind {
	case "string":
		return "a text"
	case "bool":
		return "true or false"
	case "array":
		return "a list"
	case "object":
		return "an object"
	}
	return "a " + kind
}

func wanted(goKind string) string {
	switch goKind {
	case "string":
		return "a text"
	case "bool":
		return "true or false"
	case "slice", "array":
		return "a list"
	case "struct", "map", "ptr", "interface":
		return "an object"
	}
	return "a whole number in range"
}
