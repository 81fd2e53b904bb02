package split

import (
	"cmp"
	"math"
	"slices"
	"time"

	"gobbet/core/compare"
	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/route"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

// asked is what is compared of the piece that a request names.
func (s *Place) asked(c *route.Call) (id string, p *piece.Piece, t *compare.Comparison, runs []launch.Run, err error) {
	site := c.Site
	row, p, err := s.read.Measured(c, site.ID)
	if err == nil {
		t, runs, err = s.compared(c, site, row.ID, p, row.PausedAt)
	}
	return row.ID, p, t, runs, err
}

func (s *Place) split(c *route.Call, _ route.None) (answer SplitResult, err error) {
	site := c.Site
	id, p, t, runs, err := s.asked(c)
	if err != nil {
		return answer, err
	}
	tallies, err := s.store.Results.Days(c, site.ID, id, time.Time{})
	if err != nil {
		return answer, err
	}
	leftOut, err := s.store.Events.LeftOut(c, site.ID, leftOutDays)
	if err != nil {
		return answer, err
	}
	now := s.now()
	test := t.Test(p, now)
	report, err := weigh.Weigh(test)
	if err != nil {
		return answer, err
	}
	result := SplitResult{
		Confidence: parts.Confidence, Report: report, Days: test.Days, Goal: t.Goal, Goals: []GoalName{}, Currency: site.Settings.Currency,
		Whole: parts.Tallied(tallies), Variants: splitVariants(t, p, tallies, site), Runs: splitRuns(t, runs), Over: overDays(t, test), Gains: gainsOf(t, runs, site),
		Sound: SoundChecks{FullWeeks: int(test.Days / 7)}, Moves: timeline(t), OfEligible: p.OfEligible(),
	}
	result.Sound.Changed, result.Sound.ChangedAt = t.Changed()
	if t.Testing {
		result.Began, result.Ended = &t.Period.Began, t.Period.Ended
	}
	for _, g := range site.Settings.Goals {
		result.Goals = append(result.Goals, GoalName{g.ID, g.Name, g.Value != ""})
	}
	for _, l := range leftOut {
		result.Sound.LeftOut += l.Events
	}
	least := math.MaxInt
	for _, row := range t.Totals {
		if row.Goal == "" && row.Variant != tally.HeldBack {
			if t.In(row.Run) {
				result.Sound.SawSeveral += row.Several
			} else {
				result.Earlier += row.Visitors
			}
		}
	}
	for _, v := range test.Variants {
		least = min(least, v.Visitors)
	}
	if plan := p.Split.Plan; plan != nil {
		result.Plan = &PlanState{plan.Lift, plan.Power, plan.Size, least}
	}
	return result, nil
}

const leftOutDays = 28

// variants are those that are compared.
func splitVariants(t *compare.Comparison, p *piece.Piece, tallies []results.Tally, site sites.Site) []SplitVariant {
	all := []SplitVariant{}
	for _, arm := range t.Period.Arms {
		v := SplitVariant{ID: arm.ID, Letter: t.LetterOf[arm.ID], Name: arm.Name, Share: int(arm.Share), Gone: true, Others: []GoalMeasure{}}
		if now, ok := p.Variant(arm.ID); ok {
			v.Name, v.Gone = now.Name, false
		}
		count, values := t.Count(t.Totals, arm.ID, t.Goal, 0)
		v.Measure = parts.MeasureOf(count)
		for _, row := range t.Totals {
			if row.Variant == arm.ID && t.In(row.Run) && row.Goal == "" {
				v.Measure.Showings += row.Showings
			}
		}
		if values.Sum != 0 && count.Visitors > 0 {
			mean := values.Sum / float64(count.Visitors)
			v.Mean = &mean
		}
		goals := []string{""}
		for _, g := range site.Settings.Goals {
			goals = append(goals, g.ID)
		}
		for _, goal := range goals {
			if goal == t.Goal {
				continue
			}
			if count, values := t.Count(t.Totals, arm.ID, goal, 0); count.Conversions > 0 {
				v.Others = append(v.Others, GoalMeasure{goal, parts.MeasureOf(count), values.Sum})
			}
		}
		all = append(all, v)
	}
	return all
}

// runs lists the split's runs, the latest first.
func splitRuns(t *compare.Comparison, runs []launch.Run) []SplitRun {
	all := []SplitRun{}
	for _, r := range slices.Backward(runs) {
		one := SplitRun{Run: r.Run, Began: r.Began, Held: r.Split.Held, Follow: r.Split.Follow, Variants: []RunVariant{}, Compared: t.Testing && t.In(r.Run)}
		for _, v := range r.Split.Variants {
			one.Variants = append(one.Variants, RunVariant{v.ID, t.LetterOf[v.ID], v.Name, v.Share})
		}
		for _, row := range t.Totals {
			if row.Run == r.Run && row.Goal == "" && row.Variant != "" {
				one.Visitors += row.Visitors
			}
		}
		all = append(all, one)
	}
	return all
}

// mostOver is how many days the lines of a report have; of a longer time, the
// ends of as many steps.
const mostOver = 120

// over is how what is compared built up.
func overDays(t *compare.Comparison, test weigh.Test) []OverDay {
	all := []OverDay{}
	var days []time.Time
	for _, row := range t.Totals {
		if t.In(row.Run) && (len(days) == 0 || !days[len(days)-1].Equal(row.Day)) {
			days = append(days, row.Day)
		}
	}
	step := 1 + len(days)/mostOver
	doubt := (1 - parts.Confidence) / float64(max(1, len(t.Period.Arms)-1))
	type layered map[int]weigh.Count // by run
	sums, next := make([]layered, len(t.Period.Arms)), 0
	for i := range sums {
		sums[i] = layered{}
	}
	for i, day := range days {
		for ; next < len(t.Totals) && !t.Totals[next].Day.After(day); next++ {
			row := t.Totals[next]
			at := slices.IndexFunc(t.Period.Arms, func(a weigh.Share) bool { return a.ID == row.Variant })
			if at < 0 || !t.In(row.Run) {
				continue
			}
			run := row.Run
			if len(test.Layers) == 0 {
				run = 0
			}
			sum := sums[at][run]
			if row.Goal == "" {
				sum.Visitors += row.Visitors
			}
			if row.Goal == t.Goal {
				sum.Conversions += row.Conversions
			}
			sums[at][run] = sum
		}
		if i%step != 0 && i != len(days)-1 {
			continue
		}
		one := OverDay{Day: day.Format(time.DateOnly), Rates: []SafeRate{}, Differences: []SafeSpread{}}
		whole := make([]weigh.Count, len(sums))
		for at, layers := range sums {
			for _, count := range layers {
				whole[at].Visitors += count.Visitors
				whole[at].Conversions += count.Conversions
			}
			rate, _ := whole[at].Rate()
			one.Rates = append(one.Rates, SafeRate{whole[at].Visitors, weigh.Maybe(rate), weigh.SafeRate(whole[at], parts.Confidence)})
			if at == 0 {
				continue
			}
			base, _ := whole[0].Rate()
			var pairs [][2]weigh.Count
			for run, count := range layers {
				pairs = append(pairs, [2]weigh.Count{count, sums[0][run]})
			}
			bounds, _ := weigh.SafeOver(pairs, 1-doubt)
			one.Differences = append(one.Differences, SafeSpread{weigh.Maybe(rate - base), bounds})
		}
		all = append(all, one)
	}
	return all
}

// gains is what the piece brought of the site's goals, over the runs in which
// some were held back.
func gainsOf(t *compare.Comparison, runs []launch.Run, site sites.Site) []parts.GoalGain {
	all := []parts.GoalGain{}
	for _, g := range site.Settings.Goals {
		if gain := compare.Gain(t.Totals, runs, "", g.ID); gain.Held.Visitors > 0 {
			all = append(all, parts.GoalGain{Goal: g.ID, Gain: gain})
		}
	}
	return all
}

const mostCuts = 12

// splitCuts compares the variants in parts of the visitors, the largest first.
func (s *Place) splitCuts(c *route.Call, ask CutsQuery) (answer SplitCuts, err error) {
	by := cmp.Or(ask.By, tally.ByDevice)
	if !slices.Contains(tally.AllCuts, by) {
		return answer, fault.Fault{At: "by", Message: "is not something visitors are told apart by"}
	}
	id, _, t, _, err := s.asked(c)
	if err != nil {
		return answer, err
	}
	totals, err := s.store.Results.RunTotals(c, c.Site.ID, id, by)
	if err != nil {
		return answer, err
	}
	answer = SplitCuts{By: by, Confidence: parts.Confidence, Variants: []string{}}
	byValue, sizes := map[string][]compare.Total{}, map[string]int{}
	for _, row := range totals {
		if t.In(row.Run) && row.Variant != tally.HeldBack {
			byValue[row.Value] = append(byValue[row.Value], row)
			sizes[row.Value] += row.Visitors
		}
	}
	values := []string{}
	for value := range byValue {
		values = append(values, value)
	}
	slices.SortFunc(values, func(a, b string) int { return cmp.Or(sizes[b]-sizes[a], cmp.Compare(a, b)) })
	answer.More = max(0, len(values)-mostCuts)
	var cuts []weigh.Cut
	for _, value := range values[:min(len(values), mostCuts)] {
		cut := weigh.Cut{Value: value}
		for _, arm := range t.Period.Arms {
			count, _ := t.Count(byValue[value], arm.ID, t.Goal, 0)
			cut.Counts = append(cut.Counts, count)
		}
		cuts = append(cuts, cut)
	}
	for _, arm := range t.Period.Arms {
		answer.Variants = append(answer.Variants, t.LetterOf[arm.ID])
	}
	answer.Cuts = weigh.WeighCuts(cuts, parts.Confidence)
	return answer, nil
}
