package reach

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/core/schedule"
	"gobbet/core/settle"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
	"gobbet/internal/visits"
)

const rehearsedDays = 28

// readReach is a reach draft as it was read.
type readReach struct {
	// rule is the draft's own, and program what decides: with the moments that a
	// variant has of its own.
	rule     *reach.Program
	program  *reach.Program
	caps     caps.Caps
	schedule schedule.Schedule
	format   piece.Format
	slot     string
	// folded says that it begins as a tab.
	folded bool
}

// readDraft checks a reach draft. Its faults lie where they would in the document.
func (s *Place) readDraft(c *route.Call, d ReachDraft) (w readReach, err error) {
	book, err := s.store.Reaches.Book(c, c.Site.ID)
	if err != nil {
		return w, err
	}
	var faults fault.Faults
	w.format, w.slot, w.folded = d.Format, piece.Slot(d.Format, d.Place), d.Folded
	w.rule, err = reach.ReadWith(d.Rule, book)
	faults.Within("rule", err)
	w.program = w.rule
	if own := string(d.Moments); own != "" && own != "null" && w.rule != nil {
		moments, err := reach.Read(d.Moments)
		if err == nil {
			w.program, err = reach.CompileWith(reach.All{w.rule.Rule(), moments.Rule()}, book)
		}
		faults.Within("moments", err)
	}
	w.caps, err = caps.Parse(d.Caps)
	faults.Within("caps", err)
	w.schedule, err = schedule.Parse(d.Schedule)
	faults.Within("schedule", err)
	return w, faults.Err()
}

// ReachOf is the reach of a piece, with the ways of its first variant.
func ReachOf(p *piece.Piece) readReach {
	first := p.First()
	return readReach{p.Program, p.ProgramOf(first), p.Caps, p.Schedule, p.On(first, false), p.Slot(first, false), first.Design.Frame.Tab.Begins()}
}

// place is where a line of the program stands in the draft's own rule, if it does.
func (w readReach) place(at string) (string, bool) {
	if w.program == w.rule {
		return at, true
	}
	own, ok := strings.CutPrefix(at, "all[0]")
	return strings.TrimPrefix(own, "."), ok
}

// Draft is what package rehearse replays.
func (w readReach) Draft(site sites.Site) rehearse.Draft {
	return rehearse.Draft{Program: w.program, Caps: w.caps, Schedule: w.schedule, Zone: site.Location(), Slot: w.slot, Interruption: w.interruption()}
}

func (w readReach) interruption() caps.Interruption {
	return w.format.Interruption(w.folded, w.program.AskedFor())
}

// readLog lets do read the site's visit log, and says so where it is not ready.
func (s *Place) readLog(c *route.Call, do func(l *visits.Log) error) error {
	err := s.visits.Read(c, c.Site, do)
	if errors.Is(err, visits.ErrReading) && c.Err() != context.Canceled {
		return problem.New(http.StatusServiceUnavailable, "log-reading", "The recorded visits are still being read. A moment, please.")
	}
	return err
}

// Rivals readies the site's other live pieces, those that win first, and tells
// how many of them win over this one.
func (s *Place) Rivals(c *route.Call, l *visits.Log, id string) (rivals []*rehearse.Rival, before int, names map[string]string, err error) {
	site := c.Site
	names = map[string]string{}
	rows, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return nil, 0, nil, err
	}
	slices.SortStableFunc(rows, inOrder)
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return nil, 0, nil, err
	}
	for _, row := range rows {
		if row.ID == id {
			before = len(rivals)
		}
		if row.State != "live" || row.ID == id {
			continue
		}
		p, err := piece.ParseWith(row.Live, book)
		if err != nil {
			continue // the board says so
		}
		names[row.ID] = p.Name
		key := fmt.Sprint(row.ID, " ", *row.LiveVersion, " ", row.LiveSince.UnixNano(), " ", p.ProgramOf(p.First()).Phrase())
		rivals = append(rivals, l.Rival(key, row.ID, ReachOf(p).Draft(site)))
	}
	return rivals, before, names, nil
}

