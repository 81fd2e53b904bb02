package rehearse

import (
	"cmp"
	"math/bits"
	"slices"
	"time"

	"gobbet/core/caps"
)

// replay walks each visitor's page views in order of arrival with all pieces
// in play.
type replay struct {
	log    *Log
	q      Question
	since  int64
	pieces []player
	mine   int // of pieces, the draft
	leads  *column

	showings []Showing
	up       []int // scratch
	// waits and seen are of showings that nothing holds back.
	waits            waits
	seen             []uint64 // visitors, a bit each
	visitors         int
	held, lostToSite int
	lost, won        []int
	// between counts for every piece what each other kept back, where asked for.
	between [][]int
	shown   []int
}

// player is a piece in play and what the visitor at hand remembers of it.
type player struct {
	*Draft
	ready caps.Ready
	*found
	waits     []int32 // looked up ahead
	shown     []int64 // when, in order, in nanoseconds since 1970
	thisVisit int
	visit     uint32 // that thisVisit is of
}

func newReplay(l *Log, q Question, since int64) *replay {
	p := &replay{log: l, seen: make([]uint64, len(l.visitors.texts)/64+1), q: q, since: since, mine: min(q.Before, len(q.Rivals)), lost: make([]int, len(q.Rivals)), won: make([]int, len(q.Rivals)), leads: l.facts["visitor.lead"]}
	for i := range len(q.Rivals) + 1 {
		switch {
		case i < p.mine:
			p.pieces = append(p.pieces, q.Rivals[i].player())
		case i == p.mine:
			p.pieces = append(p.pieces, player{Draft: &q.Draft, ready: q.Caps.Ready()})
		default:
			p.pieces = append(p.pieces, q.Rivals[i-1].player())
		}
	}
	return p
}

func (r *Rival) player() player { return player{Draft: &r.draft, ready: r.ready, found: r.found} }

// unlimited reports whether nothing can hold the draft back.
func (p *replay) unlimited() bool {
	return len(p.pieces) == 1 && p.q.Caps.None() && p.q.Schedule.None() && p.q.Limits == (caps.SiteLimits{})
}

// showBlock shows a piece that nothing holds back, on all rows of a block on which
// its rule comes true.
func (p *replay) showBlock(base int, got *set, within *mask) {
	for w := range got.bits {
		for word := got.bits[w] & within[w]; word != 0; word &= word - 1 {
			i := w*64 + bits.TrailingZeros64(word)
			wait := int32(0)
			if got.first != nil {
				wait = got.first[i]
			}
			p.count(base+i, wait)
		}
	}
}

// count counts a showing.
func (p *replay) count(row int, wait int32) {
	p.waits.add(wait)
	v := p.log.visitor[row]
	is := uint64(1) << (v % 64)
	if p.seen[v/64]&is == 0 {
		p.seen[v/64] |= is
		p.visitors++
	}
}

// ahead is how many page views are looked up at once: one after another, each
// would wait for memory.
const ahead = 4096

func (p *replay) run(stop func() bool) bool {
	l := p.log
	visitors := len(l.turnsOf) - 1
	for v := 0; v < visitors; {
		if stop != nil && stop() {
			return false
		}
		from, next := l.turnsOf[v], v+1
		for next < visitors && l.turnsOf[next+1]-from <= ahead {
			next++
		}
		for j := range p.pieces {
			p.pieces[j].lookAhead(l.turns[from:l.turnsOf[next]])
		}
		for ; v < next; v++ {
			p.visitor(v, int(l.turnsOf[v]-from))
		}
	}
	return true
}

// lookAhead finds from which second the piece's rule holds on each of some page views.
func (one *player) lookAhead(turns []turn) {
	one.waits = slices.Grow(one.waits[:0], len(turns))[:len(turns)]
	bits, waits := one.bits, one.waits
	for i := range turns {
		row := turns[i].row
		waits[i] = Never
		if bits[row>>6]>>(row&63)&1 == 1 {
			waits[i] = int32(row)
		}
	}
	if one.first == nil {
		for i := range waits {
			if waits[i] != Never {
				waits[i] = 0
			}
		}
		return
	}
	for i, row := range waits {
		if row != Never {
			waits[i] = one.first[row]
		}
	}
}

