package split

import (
	"math"
	"strconv"

	"gobbet/core/caps"
	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/rehearse"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/route"
	"gobbet/internal/studio/parts"
	"gobbet/internal/studio/reach"
	"gobbet/internal/visits"
)

const (
	planDays      = 28 // that a pace is taken from
	fewForBase    = 100
	guessBaseline = 0.03
	usualLift     = 0.2
	usualPower    = 0.8
)

// plan says how many visitors a test of the piece takes, as it is worked on.
func (s *Place) plan(c *route.Call, ask PlanQuery) (answer SplitPlan, err error) {
	site := c.Site
	lift, power, err := planQuery(ask)
	if err != nil {
		return answer, err
	}
	row, err := s.store.Pieces.Get(c, site.ID, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	p, err := s.read.Piece(c, row.Draft)
	if err != nil {
		return answer, err
	}
	since := s.now().AddDate(0, 0, -planDays)
	totals, err := s.store.Results.RunTotals(c, site.ID, row.ID, "")
	if err != nil {
		return answer, err
	}
	answer = SplitPlan{From: "guess", Baseline: guessBaseline, Paced: "none"}
	goal := p.Split.Goal
	var own weigh.Count
	first, visitors := s.now(), 0
	for _, t := range totals {
		if t.Variant == tally.HeldBack {
			continue
		}
		if t.Goal == "" {
			own.Visitors += t.Visitors
			if !t.Day.Before(since) {
				visitors += t.Visitors
				if t.Day.Before(first) {
					first = t.Day
				}
			}
		}
		if t.Goal == goal {
			own.Conversions += t.Conversions
		}
	}
	if own.Visitors >= fewForBase && own.Conversions > 0 && own.Conversions < own.Visitors {
		answer.From, answer.Visitors = "piece", own.Visitors
		answer.Baseline, _ = own.Rate()
	} else if goal == "" {
		days, err := s.store.Results.Days(c, site.ID, "", since)
		if err != nil {
			return answer, err
		}
		if whole := parts.Tallied(days).Count(); whole.Visitors >= fewForBase && whole.Conversions > 0 && whole.Conversions < whole.Visitors {
			answer.From, answer.Visitors = "site", whole.Visitors
			answer.Baseline, _ = whole.Rate()
		}
	}
	if visitors > 0 {
		answer.Paced, answer.PerDay = "piece", float64(visitors)/max(1, s.now().Sub(first).Hours()/24)
	} else if shown, err := s.rehearsedPace(c, p, row.ID); err != nil {
		return answer, err
	} else if shown > 0 {
		answer.Paced, answer.PerDay = "rehearsal", shown
	}
	answer.PerDay *= 1 - float64(p.Split.Held)/100
	variants := 0
	for _, v := range p.Split.Variants {
		if v.Share > 0 {
			variants++
		}
	}
	if answer.Plan, err = weigh.PlanFor(weigh.Traffic{Baseline: answer.Baseline, PerDay: answer.PerDay, Variants: max(2, variants)}, lift, parts.Confidence, power); err != nil {
		return answer, err
	}
	return answer, nil
}

func planQuery(ask PlanQuery) (lift, power float64, err error) {
	var faults fault.Faults
	number := func(name, text string, usual float64) float64 {
		if text == "" {
			return usual
		}
		value, err := strconv.ParseFloat(text, 64)
		if err != nil || math.IsNaN(value) || math.IsInf(value, 0) {
			faults.Add(name, "should be a number")
		}
		return value
	}
	lift, power = number("lift", ask.Lift, usualLift), number("power", ask.Power, usualPower)
	return lift, power, faults.Err()
}

// rehearsedPace is how many visitors a day the piece would have been shown to, by
// the recorded visits; 0 where that is not known now.
func (s *Place) rehearsedPace(c *route.Call, p *piece.Piece, id string) (perDay float64, err error) {
	site := c.Site
	err = s.visits.Read(c, site, func(l *visits.Log) error {
		rivals, before, _, err := s.reach.Rivals(c, l, id)
		if err != nil {
			return err
		}
		w := reach.ReachOf(p)
		stop := func() bool { return c.Err() != nil }
		r, ok := l.Rehearse(rehearse.Question{Draft: w.Draft(site), Rivals: rivals, Before: before, Limits: site.Settings.Limits, Since: s.now().Add(-planDays * caps.Day), Stop: stop})
		if ok && site.Settings.Record > 0 {
			perDay = float64(r.VisitorsShown) / planDays * 100 / float64(site.Settings.Record)
		}
		return nil
	})
	if err != nil && c.Err() == nil {
		return 0, nil // the log is being read: there is no pace yet
	}
	return perDay, err
}
