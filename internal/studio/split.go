package studio

import (
	"cmp"
	"context"
	"math"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/store"
)

const letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"

// letter is what a variant is called by its place.
func letter(i int) string { return string(letters[min(i, len(letters)-1)]) }

// tried is the totals of a piece over the time that is compared.
type tried struct {
	period  weigh.Period
	testing bool // two variants or more are compared
	// all are the piece's totals of all runs, of all visitors.
	all  []store.RunTotal
	goal string // that decides
	// moves are what was done with the piece.
	moves []store.Move
	// letters are what variants are called, by their ids.
	letters map[string]string
}

// try reads what is compared of a piece: the latest time in which variants ran
// together, or all of a piece that has one.
func (s *Server) tried(c context.Context, site store.Site, id string, p *piece.Piece, paused *time.Time) (t tried, runs []store.Run, err error) {
	if runs, err = s.store.Runs(c, site.ID, id); err != nil {
		return t, nil, err
	}
	totals, err := s.store.RunTotals(c, site.ID, id, "")
	if err != nil {
		return t, nil, err
	}
	t = triedOf(site, p, runs, totals, paused)
	t.moves, err = s.store.Moves(c, site.ID, id, time.Time{})
	return t, runs, err
}

// triedOf is what is compared of a piece's totals.
func triedOf(site store.Site, p *piece.Piece, runs []store.Run, totals []store.RunTotal, paused *time.Time) (t tried) {
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
	if slices.ContainsFunc(site.Settings.Goals, func(g store.Goal) bool { return g.ID == p.Split.Goal }) {
		t.goal = p.Split.Goal
	}
	return t
}