// inOrder compares pieces by who wins.
func inOrder(a, b pieces.Piece) int {
	return cmp.Or(cmp.Compare(a.Rank, b.Rank), a.CreatedAt.Compare(b.CreatedAt), cmp.Compare(a.ID, b.ID))
}

func (s *Place) rehearse(c *route.Call, req RehearseRequest) (answer Rehearsal, err error) {
	w, err := s.readDraft(c, req.ReachDraft)
	if err != nil {
		return answer, err
	}
	site := c.Site
	days := max(1, min(req.Days, int(visits.Kept/caps.Day)))
	if req.Days == 0 {
		days = rehearsedDays
	}
	since := s.now().Add(-time.Duration(days) * caps.Day)

	err = s.readLog(c, func(l *visits.Log) error {
		rivals, before, names, err := s.Rivals(c, l, req.Piece)
		if err != nil {
			return err
		}
		stop := func() bool { return c.Err() != nil }
		r, ok := l.Rehearse(rehearse.Question{Draft: w.Draft(site), Rivals: rivals, Before: before, Limits: site.Settings.Limits, Since: since, Stop: stop})
		if !ok {
			return c.Err()
		}
		stays, ok := l.Stays(w.program, since, stop)
		if !ok {
			return c.Err()
		}
		answer = Rehearsal{
			Days: days, PageViews: r.PageViews, Visitors: r.Visitors, Passed: r.Passed, Showings: r.Shown, VisitorsShown: r.VisitorsShown, TypicalWait: r.TypicalWait,
			Lines: []RehearsedLine{}, Held: r.Held, Lost: contests(rivals, r.Lost, names), Won: contests(rivals, r.Won, names), LostToSite: r.LostToSite, Quiet: quietOf(site, r, rivals, names),
			Unrecorded: unrecorded(w.rule), Unseen: unseen(w.rule, l), Sample: site.Settings.Record,
			Stays: Stays{PageViews: stays.PageViews, StayedFor: parts.OrNone(stays.StayedFor), IdledFor: parts.OrNone(stays.IdledFor), ScrolledTo: parts.OrNone(stays.ScrolledTo), Left: stays.Left},
		}
		if since, is := l.Partial(); is {
			answer.Since = &since
		}
		rivalNames := make([]string, len(rivals))
		for i, rival := range rivals {
			rivalNames[i] = names[rival.ID]
		}
		answer.Notes = []settle.Note{}
		// What the log cannot tell of is no ground for advice.
		if len(answer.Unrecorded)+len(answer.Unseen) == 0 {
			answer.Notes = settle.Rehearsed(w.format, r, rivalNames, minimum(site))
			answer.Notes = append(answer.Notes, s.drying(c, req.Piece, float64(r.VisitorsShown)/float64(days)*100/float64(max(1, site.Settings.Record)))...)
		}
		for _, line := range r.Lines {
			if at, ok := w.place(line.At); ok {
				answer.Lines = append(answer.Lines, RehearsedLine{at, line.Alone, line.Left})
			}
		}
		return nil
	})
	return answer, err
}

// minimum is the site's minimum time between pieces; 0: it sets none.
func minimum(site sites.Site) time.Duration {
	if site.Settings.Limits.Quiet == "" {
		return 0
	}
	length, _ := site.Settings.Limits.Quiet.Length()
	return length
}

// quietOf is what that time costs a piece.
func quietOf(site sites.Site, r rehearse.Result, rivals []*rehearse.Rival, names map[string]string) Quiet {
	return Quiet{Minimum: caps.SayLength(minimum(site)), Lost: r.LostToQuiet, Later: r.Rested, After: contests(rivals, r.QuietAfter, names)}
}

// drying says which of a piece's pools of codes run dry at so many visitors a
// day. It is advice: without the piece or the pools there is none.
func (s *Place) drying(c *route.Call, id string, visitorsADay float64) []settle.Note {
	site := c.Site
	row, err := s.store.Pieces.Get(c, site.ID, id)
	if err != nil || visitorsADay == 0 {
		return nil
	}
	p, err := s.read.Piece(c, row.Draft)
	if err != nil {
		return nil
	}
	pools, err := s.store.Codes.PoolsLeft(c, site.ID, settle.SoonDry(visitorsADay))
	if err != nil {
		return nil
	}
	left, names := map[string]int{}, map[string]string{}
	for _, pool := range pools {
		left[pool.ID], names[pool.ID] = pool.Left, pool.Name
	}
	return settle.Drying(p, visitorsADay, left, names)
}

