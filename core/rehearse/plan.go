package rehearse

import (
	"math/bits"
	"strings"

	"gobbet/core/reach"
)

// Rows are judged a block at a time, small enough for the processor's cache.
const (
	blockRows  = 2048
	blockWords = blockRows / 64
)

// set says of each row of a block from which second something holds. Where
// first is nil it holds for the whole stay or not at all.
type set struct {
	bits  [blockWords]uint64
	first *[blockRows]int32
}

// plan is a compiled rule made ready for one log.
type plan struct {
	log  *Log
	root *step
	// steps is every node, in document order.
	steps []*step
	// spare holds first columns between uses.
	spare []*[blockRows]int32
	free  []*set
	arena []span // scratch of the slow way
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
	case "moment.exit_intent":
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

func (pl *plan) newSet(withFirst bool) *set {
	s := &set{}
	if n := len(pl.free); n > 0 {
		s, pl.free = pl.free[n-1], pl.free[:n-1]
		s.bits = [blockWords]uint64{}
	}
	if withFirst {
		if n := len(pl.spare); n > 0 {
			s.first, pl.spare = pl.spare[n-1], pl.spare[:n-1]
		} else {
			s.first = new([blockRows]int32)
		}
	}
	return s
}

func (pl *plan) release(s *set) {
	if s.first != nil {
		pl.spare = append(pl.spare, s.first)
		s.first = nil
	}
	pl.free = append(pl.free, s)
}

// count tells how many of the rows that within picks are in the set.
func (s *set) count(within *[blockWords]uint64) (n int) {
	for w := range s.bits {
		n += bits.OnesCount64(s.bits[w] & within[w])
	}
	return n
}

// at is from which second a row is in the set.
func (s *set) at(i int) int32 {
	switch {
	case s.bits[i/64]>>(i%64)&1 == 0:
		return Never
	case s.first == nil:
		return 0
	}
	return s.first[i]
}

// judge gives the rows of a block, from row base on, that a node holds on, and
// counts for it and below it the rows of within that it holds on alone, and
// that are left of those in so far.
func (pl *plan) judge(s *step, base, n int, so *set, within *[blockWords]uint64, counting bool) *set {
	var got *set
	switch {
	case s.source == ofArrival:
		got = full(pl.newSet(false), n)
		if counting {
			for _, part := range s.parts {
				pl.release(pl.judge(part, base, n, so, within, counting))
			}
		}
	case s.Shape == reach.Asks:
		got = pl.leaf(s, base, n)
	case s.Shape == reach.NotOf:
		inner := pl.judge(s.parts[0], base, n, so, within, counting)
		got = full(pl.newSet(false), n)
		for w := range got.bits {
			got.bits[w] &^= inner.bits[w]
		}
		pl.release(inner)
	case s.Shape == reach.AllOf:
		got = full(pl.newSet(false), n)
		left := pl.copied(so)
		for _, part := range s.parts {
			one := pl.judge(part, base, n, left, within, counting)
			pl.and(got, one)
			if counting {
				pl.and(left, one)
			}
			pl.release(one)
		}
		pl.release(left)
	default:
		got = pl.newSet(false)
		for _, part := range s.parts {
			one := pl.judge(part, base, n, so, within, counting)
			pl.or(got, one)
			pl.release(one)
		}
	}
	if counting {
		s.alone += got.count(within)
		left := pl.copied(so)
		pl.and(left, got)
		s.left += left.count(within)
		pl.release(left)
	}
	return got
}

// full holds every one of a block's n rows.
func full(s *set, n int) *set {
	for w := range s.bits {
		switch {
		case n >= (w+1)*64:
			s.bits[w] = ^uint64(0)
		case n > w*64:
			s.bits[w] = 1<<(n-w*64) - 1
		}
	}
	return s
}

func (pl *plan) copied(s *set) *set {
	c := pl.newSet(s.first != nil)
	c.bits = s.bits
	if s.first != nil {
		*c.first = *s.first
	}
	return c
}

// and leaves in a the rows of both, each from the later second.
func (pl *plan) and(a, b *set) {
	for w := range a.bits {
		a.bits[w] &= b.bits[w]
	}
	switch {
	case b.first == nil:
	case a.first == nil:
		a.first = pl.firsts()
		*a.first = *b.first
	default:
		for i, at := range b.first {
			a.first[i] = max(a.first[i], at)
		}
	}
}

// or puts into a the rows of either, each from the earlier second.
func (pl *plan) or(a, b *set) {
	if a.first == nil && b.first == nil {
		for w := range a.bits {
			a.bits[w] |= b.bits[w]
		}
		return
	}
	pl.spell(a)
	if b.first != nil {
		pl.spell(b)
		for w := range a.bits {
			a.bits[w] |= b.bits[w]
		}
		for i := range a.first {
			a.first[i] = min(a.first[i], b.first[i])
		}
		return
	}
	for w, word := range b.bits {
		a.bits[w] |= word
		for ; word != 0; word &= word - 1 {
			a.first[w*64+bits.TrailingZeros64(word)] = 0
		}
	}
}

func (pl *plan) firsts() *[blockRows]int32 {
	if n := len(pl.spare); n > 0 {
		f := pl.spare[n-1]
		pl.spare = pl.spare[:n-1]
		return f
	}
	return new([blockRows]int32)
}

// spell writes out a set's firsts, Never where it does not hold, so that min
// may be taken over them.
func (pl *plan) spell(s *set) {
	if s.first == nil {
		s.first = pl.firsts()
		for i := range s.first {
			s.first[i] = 0
		}
	}
	for w, word := range s.bits {
		if word == ^uint64(0) {
			continue
		}
		for i := range 64 {
			if word>>i&1 == 0 {
				s.first[w*64+i] = Never
			}
		}
	}
}

func (pl *plan) leaf(s *step, base, n int) *set {
	switch s.source {
	case ofFact:
		return pl.factLeaf(s, base, n)
	case ofNothing:
		return pl.newSet(false)
	case ofArrival:
		return full(pl.newSet(false), n)
	}
	got := pl.newSet(true)
	stay := pl.log.seconds[base : base+n]
	// Firsts are written out, Never where the moment does not come.
	write := func(i int, at int32) {
		if at <= stay[i] {
			got.first[i] = at
			got.bits[i/64] |= 1 << (i % 64)
		} else {
			got.first[i] = Never
		}
	}
	switch s.source {
	case ofStay:
		for i := range stay {
			write(i, s.least)
		}
	case ofColumn:
		for i, at := range s.times[base : base+n] {
			write(i, at)
		}
	case ofHappenings:
		for i := range stay {
			write(i, s.happenedAt(pl.log, base+i))
		}
	case ofIdling:
		for i := range stay {
			from, _ := s.idledAt(pl.log, base+i)
			write(i, from)
		}
	}
	for i := n; i < blockRows; i++ {
		got.first[i] = Never
	}
	return got
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

func (pl *plan) factLeaf(s *step, base, n int) *set {
	got := pl.newSet(false)
	c := s.column
	judged := 0
	switch {
	case c.sparse != nil:
		judged = packSparse(&got.bits, c, base, n, s.verdicts)
	case c.wide != nil:
		judged = pack(&got.bits, c.wide, base, n, s.verdicts)
	case c.middle != nil:
		judged = pack(&got.bits, c.middle, base, n, s.verdicts)
	default:
		judged = packNarrow(&got.bits, c.narrow, base, n, (*[256]uint8)(s.verdicts))
	}
	// Rows past the column's end say nothing of the fact.
	if s.verdicts[0] == 1 {
		for i := judged; i < n; i++ {
			got.bits[i/64] |= 1 << (i % 64)
		}
	}
	return got
}

// packSparse is pack for a column that holds few rows.
func packSparse(words *[blockWords]uint64, c *column, base, n int, verdicts []uint8) int {
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

func pack[T uint16 | uint32](words *[blockWords]uint64, codes []T, base, n int, verdicts []uint8) int {
	if base >= len(codes) {
		return 0
	}
	codes = codes[base:min(base+n, len(codes))]
	for i, code := range codes {
		words[i/64] |= uint64(verdicts[code]) << (i % 64)
	}
	return len(codes)
}

// packNarrow is pack for a byte a row, where the table needs no bounds.
func packNarrow(words *[blockWords]uint64, codes []uint8, base, n int, verdicts *[256]uint8) int {
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
