package piece

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
)

// stepwise is a drawing of scenes a to e: a sends to b, b goes on to c, c sends
// to d, and e is reached by a button of a. d holds a code, e a file.
func stepwise() Drawing {
	button := func(id string, p Press) Button { return Button{Kind: "button", ID: id, Words: id, Press: p} }
	return Drawing{Format: Popup, Scenes: []Scene{
		{ID: "a", Name: "A", Kind: FormScene, Blocks: []Block{button("1", Press{Do: DoSend, Scene: "b"}), button("2", Press{Do: DoScene, Scene: "e"})}},
		{ID: "b", Name: "B", Kind: PlainScene, Blocks: []Block{Box{Kind: "box", ID: "box", Blocks: []Block{button("1", Press{Do: DoNext})}}}},
		{ID: "c", Name: "C", Kind: FormScene, Blocks: []Block{button("1", Press{Do: DoSend, Scene: "d"})}},
		{ID: "d", Name: "D", Kind: ThanksScene, Blocks: []Block{Box{Kind: "box", ID: "box", Blocks: []Block{Code{Kind: "code", ID: "c", Code: "TOP"}}}}},
		{ID: "e", Name: "E", Kind: PlainScene, Blocks: []Block{button("1", Press{Do: DoFile, File: strings.Repeat("ab", 16)}), Timer{Kind: "timer", ID: "t", Minutes: 1, AtZero: "scene", Scene: "a"}}},
	}}
}

func ids(reached map[string]bool) string {
	var all []string
	for id := range reached {
		all = append(all, id)
	}
	slices.Sort(all)
	return strings.Join(all, "")
}

func TestScenesAreReachedByWhatWasSent(t *testing.T) {
	d := stepwise()
	for _, c := range []struct{ from, sent, want string }{
		{"a", "", "ae"}, {"a", "a", "abce"}, {"a", "ac", "abcde"}, {"a", "c", "ae"}, {"c", "", "c"}, {"c", "c", "cd"}, {"", "", ""}, {"x", "a", ""},
	} {
		if got := ids(d.Reached(strings.Split(c.from, ""), strings.Split(c.sent, ""))); got != c.want {
			t.Errorf("from %q having sent %q: %q, want %q", c.from, c.sent, got, c.want)
		}
	}
}

func TestWhatIsSentAheadHoldsNothingToBeEarned(t *testing.T) {
	public := stepwise().Public()
	raw, err := json.Marshal(public)
	if err != nil {
		t.Fatal(err)
	}
	for _, secret := range []string{"TOP", "abab", `"B"`, `"D"`} {
		if strings.Contains(string(raw), secret) {
			t.Errorf("%s is sent ahead: %s", secret, raw)
		}
	}
	for i, withheld := range []bool{false, true, true, true, true} {
		if public.Scenes[i].Withheld != withheld {
			t.Errorf("scene %s: withheld %v", public.Scenes[i].ID, public.Scenes[i].Withheld)
		}
	}
	if full := stepwise(); full.Scenes[3].Withheld || len(full.Scenes[3].Blocks) == 0 {
		t.Error("the drawing itself was changed")
	}
	// A first scene is earned by its showing.
	first := Drawing{Scenes: []Scene{{ID: "x", Blocks: []Block{Code{Kind: "code", ID: "c", Code: "TOP"}}}}}
	if first.Public().Scenes[0].Withheld {
		t.Error("the first scene is withheld")
	}
	if (Drawing{}).Public().Scenes != nil {
		t.Error("a drawing of nothing")
	}
}

func TestSendingOpensWhatItLeadsTo(t *testing.T) {
	for scene, want := range map[string]string{"a": "bc", "c": "d", "b": "", "e": "", "none": ""} {
		var got string
		for _, s := range stepwise().AfterSending(scene) {
			got += s.ID
		}
		if got != want {
			t.Errorf("after %s: %q, want %q", scene, got, want)
		}
	}
}

// What only a newer Gobbet or a mistake could have written is refused, so that
// no document says of itself that it is withheld.
func TestADocumentCannotWithhold(t *testing.T) {
	doc := document(t)
	put(doc, true, "split", "variants", 0, "design", "scenes", 0, "withheld")
	raw, _ := json.Marshal(doc)
	if _, err := Parse(raw); err == nil || !strings.Contains(err.Error(), "withheld") {
		t.Error(err)
	}
}

// Markup is cleaned as phones have it too, and read by a parser: what hides in
// escapes is found.
func TestMarkupOfPhonesIsCleanedToo(t *testing.T) {
	block := func(html, phone string) string {
		doc := document(t)
		put(doc, map[string]any{"kind": "html", "id": "h", "html": html, "phone": map[string]any{"html": phone}}, "split", "variants", 0, "design", "scenes", 0, "blocks", 0)
		raw, _ := json.Marshal(doc)
		p, err := Parse(raw)
		if err != nil {
			t.Fatal(err)
		}
		out, _ := json.Marshal(p.Split.Variants[0].Design.Scenes[0].Blocks[0])
		return string(out)
	}
	for _, bad := range []string{
		`<img src=x onerror=alert(1)>`, `<script>alert(1)</script>`, `<a href="javascript:alert(1)">x</a>`, `<p style="pos\69tion:fixed;inset:0">x</p>`,
		`<p style="background-color:u\72l(//evil.test/x)">x</p>`, `<p style="color:expression(alert(1))">x</p>`, `<p style="p\000069osition:fixed">x</p>`,
	} {
		got := block("<b>fine</b>"+bad, "<i>fine</i>"+bad)
		for _, left := range []string{"onerror", "script", "javascript", "fixed", "evil.test", "expression", `\\69`, `\\72`} {
			if strings.Contains(got, left) {
				t.Errorf("%s leaves %s in %s", bad, left, got)
			}
		}
		if !strings.Contains(got, `fine`) {
			t.Error("what is fine is gone:", got)
		}
	}
	doc := document(t)
	put(doc, map[string]any{"kind": "html", "id": "h", "html": "", "phone": map[string]any{"html": strings.Repeat("x", 50_000)}}, "split", "variants", 0, "design", "scenes", 0, "blocks", 0)
	raw, _ := json.Marshal(doc)
	if _, err := Parse(raw); err == nil || !strings.Contains(err.Error(), "phone.html") {
		t.Error("a phone's markup has no bound:", err)
	}
}

func TestAnAddressWithoutASchemeStaysOnTheSite(t *testing.T) {
	for address, fine := range map[string]bool{"/basket": true, "//evil.test/x": false, "///evil.test": false, `/\evil.test`: false, "https://a.test//x": true} {
		if wrong := badAddress(address); (wrong == "") != fine {
			t.Errorf("%s: %q", address, wrong)
		}
	}
}
