package reach

import (
	"encoding/json"
	"math"
	"strconv"
)

// appendRule writes a rule as JSON in one pass. Every page view's answer holds
// rules, and encoding/json would read each level again to check it.
func appendRule(b []byte, r Rule) ([]byte, error) {
	switch r := r.(type) {
	case All:
		return appendParts(append(b, `{"all":[`...), r)
	case Any:
		return appendParts(append(b, `{"any":[`...), r)
	case Not:
		b, err := appendRule(append(b, `{"not":`...), r.Rule)
		return append(b, '}'), err
	case Clause:
		return appendClause(b, r)
	case Saved:
		b, err := appendValue(append(b, `{"saved":`...), r.ID)
		return append(b, '}'), err
	}
	return append(b, "null"...), nil
}

func appendParts(b []byte, parts []Rule) (_ []byte, err error) {
	for i, part := range parts {
		if i > 0 {
			b = append(b, ',')
		}
		if b, err = appendRule(b, part); err != nil {
			return b, err
		}
	}
	return append(b, `]}`...), nil
}

func appendClause(b []byte, c Clause) (_ []byte, err error) {
	if b, err = appendValue(append(b, `{"fact":`...), c.Fact); err != nil {
		return b, err
	}
	if b, err = appendValue(append(b, `,"op":`...), string(c.Op)); err != nil {
		return b, err
	}
	if c.Value != nil {
		if b, err = appendValue(append(b, `,"value":`...), c.Value); err != nil {
			return b, err
		}
	}
	return append(b, '}'), nil
}

// appendValue writes plain texts and whole numbers itself, and leaves all else
// to encoding/json.
func appendValue(b []byte, value any) ([]byte, error) {
	switch v := value.(type) {
	case string:
		if plain(v) {
			return append(append(append(b, '"'), v...), '"'), nil
		}
	case float64:
		if v == math.Trunc(v) && math.Abs(v) < 1e15 && (v != 0 || !math.Signbit(v)) {
			return strconv.AppendInt(b, int64(v), 10), nil
		}
	}
	text, err := json.Marshal(value)
	return append(b, text...), err
}

// plain texts need no escaping.
func plain(s string) bool {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c > '~' || c == '"' || c == '\\' || c == '<' || c == '>' || c == '&' {
			return false
		}
	}
	return true
}

// Expand writes a rule with the saved reaches it stands on in their place. One
// that the book does not have stays as it is.
func Expand(r Rule, book Book) Rule {
	each := func(rules []Rule) []Rule {
		out := make([]Rule, len(rules))
		for i, one := range rules {
			out[i] = Expand(one, book)
		}
		return out
	}
	switch r := r.(type) {
	case All:
		return All(each(r))
	case Any:
		return Any(each(r))
	case Not:
		return Not{Expand(r.Rule, book)}
	case Saved:
		if rule, ok := book[r.ID]; ok {
			return rule
		}
	}
	return r
}
