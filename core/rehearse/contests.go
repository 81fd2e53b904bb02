package rehearse

import (
	"time"

	"gobbet/core/caps"
)

// Contests tells how pieces in play together fared.
type Contests struct {
	Shown []int   // showings of each piece
	Lost  [][]int // Lost[i][j] counts page views on which piece j kept piece i back
}

// Contests replays the log with all pieces in play, those that win first, and
// counts page views since a time. It gives ok false if it was stopped.
func (l *Log) Contests(pieces []*Rival, limits caps.SiteLimits, since time.Time, stop func() bool) (c Contests, ok bool) {
	n := len(pieces)
	p := &replay{log: l, limited: limits != (caps.SiteLimits{}), q: Question{Limits: limits, Rivals: pieces}, since: since.UnixNano(), mine: -1, leads: l.facts["visitor.lead"], shown: make([]int, n), between: make([][]int, n)}
	for i, piece := range pieces {
		p.pieces = append(p.pieces, piece.player())
		p.between[i] = make([]int, n)
	}
	if n > 0 && !p.run(stop) {
		return c, false
	}
	return Contests{p.shown, p.between}, true
}
