// Package schedule says on which days and at which hours a piece may show.
//
// A schedule is read on a wall clock, the site's or the visitor's own:
//
//	from 1 December, weekdays, nine to five
//	Schedule{From: "2026-12-01T00:00", Days: []string{"mon", …, "fri"}, Hours: []Hours{{540, 1020}}}
package schedule

import (
	"slices"
	"time"

	"gobbet/core/fault"
)

// Schedule limits when a piece may show. The zero Schedule is always open.
type Schedule struct {
	// From and Until bound it, as wall-clock times 2006-01-02T15:04; empty is
	// no bound. Until itself is outside.
	From  string `json:"from,omitempty"`
	Until string `json:"until,omitempty"`
	// Days are mon to sun; none are all of them.
	Days []string `json:"days,omitempty"`
	// Hours are the spans of a day it is open in; none are the whole day.
	Hours []Hours `json:"hours,omitempty"`
	// Zone is whose wall clock it is.
	Zone Zone `json:"zone,omitempty" tstype:"'site' | 'visitor' | ''"`
}

// Hours is a span of a day in minutes since midnight: From is inside, To is
// not. Where To is not after From the span goes on over midnight; its first
// part belongs to the day it began on.
type Hours struct {
	From int `json:"from"` // 0 to 1439
	To   int `json:"to"`   // 1 to 1440
}

// Zone says whose clock counts.
type Zone string

const (
	OfSite    Zone = "site" // the same as none
	OfVisitor Zone = "visitor"
)

// Weekdays as schedules and facts name them, from time.Sunday on.
var Weekdays = [...]string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}

const (
	layout   = "2006-01-02T15:04"
	maxHours = 12
	minutes  = 24 * 60
)

// None reports whether the schedule limits nothing.
func (s Schedule) None() bool {
	return s.From == "" && s.Until == "" && len(s.Days) == 0 && len(s.Hours) == 0
}

// Weekly is the schedule without its first and last day, for judging visits of
// the past.
func (s Schedule) Weekly() Schedule {
	s.From, s.Until = "", ""
	return s
}

// Open reports whether the schedule is open at a wall-clock time, whatever
// zone t names.
func (s Schedule) Open(t time.Time) bool {
	wall := time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), 0, time.UTC)
	if from, err := time.Parse(layout, s.From); err == nil && wall.Before(from) {
		return false
	}
	if until, err := time.Parse(layout, s.Until); err == nil && !wall.Before(until) {
		return false
	}
	return s.inWeek(wall)
}

func (s Schedule) inWeek(wall time.Time) bool {
	on := func(day time.Weekday) bool {
		return len(s.Days) == 0 || slices.Contains(s.Days, Weekdays[(day+7)%7])
	}
	if len(s.Hours) == 0 {
		return on(wall.Weekday())
	}
	minute := wall.Hour()*60 + wall.Minute()
	for _, h := range s.Hours {
		switch {
		case h.From < h.To:
			if on(wall.Weekday()) && h.From <= minute && minute < h.To {
				return true
			}
		case minute >= h.From && on(wall.Weekday()), minute < h.To && on(wall.Weekday()-1):
			return true
		}
	}
	return false
}

// Over reports whether the schedule has ended for good at a wall-clock time.
func (s Schedule) Over(t time.Time) bool {
	until, err := time.Parse(layout, s.Until)
	return err == nil && !time.Date(t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), 0, 0, time.UTC).Before(until)
}

// Ends is when the schedule ends on a clock; not, where it never does.
func (s Schedule) Ends(clock *time.Location) (at time.Time, is bool) {
	at, err := time.ParseInLocation(layout, s.Until, clock)
	return at, err == nil
}

// Parse reads and checks a schedule; none at all may be left out. Its error is fault.Faults.
func Parse(data []byte) (s Schedule, err error) {
	if len(data) == 0 {
		return s, nil
	}
	n, err := fault.Read(data)
	if err != nil {
		return s, err
	}
	return ParseNode(n)
}

// ParseNode is Parse for a schedule that was scanned already; nil is none.
func ParseNode(n *fault.Node) (s Schedule, err error) {
	if n.IsNull() {
		return s, nil
	}
	if err := n.Strictly("", &s); err != nil {
		return s, err
	}
	return s, s.Check()
}

// Check finds what is wrong with a schedule. Its error is fault.Faults.
func (s Schedule) Check() error {
	var faults fault.Faults
	moment := func(at, text string) time.Time {
		if text == "" {
			return time.Time{}
		}
		t, err := time.Parse(layout, text)
		if err != nil {
			faults.Add(at, "should be a day and time such as 2026-12-01T09:00")
		}
		return t
	}
	from, until := moment("from", s.From), moment("until", s.Until)
	if !from.IsZero() && !until.IsZero() && !until.After(from) {
		faults.Add("until", "should come after the start")
	}
	for i, day := range s.Days {
		if !slices.Contains(Weekdays[:], day) {
			faults.Add(fault.Index("days", i), "should be one of mon, tue, wed, thu, fri, sat, sun")
		}
	}
	if len(s.Hours) > maxHours {
		faults.Add("hours", "are more than %d spans", maxHours)
		return faults
	}
	for i, h := range s.Hours {
		at := fault.Index("hours", i)
		if h.From < 0 || h.From >= minutes {
			faults.Add(fault.Key(at, "from"), "should be 0 to %d minutes since midnight", minutes-1)
		}
		if h.To < 1 || h.To > minutes {
			faults.Add(fault.Key(at, "to"), "should be 1 to %d minutes since midnight", minutes)
		}
		if h.From == h.To {
			faults.Add(fault.Key(at, "to"), "is the same as the start: leave the hours out for the whole day")
		}
	}
	if s.Zone != "" && s.Zone != OfSite && s.Zone != OfVisitor {
		faults.Add("zone", "should be “site” or “visitor”")
	}
	return faults.Err()
}
