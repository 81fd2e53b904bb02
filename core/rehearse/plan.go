package rehearse

import (
	"math/bits"
	"strings"

	"gobbet/core/reach"
)

// plan is a compiled rule made ready for one log.
type plan struct {
	log  *Log
	root *step
	// steps is every node, in document order.
	steps []*step
	// spare and free hold first columns and sets between uses.
	spare []*[blockRows]int32
	free  []*set
	arena []span // scratch of the slow way
	taken []*kept
	// exitsFrom is the second from which on exits count, in the slow way.
	exitsFrom int32
}

// step is one node of a plan.
type step struct {
	*reach.Node
	parts []*step
	// slow says that the node's truth may come and go within a stay: it hangs
	// on idling, or denies a moment.
	slow     bool
	moment   bool // hangs on moments at all
	column   *column
	verdicts []uint8 // by code
	source   source
	least    int32   // of seconds or idling
	times    []int32 // the log's column of when it came about
	whats    []bool  // by what happened
	kept     *kept   // what other rehearsals found of it; nil: nothing is kept
	// ownsFirst says that its firsts are computed, rather than the log's own.
	ownsFirst bool
	constant  *[blockRows]int32
	// counts, in page views
	alone, left int
}

type source uint8

const (
	ofFact source = iota
	ofStay        // the clock of the page
	ofColumn
	ofHappenings
	ofIdling
	ofNothing // can never come
	ofArrival // has always come
)

// newPlan readies a program. Where settled, moments count as come: the rule
// then picks the page views on which it may come true.
func newPlan(l *Log, p *reach.Program, settled bool) *plan {
	pl := &plan{log: l}
	pl.root = pl.step(p.Root(), settled)
	pl.takeKept(settled)
	return pl
}

func (pl *plan) step(n *reach.Node, settled bool) *step {
	s := &step{Node: n}
	pl.steps = append(pl.steps, s)
	for i := range n.Parts {
		part := pl.step(&n.Parts[i], settled)
		s.parts = append(s.parts, part)
		s.slow, s.moment = s.slow || part.slow, s.moment || part.moment
	}
	switch {
	case n.Shape == reach.Asks && n.Test.Of.IsMoment():
		pl.momentStep(s)
		s.moment = true
		if settled {
			s.source = ofArrival
		}
		s.slow = s.source == ofIdling
	case n.Shape == reach.Asks:
		pl.factStep(s)
	case n.Shape == reach.NotOf && s.moment:
		s.slow = true
		if settled {
			s.slow, s.source = false, ofArrival
		}
	}
	return s
}

func (pl *plan) factStep(s *step) {
	name := s.Test.Fact
	s.column = pl.log.facts[name]
	if s.column == nil {
		s.column = newColumn(name)
	}
	s.verdicts = make([]uint8, max(256, len(s.column.values)))
	for code := range s.column.values {
		value := s.column.values[code]
		if code == 0 && pl.log.HasMemory && strings.HasPrefix(name, "history.") {
			value, _ = reach.ValueOf(name, 0)
		}
		if s.Test.Judge(&value) == reach.Yes {
			s.verdicts[code] = 1
		}
	}
}

func (pl *plan) momentStep(s *step) {
	least := int32(Never)
	if v, ok := s.Test.Value.(float64); ok && v < Never {
		if least = int32(v); float64(least) < v {
			least++
		}
	}
	switch s.Test.Of.Name {
	case "moment.seconds_on_page":
		s.source, s.least = ofStay, least
	case "moment.idle_seconds":
		s.source, s.least = ofIdling, least
	case "moment.scroll_percent":
		switch v := s.Test.Value.(float64); {
		case v <= 0:
			s.source = ofArrival
		case v <= 100:
			s.source, s.times = ofColumn, pl.log.marks[(int(least)+9)/10-1]
		default:
			s.source = ofNothing
		}
	case reach.Exit:
		s.source, s.times = ofColumn, pl.log.exit
	case "moment.click", "moment.seen", "moment.leaving_to", "moment.event":
		s.source = ofHappenings
		kind := strings.TrimPrefix(s.Test.Of.Name, "moment.") + "\x00"
		about, some := s.Test.Value.(string)
		s.whats = make([]bool, len(pl.log.whats.texts))
		for i, what := range pl.log.whats.texts {
			s.whats[i] = strings.HasPrefix(what, kind) && (!some || what[len(kind):] == about)
		}
	default:
		s.source = ofNothing // seconds_on_site and scroll_pixels are not in the log
	}
}

// judge gives the rows of a block, from row base on, that a node holds on, and
// counts for it and below it the rows of within that it holds on alone, and
// that are left of those in so far.
func (pl *plan) judge(s *step, base, n int, so, within *mask, counting bool) *set {
	got := pl.known(s, base, n)
	fresh := got == nil
	if !fresh && !counting {
		return got
	}
	switch {
	case s.source == ofArrival:
		for _, part := range s.parts {
			if counting {
				pl.release(pl.judge(part, base, n, so, within, counting))
			}
		}
		if fresh {
			got = pl.full(n)
		}
	case s.Shape == reach.Asks:
		if fresh {
			got = pl.leaf(s, base, n)
		}
	case s.Shape == reach.NotOf:
		inner := pl.judge(s.parts[0], base, n, so, within, counting)
		if fresh {
			got = pl.full(n)
			for w := range got.bits {
				got.bits[w] &^= inner.bits[w]
			}
		}
		pl.release(inner)
	default:
		all, left := s.Shape == reach.AllOf, *so
		for _, part := range s.parts {
			one := pl.judge(part, base, n, &left, within, counting)
			if all && counting {
				for w := range left {
					left[w] &= one.bits[w]
				}
			}
			switch {
			case fresh && got == nil:
				got = one
				continue
			case fresh && all:
				pl.and(got, one)
			case fresh:
				pl.or(got, one)
			}
			pl.release(one)
		}
		switch {
		case got != nil:
		case all:
			got = pl.full(n)
		default:
			got = pl.newSet()
		}
	}
	if fresh {
		pl.keep(s, base, got)
	}
	if counting {
		for w := range got.bits {
			held := got.bits[w] & within[w]
			s.alone += bits.OnesCount64(held)
			s.left += bits.OnesCount64(held & so[w])
		}
	}
	return got
}

