package piece

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"gobbet/core/fault"
)

func document(t *testing.T) map[string]any {
	t.Helper()
	raw, err := json.Marshal(New("Glaze club", Popup, "salt"))
	if err != nil {
		t.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	return doc
}

// put sets a value deep in a document; numbers in the path index lists.
func put(doc any, value any, path ...any) {
	for _, key := range path[:len(path)-1] {
		if i, ok := key.(int); ok {
			doc = doc.([]any)[i]
		} else {
			doc = doc.(map[string]any)[key.(string)]
		}
	}
	last := path[len(path)-1]
	if i, ok := last.(int); ok {
		doc.([]any)[i] = value
	} else {
		doc.(map[string]any)[last.(string)] = value
	}
}

func TestNewPieceReadsBackTheSame(t *testing.T) {
	for _, format := range Formats {
		first, _ := json.Marshal(New("Glaze club", format, "salt"))
		p, err := Parse(first)
		if err != nil {
			t.Fatal(err)
		}
		if second, _ := json.Marshal(p); string(first) != string(second) {
			t.Errorf("written %s\nread    %s", first, second)
		}
	}
}

func TestFaultsNameTheirPlace(t *testing.T) {
	design := []any{"split", "variants", 0, "design"}
	in := func(path ...any) []any { return append(append([]any{}, design...), path...) }
	block := func(i int, key string) []any { return in("scenes", 0, "blocks", i, key) }
	for _, c := range []struct {
		value any
		path  []any
		at    string
		about string
	}{
		{99, []any{"version"}, "version", "reads version 4"},
		{" ", []any{"name"}, "name", "should not be empty"},
		{strings.Repeat("x", 121), []any{"name"}, "name", "longer"},
		{"banner", []any{"format"}, "format", "popup, fly_in"},
		{true, []any{"format"}, "format", "text"},
		{1, []any{"colour"}, "colour", "not a key"},
		{map[string]any{"all": []any{map[string]any{"fact": "page.path", "op": "matches", "value": "("}}}, []any{"rule"}, "rule.all[0].value", "RE2"},
		{"later", []any{"caps", "after_close"}, "caps.after_close", "ISO 8601"},
		{nil, []any{"split"}, "split", "missing"},
		{[]any{}, []any{"split", "variants"}, "split.variants", "1 to 8"},
		{0, []any{"split", "variants", 0, "share"}, "split.variants", "nobody"},
		{-1, []any{"split", "variants", 0, "share"}, "split.variants[0].share", "0 to 1000"},
		{90000, in("frame", "width"), "split.variants[0].design.frame.width", "200 to 1200"},
		{"red;background:url(//evil.test)", in("frame", "background"), "split.variants[0].design.frame.background", "colour"},
		{"#FFF", in("frame", "ink"), "split.variants[0].design.frame.ink", "colour"},
		{[]any{}, in("scenes"), "split.variants[0].design.scenes", "1 to 50"},
		{"thanks", in("scenes", 0, "id"), "split.variants[0].design.scenes[1].id", "twice"},
		{"marquee", block(0, "kind"), "split.variants[0].design.scenes[0].blocks[0].kind", "marquee"},
		{400, block(0, "size"), "split.variants[0].design.scenes[0].blocks[0].size", "12 to 120"},
		{strings.Repeat("x", 10001), block(1, "text"), "split.variants[0].design.scenes[0].blocks[1].text", "longer"},
		{"email", block(2, "key"), "split.variants[0].design.scenes[0].blocks[3].key", "twice"},
		{"weights", block(2, "key"), "split.variants[0].design.scenes[0].blocks[2].key", "something else"},
		{"__proto__", block(2, "key"), "split.variants[0].design.scenes[0].blocks[2].key", "small letters"},
		{"Title!", block(0, "id"), "split.variants[0].design.scenes[0].blocks[0].id", "small letters"},
		{"nowhere", in("scenes", 0, "edges", 0, "to"), "split.variants[0].design.scenes[0].edges[0].to", "not here"},
		{[]any{map[string]any{"of": "plan", "op": "is", "value": "x"}}, in("scenes", 0, "edges", 0, "when"), "split.variants[0].design.scenes[0].edges[0].when[0]", "neither a field"},
		{[]any{map[string]any{"of": "email", "op": "gt", "value": 3}}, in("scenes", 0, "edges", 0, "when"), "split.variants[0].design.scenes[0].edges[0].when[0]", "not a number"},
		{[]any{map[string]any{"of": "email", "op": "like", "value": 3}}, in("scenes", 0, "edges", 0, "when"), "split.variants[0].design.scenes[0].edges[0].when[0].op", "should be one of"},
		{[]any{map[string]any{"of": "score", "op": "is", "value": "3"}}, in("scenes", 0, "edges", 0, "when"), "split.variants[0].design.scenes[0].edges[0].when[0]", "text"},
		{[]any{map[string]any{"of": "weights", "op": "most", "value": "thanks"}}, in("scenes", 0, "edges", 0, "when"), "split.variants[0].design.scenes[0].edges[0].when[0]", "result"},
		{[]any{map[string]any{"name": "total", "formula": "bags * 2"}}, in("formulas"), "split.variants[0].design.formulas[0].formula", "not known"},
		{[]any{map[string]any{"name": "total", "formula": "1 +"}}, in("formulas"), "split.variants[0].design.formulas[0].formula", "missing"},
		{[]any{map[string]any{"name": "email", "formula": "1"}}, in("formulas"), "split.variants[0].design.formulas[0].name", "something else"},
		{[]any{map[string]any{"name": "a", "formula": "b"}, map[string]any{"name": "b", "formula": "a"}}, in("formulas"), "split.variants[0].design.formulas[1].formula", "never ends"},
		{[]any{map[string]any{"name": "a", "formula": "1", "style": "money"}}, in("formulas"), "split.variants[0].design.formulas[0].currency", "EUR"},
		{map[string]any{"kind": "value", "id": "title", "formula": "x", "size": 20, "align": "start"}, in("scenes", 0, "blocks", 0), "split.variants[0].design.scenes[0].blocks[0].formula", "not here"},
		{map[string]any{"kind": "tally", "id": "title", "key": "email"}, in("scenes", 0, "blocks", 0), "split.variants[0].design.scenes[0].blocks[0].key", "choices"},
		{map[string]any{"do": "open", "address": "javascript:alert(1)"}, block(4, "press"), "split.variants[0].design.scenes[0].blocks[4].press.address", "https://"},
		{map[string]any{"do": "dance"}, block(4, "press"), "split.variants[0].design.scenes[0].blocks[4].press.do", "send"},
	} {
		doc := document(t)
		put(doc, c.value, c.path...)
		raw, _ := json.Marshal(doc)
		_, err := Parse(raw)
		faults := fault.Of(err)
		found := false
		for _, f := range faults {
			found = found || f.At == c.at && strings.Contains(f.Message, c.about)
		}
		if !found || len(faults) > 2 {
			t.Errorf("%v at %v: %v, want %q about %q", c.value, c.path, faults, c.at, c.about)
		}
	}
	for _, bad := range []string{"", "{", "null", "[]", `"x"`, strings.Repeat(" ", MaxBytes+1)} {
		if _, err := Parse([]byte(bad)); len(fault.Of(err)) == 0 {
			t.Errorf("%.20q was read", bad)
		}
	}
}

func TestAddressesThatCouldRunAreRefused(t *testing.T) {
	for address, good := range map[string]bool{
		"https://shop.example.com/a?b=c#d": true, "http://shop.test": true, "mailto:a@example.com": true, "tel:+35312345": true, "/classes": true,
		"javascript:alert(1)": false, "JAVASCRIPT:alert(1)": false, " javascript:alert(1)": false, "java\nscript:alert(1)": false,
		"data:text/html,x": false, "vbscript:x": false, "shop": false, "https:": false, `/\evil.test`: false, "": false, "blob:x": false,
	} {
		if wrong := badAddress(address); (wrong == "") != good {
			t.Errorf("%q: %q", address, wrong)
		}
	}
}

func TestDrawingIsTheSameForTheSameDesign(t *testing.T) {
	a, b := New("One", Popup, "x"), New("Another", Popup, "y")
	if string(a.Drawing(a.Split.Variants[0], nil)) != string(b.Drawing(b.Split.Variants[0], nil)) {
		t.Error("equal designs are written differently")
	}
}

func FuzzPiece(f *testing.F) {
	whole, _ := json.Marshal(New("Glaze club", Popup, "salt"))
	f.Add(whole)
	f.Add([]byte(strings.Replace(string(whole), `{"kind":"text","id":"why","text":"And in a line or two, why now. Click any words to change them.","size":16,"align":"start"}`,
		`{"kind":"columns","id":"c","gap":1,"blocks":[{"kind":"box","id":"b","padding":0,"corners":0,"gap":0,"blocks":[{"kind":"text","id":"why","text":[{"text":"a","bold":true}],"size":16,"align":"start","phone":{"size":12}}]},{"kind":"html","id":"h","html":"<b>x</b>"}]}`, 1)))
	f.Add([]byte(`{"version":1,"split":{"variants":[{"design":{"scenes":[{"blocks":[{"kind":"button"}]}]}}]}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := Parse(data)
		if err != nil {
			return
		}
		again, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Parse(again); err != nil {
			t.Fatalf("what was read does not read back: %v\n%s", err, again)
		}
	})
}

func TestVariantsHaveWaysOfTheirOwn(t *testing.T) {
	variant := func(path ...any) []any { return append([]any{"split", "variants", 0}, path...) }
	exit := map[string]any{"fact": "moment.exit_intent", "op": "happened"}
	for _, c := range []struct {
		value any
		path  []any
		fault string
	}{
		{"fly_in", variant("format"), ""},
		{"badge", variant("format"), "split.variants[0].format"},
		{"inline", variant("format"), "split.variants[0].format"},
		{"bar", variant("phone_format"), "split.variants[0].phone_format"},
		{exit, variant("moments"), ""},
		{nil, variant("moments"), ""},
		{map[string]any{"all": []any{}}, variant("moments"), ""},
		{map[string]any{"all": []any{exit, map[string]any{"fact": "page.path", "op": "is", "value": "/"}}}, variant("moments"), "split.variants[0].moments.all[1].fact"},
		{map[string]any{"fact": "moment.click", "op": "happened", "value": "#buy"}, variant("moments"), "split.variants[0].moments.fact"},
		{map[string]any{"saved": "mine"}, variant("moments"), "split.variants[0].moments.saved"},
		{"soon", variant("moments"), "split.variants[0].moments"},
	} {
		doc := document(t)
		put(doc, c.value, c.path...)
		raw, _ := json.Marshal(doc)
		p, err := Parse(raw)
		if c.fault == "" {
			if err != nil {
				t.Errorf("%v: %v", c.value, err)
				continue
			}
			again, _ := json.Marshal(p)
			if _, err := Parse(again); err != nil {
				t.Errorf("%v does not read back: %v", c.value, err)
			}
			continue
		}
		var faults fault.Faults
		if !errors.As(err, &faults) || faults[0].At != c.fault {
			t.Errorf("%v: %v, want a fault at %s", c.value, err, c.fault)
		}
	}
	doc := document(t)
	put(doc, exit, variant("moments")...)
	put(doc, "bar", variant("format")...)
	raw, _ := json.Marshal(doc)
	p, err := Parse(raw)
	if err != nil {
		t.Fatal(err)
	}
	if p.OfEligible() {
		t.Error("one variant alone is compared with nothing")
	}
	p.Split.Variants = append(p.Split.Variants, Variant{ID: "b"})
	if !p.OfEligible() || p.ProgramOf(p.First()) == p.Program || p.ProgramOf(&p.Split.Variants[1]) != p.Program {
		t.Error("a variant's own ways are not told from the piece's")
	}
	if d := p.Draw(p.First(), nil); d.Format != Bar {
		t.Error(d.Format)
	}
	// A format of its own that is the piece's tells nobody apart.
	p.First().Moments, p.First().Format = nil, p.Format
	if p.OfEligible() {
		t.Error("the same format is taken for another")
	}
}

// Read twice, a document has the same faults in the same order: its own.
func TestFaultsComeInTheDocumentsOrder(t *testing.T) {
	raw, err := json.Marshal(New("Faulty", Popup, "salt"))
	if err != nil {
		t.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	design := doc["split"].(map[string]any)["variants"].([]any)[0].(map[string]any)["design"].(map[string]any)
	for key := range design["frame"].(map[string]any) {
		design["frame"].(map[string]any)[key] = []any{"none of it"}
	}
	doc["name"] = ""
	if raw, err = json.Marshal(doc); err != nil {
		t.Fatal(err)
	}
	_, first := Parse(raw)
	if faults := fault.Of(first); len(faults) < 5 || faults[0].At != "name" {
		t.Fatal(first)
	}
	for range 20 {
		if _, again := Parse(raw); again.Error() != first.Error() {
			t.Fatalf("%v\nand then\n%v", first, again)
		}
	}
}
