package templates

import (
	"encoding/json"
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/settle"
)

// Every template, mutilated at random places: whatever is done to a
// document, it is read or refused in words that name a place it has, and what
// is read is written the same again.

// node is a value in a document, with how to put another in its place.
type node struct {
	at   string
	put  func(v any)
	drop func() // takes it out; nil where it cannot be
}

func nodes(v any, at string, put func(any), drop func(), into *[]node) {
	*into = append(*into, node{at, put, drop})
	switch v := v.(type) {
	case map[string]any:
		for key, child := range v {
			nodes(child, fault.Key(at, key), func(x any) { v[key] = x }, func() { delete(v, key) }, into)
		}
	case []any:
		for i, child := range v {
			nodes(child, fault.Index(at, i), func(x any) { v[i] = x }, nil, into)
		}
	}
}

var hostile = []string{
	`null`, `true`, `false`, `0`, `-1`, `1e9`, `0.5`, `""`, `" "`, `"x"`, `"send"`, `"javascript:alert(1)"`, `"<script>alert(1)</script>"`, `"\u202e\u0000"`, `"@nothing"`, `"#12345"`,
	`"#gggggg"`, `"url(https://evil.test)"`, `"expression(1)"`, `"../../x"`, `[]`, `{}`, `[null,1,"x"]`, `{"do":"explode"}`, `"` + strings.Repeat("long ", 4000) + `"`,
}

// stands reports whether a document has a place. Of a key that is missing, or
// of one below a value of the wrong kind, what would hold it is enough.
func stands(doc any, at string) bool {
	for _, step := range steps.FindAllString(at, -1) {
		switch v := doc.(type) {
		case map[string]any:
			child, ok := v[step]
			if !ok {
				return step[0] != '['
			}
			doc = child
		case []any:
			i, err := strconv.Atoi(strings.Trim(step, "[]"))
			if err != nil || i >= len(v) {
				return false
			}
			doc = v[i]
		default:
			return true
		}
	}
	return true
}

var steps = regexp.MustCompile(`\[\d+\]|[^.\[]+`)

func TestMutilatedDocumentsAreReadOrRefusedInPlace(t *testing.T) {
	dice := rand.New(rand.NewPCG(4, 2026))
	read, refused := 0, 0
	for _, s := range All() {
		raw, err := json.Marshal(s.Piece("Mutilated", s.Format, "salt"))
		if err != nil {
			t.Fatal(err)
		}
		for range 80 {
			var doc any
			if err := json.Unmarshal(raw, &doc); err != nil {
				t.Fatal(err)
			}
			var done []string
			for range 1 + dice.IntN(4)/3 {
				var all []node
				nodes(doc, "", func(v any) { doc = v }, nil, &all)
				one := all[dice.IntN(len(all))]
				if one.drop != nil && dice.IntN(4) == 0 {
					one.drop()
				} else {
					var v any
					if err := json.Unmarshal([]byte(hostile[dice.IntN(len(hostile))]), &v); err != nil {
						t.Fatal(err)
					}
					one.put(v)
				}
				done = append(done, one.at)
			}
			spoiled, err := json.Marshal(doc)
			if err != nil {
				t.Fatal(err)
			}
			p, err := piece.Parse(spoiled)
			if err != nil {
				refused++
				for _, f := range fault.Of(err) {
					if f.Message == "" || !stands(doc, f.At) {
						t.Errorf("%s, changed at %q: said %q at %q, which is nowhere", s.ID, done, f.Message, f.At)
					}
				}
				continue
			}
			read++
			once, _ := json.Marshal(p)
			again, err := piece.Parse(once)
			if err != nil {
				t.Fatalf("%s, changed at %q: read, but not again: %v", s.ID, done, err)
			}
			if twice, _ := json.Marshal(again); string(once) != string(twice) {
				t.Errorf("%s, changed at %q: written differently the second time", s.ID, done)
			}
			var written any
			json.Unmarshal(once, &written)
			for _, n := range settle.Notes(p, settle.Around{}) {
				if n.Say == "" || n.Mend == "" || !stands(written, n.At) {
					t.Errorf("%s, changed at %q: a note %+v at no place", s.ID, done, n)
				}
			}
		}
	}
	if read < 200 || refused < 1500 {
		t.Errorf("%d read and %d refused: the dice do not try both", read, refused)
	}
}
