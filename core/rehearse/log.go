// Package rehearse replays a log of recorded visits against a reach, to see
// who would have seen a piece.
//
// The log is held in columns, and each fact's distinct values once:
//
//	row             0         1         2
//	visitor         0         0         1        codes of v1, v2, …
//	device.kind     1         1         2        codes of “desktop”, “phone”
//	scroll 50 %     14 s      never     40 s
//
// A clause is judged once for each distinct value and becomes a bitmap over the
// rows, or, about a moment, a column of the second from which it holds. A rule
// is and, or and not over these. Caps then replay each visitor's page views in
// order of arrival.
package rehearse

import (
	"cmp"
	"math"
	"slices"
	"time"

	"gobbet/core/reach"
)

// View is one page view as it was recorded. Seconds count from its arrival.
type View struct {
	Visitor string
	Visit   string
	At      time.Time // of arrival
	Facts   map[string]any
	Seconds int // how long it stayed
	// Marks[i] is when (i+1)·10 % of the page was first reached; Never if it was not.
	Marks    []int
	ExitAt   int // the first exit intent, or Never
	Idles    []Idle
	Happened []Happening
}

// Idle is a time in which the visitor did nothing.
type Idle struct{ Start, Length int }

// Happening is something that came about: Kind is click, seen, leaving_to or
// event, and About what it was about.
type Happening struct {
	Kind, About string
	Second      int
}

// Never is the second of what did not come about.
const Never = math.MaxInt32

const marks = 10

// Log is recorded page views, in columns. The zero Log is empty. Adding to it
// must not go on while it is read.
type Log struct {
	// HasMemory says that history facts which a view does not mention are 0.
	HasMemory bool

	rows     int
	visitors names
	visits   names
	visitor  []uint32
	visit    []uint32
	at       []int64 // nanoseconds since 1970
	seconds  []int32
	marks    [marks][]int32
	exit     []int32
	idleOf   []part // of idles, each row's
	idles    []idle
	happOf   []part
	happened []happened
	whats    names // kind, a NUL, about
	facts    map[string]*column
	// turns are the rows by visitor, then arrival, in the order of a replay: those of
	// visitor v are from turnsOf[v] to turnsOf[v+1]. Nil when out of date.
	turns   []turn
	turnsOf []uint32
	turnOf  []uint32   // the turn of each row
	lastAt  []int64    // when each visitor last came
	arrived []arrivals // of each block, as far as they are sorted
	// version is how often each block changed.
	version []uint32
	kept    *keeper
}

// turn is a page view as a replay comes to it, with what it reads of it.
type turn struct {
	row, visit uint32
	at         int64
}

// arrivals are the first and the last of a block.
type arrivals struct{ from, until int64 }

// part is where a row's share of a list begins and how long it is.
type part struct{ from, n uint32 }

type idle struct{ start, length int32 }

type happened struct {
	what   uint32
	second int32
}

// names gives each distinct text a number.
type names struct {
	codes map[string]uint32
	texts []string
}

func (n *names) code(text string) uint32 {
	if code, ok := n.codes[text]; ok {
		return code
	}
	if n.codes == nil {
		n.codes = map[string]uint32{}
	}
	code := uint32(len(n.texts))
	n.codes[text] = code
	n.texts = append(n.texts, text)
	return code
}

// column is one fact over all rows: the code of each row's value. Code 0 says
// nothing. A fact that few rows have holds those alone; one that many have
// holds a code for every row up to its last, in as few bytes as the number of
// distinct values asks for. Rows past its end say nothing.
type column struct {
	name   string
	values []reach.Value
	codes  map[string]uint32
	sparse []entry // by row; nil once there are many
	narrow []uint8
	middle []uint16
	wide   []uint32
}

// entry is one row of a sparse column.
type entry struct{ row, code uint32 }

const (
	entryRows  = 8   // of a column that holds all rows take the room of one entry
	fewEntries = 512 // are held sparsely whatever the rows
)

func newColumn(name string) *column {
	return &column{name: name, values: make([]reach.Value, 1), codes: map[string]uint32{}, sparse: []entry{}}
}

func (c *column) set(row int, v reach.Value) {
	key := string(v.AppendKey(nil))
	code, ok := c.codes[key]
	if !ok {
		code = uint32(len(c.values))
		c.codes[key] = code
		c.values = append(c.values, v)
		c.widen()
	}
	if c.sparse != nil {
		c.sparse = append(c.sparse, entry{uint32(row), code}) // rows only grow
		if len(c.sparse) >= fewEntries && len(c.sparse)*entryRows > row {
			c.fill()
		}
		return
	}
	c.put(row, code)
}

// fill makes a sparse column one that holds a code for every row.
func (c *column) fill() {
	few := c.sparse
	c.sparse, c.narrow = nil, []uint8{}
	switch {
	case len(c.values) > math.MaxUint16+1:
		c.wide, c.narrow = []uint32{}, nil
	case len(c.values) > math.MaxUint8+1:
		c.middle, c.narrow = []uint16{}, nil
	}
	for _, e := range few {
		c.put(int(e.row), e.code)
	}
}

