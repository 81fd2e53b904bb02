// Package choose decides which pieces a visit gets: snapshot × visit × now →
// placements. It reads nothing but its arguments.
package choose

import (
	"crypto/sha256"
	"encoding/binary"
	"math"
	"slices"
	"strings"
	"time"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/schedule"
)

// Live is a piece as a snapshot holds it.
type Live struct {
	ID     string
	Piece  *piece.Piece
	Hashes map[string]string // variant id → address of its drawing
	// TotalShown counts showings to everyone, as last heard from the store.
	TotalShown int
}

// Clock is the time of a visit. Now reads on the site's wall clock, Theirs on
// the visitor's own.
type Clock struct {
	Now, Theirs time.Time
	// Over reports whether the time for deciding is up; nil: it never is. What
	// wins its slot first has been decided about by then, and stands.
	Over func() bool
}

// Reason says what holds a piece back from a visit on its arrival: one of
// these, or a caps.Reason.
type Reason string

const (
	ByRule     Reason = "rule"
	BySchedule Reason = "schedule"
	BySlot     Reason = "slot"  // a piece that wins it shows at once
	ByNever    Reason = "never" // the visitor asked not to see it again
)

// Standing is how a piece stands with a visit on its arrival.
type Standing struct {
	Verdict reach.Verdict // of the rule
	Held    Reason        // empty: not held back
	Until   time.Time     // when a cap frees it; zero: not in this visit, or never
	By      string        // the piece that has its slot
	// Rests is how much of the site's minimum time between pieces is left, after which
	// it is tried again, and Minimum that time.
	Rests, Minimum time.Duration
	Folded         bool // this visitor closed it, and only its tab shows
	// Eligible says that nothing but the site's limits and other pieces keeps it,
	// now or when its moments come, from this visitor.
	Eligible bool
	// variant is the visitor's; nil: nobody asked yet.
	variant *piece.Variant
}

// Stand says how one piece stands, whatever others are there.
func (l *Live) Stand(v *reach.Visit, m *Memory, clock Clock, limits caps.SiteLimits) Standing {
	return l.stand(v, onPhone(v), m, clock, limits)
}

func (l *Live) stand(v *reach.Visit, phone bool, m *Memory, clock Clock, limits caps.SiteLimits) Standing {
	s := Standing{Verdict: l.Piece.Program.Judge(v)}
	if s.Verdict == reach.No {
		s.Held = ByRule
		return s
	}
	wall := clock.Now
	if l.Piece.Schedule.Zone == schedule.OfVisitor {
		wall = clock.Theirs
	}
	if !l.Piece.Schedule.None() && !l.Piece.Schedule.Open(wall) {
		s.Held = BySchedule
		return s
	}
	if m.Of(l.ID).Never {
		s.Held = ByNever
		return s
	}
	if !l.Piece.Caps.None() {
		held := m.Of(l.ID).caps()
		held.TotalShown, held.Lead = l.TotalShown, m.Lead
		if why, until, is := l.Piece.Limits.Hold(held, clock.Now); is {
			if why == caps.AfterClose && l.keepsTab(m) {
				s.Verdict, s.Folded = reach.Yes, true
			} else {
				s.Held, s.Until = Reason(why), until
			}
			return s
		}
	}
	variant := l.allotted(m)
	s.Eligible, s.variant = true, variant
	if variant.Program != nil {
		s.Verdict = variant.Program.Judge(v)
	}
	how := l.Piece.Interruption(variant, phone)
	if how == caps.Interrupts && l.lastToInterrupt(m) {
		// A fly-in that is there from page to page does not interrupt anew on each.
		how = caps.Invited
	}
	why, until, is := limits.Hold(how, max(0, m.Visit.Overlays), at(m.Shown), clock.Now)
	switch {
	case is && why == caps.Quiet:
		// The page has it rest until then, and tries again. What waits rests when its
		// moment comes.
		if s.Verdict == reach.Yes {
			s.Rests = until.Sub(clock.Now)
			s.Minimum, _ = limits.Quiet.Length()
		}
	case is && (s.Verdict == reach.Yes || !l.Piece.ProgramOf(variant).MayBeAskedFor()):
		s.Held, s.Until = Reason(why), until
	}
	return s
}

