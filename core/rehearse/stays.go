package rehearse

import (
	"math"
	"slices"
	"time"

	"gobbet/core/reach"
)

// Stays is what visitors did on the page views that a rule's facts select,
// whatever moments it waits for.
type Stays struct {
	PageViews int
	// StayedFor and IdledFor give for each whole number of seconds from 0 the
	// share of the page views that stayed, or once idled, at least so long.
	StayedFor, IdledFor []float64
	// ScrolledTo gives for each tenth of the page, 0 % to 100 %, the share that came so far.
	ScrolledTo []float64
	// Left is the share that headed for the exit.
	Left float64
}

const longestCurve = 600 // seconds

// Stays tells of the page views since a time that a rule's facts select.
func (l *Log) Stays(p *reach.Program, since time.Time, stop func() bool) (s Stays, ok bool) {
	from := since.UnixNano()
	pl := newPlan(l, p, true)
	defer pl.done()
	where, _, ok := pl.find(from, false, stop)
	if !ok {
		return s, false
	}
	stayed, idled := make([]int, longestCurve+1), make([]int, longestCurve+1)
	var scrolled [marks + 1]int
	left := 0
	for row, at := range l.at {
		if at < from || !where.has(uint32(row)) {
			continue
		}
		s.PageViews++
		stay := l.seconds[row]
		stayed[min(stay, longestCurve)]++
		longest := int32(0)
		for _, i := range l.idlesOf(row) {
			longest = max(longest, i.length)
		}
		idled[min(longest, longestCurve)]++
		depth := 0
		for i := range l.marks {
			if l.marks[i][row] <= stay {
				depth = i + 1
			}
		}
		scrolled[depth]++
		if l.exit[row] <= stay {
			left++
		}
	}
	s.StayedFor, s.IdledFor, s.ScrolledTo = s.atLeast(stayed), s.atLeast(idled), s.atLeast(scrolled[:])
	if s.PageViews > 0 {
		s.Left = float64(left) / float64(s.PageViews)
	}
	return s, true
}

// atLeast turns counts of each value into shares of that value or more.
func (s *Stays) atLeast(counts []int) []float64 {
	shares := make([]float64, len(counts))
	sum := 0
	for i, n := range slices.Backward(counts) {
		if sum += n; s.PageViews > 0 {
			shares[i] = float64(sum) / float64(s.PageViews)
		}
	}
	return shares
}

// Typical is a stay in the middle of those on the page views that a rule's
// facts select: half stayed longer, half had scrolled so far by then. Not ok
// where there are none.
func (l *Log) Typical(p *reach.Program, since time.Time) (v View, ok bool) {
	from := since.UnixNano()
	where := l.find(p, true)
	var stays []int32
	var reached [marks][]int32
	for row, at := range l.at {
		if at < from || !where.has(uint32(row)) {
			continue
		}
		stays = append(stays, l.seconds[row])
		for i := range l.marks {
			reached[i] = append(reached[i], l.marks[i][row])
		}
	}
	if len(stays) == 0 {
		return View{}, false
	}
	middle := func(of []int32) int {
		slices.Sort(of)
		return int(of[len(of)/2])
	}
	v = View{Seconds: middle(stays), ExitAt: Never}
	for i := range reached {
		if at := middle(reached[i]); at <= v.Seconds {
			v.Marks = append(v.Marks, at)
		}
	}
	return v, true
}

// Alone is a single page view, of which several rules can be asked.
type Alone struct{ log *Log }

// NewAlone takes a page view by itself.
func NewAlone(v View) Alone {
	l := &Log{HasMemory: true}
	l.Add(v)
	return Alone{l}
}

// FirstSecond is when in the stay a rule comes true; not ok where it does not.
func (a Alone) FirstSecond(p *reach.Program) (second int, ok bool) {
	pl := newPlan(a.log, p, false)
	pl.root.slow = true // a single row is not worth a block
	where, _, _ := pl.find(math.MinInt64, false, nil)
	return int(where.at(0)), where.has(0)
}

// FirstSecond is when in the stay of a single page view a rule comes true;
// not ok where it does not.
func FirstSecond(p *reach.Program, v View) (second int, ok bool) { return NewAlone(v).FirstSecond(p) }

// Sample gives up to n rows since a time, the latest first, on which the rule
// comes true, or on which it does not.
func (l *Log) Sample(p *reach.Program, since time.Time, comes bool, n int) []int {
	from := since.UnixNano()
	where := l.find(p, false)
	var rows []int
	for row := l.rows - 1; row >= 0 && len(rows) < n; row-- {
		if l.at[row] >= from && where.has(uint32(row)) == comes {
			rows = append(rows, row)
		}
	}
	return rows
}
