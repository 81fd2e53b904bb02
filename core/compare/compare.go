// Package compare decides what of a piece is compared: which variants, over which
// time, by which totals.
//
//	c := compare.Of(p, goals, runs, totals, paused)
//	report, err := weigh.Weigh(c.Test(p, now))
//
// Compared is the latest time in which two or more variants ran together with
// shares that did not change, or changed only to follow the winner. Time in which
// the piece was paused does not count as time that it ran.
package compare

import (
	"slices"
	"time"

	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/tally"
	"gobbet/core/weigh"
)

// Confidence is that of all bounds.
const Confidence = 0.95

// Total is what came of a variant in a run on a day.
type Total struct {
	Piece       string
	Run         int
	Variant     string // empty: held back
	Goal        string // empty: the piece's own conversion
	Cut         string // what visitors are told apart by; empty: all of them
	Value       string
	Day         time.Time
	Visitors    int
	Conversions int
	Showings    int
	Several     int     // visitors who saw several variants
	Amount      int64   // in hundredths
	Squares     float64 // of each visitor's amount, in hundredths squared
}

const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"

// Letter is what a variant is called by its place.
func Letter(i int) string { return string(letters[min(i, len(letters)-1)]) }

// Comparison is the totals of a piece over the time that is compared.
type Comparison struct {
	Period  weigh.Period
	Testing bool // two variants or more are compared
	// Totals are the piece's totals of all runs, of all visitors.
	Totals []Total
	Goal   string // that decides
	// Moves are what was done with the piece.
	Moves []launch.Made
	// LetterOf is what each variant is called, by its id.
	LetterOf map[string]string
}

// Of is what is compared of a piece: of one that is paused since a time, up to
// then. goals are the ids of the site's. Runs and totals are the piece's own.
func Of(p *piece.Piece, goals []string, runs []launch.Run, totals []Total, paused *time.Time) *Comparison {
	c := &Comparison{}
	c.Totals, c.LetterOf = totals, lettersOf(p, runs)
	c.Period, c.Testing = weigh.Latest(runsOf(runs))
	if paused != nil && c.Testing && c.Period.Ended == nil && paused.After(c.Period.Began) {
		c.Period.Ended = paused
	}
	if !c.Testing {
		for _, v := range p.Split.Variants {
			if v.Share > 0 {
				c.Period.Arms = append(c.Period.Arms, weigh.Share{ID: v.ID, Name: v.Name, Share: float64(v.Share)})
			}
		}
	}
	if slices.Contains(goals, p.Split.Goal) {
		c.Goal = p.Split.Goal
	}
	return c
}

// lettersOf calls the variants of a piece by their places, and after them those that
// are gone in the order in which they came.
func lettersOf(p *piece.Piece, runs []launch.Run) map[string]string {
	all := map[string]string{}
	for i, v := range p.Split.Variants {
		all[v.ID] = Letter(i)
	}
	for _, r := range runs {
		for _, v := range r.Split.Variants {
			if all[v.ID] == "" {
				all[v.ID] = Letter(len(all))
			}
		}
	}
	return all
}

func runsOf(runs []launch.Run) (all []weigh.Run) {
	for _, r := range runs {
		one := weigh.Run{Number: r.Run, Began: r.Began, Follow: r.Split.Follow}
		for _, v := range r.Split.Variants {
			one.Shares = append(one.Shares, weigh.Share{ID: v.ID, Name: v.Name, Share: float64(v.Share), Showing: v.Showing})
		}
		all = append(all, one)
	}
	return all
}

// In reports whether a run is compared.
func (c *Comparison) In(run int) bool {
	return !c.Testing || slices.ContainsFunc(c.Period.Runs, func(r weigh.Run) bool { return r.Number == run })
}

// Count sums up what a variant did, in all runs that are compared or one.
func (c *Comparison) Count(totals []Total, variant, goal string, run int) (count weigh.Count, values weigh.Values) {
	for _, row := range totals {
		if row.Variant != variant || !c.In(row.Run) || run > 0 && row.Run != run {
			continue
		}
		if row.Goal == "" {
			count.Visitors += row.Visitors
		}
		if row.Goal == goal {
			count.Conversions += row.Conversions
			values.Sum += float64(row.Amount) / 100
			values.SumSquares += row.Squares / 10_000
		}
	}
	return count, values
}