// visitor goes through the page views of one, which begin at a place in what was
// looked up.
func (p *replay) visitor(v, from int) {
	turns := p.log.of(v)
	alone, limited, seen := len(p.pieces) == 1, p.q.Limits != (caps.SiteLimits{}), false
	for j := range p.pieces {
		p.pieces[j].shown, p.pieces[j].thisVisit = p.pieces[j].shown[:0], 0
	}
	visit, overlays := ^uint32(0), 0
	var latest time.Time
	up := p.up // pieces that would show on the page view
	for i := range turns {
		t := &turns[i]
		if alone && p.pieces[0].waits[from+i] == Never {
			continue
		}
		if t.visit != visit {
			visit, overlays = t.visit, 0
		}
		up = up[:0]
		for j := range p.pieces {
			if p.pieces[j].waits[from+i] == Never {
				continue
			}
			if p.free(j, t) {
				up = append(up, j)
			} else if j == p.mine && t.at >= p.since {
				p.held++
			}
		}
		if len(up) > 1 {
			slices.SortStableFunc(up, func(a, b int) int { return int(p.pieces[a].waits[from+i] - p.pieces[b].waits[from+i]) })
		}
		for n, j := range up {
			one := &p.pieces[j]
			wait := one.waits[from+i]
			if taken := p.takenBy(up[:n], j); taken >= 0 {
				p.lose(j, taken, t)
				continue
			}
			if limited {
				at := time.Unix(0, t.at+int64(wait)*int64(time.Second))
				if _, _, held := p.q.Limits.Hold(one.Interruption, overlays, latest, at); held {
					if up[n] = -1; j == p.mine && t.at >= p.since {
						p.lostToSite++
					}
					continue
				}
				if one.Interruption >= caps.Interrupts {
					latest = later(latest, at)
				}
				if one.Interruption == caps.Covers {
					overlays++
				}
			}
			if p.show(j, t, wait) && !seen {
				seen = true
				p.visitors++
			}
		}
	}
	p.up = up
}

func later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// free says whether a piece's own caps and schedule let it show on a page view.
func (p *replay) free(j int, t *turn) bool {
	one := &p.pieces[j]
	if !one.Schedule.None() {
		zone := one.Zone
		if zone == nil {
			zone = time.UTC
		}
		if !one.Schedule.Weekly().Open(time.Unix(0, t.at).In(zone)) {
			return false
		}
	}
	if one.visit != t.visit {
		one.visit, one.thisVisit = t.visit, 0
	}
	lead := one.ready.NotLeads() && p.leads != nil && p.leads.values[p.leads.code(int(t.row))].Actual() == true
	return !one.ready.Holds(one.thisVisit, one.shown, lead, t.at)
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

func (p *replay) lose(j, to int, t *turn) {
	if t.at < p.since {
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

// show notes a showing, and reports whether it counts as one of the draft's.
func (p *replay) show(j int, t *turn, wait int32) (counts bool) {
	one := &p.pieces[j]
	one.thisVisit++
	one.shown = append(one.shown, t.at+int64(wait)*int64(time.Second))
	for i := len(one.shown) - 1; i > 0 && one.shown[i] < one.shown[i-1]; i-- {
		one.shown[i], one.shown[i-1] = one.shown[i-1], one.shown[i]
	}
	if keep := one.ready.Remembers(); len(one.shown) > 2*keep+16 {
		one.shown = append(one.shown[:0], one.shown[len(one.shown)-keep:]...)
	}
	switch {
	case p.between != nil:
		if t.at >= p.since {
			p.shown[j]++
		}
	case j != p.mine:
	case p.q.Showings || one.ready.Total() > 0:
		p.showings = append(p.showings, Showing{int(t.row), int(wait)})
	case t.at >= p.since:
		p.waits.add(wait)
		return true
	}
	return false
}

// into counts the draft's showings. Its total goes by order of arrival over
// all visitors.
func (p *replay) into(r *Result) {
	l := p.log
	r.Held, r.LostToSite, r.Lost, r.Won = p.held, p.lostToSite, p.lost, p.won
	shown := p.showings
	if total := p.pieces[p.mine].ready.Total(); total > 0 && len(shown) > total {
		slices.SortFunc(shown, func(a, b Showing) int { return cmp.Or(cmp.Compare(l.at[a.Row], l.at[b.Row]), a.Row-b.Row) })
		for _, s := range shown[total:] {
			if l.at[s.Row] >= p.since {
				r.Held++
			}
		}
		shown = shown[:total]
	}
	counted := shown[:0]
	for _, s := range shown {
		if l.at[s.Row] >= p.since {
			counted = append(counted, s)
			p.count(s.Row, int32(s.Wait))
		}
	}
	r.Shown, r.VisitorsShown, r.TypicalWait = p.waits.n, p.visitors, p.waits.median()
	if p.q.Showings {
		r.Showings = counted
	}
}

// waits counts seconds from arrival to showing. Most are short, and are counted
// rather than sorted.
type waits struct {
	n    int
	some [1 << 12]int
	long []int32
}

func (w *waits) add(wait int32) {
	w.n++
	if int(wait) < len(w.some) {
		w.some[wait]++
	} else {
		w.long = append(w.long, wait)
	}
}

// median is the middle value, or the mean of the two in the middle.
func (w *waits) median() *float64 {
	if w.n == 0 {
		return nil
	}
	slices.Sort(w.long)
	nth := func(k int) float64 {
		for wait, c := range w.some {
			if k < c {
				return float64(wait)
			}
			k -= c
		}
		return float64(w.long[k])
	}
	m := (nth((w.n-1)/2) + nth(w.n/2)) / 2
	return &m
}
