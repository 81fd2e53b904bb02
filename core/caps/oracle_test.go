package caps

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
)

// A second way to hold: a showing counts while it is younger than the window,
// and what holds is looked for at every minute there is.

// holds gives the caps that hold a piece back at a time, each on its own.
func holds(c Caps, m Memory, now, at time.Time) map[Reason]bool {
	is := map[Reason]bool{}
	// A clock that runs ahead is taken to have meant now.
	seen := func(t time.Time) time.Time {
		if t.After(now) {
			return now
		}
		return t
	}
	within := func(t time.Time, span Span) bool {
		if span == "" || t.IsZero() {
			return false
		}
		length, forever := span.Length()
		return forever || at.Sub(seen(t)) < length
	}
	for _, l := range c.PerVisitor {
		n := 0
		if l.Per == Visit {
			n = m.ShownThisVisit
		} else {
			for _, t := range m.Shown {
				if within(t, l.Per) {
					n++
				}
			}
		}
		if n >= l.Times {
			is[PerVisitor] = true
		}
	}
	for _, t := range m.Shown {
		if within(t, c.Gap) {
			is[Gap] = true
		}
	}
	if within(m.Closed, c.AfterClose) {
		is[AfterClose] = true
	}
	if within(m.Converted, c.AfterConvert) {
		is[AfterConvert] = true
	}
	if c.Total > 0 && max(m.TotalShown, len(m.Shown)) >= c.Total {
		is[Total] = true
	}
	if c.NotLeads && m.Lead {
		is[Lead] = true
	}
	return is
}

func TestHoldAgreesWithCountingEveryMinute(t *testing.T) {
	dice := rand.New(rand.NewPCG(7, 26))
	const horizon = 40 // minutes, longer than every span below
	now := time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)
	span := func() Span {
		switch dice.IntN(8) {
		case 0:
			return Forever
		case 1:
			return ""
		}
		return Span(fmt.Sprintf("PT%dM", 1+dice.IntN(30)))
	}
	moment := func() time.Time { return now.Add(time.Duration(5-dice.IntN(45)) * time.Minute) }
	free, forever, later := 0, 0, 0
	for range 20_000 {
		c := Caps{}
		for range dice.IntN(3) {
			per := span()
			if per == "" {
				per = Visit
			}
			c.PerVisitor = append(c.PerVisitor, Limit{Times: 1 + dice.IntN(3), Per: per})
		}
		m := Memory{ShownThisVisit: dice.IntN(3), Lead: dice.IntN(4) == 0, TotalShown: dice.IntN(4)}
		for range dice.IntN(5) {
			m.Shown = append(m.Shown, moment())
		}
		if dice.IntN(2) == 0 {
			c.Gap = span()
		}
		if dice.IntN(2) == 0 {
			c.AfterClose, m.Closed = span(), moment()
		}
		if dice.IntN(2) == 0 {
			c.AfterConvert, m.Converted = span(), moment()
		}
		if dice.IntN(4) == 0 {
			c.Total = 1 + dice.IntN(5)
		}
		c.NotLeads = dice.IntN(6) == 0

		why, until, held := c.Hold(m, now)
		atOnce := holds(c, m, now, now)
		if held != (len(atOnce) > 0) {
			t.Fatalf("%+v, %+v: held %v, but counting says %v", c, m, held, atOnce)
		}
		if !held {
			free++
			continue
		}
		if !atOnce[why] {
			t.Fatalf("%+v, %+v: held by %s, but counting says %v", c, m, why, atOnce)
		}
		// When the last of them lets go, and which that is.
		var frees time.Time
		last := map[Reason]bool{}
		for minute := range horizon {
			at := now.Add(time.Duration(minute) * time.Minute)
			is := holds(c, m, now, at)
			if len(is) == 0 {
				frees = at
				break
			}
			last = is
		}
		if !until.Equal(frees) || !last[why] {
			t.Fatalf("%+v, %+v: %s until %v, but counting says %v until %v", c, m, why, until, last, frees)
		}
		if frees.IsZero() {
			forever++
		} else {
			later++
		}
	}
	if min(free, forever, later) < 2000 {
		t.Errorf("the dice do not try all: %d free, %d for good, %d until later", free, forever, later)
	}
}
