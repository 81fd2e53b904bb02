package fault

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"
)

func TestPlacesJoin(t *testing.T) {
	var inner, outer Faults
	inner.Add("blocks[0].label", "needs %s", "words")
	inner.Add("", "is empty")
	inner.Add("[2]", "is used twice")
	outer.Within("scenes[1]", inner)
	outer.Within("name", errors.New("of another kind"))
	outer.Within("never", nil)
	if got, want := outer.Error(), "scenes[1].blocks[0].label: needs words; scenes[1]: is empty; scenes[1][2]: is used twice; name: of another kind"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	if Faults(nil).Err() != nil || len(Of(Fault{At: "a", Message: "b"})) != 1 || Of(nil) != nil {
		t.Error("nothing wrong is something")
	}
}

func TestJSONErrorsInPlainWords(t *testing.T) {
	for input, want := range map[string]string{
		`{"n":"x"}`:     "n: is a text, but should be a whole number in range",
		`{"s":[]}`:      "s: is a list, but should be a text",
		`{"o":{"b":1}}`: "o.b: is a number, but should be true or false",
		`[]`:            "is a list, but should be an object",
	} {
		var into struct {
			N int    `json:"n"`
			S string `json:"s"`
			O struct {
				B bool `json:"b"`
			} `json:"o"`
		}
		if got := JSON(json.Unmarshal([]byte(input), &into)).Error(); got != want {
			t.Errorf("%s: %s, want %s", input, got, want)
		}
	}
}

type inner struct {
	Bold bool   `json:"bold"`
	Own  ownOne `json:"own"`
}

// ownOne reads itself: a text, or a list of numbers.
type ownOne []int

func (o *ownOne) UnmarshalJSON(data []byte) error {
	if data[0] == '"' {
		return nil
	}
	return Strictly(data, (*[]int)(o))
}

type Embedded struct {
	Deep *int8 `json:"deep"`
}

type outer struct {
	Embedded
	Name string            `json:"name"`
	Runs []inner           `json:"runs"`
	Any  any               `json:"any"`
	Raw  json.RawMessage   `json:"raw"`
	Map  map[string]uint   `json:"map"`
	Pair [2]string         `json:"pair"`
	Skip string            `json:"-"`
	Time map[string]*inner `json:"time"`
}

func TestEveryFaultIsFoundAtItsPlace(t *testing.T) {
	for _, c := range []struct{ input, strictly, loosely string }{
		{`{}`, "", ""},
		{`{"name":"x","runs":[{"bold":true}],"any":[{}],"raw":{"x":[]},"map":{"a":1},"pair":["a","b"],"deep":5,"time":{"now":null}}`, "", ""},
		{`{"NAME":"as encoding/json has it"}`, "", ""},
		{`{"name":null,"runs":null,"map":null,"deep":null}`, "", ""},
		{`{"runs":[{},{"bold":"x"},{"bold":7}]}`, "runs[1].bold: is a text, but should be true or false; runs[2].bold: is a number, but should be true or false", "same"},
		{`{"runs":[{"own":[1,"x"]},{"own":"fine"}]}`, "runs[0].own[1]: is a text, but should be a whole number in range", "same"},
		{`{"runs":{"a":1}}`, "runs: is an object, but should be a list", "same"},
		{`{"map":{"a":-1,"b":2,"c":1.5}}`, "map.a: is a number, but should be a whole number in range; map.c: is a number, but should be a whole number in range", "same"},
		{`{"deep":300,"name":[]}`, "deep: is a number, but should be a whole number in range; name: is a list, but should be a text", "same"},
		{`{"time":{"then":{"bold":[]}}}`, "time.then.bold: is a list, but should be true or false", "same"},
		{`{"nmae":"x","runs":[{"blod":true}]}`, "nmae: is not a key known here; runs[0].blod: is not a key known here", ""},
		{`{"Skip":"x"}`, "Skip: is not a key known here", ""},
		{`[]`, "is a list, but should be an object", "same"},
		{`{"name":`, "is not JSON: unexpected end of JSON input (at character 8)", "same"},
		{``, "is not JSON: unexpected end of JSON input (at character 0)", "same"},
	} {
		say := func(err error) string {
			if err == nil {
				return ""
			}
			return err.Error()
		}
		if c.loosely == "same" {
			c.loosely = c.strictly
		}
		if got := say(Strictly([]byte(c.input), new(outer))); got != c.strictly {
			t.Errorf("strictly %s:\n got %s\nwant %s", c.input, got, c.strictly)
		}
		if got := say(Loosely([]byte(c.input), new(outer))); got != c.loosely {
			t.Errorf("loosely %s:\n got %s\nwant %s", c.input, got, c.loosely)
		}
	}
}

// repeats reports whether an object may name a key twice: what encoding/json
// makes of that depends on what it had read before.
func repeats(data []byte) bool {
	n, err := Read(data)
	var within func(n *Node) bool
	within = func(n *Node) bool {
		seen := map[string]bool{}
		for i := range n.held {
			key := strings.ToLower(n.held[i].key)
			if n.kind == isObject && seen[key] || within(&n.held[i]) {
				return true
			}
			seen[key] = true
		}
		return false
	}
	return err == nil && within(n)
}

// What encoding/json takes is taken, and what it refuses is refused.
func FuzzDecode(f *testing.F) {
	for _, seed := range []string{`{"runs":[{"own":[1]}]}`, `{"pair":[1,2,3]}`, `{"deep":1e3}`, `{"time":{"":{}}}`, `{"map":{"a":1e-1}}`, `{"raw":[}`, `{"name":"\ud800"}`, `{"any":[{"a":1e9,"b":null}],"raw":  {"x": [1, "\\\""]}}`, `{"any":1e999}`, `{"name":"a\\\\"}`, `{"nAme":"0"}`} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		theirs, ours := new(outer), new(outer)
		want := json.Unmarshal(data, theirs)
		got := decode(data, ours, false)
		if want == nil && got == nil && !repeats(data) {
			a, _ := json.Marshal(theirs)
			b, _ := json.Marshal(ours)
			if string(a) != string(b) {
				t.Errorf("%q is read as %s, but encoding/json reads %s", data, b, a)
			}
		}
		if (want == nil) != (got == nil) {
			t.Errorf("%q: %v, but encoding/json says %v", data, got, want)
		}
		for _, fault := range Of(got) {
			if fault.Message == "" {
				t.Errorf("%q: a fault without words", data)
			}
		}
		// What is read the faster way is read the same.
		quick := new(outer)
		if err := Loosely(data, quick); (err == nil) != (got == nil) {
			t.Errorf("%q: %v loosely, but %v", data, err, got)
		} else if err == nil && !repeats(data) {
			a, _ := json.Marshal(quick)
			b, _ := json.Marshal(ours)
			if string(a) != string(b) {
				t.Errorf("%q is read loosely as %s, but as %s", data, a, b)
			}
		}
	})
}
