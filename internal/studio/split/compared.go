package split

import (
	"context"
	"slices"
	"time"

	"gobbet/core/compare"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/internal/store/sites"
)

// compared reads what is compared of a piece, which is paused since a time
// unless that is nil.
func (s *Place) compared(c context.Context, site sites.Site, id string, p *piece.Piece, paused *time.Time) (t *compare.Comparison, runs []launch.Run, err error) {
	if runs, err = s.store.Pieces.Runs(c, site.ID, id); err != nil {
		return nil, nil, err
	}
	totals, err := s.store.Results.RunTotals(c, site.ID, id, "")
	if err != nil {
		return nil, nil, err
	}
	t = compare.Of(p, site.Settings.GoalIDs(), runs, totals, paused)
	t.Moves, err = s.store.Pieces.Moves(c, site.ID, id, time.Time{})
	return t, runs, err
}

// timeline is what was done with the piece, the latest first.
func timeline(c *compare.Comparison) []SplitMove {
	all := []SplitMove{}
	for _, m := range slices.Backward(c.Moves) {
		one := SplitMove{At: m.At, Did: m.Did, From: m.From, Until: m.Until, By: m.By, Designs: []string{}, Reach: m.Reach}
		for _, id := range m.Designs {
			if l := c.LetterOf[id]; l != "" {
				one.Designs = append(one.Designs, l)
			}
		}
		all = append(all, one)
	}
	return all
}
