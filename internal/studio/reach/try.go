package reach

import (
	"fmt"
	"maps"
	"net/url"
	"strings"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
	"gobbet/internal/token"
	"gobbet/internal/visits"
)

const monthDays = 30

// trial is one visitor and what is asked of them.
type trial struct {
	readReach
	id    string
	facts map[string]any
	stay  rehearse.View
	now   time.Time // on the site's wall clock
}

// visit is the visitor as the rule sees them, before any moment.
func (t trial) visit() *reach.Visit {
	v := &reach.Visit{HasMemory: true}
	v.SetClock(t.now)
	for name, is := range t.facts {
		v.Set(name, is)
	}
	return v
}

// comesAt is the second of the stay at which a rule comes true.
func (t trial) comesAt(p *reach.Program) (int, bool) {
	v := t.stay
	v.At, v.Visitor, v.Visit = t.now, "tried", "tried"
	v.Facts = maps.Clone(t.facts)
	v.Facts["clock.date"], v.Facts["clock.time"] = t.now.Format(time.DateOnly), t.now.Hour()*60+t.now.Minute()
	v.Facts["clock.weekday"] = strings.ToLower(t.now.Weekday().String()[:3])
	return rehearse.FirstSecond(p, v)
}

func (s *Place) try(c *route.Call, req TryRequest) (answer TryAnswer, err error) {
	w, err := s.readDraft(c, req.ReachDraft)
	if err != nil {
		return answer, err
	}
	site := c.Site
	t := trial{readReach: w, id: req.Piece, facts: maps.Clone(req.Facts), now: s.now().In(site.Location())}
	if t.facts == nil {
		t.facts = map[string]any{}
	}
	if now, err := time.Parse(time.RFC3339, req.Now); err == nil {
		t.now = now.In(site.Location())
	} else if now, err := time.ParseInLocation("2006-01-02T15:04", req.Now, site.Location()); err == nil {
		t.now = now
	}
	answer = TryAnswer{Phrase: w.program.Phrase()}
	if req.Stay != nil {
		t.stay = req.Stay.view()
	} else {
		answer.Typical = true
		if err := s.readLog(c, func(l *visits.Log) error {
			since := s.now().AddDate(0, 0, -rehearsedDays)
			t.stay = typicalStay(l, t, since)
			addPageFacts(l, t.facts, since)
			return nil
		}); err != nil {
			return answer, err
		}
	}
	v := t.visit()
	answer.Verdict, answer.Waiting, answer.Lines = w.program.Judge(v), w.program.Waiting(v), w.program.Lines(v)
	if answer.Waiting != nil {
		rest, err := reach.Compile(answer.Waiting)
		if err != nil {
			return answer, err
		}
		answer.Needs = rest.Phrase()
	}
	answer.Stay = stayOf(t.stay)
	second, comes := t.comesAt(w.program)
	m := req.memory(t.now)
	standing := w.live(req.Piece).Stand(v, m, choose.Clock{Now: t.now, Theirs: t.now}, site.Settings.Limits)
	answer.Held = standing.Say(t.now, func(string) string { return "" })
	won := ""
	if comes && answer.Held == "" {
		if answer.Slot, won, err = s.slot(c, t, second); err != nil {
			return answer, err
		}
	}
	if comes {
		answer.At = &second
	}
	answer.Shows = comes && answer.Held == "" && won == ""
	answer.Say = say(answer, won, t.stay.Seconds)
	answer.Month, answer.MonthSay = t.month(m, max(1, min(req.Every, monthDays)), site)
	return answer, nil
}

// typicalStay is a stay in the middle of those on the tried page, or, where
// it was never visited, of those on the whole site.
func typicalStay(l *visits.Log, t trial, since time.Time) rehearse.View {
	for _, rule := range []reach.Rule{
		reach.All{reach.Clause{Fact: "page.path", Op: reach.Is, Value: fmt.Sprint(t.facts["page.path"])}, reach.Clause{Fact: "device.kind", Op: reach.Is, Value: fmt.Sprint(t.facts["device.kind"])}},
		reach.Clause{Fact: "page.path", Op: reach.Is, Value: fmt.Sprint(t.facts["page.path"])},
		reach.All{},
	} {
		if p, err := reach.Compile(rule); err == nil {
			if v, ok := l.Typical(p, since); ok {
				return v
			}
		}
	}
	return rehearse.View{ExitAt: rehearse.Never}
}

