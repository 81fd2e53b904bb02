package schedule

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
)

// The week laid out minute by minute: each span is drawn onto the days it
// begins on, over midnight too, and a minute is open if something is drawn there.

const week = 7 * minutes

func drawn(s Schedule) (open [week]bool) {
	hours := s.Hours
	if len(hours) == 0 {
		hours = []Hours{{0, minutes}}
	}
	for day, name := range Weekdays {
		chosen := len(s.Days) == 0
		for _, d := range s.Days {
			chosen = chosen || d == name
		}
		if !chosen {
			continue
		}
		for _, h := range hours {
			length := h.To - h.From
			if length <= 0 {
				length += minutes
			}
			for m := range length {
				open[(day*minutes+h.From+m)%week] = true
			}
		}
	}
	return open
}

func TestOpenAgreesWithAWeekDrawnByHand(t *testing.T) {
	dice := rand.New(rand.NewPCG(3, 26))
	sunday := time.Date(2026, 11, 22, 0, 0, 0, 0, time.UTC)
	opens, shuts := 0, 0
	for range 120 {
		var s Schedule
		for _, name := range Weekdays {
			if dice.IntN(3) == 0 {
				s.Days = append(s.Days, name)
			}
		}
		for range dice.IntN(4) {
			h := Hours{dice.IntN(minutes), 1 + dice.IntN(minutes)}
			if h.From != h.To {
				s.Hours = append(s.Hours, h)
			}
		}
		if err := s.Check(); err != nil {
			t.Fatalf("%+v: %v", s, err)
		}
		open := drawn(s)
		for m := range week {
			at := sunday.Add(time.Duration(m)*time.Minute + time.Duration(dice.IntN(60))*time.Second)
			if got := s.Open(at); got != open[m] {
				t.Fatalf("%+v at %s: open %v, want %v", s, at.Format("Mon 15:04:05"), got, open[m])
			}
			if open[m] {
				opens++
			} else {
				shuts++
			}
		}
	}
	if min(opens, shuts) < 200_000 {
		t.Errorf("%d minutes open and %d shut: the dice do not try both", opens, shuts)
	}
}

// Bounds are read on the wall, whatever zone the clock hangs in.
func TestBoundsAreOnTheWall(t *testing.T) {
	dice := rand.New(rand.NewPCG(5, 26))
	wall := func() time.Time {
		return time.Date(2026, time.Month(1+dice.IntN(12)), 1+dice.IntN(28), dice.IntN(24), dice.IntN(60), 0, 0, time.UTC)
	}
	for range 5000 {
		from, until, at := wall(), wall(), wall()
		if !from.Before(until) {
			from, until = until, from.Add(time.Minute)
		}
		s := Schedule{From: from.Format(layout), Until: until.Format(layout)}
		zone := time.FixedZone("", 900*(dice.IntN(105)-48)) // quarter hours from -12 to +14
		there := time.Date(at.Year(), at.Month(), at.Day(), at.Hour(), at.Minute(), dice.IntN(60), 0, zone)
		open := !at.Before(from) && at.Before(until)
		if got := s.Open(there); got != open {
			t.Fatalf("%+v at %s: open %v, want %v", s, there, got, open)
		}
		if got := s.Over(there); got != !at.Before(until) {
			t.Fatalf("%+v at %s: over %v", s, there, got)
		}
		if s.Weekly().None() == false || fmt.Sprint(s.Weekly()) == fmt.Sprint(s) {
			t.Fatalf("%+v: what is left for the week is %+v", s, s.Weekly())
		}
	}
}
