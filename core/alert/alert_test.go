package alert

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"gobbet/core/weigh"
)

func TestRate(t *testing.T) {
	for _, c := range []struct {
		before, lately weigh.Count
		says           string
	}{
		{weigh.Count{Visitors: 2000, Conversions: 140}, weigh.Count{Visitors: 300, Conversions: 3}, "fell from 7.0 % to 1.0 %"},
		{weigh.Count{Visitors: 2000, Conversions: 140}, weigh.Count{Visitors: 300, Conversions: 60}, "rose from 7.0 % to 20.0 %"},
		{weigh.Count{Visitors: 2000, Conversions: 140}, weigh.Count{Visitors: 300, Conversions: 15}, ""},
		{weigh.Count{Visitors: 2000, Conversions: 140}, weigh.Count{Visitors: 20, Conversions: 20}, ""},
		{weigh.Count{Visitors: 2000}, weigh.Count{Visitors: 300}, ""},
		{weigh.Count{}, weigh.Count{Visitors: 300, Conversions: 60}, ""},
	} {
		a, is := Rate("p", "Before you go", c.before, c.lately, 3)
		if is != (c.says != "") || !strings.Contains(a.Say, c.says) {
			t.Errorf("%v then %v: %v %q", c.before, c.lately, is, a.Say)
		}
	}
}

// What comes by chance stops for long enough seldom.
func TestSilenceIsAsLikelyAsItSays(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	const expected, tries = 3.0, 20000
	silent := 0
	for range tries {
		if random.ExpFloat64() > expected {
			silent++
		}
	}
	if share, want := float64(silent)/tries, Silence(expected); math.Abs(share-want) > 4*math.Sqrt(want/tries) {
		t.Error(share, want)
	}
}

func TestWhatStopped(t *testing.T) {
	if a, is := Goal("order", "Order", Quiet{5, 10, 48 * time.Hour}); !is || a.About != "order" || a.Say != "The goal “Order” has not been reached for 2 days; before, it was 5.0 a day." {
		t.Error(a, is)
	}
	if a, is := Goal("order", "Order", Quiet{240, 0.5, 9 * time.Hour}); is {
		t.Error("a quiet night:", a)
	}
	if a, is := Page("/shop", Quiet{100, 125, 30 * time.Hour}); !is || a.About != "/shop" || !strings.Contains(a.Say, "/shop for 30 hours") || !strings.Contains(a.Say, "100 page views a day") {
		t.Error(a, is)
	}
	if _, is := Page("/", Quiet{}); is {
		t.Error("what never came has stopped")
	}
	if a, is := Split("p", "P", weigh.SplitCheck{P: 0.0001}); !is || a.Kind != BrokenSplit {
		t.Error(a, is)
	}
	if _, is := Split("p", "P", weigh.SplitCheck{P: weigh.None}); is {
		t.Error("nothing is known, and it is broken")
	}
}

// The last three days, today with them, are held against the twenty-five before.
func TestTheWindowsOfARate(t *testing.T) {
	today := time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
	days := func(rate func(ago int) int) (all []Day) {
		for ago := range 60 {
			all = append(all, Day{today.AddDate(0, 0, -ago), weigh.Count{Visitors: 1000, Conversions: rate(ago)}})
		}
		return all
	}
	for name, c := range map[string]struct {
		rate func(ago int) int
		is   bool
	}{
		"as ever":                     {func(int) int { return 100 }, false},
		"fell three days ago":         {func(ago int) int { return map[bool]int{true: 40, false: 100}[ago < 3] }, true},
		"fell on the day before that": {func(ago int) int { return map[bool]int{true: 100, false: 101}[ago == 3] }, false},
		"fell before what is usual":   {func(ago int) int { return map[bool]int{true: 100, false: 900}[ago <= History] }, false},
	} {
		if a, is := RateOf("p", "Test", days(c.rate), today); is != c.is {
			t.Errorf("%s: %v %s", name, is, a.Say)
		}
	}
}
