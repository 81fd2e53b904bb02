package results

import (
	"context"
	"math"

	"gobbet/core/weigh"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

// siteCost is what the pieces cost visitors.
func (s *Place) siteCost(ctx context.Context, site sites.Site, a span, names map[string]string) (cost SiteCost, err error) {
	cost.Sample = site.Settings.Record
	visits, err := s.store.PageViews.Interruptions(ctx, site.ID, a.from, a.to)
	if err != nil {
		return cost, err
	}
	cost.Visits = visits
	sums, err := s.store.Results.PieceSums(ctx, site.ID, a.piece, a.begin, a.end)
	if err != nil {
		return cost, err
	}
	var quick, left, heldLeft weigh.Count
	// Leaving is compared for the pieces that hold some back: others come elsewhere.
	compared := map[string]bool{}
	for _, sum := range sums {
		compared[sum.Piece] = compared[sum.Piece] || sum.Held && sum.Showings > 0
	}
	for _, sum := range sums {
		if sum.Held {
			heldLeft.Visitors, heldLeft.Conversions = heldLeft.Visitors+sum.Showings, heldLeft.Conversions+min(sum.Lefts, sum.Showings)
			continue
		}
		one := weigh.Count{Visitors: sum.Showings, Conversions: min(sum.Quick, sum.Showings)}
		quick.Visitors, quick.Conversions = quick.Visitors+one.Visitors, quick.Conversions+one.Conversions
		if compared[sum.Piece] {
			left.Visitors, left.Conversions = left.Visitors+sum.Showings, left.Conversions+min(sum.Lefts, sum.Showings)
		}
		m := parts.MeasureOf(one)
		if one.Visitors >= fewForRow && (cost.Worst == nil || *m.Rate > *cost.Worst.Quick.Rate) {
			cost.Worst = &WorstPiece{sum.Piece, names[sum.Piece], m}
		}
	}
	cost.Quick, cost.Left, cost.HeldLeft = parts.MeasureOf(quick), parts.MeasureOf(left), parts.MeasureOf(heldLeft)
	if _, bounds, ok := weigh.Newcombe(left, heldLeft, parts.Confidence); ok {
		cost.LeftDiffers = bounds[0] > 0 || bounds[1] < 0
	}
	costs, err := s.store.PageViews.Costs(ctx, site.ID, a.from, a.to)
	cost.Page = pageCost(costs)
	return cost, err
}

// pageCost makes means of sums. Paints are compared on a log scale, for they vary
// by factors: the bounds are Welch's of the difference of the logarithms.
func pageCost(sums []pageviews.CostSum) (p PageCost) {
	var bytes, busy float64
	var with, without pageviews.CostSum
	for _, sum := range sums {
		p.Views += sum.Views
		bytes, busy = bytes+float64(sum.Bytes), busy+float64(sum.BusyMS)
		if sum.Shown {
			with = sum
		} else {
			without = sum
		}
	}
	if p.Views == 0 {
		return p
	}
	p.Bytes, p.BusyMS, p.Shown = bytes/float64(p.Views), busy/float64(p.Views), with.Views
	mean := func(sum float64, n int) *float64 {
		if n == 0 {
			return nil
		}
		m := sum / float64(n)
		return &m
	}
	p.Shift, p.ShiftWithout = mean(with.Shift, with.Views), mean(without.Shift, without.Views)
	typical := func(sum pageviews.CostSum) *float64 {
		m := mean(sum.Paint, sum.Painted)
		if m != nil {
			*m = math.Exp(*m)
		}
		return m
	}
	p.Paint, p.PaintWithout = typical(with), typical(without)
	values := func(sum pageviews.CostSum) weigh.Values { return weigh.Values{Sum: sum.Paint, SumSquares: sum.Squares} }
	if w := weigh.Welch(values(with), values(without), with.Painted, without.Painted, parts.Confidence); w != nil {
		p.PaintRatio = &[2]float64{math.Exp(float64(w.Interval[0])), math.Exp(float64(w.Interval[1]))}
	}
	return p
}
