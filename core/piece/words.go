package piece

import (
	"encoding/json"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/style"
)

// Words are a text with its looks, as runs of letters that look alike. Words
// that all look as their block says are written as a plain text. They may hold
// merge fields such as {first name} or {first name|friend}.
type Words []Span

// Plain makes words that look as their block says.
func Plain(s string) Words {
	if s == "" {
		return nil
	}
	return Words{{Text: s}}
}

// String gives the words without their looks.
func (w Words) String() string {
	var b strings.Builder
	for _, s := range w {
		b.WriteString(s.Text)
	}
	return b.String()
}

// MarshalJSON writes plain words as a text.
func (w Words) MarshalJSON() ([]byte, error) {
	if len(w) == 0 {
		return []byte(`""`), nil
	}
	if len(w) == 1 && w[0] == (Span{Text: w[0].Text}) {
		return json.Marshal(w[0].Text)
	}
	return json.Marshal([]Span(w))
}

// UnmarshalJSON reads a text or a list of runs.
func (w *Words) UnmarshalJSON(data []byte) error {
	n, err := fault.Read(data)
	if err != nil {
		return err
	}
	return w.ReadNode(n)
}

// ReadNode implements fault.NodeReader.
func (w *Words) ReadNode(n *fault.Node) error {
	if s, ok := n.Text(); ok {
		*w = Plain(s)
		return nil
	}
	return n.Strictly("", (*[]Span)(w))
}

const maxSpans = 500

func (r *reader) words(at string, w Words, most int) {
	r.Text(at, w.String(), most)
	if len(w) > maxSpans {
		r.Faults.Add(at, "changes its look more than %d times", maxSpans)
		return
	}
	for i, s := range w {
		place := fault.Index(at, i)
		style.ReadColor(&r.Reader, fault.Key(place, "color"), s.Color, true)
		if s.Size != 0 {
			r.Between(fault.Key(place, "size"), s.Size, 8, 120)
		}
		if s.Link != "" {
			r.address(fault.Key(place, "link"), s.Link)
		}
	}
}