// lettersOf calls the variants of a piece by their places, and after them those that
// are gone in the order in which they came.
func lettersOf(p *piece.Piece, runs []store.Run) map[string]string {
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

func runsOf(runs []store.Run) (all []weigh.Run) {
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
func (t *tried) count(totals []store.RunTotal, variant, goal string, run int) (count weigh.Count, values weigh.Values) {
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
		case m.Did == store.Paused:
			since = &at
		case since != nil && m.Did != store.Replaced:
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
		one := SplitMove{At: m.At, Did: m.Did, Until: m.Until, Designs: []string{}, Reach: m.Reach}
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

// asked is what is compared of the piece that a request names.
func (s *Server) asked(c *gin.Context) (id string, p *piece.Piece, t tried, runs []store.Run, err error) {
	site := siteOf(c)
	row, p, err := s.measured(c, site.ID)
	if err == nil {
		t, runs, err = s.tried(c, site, row.ID, p, row.PausedAt)
	}
	return row.ID, p, t, runs, err
}

func (s *Server) split(c *gin.Context) error {
	site := siteOf(c)
	id, p, t, runs, err := s.asked(c)
	if err != nil {
		return err
	}
	tallies, err := s.store.Days(c, site.ID, id, time.Time{})
	if err != nil {
		return err
	}
	leftOut, err := s.store.LeftOut(c, site.ID, leftOutDays)
	if err != nil {
		return err
	}
	now := s.now()
	test := t.test(p, now)
	report, err := weigh.Weigh(test)
	if err != nil {
		return err
	}
	result := SplitResult{
		Confidence: confidence, Report: report, Days: test.Days, Goal: t.goal, Goals: []GoalName{}, Currency: site.Settings.Currency,
		Whole: measure(tallies), Variants: t.variants(p, tallies, site), Runs: t.runs(runs), Over: t.over(test), Gains: t.gains(runs, site),
		Sound: SoundChecks{FullWeeks: int(test.Days / 7)}, Moves: t.timeline(), OfEligible: p.OfEligible(),
	}
	result.Sound.Changed, result.Sound.ChangedAt = t.changed()
	if t.testing {
		result.Began, result.Ended = &t.period.Began, t.period.Ended
	}
	for _, g := range site.Settings.Goals {
		result.Goals = append(result.Goals, GoalName{g.ID, g.Name, g.Value != ""})
	}
	for _, l := range leftOut {
		result.Sound.LeftOut += l.Events
	}
	least := math.MaxInt
	for _, row := range t.all {
		if row.Goal == "" && row.Variant != tally.HeldBack {
			if t.in(row.Run) {
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
	c.JSON(http.StatusOK, result)
	return nil
}

const leftOutDays = 28

// variants are those that are compared.
func (t *tried) variants(p *piece.Piece, tallies []store.Tally, site store.Site) []SplitVariant {
	all := []SplitVariant{}
	for _, arm := range t.period.Arms {
		v := SplitVariant{ID: arm.ID, Letter: t.letters[arm.ID], Name: arm.Name, Share: int(arm.Share), Gone: true, Others: []GoalMeasure{}}
		if now, ok := p.Variant(arm.ID); ok {
			v.Name, v.Gone = now.Name, false
		}
		count, values := t.count(t.all, arm.ID, t.goal, 0)
		v.Measure = measureOf(count)
		for _, row := range t.all {
			if row.Variant == arm.ID && t.in(row.Run) && row.Goal == "" {
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
			if goal == t.goal {
				continue
			}
			if count, values := t.count(t.all, arm.ID, goal, 0); count.Conversions > 0 {
				v.Others = append(v.Others, GoalMeasure{goal, measureOf(count), values.Sum})
			}
		}
		all = append(all, v)
	}
	return all
}

// measureOf is a count as it is shown.
func measureOf(count weigh.Count) Measure {
	m := Measure{Visitors: count.Visitors, Conversions: count.Conversions, Interval: weigh.Wilson(count, confidence)}
	if rate, ok := count.Rate(); ok {
		m.Rate = &rate
	}
	return m
}

// runs lists the split's runs, the latest first.
func (t *tried) runs(runs []store.Run) []SplitRun {
	all := []SplitRun{}
	for _, r := range slices.Backward(runs) {
		one := SplitRun{Run: r.Run, Began: r.Began, Held: r.Split.Held, Follow: r.Split.Follow, Variants: []RunVariant{}, Compared: t.testing && t.in(r.Run)}
		for _, v := range r.Split.Variants {
			one.Variants = append(one.Variants, RunVariant{v.ID, t.letters[v.ID], v.Name, v.Share})
		}
		for _, row := range t.all {
			if row.Run == r.Run && row.Goal == "" {
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
func (t *tried) over(test weigh.Test) []OverDay {
	all := []OverDay{}
	var days []time.Time
	for _, row := range t.all {
		if t.in(row.Run) && (len(days) == 0 || !days[len(days)-1].Equal(row.Day)) {
			days = append(days, row.Day)
		}
	}
	step := 1 + len(days)/mostOver
	doubt := (1 - confidence) / float64(max(1, len(t.period.Arms)-1))
	type layered map[int]weigh.Count // by run
	sums, next := make([]layered, len(t.period.Arms)), 0
	for i := range sums {
		sums[i] = layered{}
	}
	for i, day := range days {
		for ; next < len(t.all) && !t.all[next].Day.After(day); next++ {
			row := t.all[next]
			at := slices.IndexFunc(t.period.Arms, func(a weigh.Share) bool { return a.ID == row.Variant })
			if at < 0 || !t.in(row.Run) {
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
			if row.Goal == t.goal {
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
			one.Rates = append(one.Rates, SafeRate{whole[at].Visitors, weigh.Maybe(rate), weigh.SafeRate(whole[at], confidence)})
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
func (t *tried) gains(runs []store.Run, site store.Site) []GoalGain {
	all := []GoalGain{}
	for _, g := range site.Settings.Goals {
		if gain := gainOf(t.all, runs, "", g.ID); gain.Held.Visitors > 0 {
			all = append(all, GoalGain{g.ID, gain})
		}
	}
	return all
}

// gainOf holds those who were shown a piece against those held back in the same
// runs, in one goal.
func gainOf(totals []store.RunTotal, runs []store.Run, piece, goal string) weigh.Gain {
	var shown, held weigh.Count
	var ofShown, ofHeld weigh.Values
	for _, row := range totals {
		if piece != "" && row.Piece != piece || !slices.ContainsFunc(runs, func(r store.Run) bool {
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
	return weigh.Gained(shown, held, ofShown, ofHeld, confidence)
}

const mostCuts = 12

// splitCuts compares the variants in parts of the visitors, the largest first.
func (s *Server) splitCuts(c *gin.Context) error {
	by := c.DefaultQuery("by", tally.ByDevice)
	if !slices.Contains(tally.AllCuts, by) {
		return fault.Fault{At: "by", Message: "is not something visitors are told apart by"}
	}
	id, _, t, _, err := s.asked(c)
	if err != nil {
		return err
	}
	totals, err := s.store.RunTotals(c, siteOf(c).ID, id, by)
	if err != nil {
		return err
	}
	answer := SplitCuts{By: by, Confidence: confidence, Variants: []string{}}
	byValue, sizes := map[string][]store.RunTotal{}, map[string]int{}
	for _, row := range totals {
		if t.in(row.Run) && row.Variant != tally.HeldBack {
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
		for _, arm := range t.period.Arms {
			count, _ := t.count(byValue[value], arm.ID, t.goal, 0)
			cut.Counts = append(cut.Counts, count)
		}
		cuts = append(cuts, cut)
	}
	for _, arm := range t.period.Arms {
		answer.Variants = append(answer.Variants, t.letters[arm.ID])
	}
	answer.Cuts = weigh.WeighCuts(cuts, confidence)
	c.JSON(http.StatusOK, answer)
	return nil
}