// addPageFacts fills in what recorded visits say of the tried page itself.
func addPageFacts(l *visits.Log, facts map[string]any, since time.Time) {
	path, _ := facts["page.path"].(string)
	for _, t := range l.Values("page.path", since) {
		if t.Value != reach.NormalPath(path) {
			continue
		}
		recorded := l.View(t.Row).Facts
		for _, name := range []string{"page.kind", "page.title"} {
			if _, given := facts[name]; !given && recorded[name] != nil {
				facts[name] = recorded[name]
			}
		}
	}
}

// live is the reach as if it were live, with a design that does not matter here.
func (w readReach) live(id string) *choose.Live {
	return &choose.Live{ID: id, Piece: &piece.Piece{Format: w.format, Program: w.program, Caps: w.caps, Limits: w.caps.Ready(), Schedule: w.schedule}}
}

// memory is what the visitor's browser would remember of the piece.
func (r *TryRequest) memory(now time.Time) *choose.Memory {
	ago := func(days *float64) int64 {
		if days == nil {
			return 0
		}
		return now.Add(-time.Duration(*days * float64(caps.Day))).Unix()
	}
	k := choose.Known{Closed: ago(r.ClosedDays), Converted: ago(r.ConvertedDays)}
	if shown := ago(r.ShownDays); shown > 0 {
		k.Shown, k.TimesShown = []int64{shown}, 1
	}
	lead, _ := r.Facts["visitor.lead"].(bool)
	return &choose.Memory{Visitor: "tried", Lead: lead, Shown: 0, Pieces: map[string]choose.Known{r.Piece: k}}
}

// slot says who else would be on the page in the same place, and who wins it:
// won names a piece that keeps this one back.
func (s *Place) slot(c *route.Call, t trial, second int) (said, won string, err error) {
	err = s.readLog(c, func(l *visits.Log) error {
		rivals, before, names, err := s.Rivals(c, l, t.id)
		if err != nil {
			return err
		}
		for i, r := range rivals {
			at, comes := t.comesAt(r.Program())
			if r.Slot() != t.slot || t.slot == "" || !comes {
				continue
			}
			name := "“" + names[r.ID] + "”"
			if at < second || at == second && i < before {
				said, won = fmt.Sprintf("%s comes at %s and is shown instead.", name, minutes(at)), names[r.ID]
				return nil
			}
			said = fmt.Sprintf("The place is free; %s would come at %s and yields.", name, minutes(at))
		}
		if said == "" {
			said = "Its place on the page is free."
		}
		return nil
	})
	return said, won, err
}

// minutes writes seconds as a clock does.
func minutes(seconds int) string { return fmt.Sprintf("%d:%02d", seconds/60, seconds%60) }

// say puts the verdict into a sentence.
func say(a TryAnswer, won string, stay int) string {
	switch {
	case a.Verdict == reach.No:
		return "Does not show on this page view. " + wants(a.Lines)
	case a.Held != "":
		return "Held back. " + a.Held
	case won != "":
		return "Shown instead: “" + won + "”."
	case a.Verdict == reach.Yes:
		return "Shows on arrival."
	case a.At == nil && a.Typical:
		return fmt.Sprintf("Waits until %s. A typical stay here, %s, ends before.", a.Needs, minutes(stay))
	case a.At == nil:
		return fmt.Sprintf("Waits until %s. The visitor left before, after %s.", a.Needs, minutes(stay))
	}
	return fmt.Sprintf("Waits. Shows at %s, when %s.", minutes(*a.At), cause(a))
}

// wants says which condition of a rule fails: of an alternative, what there is
// to choose from.
func wants(lines []reach.Line) string {
	for i, line := range lines {
		switch {
		case line.Depth > 0 || line.Verdict != reach.No:
		case line.Group:
			var choices []string
			for _, inner := range lines[i+1:] {
				if inner.Depth == 0 {
					break
				}
				if !inner.Group && inner.Verdict == reach.No {
					choices = append(choices, inner.Phrase)
				}
			}
			return fmt.Sprintf("Too few of these are met: %s.", strings.Join(choices, "; "))
		case line.Actual == nil:
			return fmt.Sprintf("Condition: %s; not known.", line.Phrase)
		case line.Actual == true || line.Actual == false:
			// A flag's phrase may say it either way round.
			return fmt.Sprintf("Condition: %s; it is not.", line.Phrase)
		default:
			return fmt.Sprintf("Condition: %s; it is %v.", line.Phrase, line.Actual)
		}
	}
	return ""
}

