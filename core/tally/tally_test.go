package tally

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"
	"time"
)

var dublin = func() *time.Location {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		panic(err)
	}
	return zone
}()

var noon = time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)

func someEvents(r *rand.Rand) (events []Event) {
	for i := range 120 {
		e := Event{
			ID: fmt.Sprintf("e%03d", i), At: noon.Add(time.Duration(r.IntN(400)) * 20 * time.Minute), Kind: []string{Shown, Shown, Held, Closed, Converted, Left, Reached, Eligible}[r.IntN(8)],
			Piece: []string{"p", "q"}[r.IntN(2)], Variant: []string{"a", "a", "a", "b"}[r.IntN(4)], Run: 1 + r.IntN(2), Visitor: fmt.Sprint("v", r.IntN(12)),
			Page: []string{"/", "/shop"}[r.IntN(2)], Cuts: Cuts{Device: []string{"phone", "desktop", ""}[r.IntN(3)], Known: "new"}, After: r.IntN(4000) - 100,
		}
		switch e.Kind {
		case Held:
			e.Variant = HeldBack
		case Reached:
			e.Piece, e.Variant, e.Run, e.Goal = "", "", 0, Goal{[]string{"order", "class"}[r.IntN(2)], int64(r.IntN(9000)), 1 + r.IntN(4)}
		}
		events = append(events, e)
	}
	return events
}

// byHand counts events one at a time, as a store does that keeps totals.
func byHand(events []Event) *Totals {
	t := &Totals{}
	sightings, goals := map[[2]string]Sighting{}, map[string][]ReachedGoal{}
	for i := range events {
		e := &events[i]
		t.Add(e, dublin)
		if e.Kind == Reached {
			with := append(goals[e.Visitor], ReachedGoal{e.ID, e.At, e.Goal})
			for key, s := range sightings {
				if key[0] == e.Visitor {
					t.Count(&s, goals[e.Visitor], -1)
					t.Count(&s, with, 1)
				}
			}
			goals[e.Visitor] = with
		}
		if e.Exposes() {
			key := [2]string{e.Visitor, e.Piece}
			s := sightings[key]
			t.Count(&s, goals[e.Visitor], -1)
			s.Add(e, dublin)
			t.Count(&s, goals[e.Visitor], 1)
			sightings[key] = s
		}
	}
	t.Trim()
	return t
}

func TestTotalsAreOfTheSetOfEvents(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 4))
	for range 30 {
		events := someEvents(r)
		want := byHand(events)
		for range 4 {
			r.Shuffle(len(events), func(i, j int) { events[i], events[j] = events[j], events[i] })
			if got := byHand(events); !reflect.DeepEqual(got, want) {
				t.Fatalf("in another order %+v, not %+v", got, want)
			}
		}
	}
}

// Each of these is told by the plainest counting there is.
func TestTotalsCountVisitorsOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 4))
	for range 30 {
		events := someEvents(r)
		totals := byHand(events)
		seen, converted, shown := map[[2]string]bool{}, map[[2]string]bool{}, 0
		first := map[[2]string]time.Time{}
		for _, e := range events {
			key := [2]string{e.Visitor, e.Piece}
			if e.Exposes() {
				seen[key] = true
				if at, ok := first[key]; !ok || e.At.Before(at) {
					first[key] = e.At
				}
			}
			if e.Kind == Converted {
				converted[key] = true
			}
			if e.Kind == Shown || e.Kind == Held {
				shown++
			}
		}
		worth := map[string]int64{}
		for key, at := range first {
			for _, e := range events {
				if e.Kind == Reached && e.Visitor == key[0] && !e.At.Before(at) && !e.At.After(at.AddDate(0, 0, e.Within)) {
					worth[e.Goal.Goal] += e.Amount
				}
			}
		}
		var v, c, s, hv, hc, hs, phones int
		got := map[string]int64{}
		for key, d := range totals.Days {
			switch {
			case key.Cut == ByDevice && key.Goal == "":
				phones += d.Visitors
			case key.Cut != "":
			case key.Goal != "":
				got[key.Goal] += d.Amount
			default:
				v, c, s = v+d.Visitors, c+d.Conversions, s+d.Showings
			}
		}
		for _, h := range totals.Hours {
			hv, hc, hs = hv+h.Visitors, hc+h.Converted, hs+h.Showings
		}
		if v != len(seen) || c != len(converted) || s != shown || hv != v || hc != c || hs != s || phones > v || phones == 0 {
			t.Fatalf("%d visitors, %d conversions, %d showings, by hour %d, %d, %d; want %d, %d, %d", v, c, s, hv, hc, hs, len(seen), len(converted), shown)
		}
		if got["order"] != worth["order"] || got["class"] != worth["class"] {
			t.Fatalf("worth %v, want %v", got, worth)
		}
	}
}

func TestHoursGoByTheSitesClock(t *testing.T) {
	kolkata, _ := time.LoadLocation("Asia/Kolkata") // half an hour off
	for _, c := range []struct {
		at   string
		zone *time.Location
		hour string
		day  string
	}{
		{"2026-10-25T00:30:00Z", dublin, "2026-10-25T00:00:00Z", "2026-10-25"}, // 1:30, the first time
		{"2026-10-25T01:30:00Z", dublin, "2026-10-25T01:00:00Z", "2026-10-25"}, // 1:30 again
		{"2026-10-24T23:10:00Z", dublin, "2026-10-24T23:00:00Z", "2026-10-25"}, // that day has 25 hours
		{"2026-10-25T23:59:59.9Z", dublin, "2026-10-25T23:00:00Z", "2026-10-25"},
		{"2026-06-30T23:15:00Z", dublin, "2026-06-30T23:00:00Z", "2026-07-01"},
		{"2026-11-20T18:45:10Z", kolkata, "2026-11-20T18:30:00Z", "2026-11-21"},
	} {
		at, _ := time.Parse(time.RFC3339Nano, c.at)
		if hour := HourOf(at, c.zone).Format(time.RFC3339); hour != c.hour {
			t.Errorf("%s: hour %s, want %s", c.at, hour, c.hour)
		}
		if day := DayOf(at, c.zone).Format(time.DateOnly); day != c.day {
			t.Errorf("%s: day %s, want %s", c.at, day, c.day)
		}
	}
}

// A conversion whose showing comes later, or from an earlier time, moves with it.
func TestTheEarliestEventDecides(t *testing.T) {
	late := Event{ID: "2", At: noon, Kind: Converted, Piece: "p", Variant: "b", Run: 2, Visitor: "v"}
	early := Event{ID: "1", At: noon.Add(-time.Hour), Kind: Shown, Piece: "p", Variant: "a", Run: 1, Visitor: "v", Page: "/shop"}
	var s Sighting
	s.Add(&late, dublin)
	s.Add(&early, dublin)
	if s.Variant != "a" || s.Run != 1 || s.Page != "/shop" || !s.Several || !s.ConvertedAt.Equal(noon) {
		t.Errorf("%+v", s)
	}
	if got := s.reached([]ReachedGoal{{"g", noon.Add(-2 * time.Hour), Goal{"order", 100, 30}}, {"h", noon.AddDate(0, 0, 30), Goal{"order", 70, 30}}, {"i", noon, Goal{"order", 5, 30}}, {"j", noon, Goal{"order", 6, 30}}}); len(got) != 1 || got[0].amount != 11 {
		t.Errorf("%+v", got)
	}
}
