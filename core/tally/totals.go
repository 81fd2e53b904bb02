package tally

import (
	"math/big"
	"time"
)

// By what visitors of a piece are counted apart.
const (
	ByPage    = "page"
	ByChannel = "channel"
	ByDevice  = "device"
	ByCountry = "country"
	ByKnown   = "known"
)

// AllCuts are all of those.
var AllCuts = []string{ByPage, ByChannel, ByDevice, ByCountry, ByKnown}

// DayKey says what is counted in a Daily.
type DayKey struct {
	Piece, Variant string
	Run            int
	Goal           string // empty: the piece's own conversion
	Cut, Value     string // empty: all visitors
	Day            time.Time
}

// Daily counts visitors by the day they first saw the piece. Of a goal it has
// those who reached it, and what that was worth.
type Daily struct {
	Visitors, Conversions, Showings int
	Several                         int
	Amount                          int64   // in hundredths
	Squares                         big.Int // of each visitor's amount
}

// HourKey says what is counted in an Hourly.
type HourKey struct {
	Piece, Variant string
	Run            int
	Hour           time.Time
}

// Hourly counts what happened in an hour.
type Hourly struct {
	Visitors  int // who first saw it
	Converted int // who first converted
	Showings  int
	Closes    int
	Quick     int // closes within Quick
	Lefts     int
}

// GoalKey says what is counted in a GoalHour.
type GoalKey struct {
	Goal string
	Hour time.Time
}

// GoalHour counts how often a goal was reached in an hour, by anybody.
type GoalHour struct {
	Times  int
	Amount int64
}

// Totals are sums of what events and sightings contribute. The zero value is ready.
type Totals struct {
	Days  map[DayKey]*Daily
	Hours map[HourKey]*Hourly
	Goals map[GoalKey]*GoalHour
}

func at[K comparable, V any](m *map[K]*V, key K) *V {
	if *m == nil {
		*m = map[K]*V{}
	}
	v := (*m)[key]
	if v == nil {
		v = new(V)
		(*m)[key] = v
	}
	return v
}

// Add counts what an event is by itself.
func (t *Totals) Add(e *Event, zone *time.Location) {
	if e.Kind == Reached {
		g := at(&t.Goals, GoalKey{e.Goal.Goal, HourOf(e.At, zone)})
		g.Times++
		g.Amount += e.Amount
		return
	}
	if e.Kind == Converted {
		return // counts for its visitor alone
	}
	h := at(&t.Hours, HourKey{e.Piece, e.Variant, e.Run, HourOf(e.At, zone)})
	switch e.Kind {
	case Shown, Held:
		h.Showings++
		at(&t.Days, DayKey{Piece: e.Piece, Variant: e.Variant, Run: e.Run, Day: DayOf(e.At, zone)}).Showings++
	case Closed:
		h.Closes++
		if e.After >= 0 && time.Duration(e.After)*time.Millisecond <= Quick {
			h.Quick++
		}
	case Left:
		h.Lefts++
	}
}

// Count adds what a sighting contributes, with the goals its visitor reached.
// Sign is 1, or −1 to take away what it did before.
func (t *Totals) Count(s *Sighting, goals []ReachedGoal, sign int) {
	if s.FirstID == "" {
		return
	}
	at(&t.Hours, HourKey{s.Piece, s.Variant, s.Run, s.Hour}).Visitors += sign
	if s.ConvertedHour != nil {
		at(&t.Hours, HourKey{s.Piece, s.Variant, s.Run, *s.ConvertedHour}).Converted += sign
	}
	reached := s.reached(goals)
	s.eachCut(func(cut, value string) {
		key := DayKey{Piece: s.Piece, Variant: s.Variant, Run: s.Run, Cut: cut, Value: value, Day: s.Day}
		d := at(&t.Days, key)
		d.Visitors += sign
		if s.ConvertedAt != nil {
			d.Conversions += sign
		}
		if s.Several {
			d.Several += sign
		}
		for _, w := range reached {
			key.Goal = w.goal
			g := at(&t.Days, key)
			g.Conversions += sign
			g.Amount += int64(sign) * w.amount
			square := new(big.Int).Mul(big.NewInt(w.amount), big.NewInt(w.amount))
			if sign < 0 {
				square.Neg(square)
			}
			g.Squares.Add(&g.Squares, square)
		}
	})
}

// eachCut visits what the sighting counts in: all visitors, and each cut that is known.
func (s *Sighting) eachCut(do func(cut, value string)) {
	do("", "")
	for _, c := range [...]struct{ cut, value string }{{ByPage, s.Page}, {ByChannel, s.Channel}, {ByDevice, s.Device}, {ByCountry, s.Country}, {ByKnown, s.Known}} {
		if c.value != "" {
			do(c.cut, c.value)
		}
	}
}

// Trim forgets what came to nothing.
func (t *Totals) Trim() {
	for key, d := range t.Days {
		if d.Visitors == 0 && d.Conversions == 0 && d.Showings == 0 && d.Several == 0 && d.Amount == 0 && d.Squares.Sign() == 0 {
			delete(t.Days, key)
		}
	}
	for key, h := range t.Hours {
		if *h == (Hourly{}) {
			delete(t.Hours, key)
		}
	}
	for key, g := range t.Goals {
		if *g == (GoalHour{}) {
			delete(t.Goals, key)
		}
	}
}
