package studio

import (
	"context"
	"slices"
	"time"

	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"

	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/weigh"
)

const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"

// letter is what a variant is called by its place.
func letter(i int) string { return string(letters[min(i, len(letters)-1)]) }

// tried is the totals of a piece over the time that is compared.
type tried struct {
	period  weigh.Period
	testing bool // two variants or more are compared
	// all are the piece's totals of all runs, of all visitors.
	all  []results.RunTotal
	goal string // that decides
	// moves are what was done with the piece.
	moves []pieces.Move
	// letters are what variants are called, by their ids.
	letters map[string]string
}

// try reads what is compared of a piece: the latest time in which variants ran
// together, or all of a piece that has one.
func (s *Server) tried(c context.Context, site sites.Site, id string, p *piece.Piece, paused *time.Time) (t tried, runs []pieces.Run, err error) {
	if runs, err = s.store.Pieces.Runs(c, site.ID, id); err != nil {
		return t, nil, err
	}
	totals, err := s.store.Results.RunTotals(c, site.ID, id, "")
	if err != nil {
		return t, nil, err
	}
	t = triedOf(site, p, runs, totals, paused)
	t.moves, err = s.store.Pieces.Moves(c, site.ID, id, time.Time{})
	return t, runs, err
}

// triedOf is what is compared of a piece's totals.
func triedOf(site sites.Site, p *piece.Piece, runs []pieces.Run, totals []results.RunTotal, paused *time.Time) (t tried) {
	t.all, t.letters = totals, lettersOf(p, runs)
	t.period, t.testing = weigh.Latest(runsOf(runs))
	if paused != nil && t.testing && t.period.Ended == nil && paused.After(t.period.Began) {
		t.period.Ended = paused
	}
	if !t.testing {
		for _, v := range p.Split.Variants {
			if v.Share > 0 {
				t.period.Arms = append(t.period.Arms, weigh.Share{ID: v.ID, Name: v.Name, Share: float64(v.Share)})
			}
		}
	}
	if slices.ContainsFunc(site.Settings.Goals, func(g sites.Goal) bool { return g.ID == p.Split.Goal }) {
		t.goal = p.Split.Goal
	}
	return t
}

// lettersOf calls the variants of a piece by their places, and after them those that
// are gone in the order in which they came.
func lettersOf(p *piece.Piece, runs []pieces.Run) map[string]string {
	all := map[string]string{}
	for i, v := range p.Split.Variants {
		all[v.ID] = letter(i)
	}
	for _, r := range runs {
		for _, v := range r.Split.Variants {
			if all[v.ID] == "" {
				all[v.ID] = letter(len(all))
			}
		}
	}
	return all
}

func runsOf(runs []pieces.Run) (all []weigh.Run) {
	for _, r := range runs {
		one := weigh.Run{Number: r.Run, Began: r.Began, Follow: r.Split.Follow}
		for _, v := range r.Split.Variants {
			one.Shares = append(one.Shares, weigh.Share{ID: v.ID, Name: v.Name, Share: float64(v.Share), Ways: v.Ways})
		}
		all = append(all, one)
	}
	return all
}

// in reports whether a run is compared.
func (t *tried) in(run int) bool {
	return !t.testing || slices.ContainsFunc(t.period.Runs, func(r weigh.Run) bool { return r.Number == run })
}

// count sums up what a variant did, in all runs that are compared or one.
func (t *tried) count(totals []results.RunTotal, variant, goal string, run int) (count weigh.Count, values weigh.Values) {
	for _, row := range totals {
		if row.Variant != variant || !t.in(row.Run) || run > 0 && row.Run != run {
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

// rested is for how long the piece was paused within the time that is compared.
func (t *tried) rested(now time.Time) (rested time.Duration) {
	end := now
	if t.period.Ended != nil {
		end = *t.period.Ended
	}
	var since *time.Time
	for _, m := range t.moves {
		switch at := latest(t.period.Began, m.At); {
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

// changed are the variants compared whose design changed while they were, by
// their letters, and when the last did.
func (t *tried) changed() (changed []string, at *time.Time) {
	changed = []string{}
	if !t.testing {
		return changed, nil
	}
	for _, arm := range t.period.Arms {
		for _, m := range t.moves {
			if !m.At.After(t.period.Began) || t.period.Ended != nil && !m.At.Before(*t.period.Ended) || !slices.Contains(m.Designs, arm.ID) {
				continue
			}
			if l := t.letters[arm.ID]; !slices.Contains(changed, l) {
				changed = append(changed, l)
			}
			if at == nil || m.At.After(*at) {
				at = &m.At
			}
		}
	}
	return changed, at
}

// timeline is what was done with the piece, the latest first.
func (t *tried) timeline() []SplitMove {
	all := []SplitMove{}
	for _, m := range slices.Backward(t.moves) {
		one := SplitMove{At: m.At, Did: m.Did, From: m.From, Until: m.Until, By: m.By, Designs: []string{}, Reach: m.Reach}
		for _, id := range m.Designs {
			if l := t.letters[id]; l != "" {
				one.Designs = append(one.Designs, l)
			}
		}
		all = append(all, one)
	}
	return all
}

// test is what core weighs.
func (t *tried) test(p *piece.Piece, now time.Time) weigh.Test {
	test := weigh.Test{Confidence: confidence}
	if t.testing {
		test.Days = max(0, t.period.Days(now)-t.rested(now).Hours()/24)
	}
	if p.Split.Plan != nil {
		test.SmallestLift, test.Size = p.Split.Plan.Lift, p.Split.Plan.Size
	}
	for _, arm := range t.period.Arms {
		count, values := t.count(t.all, arm.ID, t.goal, 0)
		test.Variants = append(test.Variants, weigh.Arm{Name: t.letters[arm.ID], Share: arm.Share, Count: count, Values: values})
		test.WithValues = test.WithValues || values.Sum != 0
	}
	if t.testing && t.period.Changes() {
		for _, r := range t.period.Runs {
			layer := weigh.Layer{}
			for _, arm := range t.period.Arms {
				i := slices.IndexFunc(r.Shares, func(s weigh.Share) bool { return s.ID == arm.ID })
				count, _ := t.count(t.all, arm.ID, t.goal, r.Number)
				layer.Shares, layer.Counts = append(layer.Shares, r.Shares[i].Share), append(layer.Counts, count)
			}
			test.Layers = append(test.Layers, layer)
		}
	}
	return test
}
