package rehearse

import (
	"math"
	"math/bits"
	"time"

	"gobbet/core/caps"
	"gobbet/core/reach"
	"gobbet/core/schedule"
)

// Draft is what is rehearsed.
type Draft struct {
	Program *reach.Program
	Caps    caps.Caps
	// Schedule is judged on each arrival's wall clock in Zone; nil is UTC. Its
	// first and last day are not: they lie in the time to come.
	Schedule schedule.Schedule
	Zone     *time.Location
	// Slot is the place on the page it claims, and Interruption how it comes between
	// visitor and page: which of the site's limits are for it.
	Slot         string
	Interruption caps.Interruption
}

// Rival is a piece in play beside the draft. Make one with Log.Rival.
type Rival struct {
	ID    string
	draft Draft
	ready caps.Ready
	found *found // where its rule holds
}

// Question is all that is asked of a rehearsal.
type Question struct {
	Draft
	// Rivals are the site's other pieces, those that win first. Before tells
	// how many of them win over the draft when both would show at one moment.
	Rivals []*Rival
	Before int
	Limits caps.SiteLimits
	// Since leaves earlier page views out of every count. Their showings still
	// count against the caps.
	Since time.Time
	// Stop, if set, is asked now and then whether to give up.
	Stop func() bool
	// Showings asks for each showing, not only their number.
	Showings bool
}

// Result is what would have been. All counts but Visitors and VisitorsShown
// are page views.
type Result struct {
	PageViews     int
	Visitors      int
	Passed        int // where the rule came true at some second of the stay
	Shown         int // of those, what caps, schedule, rivals and the site's limits left
	VisitorsShown int
	// TypicalWait is the median of seconds from arrival to showing; nil for no showings.
	TypicalWait *float64
	Clauses     []Clause
	// Lines are all nodes of the rule, the root first.
	Lines []Line
	// Held is what the draft's own caps and schedule kept back.
	Held int
	// Lost is what rivals kept back, by their place in Question.Rivals, and
	// LostToSite what the site's limits did.
	Lost       []int
	LostToSite int
	// LostToQuiet is what of LostToSite the site's minimum time between pieces kept
	// back, and Rested how many of Shown came later for it. QuietAfter is how often
	// either was after which rival, by their place in Question.Rivals.
	LostToQuiet int
	QuietAfter  []int
	Rested      int
	// Won is how often a rival was kept back by the draft.
	Won      []int
	Showings []Showing
}

// Clause counts the page views where one clause alone held at some second.
type Clause struct {
	At     string
	Passed int
}

// Line counts for a node of the rule the page views it holds on by itself, and
// those it leaves of what the conditions before it let through.
type Line struct {
	At          string
	Alone, Left int
}

// Showing is one showing: on which row, after how many seconds.
type Showing struct{ Row, Wait int }

// Rehearse replays the log, which must be sorted. It gives ok false if it was stopped.
func (l *Log) Rehearse(q Question) (r Result, ok bool) {
	pl := newPlan(l, q.Program, false)
	defer pl.done()
	since := q.Since.UnixNano()
	if q.Since.IsZero() {
		since = math.MinInt64
	}
	p := newReplay(l, q, since)
	free := p.unlimited() && !q.Showings
	if free {
		// What nothing holds back shows as soon as its rule comes true.
		r.PageViews, ok = pl.run(since, true, q.Stop, p.showBlock)
	} else {
		var got *found
		got, r.PageViews, ok = pl.find(since, true, q.Stop)
		p.pieces[p.mine].found = got
	}
	if !ok {
		return r, false
	}
	r.Passed, r.Visitors = pl.root.alone, l.visitorsSince(since)
	for _, s := range pl.steps {
		if s.Shape == reach.Asks {
			r.Clauses = append(r.Clauses, Clause{s.At, s.alone})
		}
		r.Lines = append(r.Lines, Line{s.At, s.alone, s.left})
	}
	if !free && !p.run(q.Stop) {
		return r, false
	}
	p.into(&r)
	return r, true
}

// run judges every row, a block at a time, and gives how many of them arrived
// since a time. Those that arrived before are not counted.
func (pl *plan) run(since int64, counting bool, stop func() bool, each func(base int, got *set, within *mask)) (views int, ok bool) {
	l := pl.log
	for base := 0; base < l.rows; base += blockRows {
		if stop != nil && stop() {
			return 0, false
		}
		n := min(blockRows, l.rows-base)
		within := l.within(base, n, since)
		for _, word := range within {
			views += bits.OnesCount64(word)
		}
		var got *set
		if pl.root.slow {
			got = pl.slowly(base, n, &within, counting)
		} else {
			so := allOf(n)
			got = pl.judge(pl.root, base, n, &so, &within, counting)
		}
		each(base, got, &within)
		pl.release(got)
	}
	return views, true
}

// slowly is judge, a row at a time.
func (pl *plan) slowly(base, n int, within *mask, counting bool) *set {
	got := pl.newSet()
	got.first = pl.firsts()
	for i := range n {
		row := base + i
		pl.arena = append(pl.arena[:0], span{0, pl.log.seconds[row]})
		if held := pl.spansOf(pl.root, row, pl.arena[:1:1], counting && within[i/64]>>(i%64)&1 == 1); len(held) > 0 {
			got.first[i] = held[0].from
			got.bits[i/64] |= 1 << (i % 64)
		}
	}
	return got
}

// find is run for those who ask for single rows afterwards.
func (pl *plan) find(since int64, counting bool, stop func() bool) (got *found, views int, ok bool) {
	l := pl.log
	got = &found{bits: make([]uint64, (l.rows+blockRows-1)/blockRows*blockWords)}
	if pl.root.moment || pl.root.slow {
		got.first = make([]int32, l.rows)
	}
	views, ok = pl.run(since, counting, stop, func(base int, one *set, _ *mask) {
		copy(got.bits[base/64:], one.bits[:])
		if one.first != nil {
			copy(got.first[base:], one.first[:])
		}
	})
	return got, views, ok
}

// within picks the rows of a block that arrived at or after a time.
func (l *Log) within(base, n int, since int64) (m mask) {
	if block := base / blockRows; block < len(l.arrived) {
		switch {
		case l.arrived[block].from >= since:
			return allOf(n)
		case l.arrived[block].until < since:
			return m
		}
	}
	for i, at := range l.at[base : base+n] {
		if at >= since {
			m[i/64] |= 1 << (i % 64)
		}
	}
	return m
}

// visitorsSince counts the visitors of page views that arrived at or after a time.
func (l *Log) visitorsSince(since int64) (visitors int) {
	for _, at := range l.lastAt {
		if at >= since {
			visitors++
		}
	}
	return visitors
}

// Rival readies a piece to be in play beside others. It holds for the log as
// it is; after an Add it is to be made anew.
func (l *Log) Rival(id string, d Draft) *Rival {
	return &Rival{ID: id, draft: d, ready: d.Caps.Ready(), found: l.find(d.Program, false)}
}

// find tells where a rule holds. Where settled, moments count as come.
func (l *Log) find(p *reach.Program, settled bool) *found {
	pl := newPlan(l, p, settled)
	defer pl.done()
	got, _, _ := pl.find(math.MinInt64, false, nil)
	return got
}

// Program is the piece's rule.
func (r *Rival) Program() *reach.Program { return r.draft.Program }

// Draft is the piece as it is rehearsed.
func (r *Rival) Draft() Draft { return r.draft }

// Slot is the place on the page that the piece claims.
func (r *Rival) Slot() string { return r.draft.Slot }
