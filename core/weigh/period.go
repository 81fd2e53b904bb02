package weigh

import (
	"slices"
	"time"
)

// Run is a time in which visitors were split in one way.
type Run struct {
	Number int
	Began  time.Time
	// Follow says that the shares followed the winner.
	Follow bool
	Shares []Share
}

// Share is a variant's part of the visitors in a run.
type Share struct {
	ID, Name string
	Share    float64
	// Showing are how and when it shows where that is its own: the same text for the same.
	Showing string
}

// active are the variants that visitors could get.
func (r Run) active() (shares []Share) {
	for _, s := range r.Shares {
		if s.Share > 0 {
			shares = append(shares, s)
		}
	}
	return shares
}

// Period is the time in which the same variants ran together: what is compared.
type Period struct {
	Runs  []Run // one after another
	Arms  []Share
	Began time.Time
	// Ended is when other variants or shares came; nil: it goes on.
	Ended *time.Time
}

// Latest gives the latest time in which two or more variants ran with shares that
// did not change, or changed only to follow the winner; ok is false where none did.
// Runs are in order.
//
// A visitor belongs to the run in which they first saw the piece. So a variant
// that was there for weeks is compared with one that is minutes old by the minutes
// that both ran, and not by what came before.
func Latest(runs []Run) (p Period, ok bool) {
	last := len(runs) - 1
	for last >= 0 && len(runs[last].active()) < 2 {
		last--
	}
	if last < 0 {
		return p, false
	}
	first := last
	for first > 0 && together(runs[first-1], runs[last]) {
		first--
	}
	p = Period{Runs: runs[first : last+1], Arms: runs[last].active(), Began: runs[first].Began}
	if last+1 < len(runs) {
		p.Ended = &runs[last+1].Began
	}
	return p, true
}

// together reports whether two runs have the same variants that show alike, with shares in the
// same proportion unless both followed the winner.
func together(a, b Run) bool {
	as, bs := a.active(), b.active()
	if len(as) != len(bs) {
		return false
	}
	var sumA, sumB float64
	for i := range as {
		sumA, sumB = sumA+as[i].Share, sumB+bs[i].Share
	}
	return !slices.ContainsFunc(as, func(s Share) bool {
		i := slices.IndexFunc(bs, func(o Share) bool { return o.ID == s.ID && o.Showing == s.Showing })
		return i < 0 || !(a.Follow && b.Follow) && !alike(s.Share/sumA, bs[i].Share/sumB)
	})
}

func alike(a, b float64) bool { return a-b < 1e-9 && b-a < 1e-9 }

// Days is for how long the period ran, up to now if it goes on.
func (p Period) Days(now time.Time) float64 {
	end := now
	if p.Ended != nil {
		end = *p.Ended
	}
	return max(0, end.Sub(p.Began).Hours()/24)
}

// Changes reports whether its shares changed, so that its runs are to be compared
// one by one.
func (p Period) Changes() bool { return len(p.Runs) > 1 && p.Runs[0].Follow }
