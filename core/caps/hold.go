package caps

import (
	"slices"
	"time"
)

// Memory is what a visitor's browser remembers of one piece.
type Memory struct {
	ShownThisVisit int
	Shown          []time.Time // in any order
	Closed         time.Time   // zero: never
	Converted      time.Time   // zero: never
	// TotalShown counts showings to everyone. The visitor's own are its least value.
	TotalShown int
}

// Reason names the cap that holds a piece back.
type Reason string

const (
	PerVisitor   Reason = "per_visitor"
	Gap          Reason = "gap"
	AfterClose   Reason = "after_close"
	AfterConvert Reason = "after_convert"
	Total        Reason = "total"
)

// Hold reports whether the caps keep a piece back at now, why, and when it
// frees up. A zero until means never, or not in this visit. When several caps
// hold, it is the one that frees last. Times after now count as now, so that a
// browser with a fast clock cannot lift a cap.
func (c Caps) Hold(m Memory, now time.Time) (why Reason, until time.Time, held bool) {
	h := hold{now: now}
	shown := h.settled(m.Shown)
	for _, limit := range c.PerVisitor {
		h.limit(limit, m, shown)
	}
	if len(shown) > 0 {
		h.rest(Gap, shown[len(shown)-1], c.Gap)
	}
	h.rest(AfterClose, m.Closed, c.AfterClose)
	h.rest(AfterConvert, m.Converted, c.AfterConvert)
	if c.Total > 0 && max(m.TotalShown, len(shown)) >= c.Total {
		h.add(Total, time.Time{})
	}
	return h.why, h.until, h.held
}

// hold gathers the cap that frees last.
type hold struct {
	now   time.Time
	why   Reason
	until time.Time
	held  bool
}

func (h *hold) add(why Reason, until time.Time) {
	later := until.IsZero() && !h.until.IsZero() || !until.IsZero() && !h.until.IsZero() && until.After(h.until)
	if !h.held || later {
		h.why, h.until, h.held = why, until, true
	}
}

// settled sorts times, with those after now brought back to it. The times are
// copied only when they are not already so, which browsers' memories are.
func (h *hold) settled(times []time.Time) []time.Time {
	if slices.IsSortedFunc(times, time.Time.Compare) && (len(times) == 0 || !times[len(times)-1].After(h.now)) {
		return times
	}
	times = slices.Clone(times)
	for i, t := range times {
		if t.After(h.now) {
			times[i] = h.now
		}
	}
	slices.SortFunc(times, time.Time.Compare)
	return times
}

func (h *hold) limit(l Limit, m Memory, shown []time.Time) {
	if l.Per == Visit {
		if m.ShownThisVisit >= l.Times {
			h.add(PerVisitor, time.Time{})
		}
		return
	}
	window, forever := l.Per.Length()
	if forever {
		if len(shown) >= l.Times {
			h.add(PerVisitor, time.Time{})
		}
		return
	}
	first := len(shown)
	for first > 0 && h.now.Sub(shown[first-1]) < window {
		first--
	}
	if len(shown)-first >= l.Times {
		h.add(PerVisitor, shown[len(shown)-l.Times].Add(window))
	}
}

// rest holds for a span after a time.
func (h *hold) rest(why Reason, after time.Time, span Span) {
	if after.IsZero() || span == "" {
		return
	}
	if after.After(h.now) {
		after = h.now
	}
	length, forever := span.Length()
	switch {
	case forever:
		h.add(why, time.Time{})
	case h.now.Sub(after) < length:
		h.add(why, after.Add(length))
	}
}
