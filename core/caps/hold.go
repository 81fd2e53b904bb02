package caps

import (
	"math"
	"slices"
	"time"
)

// Memory is what a visitor's browser remembers of one piece.
type Memory struct {
	ShownThisVisit int
	Shown          []time.Time // in any order; in order of time if Sorted
	Sorted         bool
	Closed         time.Time // zero: never
	Converted      time.Time // zero: never
	Lead           bool
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
	Lead         Reason = "lead"
	// Those of a SiteLimits.
	Overlays Reason = "overlays"
	Quiet    Reason = "quiet"
)

// Hold reports whether the caps keep a piece back at now, why, and when it
// frees up. A zero until means never, or not in this visit. When several caps
// hold, it is the one that frees last. Times after now count as now, so that a
// browser with a fast clock cannot lift a cap.
func (c Caps) Hold(m Memory, now time.Time) (why Reason, until time.Time, held bool) {
	r := c.Ready()
	return r.Hold(m, now)
}

// Ready is caps with their durations read, for those who ask often.
type Ready struct {
	limits                        []readyLimit
	gap, afterClose, afterConvert time.Duration // 0: none
	total                         int
	notLeads                      bool
	// remembers is how many of the latest showings matter.
	remembers int
}

type readyLimit struct {
	times int
	per   time.Duration
	visit bool
}

// never is a duration that outlasts everything.
const never time.Duration = math.MaxInt64

// Ready reads checked caps.
func (c Caps) Ready() Ready {
	length := func(s Span) time.Duration {
		if s == "" {
			return 0
		}
		if length, forever := s.Length(); !forever {
			return length
		}
		return never
	}
	r := Ready{gap: length(c.Gap), afterClose: length(c.AfterClose), afterConvert: length(c.AfterConvert), total: c.Total, notLeads: c.NotLeads, remembers: 1}
	for _, l := range c.PerVisitor {
		limit := readyLimit{times: l.Times, visit: l.Per == Visit}
		if !limit.visit {
			limit.per = length(l.Per)
			r.remembers = max(r.remembers, l.Times)
		}
		r.limits = append(r.limits, limit)
	}
	return r
}

// Total is how many showings the piece has in all; 0 means no limit.
func (r *Ready) Total() int { return r.total }

// NotLeads reports whether leads do not see the piece.
func (r *Ready) NotLeads() bool { return r.notLeads }

// Remembers is how many of a visitor's latest showings the caps look at.
func (r *Ready) Remembers() int { return r.remembers }

// Hold is Caps.Hold. It allocates nothing where Shown is sorted.
func (r *Ready) Hold(m Memory, now time.Time) (why Reason, until time.Time, held bool) {
	shown := m.Shown
	if !m.Sorted && !slices.IsSortedFunc(shown, time.Time.Compare) {
		shown = slices.SortedFunc(slices.Values(shown), time.Time.Compare)
	}
	h := hold{now: now}
	for _, l := range r.limits {
		switch {
		case l.visit && m.ShownThisVisit >= l.times:
			h.add(PerVisitor, time.Time{})
		case !l.visit && len(shown) >= l.times:
			// Full as long as the one that is times showings ago is in the window.
			h.rest(PerVisitor, shown[len(shown)-l.times], l.per)
		}
	}
	if len(shown) > 0 {
		h.rest(Gap, shown[len(shown)-1], r.gap)
	}
	h.rest(AfterClose, m.Closed, r.afterClose)
	h.rest(AfterConvert, m.Converted, r.afterConvert)
	if r.total > 0 && max(m.TotalShown, len(shown)) >= r.total {
		h.add(Total, time.Time{})
	}
	if r.notLeads && m.Lead {
		h.add(Lead, time.Time{})
	}
	return h.why, h.until, h.held
}

// Holds is Hold for those who only ask whether, often, of a memory of showings
// alone: shown is when they were, in order, in nanoseconds since 1970 like now.
func (r *Ready) Holds(thisVisit int, shown []int64, lead bool, now int64) bool {
	rests := func(after int64, length time.Duration) bool {
		return length == never || length > 0 && now-min(after, now) < int64(length)
	}
	for _, l := range r.limits {
		switch {
		case l.visit:
			if thisVisit >= l.times {
				return true
			}
		case len(shown) >= l.times && rests(shown[len(shown)-l.times], l.per):
			return true
		}
	}
	if len(shown) > 0 && rests(shown[len(shown)-1], r.gap) {
		return true
	}
	return r.total > 0 && len(shown) >= r.total || r.notLeads && lead
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

// rest holds for a length after a time; a zero time or length is none.
func (h *hold) rest(why Reason, after time.Time, length time.Duration) {
	if after.IsZero() || length == 0 {
		return
	}
	if after.After(h.now) {
		after = h.now
	}
	switch {
	case length == never:
		h.add(why, time.Time{})
	case h.now.Sub(after) < length:
		h.add(why, after.Add(length))
	}
}
