package choose

import (
	"math"
	"slices"
	"time"

	"gobbet/core/caps"
	"gobbet/core/reach"
)

// Of gives what is remembered of one piece.
func (m *Memory) Of(id string) Known { return m.Pieces[id] }

// Shift moves every time by some seconds: from a clock that goes wrong to one
// that does not.
func (m *Memory) Shift(seconds int64) {
	move := func(at *int64) {
		if *at > 0 {
			*at = max(1, *at+seconds)
		}
	}
	move(&m.Last)
	move(&m.Shown)
	for id, k := range m.Pieces {
		k.Shown = slices.Clone(k.Shown)
		for i := range k.Shown {
			move(&k.Shown[i])
		}
		move(&k.Closed)
		move(&k.Converted)
		m.Pieces[id] = k
	}
}

const (
	maxRemembered = 200
	maxTags       = 20
)

// counted reports whether the visitor counts for the piece already.
func (k Known) counted() bool { return k.Eligible || k.Variant != "" || k.TimesShown > 0 }

func (k Known) caps() caps.Memory {
	m := caps.Memory{Sorted: slices.IsSorted(k.Shown), ShownThisVisit: k.ThisVisit, Closed: at(k.Closed), Converted: at(k.Converted)}
	shown := k.Shown[max(0, len(k.Shown)-maxRemembered):]
	if len(shown) > 0 {
		m.Shown = make([]time.Time, 0, len(shown))
		for _, s := range shown {
			if s > 0 {
				m.Shown = append(m.Shown, at(s))
			}
		}
	}
	return m
}

func at(seconds int64) time.Time {
	if seconds <= 0 {
		return time.Time{}
	}
	return time.Unix(min(seconds, math.MaxInt32*4), 0)
}

// Tell says what the memory knows as facts of the visit, with the history of
// pieces or without.
func (m *Memory) Tell(v *reach.Visit, now time.Time, history bool) {
	v.HasMemory = true
	v.Set("visitor.new", m.Visits <= 1)
	v.Set("visitor.visits", max(1, m.Visits))
	v.Set("visitor.pages", max(1, m.Pages))
	v.Set("visitor.pages_this_visit", max(1, m.Visit.Pages))
	v.Set("visitor.lead", m.Lead)
	if tags := m.Tags[:min(len(m.Tags), maxTags)]; len(tags) > 0 {
		v.Set("visitor.tags", tags)
	}
	if last := at(m.Last); !last.IsZero() {
		v.Set("visitor.days_since_last", int(max(0, now.Sub(last))/caps.Day))
	}
	if !history {
		return
	}
	for id, k := range m.Pieces {
		v.Set("history.shown."+id, max(0, k.TimesShown))
		v.Set("history.closed."+id, max(0, k.TimesClosed))
		v.Set("history.converted."+id, max(0, k.TimesConverted))
	}
}
