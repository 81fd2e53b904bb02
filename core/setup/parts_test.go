package setup

import (
	"reflect"
	"testing"

	"gobbet/core/words"
)

func full() Settings {
	s := Default()
	two := 2
	s.Limits.Overlays = two
	s.Exit, s.Record, s.KeepMonths, s.DataLayer = Eager, 40, 7, "dataLayer"
	s.Channels = map[string][]string{"search": {"find.example.com"}}
	s.Goals = []Goal{{ID: "order", Name: "Order", Kind: "page", About: "/thanks", Days: 14}}
	s.Currency, s.Team = "EUR", []string{"203.0.113.7"}
	s.Data = map[string]string{"basket_total": "Basket total"}
	s.Language, s.Words = "de", map[string]words.Table{"de": {"close": "Zu"}}
	return s
}

func TestEveryFieldIsInOnePart(t *testing.T) {
	all := full()
	var together Settings
	for _, p := range Parts {
		changed := 0
		one := Settings{}.With(p, all)
		for _, q := range Parts {
			if one.Version(q) != (Settings{}).Version(q) {
				changed++
			}
		}
		if changed != 1 {
			t.Errorf("%s is in %d parts", p, changed)
		}
		together = together.With(p, all)
	}
	if !reflect.DeepEqual(together, all) {
		t.Errorf("the parts together are %+v, not %+v", together, all)
	}
	v := reflect.ValueOf(all)
	for i := range v.NumField() {
		if v.Field(i).IsZero() {
			t.Errorf("%s is not looked at here", v.Type().Field(i).Name)
		}
	}
}

func TestAVersionIsToldByItsContent(t *testing.T) {
	a, b := full(), full()
	b.Record = 41
	for _, p := range Parts {
		if got, want := a.Version(p) == b.Version(p), p != PartRecording; got != want {
			t.Errorf("%s: the same %v, should be %v", p, got, want)
		}
	}
	if b = b.With(PartRecording, a); a.Version(PartRecording) != b.Version(PartRecording) {
		t.Error("what was put back is another version")
	}
	if Part("colour").Known() || !PartTeam.Known() {
		t.Error("which parts there are")
	}
}
