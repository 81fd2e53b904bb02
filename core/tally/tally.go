// Package tally counts what visitors did with pieces, each visitor once.
//
// Events come in any order, some of them twice and some late. What is counted is
// a function of the set of events alone: a Sighting is what the events of one
// visitor of one piece come to, and totals are the sum of what all sightings
// contribute. A store that keeps totals adds, for each change of a sighting, what
// it contributes now and takes away what it did before; whoever adds up all raw
// events anew comes to the same.
//
//	a visitor counts once a piece, for the variant, the run and the page that
//	their earliest event names: later ones do not move them
package tally

import (
	"cmp"
	"slices"
	"time"
)

// Kinds of event.
const (
	// Eligible: the piece could be shown from here on, now or when its moments come.
	// Only pieces have it whose variants differ in how or when they show.
	Eligible  = "eligible"
	Shown     = "shown"
	Held      = "held" // would have been shown, to a visitor held back
	Closed    = "closed"
	Converted = "converted"
	Left      = "left"    // the page was left within LeftWithin of a showing, or of one held back
	Reached   = "reached" // a goal of the site
)

// Kinds are all of them.
var Kinds = []string{Eligible, Shown, Held, Closed, Converted, Left, Reached}

// HeldBack is the variant of visitors who are held back.
const HeldBack = ""

const (
	// Quick is the time within which a close counts as quick.
	Quick = 2 * time.Second
	// LeftWithin is that after a showing for which leaving is told.
	LeftWithin = 10 * time.Second
	// MostGoals is how many reached goals of one visitor count, the earliest.
	MostGoals = 1000
)

// Event is something that happened on a visitor's page. Its fields are checked
// before they come here.
type Event struct {
	ID      string    `db:"id"` // a UUID of the page's making
	At      time.Time `db:"at"`
	Kind    string    `db:"kind"`
	Piece   string    `db:"piece_id"` // empty for a goal
	Variant string    `db:"variant"`
	// Run is which run of the piece's split it happened in, from 1; 0 before runs were kept.
	Run     int    `db:"run"`
	Visitor string `db:"visitor"`
	Visit   string `db:"visit"`
	Page    string `db:"page"`
	Cuts
	// After is how many milliseconds after the showing a close or a leaving came; negative: not known.
	After int `db:"after_ms"`
	Goal
}

// Cuts are what visitors are told apart by, beside the page. Empty: not known.
type Cuts struct {
	Channel string `db:"channel"`
	Device  string `db:"device"`
	Country string `db:"country"`
	Known   string `db:"known"` // new or returning
}

// Goal is a goal that was reached.
type Goal struct {
	Goal string `db:"goal"`
	// Amount is what it was worth, in hundredths of the site's currency.
	Amount int64 `db:"amount"`
	// Within is for how many days after a visitor first saw a piece it counts for the piece.
	Within int `db:"within_days"`
}

// ReachedGoal is when a visitor reached a goal.
type ReachedGoal struct {
	ID string    `db:"id"`
	At time.Time `db:"at"`
	Goal
}

// Exposes reports whether an event says that the visitor saw the piece, or would
// have, or could: nobody converts unseen, even where the showing itself never arrived.
func (e *Event) Exposes() bool {
	return e.Kind == Shown || e.Kind == Held || e.Kind == Converted || e.Kind == Eligible
}

// Sighting is what the events of one visitor of one piece come to.
type Sighting struct {
	Visitor string `db:"visitor"`
	Piece   string `db:"piece_id"`
	// Of the earliest event: its id, when it was, and what it names.
	FirstID string    `db:"first_id"`
	FirstAt time.Time `db:"first_at"`
	Variant string    `db:"variant"`
	Run     int       `db:"run"`
	Page    string    `db:"page"`
	Cuts
	// Hour and Day are those of FirstAt on the site's clock.
	Hour time.Time `db:"hour"`
	Day  time.Time `db:"day"`
	// Several says that the visitor saw more than one variant.
	Several bool `db:"several"`
	// ConvertedAt is when they first converted, ConvertedHour that hour.
	ConvertedAt   *time.Time `db:"converted_at"`
	ConvertedHour *time.Time `db:"converted_hour"`
}

// Add takes in an event that exposes, in the site's zone.
func (s *Sighting) Add(e *Event, zone *time.Location) {
	switch {
	case s.FirstID == "":
		s.Visitor, s.Piece = e.Visitor, e.Piece
		s.first(e, zone)
	default:
		s.Several = s.Several || e.Variant != s.Variant
		if cmp.Or(e.At.Compare(s.FirstAt), cmp.Compare(e.ID, s.FirstID)) < 0 {
			s.first(e, zone)
		}
	}
	if e.Kind == Converted && (s.ConvertedAt == nil || e.At.Before(*s.ConvertedAt)) {
		at, hour := e.At, HourOf(e.At, zone)
		s.ConvertedAt, s.ConvertedHour = &at, &hour
	}
}

func (s *Sighting) first(e *Event, zone *time.Location) {
	s.FirstID, s.FirstAt, s.Variant, s.Run, s.Page, s.Cuts = e.ID, e.At, e.Variant, e.Run, e.Page, e.Cuts
	s.Hour, s.Day = HourOf(e.At, zone), DayOf(e.At, zone)
}

// HourOf is when the hour of a time began on the clock of a zone. The hour that
// a clock goes through twice in autumn is two.
func HourOf(at time.Time, zone *time.Location) time.Time {
	local := at.In(zone)
	return at.Add(-time.Duration(local.Minute())*time.Minute - time.Duration(local.Second())*time.Second - time.Duration(local.Nanosecond())).UTC()
}

// DayOf is the day of a time in a zone, as midnight of UTC.
func DayOf(at time.Time, zone *time.Location) time.Time {
	y, m, d := at.In(zone).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC)
}

// worth is what goals came to for a sighting.
type worth struct {
	goal   string
	amount int64
}

// reached gives the goals that count for the sighting, of all that its visitor
// reached: each within its days of the first sight.
func (s *Sighting) reached(goals []ReachedGoal) (all []worth) {
	if len(goals) == 0 {
		return nil
	}
	goals = slices.Clone(goals)
	slices.SortFunc(goals, func(a, b ReachedGoal) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) })
	for _, g := range goals[:min(len(goals), MostGoals)] {
		if g.At.Before(s.FirstAt) || g.At.After(s.FirstAt.AddDate(0, 0, g.Within)) {
			continue
		}
		i := slices.IndexFunc(all, func(w worth) bool { return w.goal == g.Goal.Goal })
		if i < 0 {
			i = len(all)
			all = append(all, worth{goal: g.Goal.Goal})
		}
		all[i].amount += g.Amount
	}
	return all
}
