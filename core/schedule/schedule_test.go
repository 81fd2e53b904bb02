package schedule

import (
	"testing"
	"time"

	"gobbet/core/fault"
)

// on gives a time of the week that starts on Monday 23 November 2026.
func on(day, hour, minute int) time.Time {
	return time.Date(2026, 11, 23+day, hour, minute, 0, 0, time.FixedZone("", -5*3600))
}

func TestOpen(t *testing.T) {
	work := Schedule{Days: []string{"mon", "tue"}, Hours: []Hours{{540, 1020}}}
	night := Schedule{Days: []string{"fri"}, Hours: []Hours{{1320, 120}}}
	for _, c := range []struct {
		name string
		s    Schedule
		at   time.Time
		open bool
	}{
		{"none is always open", Schedule{}, on(6, 3, 0), true},
		{"its first minute", work, on(0, 9, 0), true},
		{"before it", work, on(0, 8, 59), false},
		{"its end is outside", work, on(0, 17, 0), false},
		{"another day", work, on(2, 12, 0), false},
		{"over midnight, evening", night, on(4, 22, 0), true},
		{"over midnight, the morning after", night, on(5, 1, 59), true},
		{"over midnight, the evening after", night, on(5, 22, 0), false},
		{"over midnight, the morning of the day itself", night, on(4, 1, 0), false},
		{"over midnight from Sunday to Monday", Schedule{Days: []string{"sun"}, Hours: []Hours{{1380, 60}}}, on(7, 0, 30), true},
		{"to midnight", Schedule{Hours: []Hours{{1380, 1440}}}, on(0, 23, 59), true},
		{"a bound is on the wall clock", Schedule{From: "2026-11-23T09:00"}, on(0, 9, 0), true},
		{"before the bound", Schedule{From: "2026-11-23T09:00"}, on(0, 8, 59), false},
		{"the end is outside", Schedule{Until: "2026-11-23T09:00"}, on(0, 9, 0), false},
		{"just before the end", Schedule{Until: "2026-11-23T09:00"}, on(0, 8, 59), true},
	} {
		if err := c.s.Check(); err != nil {
			t.Errorf("%s: %v", c.name, err)
		}
		if got := c.s.Open(c.at); got != c.open {
			t.Errorf("%s: open %v, want %v", c.name, got, c.open)
		}
	}
}

// A minute of the week is open as often as the spans, laid out by hand, say.
func TestOpenHoursAddUp(t *testing.T) {
	s := Schedule{Days: []string{"sat", "sun"}, Hours: []Hours{{600, 660}, {1410, 30}}}
	open := 0
	for m := range 7 * minutes {
		if s.Open(on(0, 0, m)) {
			open++
		}
	}
	if open != 2*(60+60) {
		t.Errorf("%d minutes are open, want 240", open)
	}
}

func TestCheckNamesThePlace(t *testing.T) {
	for doc, at := range map[string]string{
		`{"from":"tomorrow"}`: "from", `{"until":"2026-13-01T00:00"}`: "until", `{"from":"2026-12-02T00:00","until":"2026-12-01T00:00"}`: "until",
		`{"days":["mon","lun"]}`: "days[1]", `{"hours":[{"from":-1,"to":60}]}`: "hours[0].from", `{"hours":[{"from":0,"to":1441}]}`: "hours[0].to",
		`{"hours":[{"from":60,"to":60}]}`: "hours[0].to", `{"zone":"moon"}`: "zone", `{"when":1}`: "when", `{"days":"mon"}`: "days",
	} {
		_, err := Parse([]byte(doc))
		if faults := fault.Of(err); len(faults) != 1 || faults[0].At != at {
			t.Errorf("%s: %v, want one fault at %s", doc, faults, at)
		}
	}
	if s, err := Parse(nil); err != nil || !s.None() {
		t.Error(s, err)
	}
}

func TestOver(t *testing.T) {
	s := Schedule{Until: "2026-11-23T09:00"}
	if s.Over(on(0, 8, 59)) || !s.Over(on(0, 9, 0)) || (Schedule{}).Over(on(0, 9, 0)) {
		t.Error("a schedule is over from its end on")
	}
}
