package answer

import (
	"math"
	"reflect"
	"strings"
	"testing"

	"gobbet/core/fault"
	"gobbet/core/piece"
)

// sceneOf reads blocks, written as JSON, as a scene of their own.
func sceneOf(blocks string) (piece.Scene, error) {
	return piece.ReadScene([]byte(`{"id":"ask","name":"Ask","kind":"form","blocks":[` + blocks + `]}`))
}

func TestAnswersOfEveryKind(t *testing.T) {
	field := func(rest string) Form {
		s, err := sceneOf(`{"kind":"field","id":"f","key":"k","label":"L",` + rest + `}`)
		if err != nil {
			t.Fatal(rest, err)
		}
		return FormOf(s)
	}
	for _, c := range []struct{ field, good, bad string }{
		{`"ask":"phone","required":true`, "+353 1 234 567", "call me"},
		{`"ask":"number","required":true,"least":"2","most":"9.5"`, "9.5", "1"},
		{`"ask":"number","required":true`, "-3", "NaN"},
		{`"ask":"number","required":true`, "1e3", "Inf"},
		{`"ask":"date","required":true,"least":"2026-01-01","most":"2026-12-31"`, "2026-06-30", "2027-01-01"},
		{`"ask":"date","required":true`, "2028-02-29", "2027-02-29"},
		{`"ask":"choice","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B"}]`, "b", "B"},
		{`"ask":"dropdown","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B"}]`, "a", "a\nb"},
		{`"ask":"choices","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B"},{"id":"c","label":"C"}],"most":"2"`, "a\nc", "a\nb\nc"},
		{`"ask":"choices","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B"}]`, "b", "a\na"},
		{`"ask":"slider","required":true,"least":"0","most":"9","step":"0.5"`, "2.5", "9.5"},
		{`"ask":"order","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B"}]`, "b\na", "b"},
		{`"ask":"consent","required":true`, "yes", "no"},
		{`"ask":"stars","required":true`, "5", "0"},
		{`"ask":"scale","required":true`, "0", "11"},
		{`"ask":"text","required":true,"pattern":"[A-Z]{2}[0-9]+"`, "AB12", "xAB12x"},
		{`"ask":"text","required":true,"least":"3"`, "éèê", "éè"},
		{`"ask":"long","required":true`, strings.Repeat("x", 10_000), strings.Repeat("x", 10_001)},
		{`"ask":"hidden","required":false,"from":"path"`, "/shop", "\x01"},
	} {
		s := field(c.field)
		if _, err := s.Check(map[string]string{"k": c.good}); err != nil {
			t.Errorf("%s: %.30q refused: %v", c.field, c.good, err)
		}
		if _, err := s.Check(map[string]string{"k": c.bad}); err == nil {
			t.Errorf("%s: %.30q taken", c.field, c.bad)
		}
	}
	own := field(`"ask":"email","required":true,"message":"We need it to write to you."`)
	if _, err := own.Check(nil); err == nil || !strings.Contains(err.Error(), "We need it") {
		t.Error(err)
	}
	// What some devices do not show cannot be required of everyone.
	if _, err := field(`"ask":"email","required":true,"hide":"phone"`).Check(nil); err != nil {
		t.Error(err)
	}
	deep, err := sceneOf(`{"kind":"columns","id":"c","gap":0,"blocks":[{"kind":"field","id":"f","ask":"email","key":"email","label":"L","required":true}]}`)
	if err != nil {
		t.Fatal(err)
	}
	if got, err := FormOf(deep).Check(map[string]string{"email": "a@example.com"}); err != nil || FormOf(deep).Email(got) != "a@example.com" {
		t.Error(got, err)
	}
}

func TestAnswers(t *testing.T) {
	form := FormOf(piece.New("x", piece.Popup, "s").Split.Variants[0].Design.Scenes[0])
	for _, c := range []struct {
		given map[string]string
		at    string
	}{
		{map[string]string{"name": "Orla", "email": "orla@example.com"}, ""},
		{map[string]string{"email": "  orla@example.com "}, ""},
		{map[string]string{"name": "Orla"}, "email"},
		{map[string]string{"email": "  "}, "email"},
		{map[string]string{"email": "orla@"}, "email"},
		{map[string]string{"email": "a@example.com", "name": strings.Repeat("x", 2001)}, "name"},
		{map[string]string{"email": "a@example.com", "name": "a\x00b"}, "name"},
		{map[string]string{"email": "a@example.com", "name": "\xff"}, "name"},
		{map[string]string{"email": "a@example.com", "plan": "gold"}, "all"},
	} {
		got, err := form.Check(c.given)
		faults := fault.Of(err)
		if c.at == "" && (err != nil || form.Email(got) != "orla@example.com") {
			t.Errorf("%v: %v %v", c.given, got, err)
		}
		if c.at != "" && (len(faults) != 1 || faults[0].At != strings.TrimSuffix(c.at, "all")) {
			t.Errorf("%.60v: %v, want a fault at %s", c.given, faults, c.at)
		}
	}
}

func TestAnswersInJSONAreTakenAsTheyAreKept(t *testing.T) {
	for _, c := range []struct {
		given any
		want  string
		ok    bool
	}{
		{"ash", "ash", true}, {3.0, "3", true}, {0.1, "0.1", true}, {1e21, "1000000000000000000000", true}, {true, "yes", true}, {false, "", true}, {nil, "", true},
		{[]any{"a", "b"}, "a\nb", true}, {[]any{}, "", true}, {[]any{"a", 1.0}, "", false}, {[]any{"a\nb"}, "", false}, {map[string]any{}, "", false}, {math.NaN(), "NaN", false},
	} {
		if got, ok := Text(c.given); got != c.want || ok != c.ok {
			t.Errorf("%v: %q, %v", c.given, got, ok)
		}
	}
}

func TestPeopleReadLabels(t *testing.T) {
	s, err := sceneOf(`{"kind":"field","id":"f","ask":"choices","key":"k","label":"L","required":false,"choices":[{"id":"a","label":"Ash, grey"},{"id":"b","label":"Celadon"}]},{"kind":"field","id":"n","ask":"number","key":"n","label":"N","required":false}`)
	if err != nil {
		t.Fatal(err)
	}
	if got := FormOf(s).Said(Answers{"k": "b\na", "n": "3", "other": "x"}); !reflect.DeepEqual(got, map[string]string{"k": "Celadon\nAsh, grey", "n": "3"}) {
		t.Error(got)
	}
}
