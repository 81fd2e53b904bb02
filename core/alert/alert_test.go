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
	const perHour, tries = 0.5, 20000
	longer := 0
	for range tries {
		if random.ExpFloat64()/perHour > 6 {
			longer++
		}
	}
	if share, want := float64(longer)/tries, Silence(perHour, 6*time.Hour); math.Abs(share-want) > 4*math.Sqrt(want/tries) {
		t.Error(share, want)
	}
}

func TestWhatStopped(t *testing.T) {
	now := time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)
	if a, is := Goal("Order", 140, 28, now.Add(-48*time.Hour), now); !is || a.Say != "The goal “Order” has not been reached for 2 days; before, it was 5.0 a day." {
		t.Error(a, is)
	}
	if a, is := Goal("Order", 140, 28, now.Add(-20*time.Hour), now); is {
		t.Error("a quiet night:", a)
	}
	if a, is := Page("/shop", 2800, 28, now.Add(-30*time.Hour), now); !is || !strings.Contains(a.Say, "/shop for 30 hours") || !strings.Contains(a.Say, "100 page views a day") {
		t.Error(a, is)
	}
	for _, never := range []int{0, -1} {
		if _, is := Page("/", 0, never, now, now); is {
			t.Error("what never came has stopped")
		}
	}
	if a, is := Split("p", "P", weigh.SplitCheck{P: 0.0001}); !is || a.Kind != BrokenSplit {
		t.Error(a, is)
	}
	if _, is := Split("p", "P", weigh.SplitCheck{P: weigh.None}); is {
		t.Error("nothing is known, and it is broken")
	}
}
