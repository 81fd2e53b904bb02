package rehearse

import (
	"slices"
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
	// first is from which second its rule holds, by row.
	first []int32
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
	since := q.Since.UnixNano()
	if q.Since.IsZero() {
		since = -1 << 63
	}
	first, ok := pl.run(since, true, q.Stop)
	if !ok {
		return r, false
	}
	r.Passed = pl.root.alone
	for _, s := range pl.steps {
		if s.Shape == reach.Asks {
			r.Clauses = append(r.Clauses, Clause{s.At, s.alone})
		}
		r.Lines = append(r.Lines, Line{s.At, s.alone, s.left})
	}
	r.PageViews, r.Visitors = l.counts(since)
	p := newReplay(l, q, first, since)
	if p.unlimited() {
		p.showAll()
	} else if !p.run(q.Stop) {
		return r, false
	}
	p.into(&r)
	return r, true
}

// run judges every row and gives from which second the rule holds on each, or
// Never. Rows that arrived before since are not counted.
func (pl *plan) run(since int64, counting bool, stop func() bool) (first []int32, ok bool) {
	l := pl.log
	first = make([]int32, l.rows)
	var within [blockWords]uint64
	for base := 0; base < l.rows; base += blockRows {
		if stop != nil && stop() {
			return nil, false
		}
		n := min(blockRows, l.rows-base)
		if pl.root.slow {
			for row := base; row < base+n; row++ {
				pl.arena = append(pl.arena[:0], span{0, l.seconds[row]})
				held := pl.spansOf(pl.root, row, pl.arena[:1:1], counting && l.at[row] >= since)
				if first[row] = Never; len(held) > 0 {
					first[row] = held[0].from
				}
			}
			continue
		}
		within = [blockWords]uint64{}
		for i, at := range l.at[base : base+n] {
			if at >= since {
				within[i/64] |= 1 << (i % 64)
			}
		}
		so := full(pl.newSet(false), n)
		held := pl.judge(pl.root, base, n, so, &within, counting)
		for i := range n {
			first[base+i] = held.at(i)
		}
		pl.release(so)
		pl.release(held)
	}
	return first, true
}

func (l *Log) counts(since int64) (views, visitors int) {
	seen := make([]bool, len(l.visitors.texts))
	for row, at := range l.at {
		if at < since {
			continue
		}
		views++
		if v := l.visitor[row]; !seen[v] {
			seen[v] = true
			visitors++
		}
	}
	return views, visitors
}

// Rival readies a piece to be in play beside others. It holds for the log as
// it is; after an Add it is to be made anew.
func (l *Log) Rival(id string, d Draft) *Rival {
	first, _ := newPlan(l, d.Program, false).run(0, false, nil)
	return &Rival{ID: id, draft: d, ready: d.Caps.Ready(), first: first}
}

// replay walks each visitor's page views in order of arrival with all pieces
// in play.
type replay struct {
	log    *Log
	q      Question
	since  int64
	pieces []player
	mine   int // of pieces, the draft
	leads  *column

	showings         []Showing
	held, lostToSite int
	lost, won        []int
	// between counts for every piece what each other kept back, where asked for.
	between [][]int
	shown   []int
}

// player is a piece in play and what the visitor at hand remembers of it.
type player struct {
	*Draft
	ready  caps.Ready
	first  []int32
	memory caps.Memory
	visit  uint32 // that memory.ShownThisVisit is of
}

func newReplay(l *Log, q Question, first []int32, since int64) *replay {
	p := &replay{log: l, q: q, since: since, mine: min(q.Before, len(q.Rivals)), lost: make([]int, len(q.Rivals)), won: make([]int, len(q.Rivals)), leads: l.facts["visitor.lead"]}
	for i := range len(q.Rivals) + 1 {
		switch {
		case i < p.mine:
			p.pieces = append(p.pieces, q.Rivals[i].player())
		case i == p.mine:
			p.pieces = append(p.pieces, player{Draft: &q.Draft, ready: q.Caps.Ready(), first: first})
		default:
			p.pieces = append(p.pieces, q.Rivals[i-1].player())
		}
	}
	for i := range p.pieces {
		p.pieces[i].memory.Sorted = true
	}
	return p
}

