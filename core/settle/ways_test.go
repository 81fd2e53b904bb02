package settle

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"gobbet/core/piece"
)

// quiz is a question, a sign-up and two results, with what the test changes.
func quiz(t *testing.T, change func(d map[string]any)) []Note {
	t.Helper()
	p := piece.New("Quiz", piece.Popup, "s")
	raw, _ := json.Marshal(p)
	var doc map[string]any
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	design := doc["split"].(map[string]any)["variants"].([]any)[0].(map[string]any)["design"].(map[string]any)
	var scenes []any
	result := `{"id":%q,"name":%q,"kind":"result","blocks":[{"kind":"heading","id":"h","text":"You","size":24,"align":"start"},{"kind":"button","id":"x","words":"Close","press":{"do":"close"},"counts":false,"quiet":false}]}`
	if err := json.Unmarshal([]byte(`[
		{"id":"q1","name":"Question","kind":"question","blocks":[{"kind":"field","id":"f","ask":"choice","key":"glaze","label":"Which?","required":true,"advances":true,"choices":[{"id":"ash","label":"Ash","score":1},{"id":"shino","label":"Shino","score":2}]},{"kind":"field","id":"n","ask":"slider","key":"bags","label":"Bags","required":true,"least":"0","most":"9"}],"edges":[{"to":"gate"}]},
		{"id":"gate","name":"Sign-up","kind":"form","blocks":[{"kind":"field","id":"e","ask":"email","key":"email","label":"Email","required":true},{"kind":"button","id":"send","words":"Show me","press":{"do":"send"},"counts":true,"quiet":false}],"edges":[{"when":[{"of":"score","op":"gte","value":2}],"to":"much"},{"to":"little"}]},
		`+fmt.Sprintf(result, "much", "Much")+`,`+fmt.Sprintf(result, "little", "Little")+`]`), &scenes); err != nil {
		t.Fatal(err)
	}
	design["scenes"] = scenes
	change(design)
	raw, _ = json.Marshal(doc)
	read, err := piece.Parse(raw)
	if err != nil {
		t.Fatal(err)
	}
	return Notes(read, Around{})
}

func TestWhatComesOfGoingThrough(t *testing.T) {
	const at = "split.variants[0].design."
	scene := func(d map[string]any, i int) map[string]any { return d["scenes"].([]any)[i].(map[string]any) }
	edges := func(d map[string]any, i int, edges string) {
		var e any
		if err := json.Unmarshal([]byte(edges), &e); err != nil {
			t.Fatal(err)
		}
		scene(d, i)["edges"] = e
	}
	formula := func(d map[string]any, formula string, cases ...any) {
		d["formulas"] = []any{map[string]any{"name": "each", "formula": formula}}
		d["cases"] = cases
	}
	for name, c := range map[string]struct {
		change   func(d map[string]any)
		code, at string
		say      string
	}{
		"sound": {func(map[string]any) {}, "", "", ""},
		"a result by a score nobody has": {func(d map[string]any) {
			edges(d, 1, `[{"when":[{"of":"score","op":"gte","value":3}],"to":"much"},{"to":"little"}]`)
		}, "result_never", at + "scenes[2]", "“Much”"},
		"a gap between scores": {func(d map[string]any) {
			edges(d, 1, `[{"when":[{"of":"score","op":"gte","value":2}],"to":"much"},{"when":[{"of":"score","op":"lt","value":1}],"to":"little"}]`)
		}, "gap", at + "scenes[1]", "a score of 1"},
		"round in circles": {func(d map[string]any) {
			edges(d, 0, `[{"when":[{"of":"glaze","op":"is","value":"ash"}],"to":"q1"},{"when":[{"of":"glaze","op":"is","value":"shino"}],"to":"gate"},{"to":"q1"}]`)
			edges(d, 1, `[{"to":"q1"}]`)
		}, "endless", at + "scenes[0]", "in a circle"},
		"past the sign-up": {func(d map[string]any) {
			edges(d, 0, `[{"when":[{"of":"glaze","op":"is","value":"ash"}],"to":"little"},{"to":"gate"}]`)
			edges(d, 1, `[{"to":"much"}]`)
		}, "gate_skipped", at + "scenes[3]", "without leaving an address"},
		"a limit on the sign-up": {func(d map[string]any) { scene(d, 1)["limit"] = 30 }, "gate_limit", at + "scenes[1].limit", "time limit"},
		"divided by nothing":     {func(d map[string]any) { formula(d, "12 / bags") }, "no_value", at + "formulas[0].formula", "bags = 0: this divides by zero (at character 4)"},
		"a case that fails": {func(d map[string]any) {
			formula(d, "bags * 2", map[string]any{"name": "Three", "inputs": map[string]any{"bags": 3}, "wants": map[string]any{"each": 7}})
		}, "case_fails", at + "cases[0]", "each comes to 6, and 7 is expected"},
		"a case that holds": {func(d map[string]any) {
			formula(d, "bags * 2", map[string]any{"inputs": map[string]any{"bags": 3}, "wants": map[string]any{"each": 6}})
		}, "", "", ""},
	} {
		notes := quiz(t, c.change)
		i := slices.IndexFunc(notes, func(n Note) bool { return n.Code == c.code && n.At == c.at && strings.Contains(n.Say, c.say) })
		if c.code == "" && len(notes) != 0 || c.code != "" && i < 0 {
			t.Errorf("%s: %+v, want %s at %s saying %q", name, notes, c.code, c.at, c.say)
		}
	}
}
