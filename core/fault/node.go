package fault

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"
)

// Node is a JSON value that was scanned once. What it holds can be taken apart,
// put together anew and read into Go values without scanning it again.
type Node struct {
	kind nodeKind
	key  string // by which an object holds it
	raw  string // as it was written; empty for an object that was put together
	text string // of a text
	held []Node // by an object or a list
}

type nodeKind uint8

const (
	isNull nodeKind = iota
	isTrue
	isFalse
	isNumber
	isString
	isArray
	isObject
)

// Read scans a JSON value. Its error is Faults.
func Read(data []byte) (*Node, error) {
	s := scanner{d: jsontext.NewDecoder(bytes.NewBuffer(data), jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true)), data: string(data)}
	n := &Node{}
	err := s.read(n)
	if err == nil {
		if _, after := s.d.ReadToken(); after == io.EOF {
			return n, nil
		}
	}
	// encoding/json says what is wrong in words that are known.
	var whole json.RawMessage
	if wrong := json.Unmarshal(data, &whole); wrong != nil {
		return nil, Faults{JSON(wrong)}
	}
	return nil, Faults{{Message: "is not JSON: " + errors.Join(err, errors.New("unexpected text")).Error()}}
}

// scanner reads nodes. What an object or a list holds is gathered on a stack,
// and kept once it is known how much it is.
type scanner struct {
	d     *jsontext.Decoder
	data  string
	stack []Node
}

func (s *scanner) read(n *Node) error {
	token, err := s.d.ReadToken()
	if err != nil {
		return err
	}
	end := int(s.d.InputOffset())
	from := end - 1
	switch token.Kind() {
	case 't':
		n.kind, from = isTrue, end-len("true")
	case 'f':
		n.kind, from = isFalse, end-len("false")
	case 'n':
		n.kind, from = isNull, end-len("null")
	case '"':
		n.kind, from = isString, startOf(s.data, end)
		n.text = s.textOf(token, from, end)
	case '0':
		for n.kind = isNumber; from > 0 && isNumeral(s.data[from-1]); from-- {
		}
	case '[', '{':
		n.kind = isArray
		if token.Kind() == '{' {
			n.kind = isObject
		}
		if err := s.readHeld(n); err != nil {
			return err
		}
		end = int(s.d.InputOffset())
	}
	n.raw = s.data[from:end]
	return nil
}

func (s *scanner) readHeld(n *Node) error {
	bottom := len(s.stack)
	for kind := s.d.PeekKind(); kind != ']' && kind != '}'; kind = s.d.PeekKind() {
		var one Node
		if n.kind == isObject {
			token, err := s.d.ReadToken()
			if err != nil {
				return err
			}
			end := int(s.d.InputOffset())
			one.key = s.textOf(token, startOf(s.data, end), end)
		}
		if err := s.read(&one); err != nil {
			return err
		}
		s.stack = append(s.stack, one)
	}
	n.held = slices.Clone(s.stack[bottom:])
	s.stack = s.stack[:bottom]
	_, err := s.d.ReadToken()
	return err
}

// textOf gives what a text says; one without escapes is what was written.
func (s *scanner) textOf(token jsontext.Token, from, end int) string {
	if raw := s.data[from+1 : end-1]; !strings.Contains(raw, `\`) && utf8.ValidString(raw) {
		return raw
	}
	return token.String()
}

func isNumeral(c byte) bool {
	return c >= '0' && c <= '9' || c == '-' || c == '+' || c == '.' || c == 'e' || c == 'E'
}

// startOf finds where the text begins that ends before end.
func startOf(data string, end int) int {
	for i := end - 2; ; i-- {
		if data[i] != '"' {
			continue
		}
		slashes := 0
		for i-slashes > 0 && data[i-slashes-1] == '\\' {
			slashes++
		}
		if slashes%2 == 0 {
			return i
		}
	}
}

// what names the kind of a value in words.
func (n *Node) what() string {
	switch n.kind {
	case isTrue, isFalse:
		return "true or false"
	case isNumber:
		return "a number"
	case isString:
		return "a text"
	case isArray:
		return "a list"
	case isObject:
		return "an object"
	}
	return "null"
}

// IsNull reports whether there is no value: nil, or null.
func (n *Node) IsNull() bool { return n == nil || n.kind == isNull }

// Raw is the value as JSON.
func (n *Node) Raw() string {
	if n.raw != "" || n.kind != isObject {
		return n.raw
	}
	written := make([]string, len(n.held))
	for i := range n.held {
		key, _ := json.Marshal(n.held[i].key)
		written[i] = string(key) + ":" + n.held[i].Raw()
	}
	return "{" + strings.Join(written, ",") + "}"
}

// Text is the value of a text; not ok for anything else.
func (n *Node) Text() (text string, ok bool) {
	if n == nil || n.kind != isString {
		return "", false
	}
	return n.text, true
}

// Number is the value of a number; not ok for anything else.
func (n *Node) Number() (number float64, ok bool) {
	if n == nil || n.kind != isNumber {
		return 0, false
	}
	number, err := strconv.ParseFloat(n.raw, 64)
	return number, err == nil
}

// Get gives the value of an object's key, the last of several; nil where there is none.
func (n *Node) Get(key string) *Node {
	if n == nil || n.kind != isObject {
		return nil
	}
	for i := len(n.held) - 1; i >= 0; i-- {
		if n.held[i].key == key {
			return &n.held[i]
		}
	}
	return nil
}

// Keys lists the keys of an object as they were written; not ok for anything else.
func (n *Node) Keys() (keys []string, ok bool) {
	if n == nil || n.kind != isObject {
		return nil, false
	}
	for i := range n.held {
		keys = append(keys, n.held[i].key)
	}
	return keys, true
}

// Items lists the values of a list; not ok for anything else.
func (n *Node) Items() (items []*Node, ok bool) {
	if n == nil || n.kind != isArray {
		return nil, false
	}
	for i := range n.held {
		items = append(items, &n.held[i])
	}
	return items, true
}

// Without is an object less a key.
func (n *Node) Without(key string) *Node {
	return &Node{kind: n.kind, held: slices.DeleteFunc(slices.Clone(n.held), func(m Node) bool { return m.key == key })}
}

// With is an object with the values of another in place of its own.
func (n *Node) With(other *Node) *Node {
	with := &Node{kind: n.kind, held: slices.Clone(n.held)}
	for _, m := range other.held {
		with.held = slices.DeleteFunc(with.held, func(had Node) bool { return had.key == m.key })
		with.held = append(with.held, m)
	}
	return with
}