// contests names the rivals that count, the most first.
func contests(rivals []*rehearse.Rival, views []int, names map[string]string) []Contest {
	list := []Contest{}
	for i, n := range views {
		if n > 0 {
			list = append(list, Contest{rivals[i].ID, names[rivals[i].ID], n})
		}
	}
	slices.SortStableFunc(list, func(a, b Contest) int { return b.Views - a.Views })
	return list
}

// unrecorded lists the places of clauses about what the log does not hold.
func unrecorded(p *reach.Program) []string {
	places := []string{}
	p.EachTest(func(at string, t *reach.Test) {
		if !t.Of.Recorded {
			places = append(places, at)
		}
	})
	return places
}

// unseen lists the places of clauses about happenings that were never recorded.
func unseen(p *reach.Program, l *visits.Log) []string {
	places := []string{}
	p.EachTest(func(at string, t *reach.Test) {
		about, some := t.Value.(string)
		if t.Of.Kind == reach.Happening && some && !l.Saw(strings.TrimPrefix(t.Of.Name, "moment."), about) {
			places = append(places, at)
		}
	})
	return places
}

func (s *Place) order(c *route.Call, _ route.None) (answer Order, err error) {
	site := c.Site
	answer = Order{Days: rehearsedDays, Version: site.OrderVersion, Pieces: []Ordered{}}
	err = s.readLog(c, func(l *visits.Log) error {
		rivals, _, names, err := s.Rivals(c, l, "")
		if err != nil {
			return err
		}
		since := s.now().AddDate(0, 0, -rehearsedDays)
		found, ok := l.Contests(rivals, site.Settings.Limits, since, func() bool { return c.Err() != nil })
		if !ok {
			return c.Err()
		}
		for i, r := range rivals {
			one := Ordered{ID: r.ID, Name: names[r.ID], Slot: r.Slot(), Lost: contests(rivals, found.Lost[i], names)}
			one.Shown = found.Shown[i]
			answer.Pieces = append(answer.Pieces, one)
		}
		answer.Views = l.Since(since)
		return nil
	})
	return answer, err
}

func (s *Place) setOrder(c *route.Call, req OrderChange) (answer Order, err error) {
	if len(req.Pieces) > 1000 {
		return answer, fault.Fault{At: "pieces", Message: "are more than 1000"}
	}
	site := c.Site
	if err := s.store.Pieces.Order(c, site.ID, int(req.Version), req.Pieces); err != nil {
		return answer, err
	}
	site.OrderVersion = int(req.Version) + 1
	c.Site = site
	return s.order(c, route.None{})
}

const mostValues = 60

// values lists recorded values of a fact, or those a clause passes, such as
// the pages that a pattern matches.
func (s *Place) values(c *route.Call, req ValuesRequest) (answer ValuesAnswer, err error) {
	var test *reach.Test
	if req.Clause != nil {
		program, err := reach.Compile(reach.Clause{Fact: req.Clause.Fact, Op: req.Clause.Op, Value: req.Clause.Value})
		if err != nil {
			return answer, err
		}
		test, req.Fact = program.Root().Test, req.Clause.Fact
	}
	answer = ValuesAnswer{Values: []RecordedValue{}}
	since := s.now().AddDate(0, 0, -rehearsedDays)
	err = s.readLog(c, func(l *visits.Log) error {
		for _, t := range tallies(l, req.Fact, since) {
			label := ""
			if req.Fact == "page.path" {
				label = s.title(c, l, t)
			}
			if test != nil {
				value, _ := reach.ValueOf(req.Fact, t.Value)
				if test.Judge(&value) != reach.Yes {
					continue
				}
			} else if !parts.Holds(fmt.Sprint(t.Value), req.Search) && !parts.Holds(label, req.Search) {
				continue
			}
			if req.Fact == "data." {
				label = kindOf(l, fmt.Sprint(req.Fact, t.Value), since)
			}
			answer.Matched++
			answer.Views += t.Views
			if len(answer.Values) < mostValues {
				answer.Values = append(answer.Values, RecordedValue{t.Value, label, t.Views})
			}
		}
		return nil
	})
	return answer, err
}