// Overlay reports whether the piece lies over the page, where the site's limit
// on overlays counts it.
func (l *Live) Overlay(v *reach.Visit, m *Memory) bool {
	return l.Piece.On(l.allotted(m), onPhone(v)).Overlay()
}

// keepsTab reports whether the piece leaves a tab behind when this visitor closes it.
func (l *Live) keepsTab(m *Memory) bool {
	tab := l.allotted(m).Design.Frame.Tab
	return tab.Words != "" && tab.After
}

// lastToInterrupt reports whether nothing else interrupted since the piece last showed.
func (l *Live) lastToInterrupt(m *Memory) bool {
	shown := m.Of(l.ID).Shown
	return len(shown) > 0 && slices.Max(shown) >= m.Shown
}

// Slot is the place on the page that the piece claims on the visit's device;
// empty for one that any number may stand in.
func (l *Live) Slot(v *reach.Visit, m *Memory) string {
	return l.Piece.Slot(l.allotted(m), onPhone(v))
}

// Program is the rule by which the visitor gets the piece.
func (l *Live) Program(m *Memory) *reach.Program { return l.Piece.ProgramOf(l.allotted(m)) }

func onPhone(v *reach.Visit) bool { return v.Text("device.kind") == "phone" }

// Each visits the pieces with how they stand. The pieces come in the order in
// which they win their slots. A piece that shows at once takes its slot from
// every later one; one that waits or rests takes it only when it comes.
func Each(pieces []Live, v *reach.Visit, m *Memory, clock Clock, limits caps.SiteLimits, do func(l *Live, s Standing)) {
	each(pieces, nil, v, m, clock, limits, do)
}

// each is Each, but passes over the pieces whose paths begin otherwise.
func each(pieces []Live, begins []string, v *reach.Visit, m *Memory, clock Clock, limits caps.SiteLimits, do func(l *Live, s Standing)) {
	taken, phone, path := map[string]string{}, onPhone(v), v.Path()
	for i := range pieces {
		if begins != nil && !strings.HasPrefix(path, begins[i]) {
			continue
		}
		if clock.Over != nil && clock.Over() {
			return
		}
		l := &pieces[i]
		s := l.stand(v, phone, m, clock, limits)
		if s.Held == "" {
			slot := l.Piece.Slot(s.of(l, m), phone)
			if by, ok := taken[slot]; ok && slot != "" {
				s.Held, s.By = BySlot, by
			} else if s.Verdict == reach.Yes && s.Rests == 0 {
				taken[slot] = l.ID
			}
		}
		do(l, s)
	}
}

// Lineup is a site's pieces, those that win first, made ready to be decided
// about for many visits at once.
type Lineup struct {
	pieces []Live
	// What each piece's rule has the page's path begin with: one after another in
	// memory, for of a hundred pieces it rules out all but a few.
	begins []string
}

// NewLineup makes pieces ready, which are not changed from then on.
func NewLineup(pieces []Live) Lineup {
	l := Lineup{pieces: pieces, begins: make([]string, len(pieces))}
	for i := range pieces {
		l.begins[i] = pieces[i].Piece.Program.PathBegins()
	}
	all := strings.Join(l.begins, "")
	for i, one := range l.begins {
		l.begins[i], all = all[:len(one)], all[len(one):]
	}
	return l
}

// Decide gives the placements of a visit, those that win first, and for what the
// visitor counts from now on.
func (l Lineup) Decide(v *reach.Visit, m *Memory, clock Clock, limits caps.SiteLimits) (placements []Placement, eligible []Eligible) {
	placements = []Placement{}
	onPhone := onPhone(v)
	each(l.pieces, l.begins, v, m, clock, limits, func(l *Live, s Standing) {
		if s.Eligible && l.Piece.OfEligible() && !m.Of(l.ID).counted() {
			e := Eligible{Piece: l.ID}
			if !l.heldBack(m) {
				e.Variant = s.of(l, m).ID
			}
			eligible = append(eligible, e)
		}
		if s.Held == "" {
			p := l.place(v, onPhone, m, &s)
			if !s.Folded && l.heldBack(m) {
				p.Held, p.Interrupts = true, false
			}
			placements = append(placements, p)
		}
	})
	return placements, eligible
}

