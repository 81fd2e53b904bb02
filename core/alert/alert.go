// Package alert tells when what is measured on a site is not as usual, so that a
// marketer hears of a fault before the month's numbers do.
//
// Each alert is a test whose chance of a false alarm is below Chance: of a site
// that is looked at once a day, less than one a year for each thing looked at.
package alert

import (
	"fmt"
	"math"
	"time"

	"gobbet/core/weigh"
)

// Chance is the chance of one false alarm, below which a thing is said.
const Chance = 0.001

// Kind says what an alert is about.
type Kind string

const (
	OutOfBand   Kind = "out_of_band"  // a piece's rate is not as it was
	BrokenSplit Kind = "broken_split" // visitors do not fall as the shares ask
	GoalStopped Kind = "goal_stopped" // a goal is reached no more
	SilentPage  Kind = "silent_page"  // the script is not heard from on a page
)

// Alert is something that is not as usual.
type Alert struct {
	Kind  Kind   `json:"kind"`
	Piece string `json:"piece"` // empty: it is not about one
	// About is the id of the goal, or the path of the page, that it is about.
	About string `json:"about"`
	// Say says what, and what it rests on.
	Say string `json:"say"`
}

const fewLately = 50 // visitors whose rate is not told from chance

// Rate holds the latest rate of a piece against the time before. The test is
// Pooled's, two-sided.
func Rate(piece, name string, before, lately weigh.Count, days int) (Alert, bool) {
	_, p := weigh.Pooled(lately, before)
	if !p.Is() || float64(p) >= Chance || lately.Visitors < fewLately || before.Visitors < fewLately {
		return Alert{}, false
	}
	was, _ := before.Rate()
	is, _ := lately.Rate()
	moved := "fell"
	if is > was {
		moved = "rose"
	}
	return Alert{OutOfBand, piece, "", fmt.Sprintf("The rate of “%s” %s from %.1f %% to %.1f %% in the last %d days.", name, moved, was*100, is*100, days)}, true
}

// Split tells that visitors of a running test do not fall as its shares ask.
func Split(piece, name string, check weigh.SplitCheck) (Alert, bool) {
	if !check.Broken() {
		return Alert{}, false
	}
	return Alert{BrokenSplit, piece, "", fmt.Sprintf("The split of “%s” is not as asked: something keeps visitors from one variant.", name)}, true
}

// Silence is how likely it is that nothing comes in a time in which so many are
// expected, and each comes by itself (Poisson).
func Silence(expected float64) float64 { return math.Exp(-expected) }

// Quiet is something that came, and has not for a while.
type Quiet struct {
	// PerDay is how often it came a day.
	PerDay float64
	// Expected is how often it came in the same hours of earlier weeks as it has not
	// since, on the mean: nights and weekends are quiet by themselves.
	Expected float64
	Silent   time.Duration // since it last came
}

// Goal tells that a goal is reached no more.
func Goal(id, name string, q Quiet) (Alert, bool) {
	if Silence(q.Expected) >= Chance {
		return Alert{}, false
	}
	return Alert{GoalStopped, "", id, fmt.Sprintf("The goal “%s” has not been reached for %s; before, it was %s a day.", name, lasting(q.Silent), number(q.PerDay))}, true
}

// Page tells that a page is not heard from any more.
func Page(path string, q Quiet) (Alert, bool) {
	if Silence(q.Expected) >= Chance {
		return Alert{}, false
	}
	return Alert{SilentPage, "", path, fmt.Sprintf("The script is not heard from on %s for %s; before, there were %s page views a day. Was its line taken out?", path, lasting(q.Silent), number(q.PerDay))}, true
}

func number(n float64) string {
	if n < 10 {
		return fmt.Sprintf("%.1f", n)
	}
	return fmt.Sprintf("%.0f", n)
}

func lasting(d time.Duration) string {
	if hours := int(d.Hours()); hours < 48 {
		return fmt.Sprintf("%d hours", hours)
	}
	return fmt.Sprintf("%d days", int(d.Hours()/24))
}
