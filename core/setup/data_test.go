package setup

import (
	"strings"
	"testing"

	"gobbet/core/fault"
)

func TestWhatTheSitesOwnDataIsCalled(t *testing.T) {
	many := map[string]string{}
	for i := range 201 {
		many["n"+strings.Repeat("x", i%40)+string(rune('a'+i%26))+strings.Repeat("y", i/26)] = "name"
	}
	for _, c := range []struct {
		name string
		data map[string]string
		says string
	}{
		{"names", map[string]string{"basket_total": "  Basket   total ", "member": "a member"}, ""},
		{"nothing given", map[string]string{"basket_total": " "}, ""},
		{"a name that no page can send", map[string]string{"basket total": "Basket"}, "is not the name"},
		{"too long", map[string]string{"a": strings.Repeat("ä", 61)}, "longer than 60"},
		{"as long as it may be", map[string]string{"a": strings.Repeat("ä", 60)}, ""},
		{"two of one name", map[string]string{"a": "Basket", "b": "basket"}, "is what a is called already"},
		{"too many", many, "more than 200"},
	} {
		s := Default()
		s.Data = c.data
		err := s.Check()
		if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("%s: %v", c.name, err)
		}
		if err == nil && c.name == "names" && s.Data["basket_total"] != "Basket total" {
			t.Errorf("%q is kept", s.Data)
		}
		if err == nil && c.name == "nothing given" && len(s.Data) != 0 {
			t.Errorf("an empty name is kept: %q", s.Data)
		}
	}
	s := Default()
	s.Data = map[string]string{"a": "Basket", "b": "basket"}
	if f, ok := s.Check().(fault.Faults); !ok || f[0].At != "data.b" {
		t.Errorf("%v", s.Check())
	}
}