// tallies gives what the log says of a fact: its values, what happenings were
// about, or, for a family such as data., the names in it.
func tallies(l *visits.Log, fact string, since time.Time) []rehearse.Tally {
	if kind, ok := strings.CutPrefix(fact, "moment."); ok {
		return l.Happenings(kind)
	}
	if !strings.HasSuffix(fact, ".") {
		return l.Values(fact, since)
	}
	var names []rehearse.Tally
	for _, name := range l.Names(fact) {
		n := 0
		for _, t := range l.Values(name, since) {
			n += t.Views
		}
		if n > 0 {
			names = append(names, rehearse.Tally{Value: strings.TrimPrefix(name, fact), Views: n})
		}
	}
	return names
}

// kindOf tells of what kind a name of the site's data mostly is.
func kindOf(l *visits.Log, fact string, since time.Time) string {
	if found := l.Values(fact, since); len(found) > 0 {
		switch found[0].Value.(type) {
		case bool:
			return "flag"
		case float64:
			return "number"
		}
	}
	return "text"
}

// title is the real name of a page: its title, without the site's own name.
func (s *Place) title(c *route.Call, l *visits.Log, t rehearse.Tally) string {
	title, _ := l.View(t.Row).Facts["page.title"].(string)
	name := c.Site.Name
	for _, dash := range []string{" · ", " | ", " - ", " – ", " — "} {
		title = strings.TrimSuffix(title, dash+name)
	}
	return title
}

const sampled = 6

// of those it comes true on, and of those it does not

// visitors gives recorded visitors to try a rule on: the latest on whom it
// comes true, and the latest on whom it does not.
func (s *Place) visitors(c *route.Call, req VisitorsRequest) (answer []RecordedVisitor, err error) {
	w, err := s.readDraft(c, ReachDraft{Rule: req.Rule})
	if err != nil {
		return answer, err
	}
	list := []RecordedVisitor{}
	err = s.readLog(c, func(l *visits.Log) error {
		since := s.now().AddDate(0, 0, -rehearsedDays)
		for _, comes := range []bool{true, false} {
			var found []rehearse.View
			for _, row := range l.Sample(w.program, since, comes, 20*sampled) {
				found = append(found, l.View(row))
			}
			for _, v := range varied(found, sampled) {
				list = append(list, RecordedVisitor{At: v.At, Facts: v.Facts, Stay: stayOf(v), Comes: comes})
			}
		}
		return nil
	})
	if err != nil {
		return answer, err
	}
	return list, nil
}

// varied takes up to n of some page views, each kind of device in turn, and
// keeps their order: the latest few may all be alike, and show nothing new.
func varied(views []rehearse.View, n int) []rehearse.View {
	taken := map[any]int{}
	turn := make([]int, len(views)) // how many of its kind came before it
	for i, v := range views {
		kind := v.Facts["device.kind"]
		turn[i] = taken[kind]
		taken[kind]++
	}
	var some []rehearse.View
	for round := 0; len(some) < n && len(some) < len(views); round++ {
		for i, v := range views {
			if turn[i] == round && len(some) < n {
				some = append(some, v)
			}
		}
	}
	slices.SortStableFunc(some, func(a, b rehearse.View) int { return b.At.Compare(a.At) })
	return some
}

// stayOf puts a recorded stay as it crosses the wire, and view back.
func stayOf(v rehearse.View) Stay {
	m := v.Moments()
	return Stay{v.Seconds, parts.OrNone(m.Marks), m.Exit, parts.OrNone(m.Idles), parts.OrNone(m.Happened)}
}

func (s Stay) view() rehearse.View {
	v := rehearse.View{Seconds: s.Seconds}
	rehearse.Moments{Marks: s.Marks, Exit: s.Exit, Idles: s.Idles, Happened: s.Happened}.Tell(&v)
	return v
}
