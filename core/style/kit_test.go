package style

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"gobbet/core/fault"
)

func TestKitsAreReadAndGiveColours(t *testing.T) {
	kit := UsualKit()
	raw, _ := json.Marshal(kit)
	again, err := ReadKit(raw)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ color, otherwise, want Color }{
		{"#123456", "", "#123456"}, {"@accent", "", kit.Colors[2].Value}, {"@gone", "@ink", kit.Colors[1].Value}, {"@gone", "", ""}, {"", "@soft", kit.Colors[4].Value}, {"@page", "@ink", kit.Colors[1].Value},
	} {
		if got := again.Color(c.color, c.otherwise); got != c.want {
			t.Errorf("%q or %q is %q", c.color, c.otherwise, got)
		}
	}
	for change, at := range map[string]string{
		`"id":"accent"`: "colors", `"value":"#1f4f4e"`: "colors[2].value", `"text":"instrument"`: "text", `"weight":650`: "button.weight", `"name":"Ink"`: "colors[1].name",
	} {
		to := map[string]string{"colors": `"id":"other"`, "colors[2].value": `"value":"@ink"`, "text": `"text":"@text"`, "button.weight": `"weight":9`, "colors[1].name": `"name":" "`}[at]
		_, err := ReadKit([]byte(strings.Replace(string(raw), change, to, 1)))
		if !slices.ContainsFunc(fault.Of(err), func(f fault.Fault) bool { return f.At == at }) {
			t.Errorf("%s: %v", to, err)
		}
	}
}