func (pl *plan) leaf(s *step, base, n int) *set {
	got := pl.newSet()
	stay := pl.log.seconds[base : base+n]
	switch s.source {
	case ofFact:
		pl.factBits(s, base, n, &got.bits)
	case ofNothing:
	case ofArrival:
		got.fill(n)
	case ofStay:
		for i, until := range stay {
			var is uint64
			if s.least <= until {
				is = 1
			}
			got.bits[i/64] |= is << (i % 64)
		}
	case ofColumn:
		reached(&got.bits, s.times[base:base+n], stay)
	default:
		got.first = pl.firsts()
		for i := range stay {
			var from int32
			if s.source == ofHappenings {
				from = s.happenedAt(pl.log, base+i)
			} else {
				from, _ = s.idledAt(pl.log, base+i)
			}
			if got.first[i] = from; from <= stay[i] {
				got.bits[i/64] |= 1 << (i % 64)
			}
		}
	}
	pl.lendFirst(s, got, base)
	return got
}

// reached is the rows that come to something before their stay ends.
func reached(words *mask, at, stay []int32) {
	whole := len(at) / 64
	for w := range whole {
		var word uint64
		until := stay[w*64 : w*64+64]
		for i, from := range at[w*64 : w*64+64] {
			var is uint64
			if from <= until[i] {
				is = 1
			}
			word |= is << (i & 63)
		}
		words[w] = word
	}
	for i := whole * 64; i < len(at); i++ {
		if at[i] <= stay[i] {
			words[i/64] |= 1 << (i % 64)
		}
	}
}

// lendFirst lets a set about the stay or about a recorded time have that for its
// firsts, which are the log's own.
func (pl *plan) lendFirst(s *step, got *set, base int) {
	switch {
	case s.source == ofStay:
		if s.constant == nil {
			s.constant = new([blockRows]int32)
			for i := range s.constant {
				s.constant[i] = s.least
			}
		}
		got.first, got.lent = s.constant, true
	case s.source == ofColumn && base+blockRows <= len(s.times):
		got.first, got.lent = (*[blockRows]int32)(s.times[base:]), true
	case s.source == ofColumn:
		got.first = pl.firsts()
		copy(got.first[:], s.times[base:])
	}
}

func (s *step) happenedAt(l *Log, row int) int32 {
	at := int32(Never)
	for _, h := range l.happenedOf(row) {
		if s.whats[h.what] {
			at = min(at, h.second)
		}
	}
	return at
}

// idledAt is from and until when the visitor idled as long as the clause asks.
func (s *step) idledAt(l *Log, row int) (from, until int32) {
	for _, i := range l.idlesOf(row) {
		if i.length >= s.least {
			// Added in more bits than they have: both may be as long as can be.
			from, until := int64(i.start)+int64(s.least), int64(i.start)+int64(i.length)
			return int32(min(from, Never)), int32(min(until, int64(l.seconds[row])))
		}
	}
	return Never, Never
}

func (pl *plan) factBits(s *step, base, n int, into *mask) {
	c := s.column
	judged := 0
	switch {
	case c.sparse != nil:
		judged = packSparse(into, c, base, n, s.verdicts)
	case c.wide != nil:
		judged = pack(into, c.wide, base, n, s.verdicts)
	case c.middle != nil:
		judged = pack(into, c.middle, base, n, s.verdicts)
	default:
		judged = pack(into, c.narrow, base, n, s.verdicts)
	}
	// Rows past the column's end say nothing of the fact.
	if s.verdicts[0] == 1 {
		for i := judged; i < n; i++ {
			into[i/64] |= 1 << (i % 64)
		}
	}
}

// packSparse is pack for a column that holds few rows.
func packSparse(words *mask, c *column, base, n int, verdicts []uint8) int {
	if verdicts[0] == 1 {
		for i := range n {
			words[i/64] |= 1 << (i % 64)
		}
	}
	for at := c.firstAt(base); at < len(c.sparse) && int(c.sparse[at].row) < base+n; at++ {
		i := int(c.sparse[at].row) - base
		words[i/64] = words[i/64]&^(1<<(i%64)) | uint64(verdicts[c.sparse[at].code])<<(i%64)
	}
	return n
}

func pack[T uint8 | uint16 | uint32](words *mask, codes []T, base, n int, verdicts []uint8) int {
	if base >= len(codes) {
		return 0
	}
	codes = codes[base:min(base+n, len(codes))]
	whole := len(codes) / 64
	for w := range whole {
		var word uint64
		for i, code := range codes[w*64 : w*64+64] {
			word |= uint64(verdicts[code]) << (i & 63)
		}
		words[w] = word
	}
	for i := whole * 64; i < len(codes); i++ {
		words[i/64] |= uint64(verdicts[codes[i]]) << (i % 64)
	}
	return len(codes)
}
