// Package trial tries one visitor on a reach: whether and when it comes true on
// their stay, what keeps it back, and what comes of it in the days ahead.
package trial

import (
	"fmt"
	"maps"
	"strings"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
)

// Visitor is one visitor on one page view, and the piece they are tried on.
type Visitor struct {
	Live   *choose.Live
	Facts  map[string]any
	Stay   rehearse.View
	Now    time.Time // on the site's wall clock
	Limits caps.SiteLimits
}

// Visit is the visitor as a rule sees them, before any moment.
func (t Visitor) Visit() *reach.Visit {
	v := &reach.Visit{HasMemory: true}
	v.SetClock(t.Now)
	for name, is := range t.Facts {
		v.Set(name, is)
	}
	return v
}

// ComesAt is the second of the stay at which a rule comes true.
func (t Visitor) ComesAt(p *reach.Program) (second int, comes bool) {
	return rehearse.FirstSecond(p, t.view())
}

// view is the visitor's page view as the log has those of others.
func (t Visitor) view() rehearse.View {
	v := t.Stay
	v.At, v.Visitor, v.Visit = t.Now, "tried", "tried"
	v.Facts = map[string]any{}
	maps.Copy(v.Facts, t.Facts)
	v.Facts["clock.date"], v.Facts["clock.time"] = t.Now.Format(time.DateOnly), t.Now.Hour()*60+t.Now.Minute()
	v.Facts["clock.weekday"] = strings.ToLower(t.Now.Weekday().String()[:3])
	return v
}

// Rival is another live piece, by its name.
type Rival struct {
	Name string
	rehearse.Draft
}

// Quiet is what the site's minimum time between pieces does to one that comes on
// the visitor's page view, among rivals of which the first before win over it: at
// which second it shows instead (nil: not at all), and after which piece, by its
// name. Not held where it shows when it comes.
func (t Visitor) Quiet(draft rehearse.Draft, rivals []Rival, before int) (at *int, after string, held bool) {
	log := &rehearse.Log{HasMemory: true}
	log.Add(t.view())
	log.Sort()
	q := rehearse.Question{Draft: draft, Before: before, Limits: t.Limits, Showings: true}
	for _, r := range rivals {
		q.Rivals = append(q.Rivals, log.Rival(r.Name, r.Draft))
	}
	r, _ := log.Rehearse(q)
	if r.LostToQuiet == 0 && r.Rested == 0 {
		return nil, "", false
	}
	for i, views := range r.QuietAfter {
		if views > 0 {
			after = rivals[i].Name
		}
	}
	if len(r.Showings) > 0 {
		at = &r.Showings[0].Wait
	}
	return at, after, true
}

// Stand is what keeps the piece back from a visitor who remembers it so.
func (t Visitor) Stand(m *choose.Memory) choose.Standing {
	return t.Live.Stand(t.Visit(), m, choose.Clock{Now: t.Now, Theirs: t.Now}, t.Limits)
}

// Outcome is what came of a trial.
type Outcome struct {
	Verdict reach.Verdict
	Lines   []reach.Line
	Needs   string // what it waits for
	// At is the second of the stay at which it shows; nil: it does not.
	At *int
	// Held says what caps or schedule keep back, and Won which piece is shown instead.
	// Rested says that the site's minimum time between pieces has it come later.
	Held, Won, Rested string
	Stay              rehearse.View
	// Typical says that the stay is one of many, and not the visitor's own.
	Typical bool
}

// Shows reports whether the piece shows on this page view.
func (o Outcome) Shows() bool { return o.At != nil && o.Held == "" && o.Won == "" }

// Clock writes seconds as a clock does.
func Clock(seconds int) string { return fmt.Sprintf("%d:%02d", seconds/60, seconds%60) }

// Say puts the outcome into a sentence.
func (o Outcome) Say() string {
	switch {
	case o.Verdict == reach.No:
		return "Does not show on this page view. " + wants(o.Lines)
	case o.Held != "" && o.Held == o.Rested:
		return o.Held
	case o.Held != "":
		return "Held back. " + o.Held
	case o.Won != "":
		return "Shown instead: “" + o.Won + "”."
	case o.Rested != "" && o.At != nil:
		return fmt.Sprintf("%s Shows at %s.", o.Rested, Clock(*o.At))
	case o.Verdict == reach.Yes:
		return "Shows on arrival."
	case o.At == nil && o.Typical:
		return fmt.Sprintf("Waits until %s. A typical stay here, %s, ends before.", o.Needs, Clock(o.Stay.Seconds))
	case o.At == nil:
		return fmt.Sprintf("Waits until %s. The visitor left before, after %s.", o.Needs, Clock(o.Stay.Seconds))
	}
	return fmt.Sprintf("Waits. Shows at %s, when %s.", Clock(*o.At), o.cause())
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
func (o Outcome) cause() string {
	for _, line := range o.Lines {
		if line.Waiting == nil || line.Group {
			continue
		}
		if p, err := reach.Compile(line.Waiting); err == nil {
			if at, ok := rehearse.FirstSecond(p, o.Stay); ok && at == *o.At {
				return line.Phrase
			}
		}
	}
	return o.Needs
}

// MonthDays is how many days ahead are played.
const MonthDays = 30

// Day is one of them.
type Day struct {
	Visit bool
	Shows bool
	Held  string
}

// Month plays the days ahead: a visit every so many days at this hour, on this
// page, staying alike, and closing the piece each time it shows.
func (t Visitor) Month(m *choose.Memory, every int) (days []Day, say string) {
	every = max(1, min(every, MonthDays))
	days = make([]Day, MonthDays)
	visits := 1.0
	if n, ok := t.Facts["visitor.visits"].(float64); ok {
		visits = n
	}
	pages, _ := t.Facts["visitor.pages"].(float64)
	k := m.Pieces[t.Live.ID]
	var shown []string
	for day := 0; day < MonthDays; day += every {
		now := t
		now.Now = t.Now.AddDate(0, 0, day)
		now.Facts = map[string]any{}
		maps.Copy(now.Facts, t.Facts)
		if day > 0 {
			visits++
			pages += 3
			now.Facts["visitor.visits"], now.Facts["visitor.pages"], now.Facts["visitor.new"], now.Facts["visitor.days_since_last"] = visits, pages, false, every
		}
		now.Facts["history.shown."+t.Live.ID], now.Facts["history.closed."+t.Live.ID] = len(k.Shown), k.TimesClosed
		days[day].Visit = true
		remembered := &choose.Memory{Visitor: "tried", Lead: m.Lead, Pieces: map[string]choose.Known{t.Live.ID: k}}
		standing := now.Stand(remembered)
		if days[day].Held = standing.Say(now.Now, func(string) string { return "" }); standing.Held != "" {
			continue
		}
		second, comes := now.ComesAt(t.Live.Piece.Program)
		if !comes {
			continue
		}
		days[day].Shows = true
		shown = append(shown, fmt.Sprint(day+1))
		at := now.Now.Add(time.Duration(second) * time.Second).Unix()
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