func (c *column) put(row int, code uint32) {
	switch {
	case c.wide != nil:
		c.wide = put(c.wide, row, code)
	case c.middle != nil:
		c.middle = put(c.middle, row, uint16(code))
	default:
		c.narrow = put(c.narrow, row, uint8(code))
	}
}

func (c *column) widen() {
	if c.sparse != nil {
		return
	}
	switch len(c.values) {
	case math.MaxUint8 + 2:
		c.middle, c.narrow = widened[uint16](c.narrow), nil
	case math.MaxUint16 + 2:
		c.wide, c.middle = widened[uint32](c.middle), nil
	}
}

func put[T uint8 | uint16 | uint32](codes []T, row int, code T) []T {
	for len(codes) <= row {
		codes = append(codes, 0)
	}
	codes[row] = code
	return codes
}

func widened[To uint16 | uint32, From uint8 | uint16](codes []From) []To {
	wide := make([]To, len(codes), cap(codes))
	for i, code := range codes {
		wide[i] = To(code)
	}
	return wide
}

// firstAt is the first entry of a sparse column that is of a row or a later one.
func (c *column) firstAt(row int) int {
	at, _ := slices.BinarySearchFunc(c.sparse, uint32(row), func(e entry, row uint32) int { return cmp.Compare(e.row, row) })
	return at
}

func (c *column) code(row int) uint32 {
	if c.sparse != nil {
		if at := c.firstAt(row); at < len(c.sparse) && c.sparse[at].row == uint32(row) {
			return c.sparse[at].code
		}
		return 0
	}
	switch {
	case row < len(c.narrow):
		return uint32(c.narrow[row])
	case row < len(c.middle):
		return uint32(c.middle[row])
	case row < len(c.wide):
		return c.wide[row]
	}
	return 0
}

// Len is how many page views the log holds.
func (l *Log) Len() int { return l.rows }

// Add appends a page view and gives its row. Moments among the facts are
// passed over: they come from the recorded times.
func (l *Log) Add(v View) int {
	row := l.rows
	l.rows++
	l.turns, l.arrived = nil, nil
	if row%blockRows == 0 {
		l.version = append(l.version, 0)
	}
	l.visitor = append(l.visitor, l.visitors.code(v.Visitor))
	l.visit = append(l.visit, l.visits.code(v.Visit))
	l.at = append(l.at, v.At.UnixNano())
	l.seconds = append(l.seconds, 0)
	for i := range l.marks {
		l.marks[i] = append(l.marks[i], Never)
	}
	l.exit = append(l.exit, Never)
	l.idleOf, l.happOf = append(l.idleOf, part{}), append(l.happOf, part{})
	l.SetStay(row, v)
	if l.facts == nil {
		l.facts = map[string]*column{}
	}
	for name, is := range v.Facts {
		value, ok := reach.ValueOf(name, is)
		if f, known := reach.Find(name); !ok || !known || f.IsMoment() {
			continue
		}
		c := l.facts[name]
		if c == nil {
			c = newColumn(name)
			l.facts[name] = c
		}
		c.set(row, value)
	}
	return row
}

// SetStay replaces what a row says of the stay: its length and its moments.
// Views may be recorded a second time, when the visitor stayed on.
func (l *Log) SetStay(row int, v View) {
	l.version[row/blockRows]++
	// A stay ends before Never, so that what never comes is outside of it.
	l.seconds[row], l.exit[row] = min(second(v.Seconds), Never-1), second(v.ExitAt)
	for i := range l.marks {
		l.marks[i][row] = Never
		if i < len(v.Marks) {
			l.marks[i][row] = second(v.Marks[i])
		}
	}
	l.idleOf[row] = part{uint32(len(l.idles)), uint32(len(v.Idles))}
	for _, i := range slices.SortedFunc(slices.Values(v.Idles), func(a, b Idle) int { return a.Start - b.Start }) {
		l.idles = append(l.idles, idle{second(i.Start), second(i.Length)})
	}
	l.happOf[row] = part{uint32(len(l.happened)), uint32(len(v.Happened))}
	for _, h := range v.Happened {
		l.happened = append(l.happened, happened{l.whats.code(h.Kind + "\x00" + h.About), second(h.Second)})
	}
}

func second(s int) int32 { return int32(max(0, min(s, Never))) }

func (l *Log) idlesOf(row int) []idle {
	p := l.idleOf[row]
	return l.idles[p.from : p.from+p.n]
}

func (l *Log) happenedOf(row int) []happened {
	p := l.happOf[row]
	return l.happened[p.from : p.from+p.n]
}

