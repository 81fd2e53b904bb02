package rehearse

import "math/bits"

// Rows are judged a block at a time, small enough for the processor's cache.
const (
	blockRows  = 2048
	blockWords = blockRows / 64
)

// mask picks rows of a block.
type mask = [blockWords]uint64

// set says of each row of a block from which second something holds. Where
// first is nil it holds for the whole stay or not at all; of rows that it does not
// hold on, first says anything.
type set struct {
	bits  mask
	first *[blockRows]int32
	lent  bool // first belongs to others, and is not written to
}

func (pl *plan) newSet() *set {
	n := len(pl.free)
	if n == 0 {
		return &set{}
	}
	s := pl.free[n-1]
	pl.free = pl.free[:n-1]
	s.bits = mask{}
	return s
}

func (pl *plan) full(n int) *set {
	s := pl.newSet()
	s.fill(n)
	return s
}

// fill has a set hold every one of a block's n rows.
func (s *set) fill(n int) { s.bits = allOf(n) }

// allOf picks every one of a block's n rows.
func allOf(n int) (m mask) {
	for w := range m {
		switch {
		case n >= (w+1)*64:
			m[w] = ^uint64(0)
		case n > w*64:
			m[w] = 1<<(n-w*64) - 1
		}
	}
	return m
}

func (pl *plan) release(s *set) {
	if s.first != nil && !s.lent {
		pl.spare = append(pl.spare, s.first)
	}
	s.first, s.lent = nil, false
	pl.free = append(pl.free, s)
}

func (pl *plan) firsts() *[blockRows]int32 {
	n := len(pl.spare)
	if n == 0 {
		return new([blockRows]int32)
	}
	f := pl.spare[n-1]
	pl.spare = pl.spare[:n-1]
	return f
}

// own lets a set's firsts be written to.
func (pl *plan) own(s *set) {
	if s.lent {
		f := pl.firsts()
		*f = *s.first
		s.first, s.lent = f, false
	}
}

// and leaves in a the rows of both, each from the later second.
func (pl *plan) and(a, b *set) {
	for w := range a.bits {
		a.bits[w] &= b.bits[w]
	}
	switch {
	case b.first == nil:
		return
	case a.first == nil:
		a.first, a.lent, b.first, b.lent = b.first, b.lent, nil, false
		return
	case a.lent && !b.lent:
		a.first, a.lent, b.first, b.lent = b.first, b.lent, a.first, a.lent
	}
	pl.own(a)
	for i, at := range b.first {
		a.first[i] = max(a.first[i], at)
	}
}

// or puts into a the rows of either, each from the earlier second.
func (pl *plan) or(a, b *set) {
	if a.first == nil || b.first != nil && a.lent && !b.lent {
		*a, *b = *b, *a
	}
	switch {
	case a.first == nil:
		for w := range a.bits {
			a.bits[w] |= b.bits[w]
		}
	case b.first == nil:
		pl.own(a)
		for w, word := range b.bits {
			a.bits[w] |= word
			for ; word != 0; word &= word - 1 {
				a.first[w*64+bits.TrailingZeros64(word)] = 0
			}
		}
	default:
		pl.own(a)
		for w := range a.bits {
			either(a.first[w*64:w*64+64], b.first[w*64:w*64+64], a.bits[w], b.bits[w])
			a.bits[w] |= b.bits[w]
		}
	}
}

// either leaves in a the earlier of the seconds of two, for the rows that each has.
func either(a, b []int32, ofA, ofB uint64) {
	switch {
	case ofB == 0:
	case ofA == 0:
		copy(a, b)
	case ofA&ofB == ^uint64(0):
		for i, at := range b {
			a[i] = min(a[i], at)
		}
	default:
		b = b[:len(a)]
		for i, x := range a {
			y := b[i]
			if ofA>>(i&63)&1 == 0 {
				x = Never
			}
			if ofB>>(i&63)&1 == 0 {
				y = Never
			}
			a[i] = min(x, y)
		}
	}
}

// found is on which rows a rule holds, and from which second.
type found struct {
	bits  []uint64
	first []int32 // nil: from arrival
}

// has reports whether the rule holds at some second of a row's stay.
func (f *found) has(row uint32) bool { return f.bits[row>>6]>>(row&63)&1 == 1 }

// at is the first second that it holds, or Never.
func (f *found) at(row uint32) int32 {
	switch {
	case !f.has(row):
		return Never
	case f.first == nil:
		return 0
	}
	return f.first[row]
}