func (r *Rival) player() player { return player{Draft: &r.draft, ready: r.ready, first: r.first} }

// unlimited reports whether nothing can hold the draft back.
func (p *replay) unlimited() bool {
	return len(p.pieces) == 1 && p.q.Caps.None() && p.q.Schedule.None() && p.q.Limits == (caps.SiteLimits{})
}

// showAll is run where nothing holds the draft back: every page view on which
// its rule comes true shows it.
func (p *replay) showAll() {
	for row, wait := range p.pieces[0].first {
		if wait != Never {
			p.showings = append(p.showings, Showing{row, int(wait)})
		}
	}
}

// checkEvery is how many rows go by between asking whether to stop.
const checkEvery = 1 << 16

func (p *replay) run(stop func() bool) bool {
	l := p.log
	alone := len(p.pieces) == 1
	visitor, visit, overlays := ^uint32(0), ^uint32(0), 0
	var latest time.Time
	var up []int // pieces that would show on the page view
	for i, row := range l.order {
		if i%checkEvery == 0 && stop != nil && stop() {
			return false
		}
		if alone && p.pieces[0].first[row] == Never {
			continue
		}
		if l.visitor[row] != visitor {
			visitor, latest = l.visitor[row], time.Time{}
			for j := range p.pieces {
				m := &p.pieces[j].memory
				m.Shown, m.ShownThisVisit = m.Shown[:0], 0
			}
		}
		if l.visit[row] != visit {
			visit, overlays = l.visit[row], 0
		}
		arrival := time.Unix(0, l.at[row])
		up = up[:0]
		for j := range p.pieces {
			if p.pieces[j].first[row] == Never {
				continue
			}
			if p.free(j, row, arrival) {
				up = append(up, j)
			} else if j == p.mine && l.at[row] >= p.since {
				p.held++
			}
		}
		if len(up) > 1 {
			slices.SortStableFunc(up, func(a, b int) int { return int(p.pieces[a].first[row] - p.pieces[b].first[row]) })
		}
		for n, j := range up {
			wait := p.pieces[j].first[row]
			at := arrival.Add(time.Duration(wait) * time.Second)
			if taken := p.takenBy(up[:n], j); taken >= 0 {
				p.lose(j, taken, row)
				continue
			}
			if _, _, held := p.q.Limits.Hold(p.pieces[j].Interruption, overlays, latest, at); held {
				if up[n] = -1; j == p.mine && l.at[row] >= p.since {
					p.lostToSite++
				}
				continue
			}
			p.show(j, row, at, visit)
			if p.pieces[j].Interruption >= caps.Interrupts {
				latest = later(latest, at)
			}
			if p.pieces[j].Interruption == caps.Covers {
				overlays++
			}
		}
	}
	return true
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// free says whether a piece's own caps and schedule let it show on a page view.
func (p *replay) free(j int, row uint32, arrival time.Time) bool {
	one := &p.pieces[j]
	if !one.Schedule.None() {
		zone := one.Zone
		if zone == nil {
			zone = time.UTC
		}
		if !one.Schedule.Weekly().Open(arrival.In(zone)) {
			return false
		}
	}
	if one.visit != p.log.visit[row] {
		one.visit, one.memory.ShownThisVisit = p.log.visit[row], 0
	}
	one.memory.Lead = one.ready.NotLeads() && p.leads != nil && p.leads.values[p.leads.code(int(row))].Actual() == true
	_, _, held := one.ready.Hold(one.memory, arrival)
	return !held
}

// takenBy gives which of the pieces that came first holds the slot, or -1.
// Pieces that did not show are marked with -1.
func (p *replay) takenBy(before []int, j int) int {
	if p.pieces[j].Slot == "" {
		return -1
	}
	for _, other := range before {
		if other >= 0 && p.pieces[other].Slot == p.pieces[j].Slot {
			return other
		}
	}
	return -1
}

func (p *replay) lose(j, to int, row uint32) {
	if p.log.at[row] < p.since {
		return
	}
	switch {
	case p.between != nil:
		p.between[j][to]++
	case j == p.mine:
		p.lost[p.rival(to)]++
	case to == p.mine:
		p.won[p.rival(j)]++
	}
}

// rival is a piece's place in Question.Rivals.
func (p *replay) rival(j int) int {
	if j > p.mine {
		return j - 1
	}
	return j
}

func (p *replay) show(j int, row uint32, at time.Time, visit uint32) {
	one := &p.pieces[j]
	m := &one.memory
	m.ShownThisVisit++
	m.Shown = append(m.Shown, at)
	for i := len(m.Shown) - 1; i > 0 && m.Shown[i].Before(m.Shown[i-1]); i-- {
		m.Shown[i], m.Shown[i-1] = m.Shown[i-1], m.Shown[i]
	}
	if keep := one.ready.Remembers(); len(m.Shown) > 2*keep+16 {
		m.Shown = append(m.Shown[:0], m.Shown[len(m.Shown)-keep:]...)
	}
	if p.between != nil {
		if p.log.at[row] >= p.since {
			p.shown[j]++
		}
		return
	}
	if j == p.mine {
		p.showings = append(p.showings, Showing{int(row), int(one.first[row])})
	}
}

// into counts the draft's showings. Its total goes by order of arrival over
// all visitors.
func (p *replay) into(r *Result) {
	l := p.log
	r.Held, r.LostToSite, r.Lost, r.Won = p.held, p.lostToSite, p.lost, p.won
	shown := p.showings
	if total := p.pieces[p.mine].ready.Total(); total > 0 && len(shown) > total {
		slices.SortFunc(shown, func(a, b Showing) int {
			if l.at[a.Row] != l.at[b.Row] {
				if l.at[a.Row] < l.at[b.Row] {
					return -1
				}
				return 1
			}
			return a.Row - b.Row
		})
		for _, s := range shown[total:] {
			if l.at[s.Row] >= p.since {
				r.Held++
			}
		}
		shown = shown[:total]
	}
	seen := make([]bool, len(l.visitors.texts))
	waits := make([]int, 0, len(shown))
	counted := shown[:0]
	for _, s := range shown {
		if l.at[s.Row] < p.since {
			continue
		}
		counted = append(counted, s)
		waits = append(waits, s.Wait)
		if v := l.visitor[s.Row]; !seen[v] {
			seen[v] = true
			r.VisitorsShown++
		}
	}
	r.Shown, r.TypicalWait = len(waits), median(waits)
	if p.q.Showings {
		r.Showings = counted
	}
}

// median is the middle value, or the mean of the two in the middle. Most
// waits are short, and are counted rather than sorted.
func median(of []int) *float64 {
	const short = 1 << 12
	if len(of) == 0 {
		return nil
	}
	var counts [short]int
	var long []int
	for _, n := range of {
		if n < short {
			counts[n]++
		} else {
			long = append(long, n)
		}
	}
	slices.Sort(long)
	nth := func(k int) float64 {
		for n, c := range counts {
			if k < c {
				return float64(n)
			}
			k -= c
		}
		return float64(long[k])
	}
	m := (nth((len(of)-1)/2) + nth(len(of)/2)) / 2
	return &m
}

// Program is the piece's rule.
func (r *Rival) Program() *reach.Program { return r.draft.Program }

// Slot is the place on the page that the piece claims.
func (r *Rival) Slot() string { return r.draft.Slot }
