// Package choose decides which pieces a visit gets: snapshot × visit × now →
// placements. It reads nothing but its arguments.
package choose

import (
	"crypto/sha256"
	"encoding/binary"
	"math"
	"time"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
)

// Live is a piece as a snapshot holds it.
type Live struct {
	ID     string
	Piece  *piece.Piece
	Hashes map[string]string // variant id → address of its drawing
	// TotalShown counts showings to everyone, as last heard from the store.
	TotalShown int
}

// Placement is a piece that a visit gets, at once or once its moments come.
type Placement struct {
	Piece   string     `json:"piece"`
	Variant string     `json:"variant"`
	Slot    string     `json:"slot"`
	Design  string     `json:"design"`
	Waiting reach.Rule `json:"waiting" tstype:"Rule | null"`
}

// Decide gives the placements of a visit, those that win first. The pieces come
// in the order in which they win their slots. A piece that shows at once takes
// its slot from every later one; one that waits takes it only when it comes.
func Decide(pieces []Live, v *reach.Visit, m *Memory, now time.Time) []Placement {
	placements := []Placement{}
	taken := map[string]bool{}
	for i := range pieces {
		live := &pieces[i]
		slot := live.Piece.Format.Slot()
		if taken[slot] {
			continue
		}
		verdict := live.Piece.Program.Judge(v)
		if verdict == reach.No {
			continue
		}
		remembered := m.Of(live.ID)
		if !live.Piece.Caps.None() {
			held := remembered.caps()
			held.TotalShown = live.TotalShown
			if _, _, held := live.Piece.Caps.Hold(held, now); held {
				continue
			}
		}
		variant := Allot(live.Piece.Split, m.Visitor, remembered.Variant)
		p := Placement{Piece: live.ID, Variant: variant, Slot: slot, Design: live.Hashes[variant]}
		if verdict == reach.Waits {
			p.Waiting = live.Piece.Program.Waiting(v)
		} else {
			taken[slot] = true
		}
		placements = append(placements, p)
	}
	return placements
}

// Allot gives the variant a visitor gets. One that was shown before stays, as
// long as it is there and has a share; otherwise the hash of the visitor and the split's
// salt falls evenly on the shares.
func Allot(s piece.Split, visitor, before string) string {
	sum := 0
	for _, v := range s.Variants {
		if v.ID == before && v.Share > 0 {
			return before
		}
		sum += v.Share
	}
	mark := int(unit(s.Salt, visitor) * float64(sum))
	for _, v := range s.Variants {
		if mark < v.Share {
			return v.ID
		}
		mark -= v.Share
	}
	return s.Variants[len(s.Variants)-1].ID
}

// unit maps a visitor evenly into [0, 1).
func unit(salt, visitor string) float64 {
	var buffer [128]byte
	sum := sha256.Sum256(append(append(append(buffer[:0], salt...), 0), visitor...))
	return math.Ldexp(float64(binary.BigEndian.Uint64(sum[:])>>11), -53)
}

// Memory is what a visitor's browser remembers of the site. Times are seconds
// since 1970. It comes from outside and may say anything: counts below zero and
// times to come are taken for none and for now.
type Memory struct {
	Visitor string           `json:"visitor"`
	Visits  int              `json:"visits"` // this one included
	Pages   int              `json:"pages"`  // this one included
	Last    int64            `json:"last,omitempty"`
	Lead    bool             `json:"lead,omitempty"`
	Visit   VisitMemory      `json:"visit"`
	Pieces  map[string]Known `json:"pieces,omitempty"`
}

// VisitMemory is what is remembered of the visit under way.
type VisitMemory struct {
	ID       string `json:"id"`
	Pages    int    `json:"pages"`    // this one included
	Landing  string `json:"landing"`  // address of its first page
	Referrer string `json:"referrer"` // of its first page
}

// Known is what is remembered of one piece.
type Known struct {
	Shown     []int64 `json:"shown,omitempty"` // the latest 50
	ThisVisit int     `json:"this_visit,omitempty"`
	Closed    int64   `json:"closed,omitempty"`
	Converted int64   `json:"converted,omitempty"`
	Variant   string  `json:"variant,omitempty"`
	// Counts that outlive the list of times.
	TimesShown     int `json:"times_shown,omitempty"`
	TimesClosed    int `json:"times_closed,omitempty"`
	TimesConverted int `json:"times_converted,omitempty"`
}

// Of gives what is remembered of one piece.
func (m *Memory) Of(id string) Known { return m.Pieces[id] }

const maxRemembered = 200

func (k Known) caps() caps.Memory {
	m := caps.Memory{ShownThisVisit: k.ThisVisit, Closed: at(k.Closed), Converted: at(k.Converted)}
	shown := k.Shown[max(0, len(k.Shown)-maxRemembered):]
	if len(shown) > 0 {
		m.Shown = make([]time.Time, 0, len(shown))
		for _, s := range shown {
			if s > 0 {
				m.Shown = append(m.Shown, at(s))
			}
		}
	}
	return m
}

func at(seconds int64) time.Time {
	if seconds <= 0 {
		return time.Time{}
	}
	return time.Unix(min(seconds, math.MaxInt32*4), 0)
}

// Tell says what the memory knows as facts of the visit.
func (m *Memory) Tell(v *reach.Visit, now time.Time) {
	v.HasMemory = true
	v.Set("visitor.new", m.Visits <= 1)
	v.Set("visitor.visits", max(1, m.Visits))
	v.Set("visitor.pages", max(1, m.Pages))
	v.Set("visitor.pages_this_visit", max(1, m.Visit.Pages))
	v.Set("visitor.lead", m.Lead)
	if last := at(m.Last); !last.IsZero() {
		v.Set("visitor.days_since_last", int(max(0, now.Sub(last))/caps.Day))
	}
	for id, k := range m.Pieces {
		v.Set("history.shown."+id, max(0, k.TimesShown))
		v.Set("history.closed."+id, max(0, k.TimesClosed))
		v.Set("history.converted."+id, max(0, k.TimesConverted))
	}
}
