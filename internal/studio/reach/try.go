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
	"gobbet/core/trial"
	"gobbet/internal/route"
	"gobbet/internal/token"
	"gobbet/internal/visits"
)

func (s *Place) try(c *route.Call, req TryRequest) (answer TryAnswer, err error) {
	w, err := s.readDraft(c, req.ReachDraft)
	if err != nil {
		return answer, err
	}
	site := c.Site
	w.program = w.program.As(site.Settings.Data)
	t := trial.Visitor{Live: w.live(req.Piece), Facts: maps.Clone(req.Facts), Now: s.now().In(site.Location()), Limits: site.Settings.Limits}
	if t.Facts == nil {
		t.Facts = map[string]any{}
	}
	if now, err := time.Parse(time.RFC3339, req.Now); err == nil {
		t.Now = now.In(site.Location())
	} else if now, err := time.ParseInLocation("2006-01-02T15:04", req.Now, site.Location()); err == nil {
		t.Now = now
	}
	answer = TryAnswer{Phrase: w.program.Phrase()}
	if req.Stay != nil {
		t.Stay = req.Stay.view()
	} else {
		answer.Typical = true
		if err := s.readLog(c, func(l *visits.Log) error {
			since := s.now().AddDate(0, 0, -rehearsedDays)
			t.Stay = typicalStay(l, t, since)
			addPageFacts(l, t.Facts, since)
			return nil
		}); err != nil {
			return answer, err
		}
	}
	v := t.Visit()
	answer.Verdict, answer.Waiting, answer.Lines = w.program.Judge(v), w.program.Waiting(v), w.program.Lines(v)
	if answer.Waiting != nil {
		rest, err := reach.Compile(answer.Waiting)
		if err != nil {
			return answer, err
		}
		answer.Needs = rest.As(c.Site.Settings.Data).Phrase()
	}
	answer.Stay = stayOf(t.Stay)
	m := req.memory(t.Now)
	out := trial.Outcome{Verdict: answer.Verdict, Lines: answer.Lines, Needs: answer.Needs, Stay: t.Stay, Typical: answer.Typical}
	out.Held = t.Stand(m).Say(t.Now, func(string) string { return "" })
	if second, comes := t.ComesAt(w.program); comes {
		out.At = &second
		if out.Held == "" {
			if answer.Slot, err = s.among(c, t, w, &out); err != nil {
				return answer, err
			}
		}
	}
	answer.At, answer.Held, answer.Shows, answer.Say = out.At, out.Held, out.Shows(), out.Say()
	days, say := t.Month(m, req.Every)
	for _, d := range days {
		answer.Month = append(answer.Month, MonthDay{d.Visit, d.Shows, d.Held})
	}
	answer.MonthSay = say
	return answer, nil
}

// typicalStay is a stay in the middle of those on the tried page, or, where
// it was never visited, of those on the whole site.
func typicalStay(l *visits.Log, t trial.Visitor, since time.Time) rehearse.View {
	for _, rule := range []reach.Rule{
		reach.All{reach.Clause{Fact: "page.path", Op: reach.Is, Value: fmt.Sprint(t.Facts["page.path"])}, reach.Clause{Fact: "device.kind", Op: reach.Is, Value: fmt.Sprint(t.Facts["device.kind"])}},
		reach.Clause{Fact: "page.path", Op: reach.Is, Value: fmt.Sprint(t.Facts["page.path"])},
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

// among says who else would be on the page in the same place, and puts into the
// outcome what other pieces do to this one: one that wins its place, or after which
// the site's minimum time between pieces has it wait.
func (s *Place) among(c *route.Call, t trial.Visitor, w readReach, out *trial.Outcome) (said string, err error) {
	second, slot := *out.At, w.slot
	err = s.readLog(c, func(l *visits.Log) error {
		rivals, before, names, err := s.Rivals(c, l, t.Live.ID)
		if err != nil {
			return err
		}
		others := make([]trial.Rival, len(rivals))
		for i, r := range rivals {
			others[i] = trial.Rival{Name: names[r.ID], Draft: r.Draft()}
		}
		if at, after, held := t.Quiet(w.Draft(c.Site), others, before); held {
			says := fmt.Sprintf("Held back by the site's minimum of %s between pieces", caps.SayLength(minimum(c.Site)))
			if after != "" {
				says += fmt.Sprintf(", after “%s”", after)
			}
			out.Rested = says + "."
			if out.At = at; at == nil {
				out.Held = out.Rested
				return nil
			}
		}
		for i, r := range rivals {
			at, comes := t.ComesAt(r.Program())
			if r.Slot() != slot || slot == "" || !comes {
				continue
			}
			name := "“" + names[r.ID] + "”"
			if at < second || at == second && i < before {
				said, out.Won = fmt.Sprintf("%s comes at %s and is shown instead.", name, trial.Clock(at)), names[r.ID]
				return nil
			}
			said = fmt.Sprintf("The place is free; %s would come at %s and yields.", name, trial.Clock(at))
		}
		if said == "" {
			said = "Its place on the page is free."
		}
		return nil
	})
	return said, err
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
