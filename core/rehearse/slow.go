package rehearse

import "gobbet/core/reach"

// Where a rule's truth may come and go within a stay, because it asks for
// idling or denies a moment, it is judged a row at a time over spans of
// seconds. The fast way and this one agree wherever both can go.

// span is seconds from and until, both included.
type span struct{ from, until int32 }

// spansOf gives the seconds of a row's stay in which a node holds, in order
// and apart, and counts for it and below as plan.judge does.
func (pl *plan) spansOf(s *step, row int, so []span, counting bool) []span {
	stay := pl.log.seconds[row]
	mark := len(pl.arena)
	whole := span{0, stay}
	switch {
	case s.source == ofArrival:
		if counting {
			for _, part := range s.parts {
				pl.spansOf(part, row, so, counting)
			}
		}
		pl.arena = append(pl.arena, whole)
	case s.Shape == reach.Asks:
		if from, until := pl.clauseSpan(s, row); from <= until {
			pl.arena = append(pl.arena, span{from, until})
		}
	case s.Shape == reach.NotOf:
		inner := pl.spansOf(s.parts[0], row, so, counting)
		mark = len(pl.arena)
		next := int32(0)
		for _, one := range inner {
			if one.from > next {
				pl.arena = append(pl.arena, span{next, one.from - 1})
			}
			next = one.until + 1
		}
		if next <= stay {
			pl.arena = append(pl.arena, span{next, stay})
		}
	case s.Shape == reach.AllOf:
		all, left := []span{whole}, so
		for _, part := range s.parts {
			one := pl.spansOf(part, row, left, counting)
			all = pl.both(all, one)
			if counting {
				left = pl.both(left, one)
			}
		}
		mark = len(pl.arena)
		pl.arena = append(pl.arena, all...)
	default:
		var some []span
		for _, part := range s.parts {
			some = pl.either(some, pl.spansOf(part, row, so, counting))
		}
		mark = len(pl.arena)
		pl.arena = append(pl.arena, some...)
	}
	got := pl.arena[mark:len(pl.arena):len(pl.arena)]
	if counting {
		if len(got) > 0 {
			s.alone++
		}
		if len(pl.both(so, got)) > 0 {
			s.left++
		}
	}
	return got
}

// again gives the first second of a row's stay, from one on, in which the rule
// holds, or Never. An exit that was headed for before is over by then.
func (pl *plan) again(row int, from int32) int32 {
	stay := pl.log.seconds[row]
	pl.exitsFrom = from
	pl.arena = append(pl.arena[:0], span{0, stay})
	for _, one := range pl.spansOf(pl.root, row, pl.arena[:1:1], false) {
		if one.until >= from {
			return max(one.from, from)
		}
	}
	return Never
}

func (pl *plan) clauseSpan(s *step, row int) (from, until int32) {
	stay := pl.log.seconds[row]
	from, until = Never, stay
	switch s.source {
	case ofFact:
		if s.verdicts[s.column.code(row)] == 1 {
			from = 0
		}
	case ofStay:
		from = s.least
	case ofColumn:
		if from = s.times[row]; from < pl.exitsFrom && s.Test.Of.Name == reach.Exit {
			from = Never
		}
	case ofHappenings:
		from = s.happenedAt(pl.log, row)
	case ofIdling:
		from, until = s.idledAt(pl.log, row)
	}
	if from > stay {
		return 1, 0
	}
	return from, until
}

// both is the seconds in a and in b.
func (pl *plan) both(a, b []span) []span {
	mark := len(pl.arena)
	for i, j := 0, 0; i < len(a) && j < len(b); {
		from, until := max(a[i].from, b[j].from), min(a[i].until, b[j].until)
		if from <= until {
			pl.arena = append(pl.arena, span{from, until})
		}
		if a[i].until < b[j].until {
			i++
		} else {
			j++
		}
	}
	return pl.arena[mark:len(pl.arena):len(pl.arena)]
}

// either is the seconds in a or in b.
func (pl *plan) either(a, b []span) []span {
	mark := len(pl.arena)
	for i, j := 0, 0; i < len(a) || j < len(b); {
		var next span
		if j == len(b) || i < len(a) && a[i].from <= b[j].from {
			next = a[i]
			i++
		} else {
			next = b[j]
			j++
		}
		if last := len(pl.arena) - 1; last >= mark && next.from <= pl.arena[last].until+1 {
			pl.arena[last].until = max(pl.arena[last].until, next.until)
		} else {
			pl.arena = append(pl.arena, next)
		}
	}
	return pl.arena[mark:len(pl.arena):len(pl.arena)]
}
