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

	// What is remembered of the visitor at hand, over all pieces.
	visit    uint32
	overlays int       // in that visit
	latest   time.Time // when a piece last interrupted
	latestBy int       // which of pieces that was
	seesIt   bool      // the draft, in a showing that counts

	limited  bool  // by the site
	up       []int // scratch
	showings []Showing
	// waits and seen are of showings that nothing holds back.
	waits            waits
	seen             []uint64 // visitors, a bit each
	visitors         int
	held, lostToSite int
	lostToQuiet      int
	rested           int // of those shown
	quietAfter       []int
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
	later     *plan   // asks of single rows, once some is asked for
	thisVisit int
	visit     uint32 // that thisVisit is of
}

func newReplay(l *Log, q Question, since int64) *replay {
	p := &replay{log: l, limited: q.Limits != (caps.SiteLimits{}), seen: make([]uint64, len(l.visitors.texts)/64+1), q: q, since: since, mine: min(q.Before, len(q.Rivals)), lost: make([]int, len(q.Rivals)), won: make([]int, len(q.Rivals)), quietAfter: make([]int, len(q.Rivals)), leads: l.facts["visitor.lead"]}
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

// run goes through the page views on which a piece may show, those of a visitor
// after another's.
func (p *replay) run(stop func() bool) bool {
	l := p.log
	up := make([]uint64, (len(l.turns)+63)/64) // turns
	for j := range p.pieces {
		for w, word := range p.pieces[j].bits {
			for ; word != 0; word &= word - 1 {
				turn := l.turnOf[w*64+bits.TrailingZeros64(word)]
				up[turn/64] |= 1 << (turn % 64)
			}
		}
	}
	some, visitor := make([]uint32, 0, ahead), -1
	come := func() {
		for j := range p.pieces {
			p.pieces[j].lookAhead(l.turns, some)
		}
		for i, turn := range some {
			if visitor < 0 || turn >= l.turnsOf[visitor+1] {
				for visitor++; turn >= l.turnsOf[visitor+1]; visitor++ {
				}
				p.begin()
			}
			p.comes(&l.turns[turn], i)
		}
		some = some[:0]
	}
	for w, word := range up {
		for ; word != 0; word &= word - 1 {
			if some = append(some, uint32(w*64+bits.TrailingZeros64(word))); len(some) < ahead {
				continue
			}
			if stop != nil && stop() {
				return false
			}
			come()
		}
	}
	come()
	return true
}

// lookAhead finds from which second the piece's rule holds on each of some turns.
func (one *player) lookAhead(turns []turn, some []uint32) {
	one.waits = slices.Grow(one.waits[:0], len(some))[:len(some)]
	bits, waits := one.bits, one.waits
	for i, at := range some {
		row := turns[at].row
		waits[i] = Never
		if bits[row>>6]>>(row&63)&1 == 1 {
			waits[i] = int32(row)
		}
	}
	for i, row := range waits {
		switch {
		case row == Never:
		case one.first == nil:
			waits[i] = 0
		default:
			waits[i] = one.first[row]
		}
	}
}

// begin forgets the visitor before.
func (p *replay) begin() {
	p.visit, p.overlays, p.latest, p.latestBy, p.seesIt = ^uint32(0), 0, time.Time{}, -1, false
	for j := range p.pieces {
		p.pieces[j].shown, p.pieces[j].thisVisit = p.pieces[j].shown[:0], 0
	}
}

// comes is the next page view of the visitor at hand; i is its place in what was
// looked up.
func (p *replay) comes(t *turn, i int) {
	if t.visit != p.visit {
		p.visit, p.overlays = t.visit, 0
	}
	up := p.up[:0] // pieces that would show on the page view
	for j := range p.pieces {
		if p.pieces[j].waits[i] == Never {
			continue
		}
		if p.free(j, t) {
			up = append(up, j)
		} else if j == p.mine && t.at >= p.since {
			p.held++
		}
	}
	if len(up) > 1 {
		slices.SortStableFunc(up, func(a, b int) int { return int(p.pieces[a].waits[i] - p.pieces[b].waits[i]) })
	}
	rested := false // the draft was, on this page view
	for n := 0; n < len(up); n++ {
		j := up[n]
		one := &p.pieces[j]
		wait := one.waits[i]
		if taken := p.takenBy(up[:n], j); taken >= 0 {
			p.lose(j, taken, t)
			continue
		}
		if p.limited {
			at := time.Unix(0, t.at+int64(wait)*int64(time.Second))
			if why, until, held := p.q.Limits.Hold(one.Interruption, p.overlays, p.latest, at); held {
				if why == caps.Quiet {
					p.restAfter(j, t)
					// It is tried again when the time is over, with what comes then.
					over := int32((until.Sub(time.Unix(0, t.at)) + time.Second - 1) / time.Second)
					if again := one.again(p.log, int(t.row), over); again != Never {
						one.waits[i] = again
						rested = rested || j == p.mine
						m := n
						for ; m+1 < len(up) && p.comesFirst(up[m+1], j, i); m++ {
							up[m] = up[m+1]
						}
						up[m] = j
						n--
						continue
					}
				}
				up[n] = -1
				p.loseToSite(j, why, t)
				continue
			}
			if one.Interruption >= caps.Interrupts && at.After(p.latest) {
				p.latest, p.latestBy = at, j
			}
			if one.Interruption == caps.Covers {
				p.overlays++
			}
		}
		if rested && j == p.mine && t.at >= p.since {
			p.rested++
		}
		if p.show(j, t, wait) && !p.seesIt {
			p.seesIt = true
			p.visitors++
		}
	}
	p.up = up
}

// comesFirst says which of two pieces comes first on the page view at hand.
func (p *replay) comesFirst(a, b, i int) bool {
	return cmp.Or(cmp.Compare(p.pieces[a].waits[i], p.pieces[b].waits[i]), a-b) < 0
}

// again is when the piece comes on a row if not before a second; Never: it does not.
func (one *player) again(l *Log, row int, from int32) int32 {
	if from > l.seconds[row] {
		return Never
	}
	if one.later == nil {
		one.later = &plan{log: l}
		one.later.root = one.later.step(one.Program.Root(), false)
	}
	return one.later.again(row, from)
}

// restAfter notes after which piece the draft has to rest.
func (p *replay) restAfter(j int, t *turn) {
	if j == p.mine && t.at >= p.since && p.latestBy >= 0 && p.latestBy != p.mine {
		p.quietAfter[p.rival(p.latestBy)]++
	}
}

// loseToSite notes what the site's limits keep back.
func (p *replay) loseToSite(j int, why caps.Reason, t *turn) {
	if j != p.mine || t.at < p.since {
		return
	}
	p.lostToSite++
	if why == caps.Quiet {
		p.lostToQuiet++
	}
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
	r.LostToQuiet, r.QuietAfter, r.Rested = p.lostToQuiet, p.quietAfter, p.rested
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
