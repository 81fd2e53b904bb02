package fault

import (
	"encoding/json"
	"errors"
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
	if Faults(nil).Err() != nil || len(Of(Fault{"a", "b"})) != 1 || Of(nil) != nil {
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