// Rested is for how long the piece was paused within the time that is compared.
func (c *Comparison) Rested(now time.Time) (rested time.Duration) {
	end := now
	if c.Period.Ended != nil {
		end = *c.Period.Ended
	}
	var since *time.Time
	for _, m := range c.Moves {
		switch at := latest(c.Period.Began, m.At); {
		case m.Did == launch.PausedIt || m.Did == launch.Ended:
			since = &at
		case since != nil && (m.Did == launch.ResumedIt || m.Did == launch.Launched):
			rested += max(0, earliest(at, end).Sub(*since))
			since = nil
		}
	}
	if since != nil {
		rested += max(0, end.Sub(*since))
	}
	return rested
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

func earliest(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

// Changed are the variants compared whose design changed while they were, by
// their letters, and when the last did.
func (c *Comparison) Changed() (changed []string, at *time.Time) {
	changed = []string{}
	if !c.Testing {
		return changed, nil
	}
	for _, arm := range c.Period.Arms {
		for _, m := range c.Moves {
			if !m.At.After(c.Period.Began) || c.Period.Ended != nil && !m.At.Before(*c.Period.Ended) || !slices.Contains(m.Designs, arm.ID) {
				continue
			}
			if l := c.LetterOf[arm.ID]; !slices.Contains(changed, l) {
				changed = append(changed, l)
			}
			if at == nil || m.At.After(*at) {
				at = &m.At
			}
		}
	}
	return changed, at
}

// Test is what package weigh compares.
func (c *Comparison) Test(p *piece.Piece, now time.Time) weigh.Test {
	test := weigh.Test{Confidence: Confidence}
	if c.Testing {
		test.Days = max(0, c.Period.Days(now)-c.Rested(now).Hours()/24)
	}
	if p.Split.Plan != nil {
		test.SmallestLift, test.Size = p.Split.Plan.Lift, p.Split.Plan.Size
	}
	for _, arm := range c.Period.Arms {
		count, values := c.Count(c.Totals, arm.ID, c.Goal, 0)
		test.Variants = append(test.Variants, weigh.Arm{Name: c.LetterOf[arm.ID], Share: arm.Share, Count: count, Values: values})
		test.WithValues = test.WithValues || values.Sum != 0
	}
	if c.Testing && c.Period.Changes() {
		for _, r := range c.Period.Runs {
			layer := weigh.Layer{}
			for _, arm := range c.Period.Arms {
				i := slices.IndexFunc(r.Shares, func(s weigh.Share) bool { return s.ID == arm.ID })
				count, _ := c.Count(c.Totals, arm.ID, c.Goal, r.Number)
				layer.Shares, layer.Counts = append(layer.Shares, r.Shares[i].Share), append(layer.Counts, count)
			}
			test.Layers = append(test.Layers, layer)
		}
	}
	return test
}

// Follow draws other shares for the variants compared, by their ids, from what
// each did so far: those that do better get more.
func (c *Comparison) Follow(seed uint64) map[string]int {
	var counts []weigh.Count
	for _, arm := range c.Period.Arms {
		count, _ := c.Count(c.Totals, arm.ID, c.Goal, 0)
		counts = append(counts, count)
	}
	shares := map[string]int{}
	for i, share := range weigh.Follow(counts, weigh.FollowFloor, seed) {
		shares[c.Period.Arms[i].ID] = share
	}
	return shares
}

// Gain holds those who were shown a piece against those held back in the same
// runs, in one goal. Without a piece the totals are all of one.
func Gain(totals []Total, runs []launch.Run, piece, goal string) weigh.Gain {
	var shown, held weigh.Count
	var ofShown, ofHeld weigh.Values
	for _, row := range totals {
		if piece != "" && row.Piece != piece || !slices.ContainsFunc(runs, func(r launch.Run) bool {
			return r.Run == row.Run && r.Split.Held > 0 && (piece == "" || r.Piece == piece)
		}) {
			continue
		}
		count, values := &shown, &ofShown
		if row.Variant == tally.HeldBack {
			count, values = &held, &ofHeld
		}
		if row.Goal == "" {
			count.Visitors += row.Visitors
		}
		if row.Goal == goal {
			count.Conversions += row.Conversions
			values.Sum += float64(row.Amount) / 100
			values.SumSquares += row.Squares / 10_000
		}
	}
	return weigh.Gained(shown, held, ofShown, ofHeld, Confidence)
}

// Shown is the visitors who were shown what totals are of, and how many of them
// reached a goal.
func Shown(totals []Total, goal string) (count weigh.Count) {
	for _, t := range totals {
		if t.Variant == tally.HeldBack {
			continue
		}
		if t.Goal == "" {
			count.Visitors += t.Visitors
		}
		if t.Goal == goal {
			count.Conversions += t.Conversions
		}
	}
	return count
}
