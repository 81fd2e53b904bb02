package piece

import (
	"encoding/json"
	"strings"
	"testing"
)

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
