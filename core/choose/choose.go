// Package choose decides which pieces a visit gets: snapshot × visit × now →
// placements. It reads nothing but its arguments.
package choose

import (
	"crypto/sha256"
	"encoding/binary"
	"math"
	"time"

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