// Place is the placement of a piece that stands as it does.
func (l *Live) Place(v *reach.Visit, m *Memory, s Standing) Placement {
	return l.place(v, onPhone(v), m, &s)
}

func (l *Live) place(v *reach.Visit, phone bool, m *Memory, s *Standing) Placement {
	variant := s.of(l, m)
	overlay := l.Piece.On(variant, phone).Overlay() && !variant.Design.Frame.Tab.Begins()
	p := Placement{Piece: l.ID, Variant: variant.ID, Slot: l.Piece.Slot(variant, phone), Overlay: overlay, Interrupts: !s.Folded && l.interrupts(variant, phone, m), Folded: s.Folded, Design: l.Hashes[variant.ID]}
	if s.Verdict == reach.Waits {
		p.Waiting = l.Piece.ProgramOf(variant).Waiting(v)
	}
	return p
}

// interrupts reports whether a showing interrupts, as the site's limits count it.
func (l *Live) interrupts(v *piece.Variant, phone bool, m *Memory) bool {
	how := l.Piece.Interruption(v, phone)
	return how == caps.Covers || how == caps.Interrupts && !l.lastToInterrupt(m)
}

func (s *Standing) of(l *Live, m *Memory) *piece.Variant {
	if s.variant == nil {
		s.variant = l.allotted(m)
	}
	return s.variant
}

// noVariant is that of a rule that is tried alone.
var noVariant piece.Variant

// allotted is the variant that the visitor gets.
func (l *Live) allotted(m *Memory) *piece.Variant {
	if variants := l.Piece.Split.Variants; len(variants) == 1 {
		return &variants[0]
	}
	return Allot(&l.Piece.Split, m.Visitor, m.Of(l.ID).Variant)
}

// heldBack reports whether the visitor is one of those who are held back: the same
// ones always, but for those who have seen the piece before they were to be. What
// shows only when it is asked for is kept from nobody.
func (l *Live) heldBack(m *Memory) bool {
	return !l.Piece.Program.AskedFor() && HeldBack(&l.Piece.Split, m.Visitor, m.Of(l.ID).Variant)
}

// HeldBack reports whether a visitor is held back who has seen a variant before, or
// none (empty).
func HeldBack(s *piece.Split, visitor, before string) bool {
	return s.Held > 0 && before == "" && Unit(s.Salt+" held", visitor)*100 < float64(s.Held)
}

// Allot gives the variant a visitor gets. One that was shown before stays, as
// long as it is there and has a share; otherwise the hash of the visitor and the split's
// salt falls evenly on the shares. One without an id where there is no variant.
func Allot(s *piece.Split, visitor, before string) *piece.Variant {
	switch len(s.Variants) {
	case 0:
		return &noVariant // a rule alone is tried
	case 1:
		return &s.Variants[0]
	}
	sum := 0
	for i := range s.Variants {
		v := &s.Variants[i]
		if v.ID == before && v.Share > 0 {
			return v
		}
		sum += v.Share
	}
	mark := int(Unit(s.Salt, visitor) * float64(sum))
	for i := range s.Variants {
		v := &s.Variants[i]
		if mark < v.Share {
			return v
		}
		mark -= v.Share
	}
	return &s.Variants[len(s.Variants)-1]
}

// Unit maps a visitor evenly into [0, 1), each salt on its own.
func Unit(salt, visitor string) float64 {
	var buffer [128]byte
	sum := sha256.Sum256(append(append(append(buffer[:0], salt...), 0), visitor...))
	return math.Ldexp(float64(binary.BigEndian.Uint64(sum[:])>>11), -53)
}