// Sort readies the log for replaying: it must be called after the last Add and
// before any Rehearse, which may then go on at once with others.
func (l *Log) Sort() {
	if l.turns != nil || l.rows == 0 {
		return
	}
	// Counting sort by visitor keeps rows of one visitor in order of adding.
	l.turnsOf = make([]uint32, len(l.visitors.texts)+1)
	for _, v := range l.visitor {
		l.turnsOf[v+1]++
	}
	for i := 1; i < len(l.turnsOf); i++ {
		l.turnsOf[i] += l.turnsOf[i-1]
	}
	ends := slices.Clone(l.turnsOf)
	l.turns = make([]turn, l.rows)
	for row, v := range l.visitor {
		l.turns[ends[v]] = turn{uint32(row), l.visit[row], l.at[row]}
		ends[v]++
	}
	byArrival := func(a, b turn) int { return cmp.Compare(a.at, b.at) }
	l.lastAt = make([]int64, len(l.turnsOf)-1)
	for v := range l.lastAt {
		mine := l.of(v)
		if !slices.IsSortedFunc(mine, byArrival) {
			slices.SortStableFunc(mine, byArrival)
		}
		l.lastAt[v] = mine[len(mine)-1].at
	}
	l.turnOf = make([]uint32, l.rows)
	for at, t := range l.turns {
		l.turnOf[t.row] = uint32(at)
	}
	for at := range slices.Chunk(l.at, blockRows) {
		l.arrived = append(l.arrived, arrivals{slices.Min(at), slices.Max(at)})
	}
	if l.kept == nil {
		l.kept = &keeper{parts: map[string]*kept{}}
	}
}

// of is a visitor's page views, in order.
func (l *Log) of(visitor int) []turn { return l.turns[l.turnsOf[visitor]:l.turnsOf[visitor+1]] }

// At is when a row's page view arrived.
func (l *Log) At(row int) time.Time { return time.Unix(0, l.at[row]).UTC() }

// View gives a row back as it was added, but for facts that nothing declares.
func (l *Log) View(row int) View {
	v := View{
		Visitor: l.visitors.texts[l.visitor[row]], Visit: l.visits.texts[l.visit[row]], At: l.At(row),
		Facts: map[string]any{}, Seconds: int(l.seconds[row]), ExitAt: int(l.exit[row]),
	}
	for i := range l.marks {
		v.Marks = append(v.Marks, int(l.marks[i][row]))
	}
	for _, i := range l.idlesOf(row) {
		v.Idles = append(v.Idles, Idle{int(i.start), int(i.length)})
	}
	for _, h := range l.happenedOf(row) {
		text := l.whats.texts[h.what]
		nul := slices.Index([]byte(text), 0)
		v.Happened = append(v.Happened, Happening{text[:nul], text[nul+1:], int(h.second)})
	}
	for name, c := range l.facts {
		if code := c.code(row); code != 0 {
			v.Facts[name] = c.values[code].Actual()
		}
	}
	return v
}

// Tally is one value of a fact and how many page views had it.
type Tally struct {
	Value any
	Views int
	// Row is one of them, the latest.
	Row int
}

// Values gives the distinct values of a fact, the most common first. fromRow
// and later rows are counted if they arrived at or after since.
func (l *Log) Values(fact string, since time.Time) []Tally {
	c := l.facts[fact]
	if c == nil {
		return nil
	}
	tallies := make([]Tally, len(c.values))
	from := since.UnixNano()
	for row := range l.rows {
		if code := c.code(row); code != 0 && l.at[row] >= from {
			tallies[code].Views++
			tallies[code].Row = row
		}
	}
	for code := range tallies {
		tallies[code].Value = c.values[code].Actual()
	}
	tallies = slices.DeleteFunc(tallies, func(t Tally) bool { return t.Views == 0 })
	slices.SortStableFunc(tallies, func(a, b Tally) int { return b.Views - a.Views })
	return tallies
}

// Names lists the facts of a family, such as data., that the log has values of.
func (l *Log) Names(family string) []string {
	var found []string
	for name := range l.facts {
		if len(name) > len(family) && name[:len(family)] == family {
			found = append(found, name)
		}
	}
	slices.Sort(found)
	return found
}

// Happenings lists what a kind of happening was about, the most common first.
func (l *Log) Happenings(kind string) []Tally {
	counts := make([]int, len(l.whats.texts))
	for _, h := range l.happened {
		counts[h.what]++
	}
	var tallies []Tally
	for what, n := range counts {
		if text := l.whats.texts[what]; n > 0 && len(text) > len(kind) && text[:len(kind)+1] == kind+"\x00" {
			tallies = append(tallies, Tally{Value: text[len(kind)+1:], Views: n})
		}
	}
	slices.SortStableFunc(tallies, func(a, b Tally) int { return b.Views - a.Views })
	return tallies
}

// Saw reports whether a happening of a kind was ever recorded about something.
func (l *Log) Saw(kind, about string) bool {
	_, ok := l.whats.codes[kind+"\x00"+about]
	return ok
}

// Since counts the page views that arrived at or after a time.
func (l *Log) Since(t time.Time) (n int) {
	for _, at := range l.at {
		if at >= t.UnixNano() {
			n++
		}
	}
	return n
}
