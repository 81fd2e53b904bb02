package setup

import (
	"fmt"
	"testing"

	"gobbet/core/caps"
	"gobbet/core/fault"
)

func TestWhatANewSiteHasIsSound(t *testing.T) {
	s := Default()
	if err := s.Check(); err != nil || s.Record != 100 || s.Exit != Normal || s.KeepMonths != 25 || s.Limits != (caps.SiteLimits{}) {
		t.Errorf("%+v %v", s, err)
	}
}

func goal(change func(g *Goal)) []Goal {
	g := Goal{ID: "order", Name: "Order", Kind: "page", About: "/thanks", Days: 14}
	change(&g)
	return []Goal{g}
}

func TestEveryFaultHasItsPlace(t *testing.T) {
	for at, change := range map[string]func(s *Settings){
		"record":             func(s *Settings) { s.Record = 101 },
		"exit":               func(s *Settings) { s.Exit = "wild" },
		"limits.quiet":       func(s *Settings) { s.Limits.Quiet = "a while" },
		"channels.search[1]": func(s *Settings) { s.Channels = map[string][]string{"search": {"a.test", "https://b.test/x"}} },
		"channels.pigeon":    func(s *Settings) { s.Channels = map[string][]string{"pigeon": {"a.test"}} },
		"channels.email":     func(s *Settings) { s.Channels = map[string][]string{"email": make([]string, 201)} },
		"keep_months":        func(s *Settings) { s.KeepMonths = 121 },
		"currency":           func(s *Settings) { s.Currency = "EURO" },
		"data_layer":         func(s *Settings) { s.DataLayer = "window['x']" },
		"team[1]":            func(s *Settings) { s.Team = []string{"203.0.113.7", "203.0.113"} },
		"team":               func(s *Settings) { s.Team = make([]string, mostTeam+1) },
		"goals":              func(s *Settings) { s.Goals = make([]Goal, mostGoals+1) },
		"goals[0].id":        func(s *Settings) { s.Goals = goal(func(g *Goal) { g.ID = "An order" }) },
		"goals[1].id":        func(s *Settings) { s.Goals = append(goal(func(*Goal) {}), goal(func(*Goal) {})...) },
		"goals[0].name":      func(s *Settings) { s.Goals = goal(func(g *Goal) { g.Name = "  " }) },
		"goals[0].kind":      func(s *Settings) { s.Goals = goal(func(g *Goal) { g.Kind = "wish" }) },
		"goals[0].about":     func(s *Settings) { s.Goals = goal(func(g *Goal) { g.About = "thanks" }) },
		"goals[0].value":     func(s *Settings) { s.Goals = goal(func(g *Goal) { g.Value = "the total" }) },
		"goals[0].days":      func(s *Settings) { s.Goals = goal(func(g *Goal) { g.Days = mostDays + 1 }) },
	} {
		s := Default()
		change(&s)
		if err := s.Check(); err == nil || fault.Of(err)[0].At != at {
			t.Errorf("%s: %v", at, err)
		}
	}
}

func TestWhatIsWrittenManyWaysIsOne(t *testing.T) {
	s := Default()
	s.Channels = map[string][]string{"search": {" WWW.Find.example.com ", "seek.test"}}
	s.Currency, s.Team, s.KeepMonths = " eur", []string{" 203.0.113.0/24 ", "2001:db8::1"}, 0
	s.Goals = goal(func(g *Goal) { g.Name, g.Kind, g.About = " Order ", "event", " paid " })
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	if fmt.Sprint(s.Channels) != "map[search:[find.example.com seek.test]]" || s.Currency != "EUR" || s.Team[0] != "203.0.113.0/24" || s.KeepMonths != 25 ||
		s.Goals[0].Name != "Order" || s.Goals[0].About != "paid" || fmt.Sprint(s.GoalIDs()) != "[order]" {
		t.Errorf("%+v", s)
	}
}