// cause is which of what it waits for came at the second it shows.
func cause(a TryAnswer) string {
	for _, line := range a.Lines {
		if line.Waiting == nil || line.Group {
			continue
		}
		if p, err := reach.Compile(line.Waiting); err == nil {
			if at, ok := rehearse.FirstSecond(p, a.Stay.view()); ok && at == *a.At {
				return line.Phrase
			}
		}
	}
	return a.Needs
}

// month plays the days ahead: a visit every so many days at this hour, on this
// page, staying alike, and closing the piece each time it shows.
func (t trial) month(m *choose.Memory, every int, site sites.Site) ([]MonthDay, string) {
	days := make([]MonthDay, monthDays)
	visits := 1.0
	if n, ok := t.facts["visitor.visits"].(float64); ok {
		visits = n
	}
	pages, _ := t.facts["visitor.pages"].(float64)
	k := m.Pieces[t.id]
	live := t.live(t.id)
	var shown []string
	held := ""
	for day := 0; day < monthDays; day += every {
		now := t
		now.now = t.now.AddDate(0, 0, day)
		now.facts = maps.Clone(t.facts)
		if day > 0 {
			visits++
			pages += 3
			now.facts["visitor.visits"], now.facts["visitor.pages"], now.facts["visitor.new"], now.facts["visitor.days_since_last"] = visits, pages, false, every
		}
		now.facts["history.shown."+t.id], now.facts["history.closed."+t.id] = len(k.Shown), k.TimesClosed
		days[day].Visit = true
		remembered := &choose.Memory{Visitor: "tried", Lead: m.Lead, Pieces: map[string]choose.Known{t.id: k}}
		standing := live.Stand(now.visit(), remembered, choose.Clock{Now: now.now, Theirs: now.now}, site.Settings.Limits)
		if days[day].Held = standing.Say(now.now, func(string) string { return "" }); standing.Held != "" {
			if held == "" && days[day].Held != "" && len(shown) > 0 {
				held = days[day].Held
			}
			continue
		}
		second, comes := now.comesAt(t.program)
		if !comes {
			continue
		}
		days[day].Shows = true
		shown = append(shown, fmt.Sprint(day+1))
		at := now.now.Add(time.Duration(second) * time.Second).Unix()
		k.Shown = append(k.Shown[:len(k.Shown):len(k.Shown)], at)
		k.Closed, k.TimesShown, k.TimesClosed = at, k.TimesShown+1, k.TimesClosed+1
	}
	switch len(shown) {
	case 0:
		return days, "Does not show in these 30 days."
	case 1:
		return days, "Shows on day " + shown[0] + " alone."
	}
	return days, fmt.Sprintf("Shows on days %s and %s, closed each time.", strings.Join(shown[:len(shown)-1], ", "), shown[len(shown)-1])
}

const passFor = 12 * time.Hour

// inspectLink makes a link that opens a page of the site with the inspector on.
func (s *Place) inspectLink(c *route.Call, req InspectLinkRequest) (answer InspectLink, err error) {
	site := c.Site
	if _, err := s.store.Pieces.Get(c, site.ID, c.Param("piece")); err != nil {
		return answer, err
	}
	page, err := url.Parse(req.Path)
	if err != nil || page.Scheme != "" || page.Host != "" || !strings.HasPrefix(req.Path, "/") || len(req.Path) > 2000 {
		return answer, fault.Fault{At: "path", Message: "should be a page of the site, such as /shop"}
	}
	if len(site.Origins) == 0 {
		return answer, fault.Fault{At: "path", Message: "needs a domain: name one on Site first"}
	}
	until := s.now().Add(passFor)
	page.Fragment = "gobbet=" + token.InspectPass(site.Secret, c.Param("piece"), until)
	return InspectLink{URL: site.Origins[0] + page.String(), Until: until}, nil
}
