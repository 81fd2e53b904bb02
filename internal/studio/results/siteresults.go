package results

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"gobbet/core/compare"
	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

const (
	usualRange = 28
	mostRange  = 3700 // days: ten years
	mostSteps  = 30
	mostRows   = 60
	fewForRow  = 20 // visitors below which a row says nothing
)

// span is what Results is asked about.
type span struct {
	from, to   time.Time // days, as midnight of UTC, both included
	piece, by  string
	begin, end time.Time // the instants that the days begin and end at
}

func (a span) days() int { return int(a.to.Sub(a.from)/(24*time.Hour)) + 1 }

// before is as many days, right before.
func (a span) before(zone *time.Location) span {
	a.from, a.to = a.from.AddDate(0, 0, -a.days()), a.from.AddDate(0, 0, -1)
	a.instants(zone)
	return a
}

func (a *span) instants(zone *time.Location) {
	start := func(d time.Time) time.Time { return time.Date(d.Year(), d.Month(), d.Day(), 0, 0, 0, 0, zone) }
	a.begin, a.end = start(a.from), start(a.to.AddDate(0, 0, 1))
}

// rangeAsked reads the range and the cuts from the address.
func (s *Place) rangeAsked(c *route.Call, ask ResultsQuery) (a span, err error) {
	site := c.Site
	zone := site.Location()
	today := tally.DayOf(s.now(), zone)
	a = span{from: today.AddDate(0, 0, 1-usualRange), to: today, piece: ask.Piece, by: ask.By}
	var faults fault.Faults
	for _, one := range []struct {
		name, text string
		into       *time.Time
	}{{"from", ask.From, &a.from}, {"to", ask.To, &a.to}} {
		if one.text != "" {
			if *one.into, err = time.Parse(time.DateOnly, one.text); err != nil {
				faults.Add(one.name, "should be a day such as 2026-11-24")
			}
		}
	}
	switch {
	case faults != nil:
	case a.to.Before(a.from):
		faults.Add("to", "is before the first day")
	case a.days() > mostRange:
		faults.Add("from", "is more than ten years before the last day")
	case a.from.Year() < 2000 || a.to.Year() > 2200:
		faults.Add("from", "is not a day that anything was measured on")
	}
	if a.by != "" && !slices.Contains(tally.AllCuts, a.by) {
		faults.Add("by", "is not something visitors are told apart by")
	}
	a.instants(zone)
	return a, faults.Err()
}

func (s *Place) siteResults(c *route.Call, ask ResultsQuery) (answer SiteResults, err error) {
	site := c.Site
	a, err := s.rangeAsked(c, ask)
	if err != nil {
		return answer, err
	}
	before := a.before(site.Location())
	names, err := s.store.Pieces.NamesEver(c, site.ID)
	if err != nil {
		return answer, err
	}
	runs, err := s.store.Pieces.Runs(c, site.ID, a.piece)
	if err != nil {
		return answer, err
	}
	now, err := s.store.Results.RangeTotals(c, site.ID, a.piece, a.from, a.to, "")
	if err != nil {
		return answer, err
	}
	then, err := s.store.Results.RangeTotals(c, site.ID, a.piece, before.from, before.to, "")
	if err != nil {
		return answer, err
	}
	r := SiteResults{
		Confidence: parts.Confidence, Currency: site.Settings.Currency, Goals: []GoalSum{}, Brought: []parts.GoalGain{}, Over: []GainStep{}, Leads: []LeadQuality{},
		Range: dayRange(a), Before: dayRange(before), Now: parts.MeasureOf(compare.Shown(now, "")), Then: parts.MeasureOf(compare.Shown(then, "")),
	}
	if err := s.goalsOf(c, site, a, &r); err != nil {
		return answer, err
	}
	for _, g := range site.Settings.Goals {
		gains := []weigh.Gain{}
		for _, id := range pieceIDs(now) {
			if gain := compare.Gain(now, runs, id, g.ID); gain.Held.Visitors > 0 {
				gains = append(gains, gain)
			}
		}
		if all := weigh.Together(gains); all.Held.Visitors > 0 {
			r.Brought = append(r.Brought, parts.GoalGain{Goal: g.ID, Gain: all})
		}
	}
	if err := s.overRange(c, site, a, runs, &r); err != nil {
		return answer, err
	}
	if r.Cost, err = s.siteCost(c, site, a, names); err != nil {
		return answer, err
	}
	if r.Hours, err = s.hours(c, site, a); err != nil {
		return answer, err
	}
	if err := s.resultRows(c, site, a, before, names, &r); err != nil {
		return answer, err
	}
	if err := s.leadQuality(c, site, a, &r); err != nil {
		return answer, err
	}
	r.Head, r.Why = weigh.SayBrought(broughtWords(site, a, &r))
	return r, nil
}

func dayRange(a span) DayRange {
	return DayRange{a.from.Format(time.DateOnly), a.to.Format(time.DateOnly)}
}

func pieceIDs(totals []compare.Total) (ids []string) {
	for _, t := range totals {
		if !slices.Contains(ids, t.Piece) {
			ids = append(ids, t.Piece)
		}
	}
	return ids
}

func (s *Place) goalsOf(ctx context.Context, site sites.Site, a span, r *SiteResults) error {
	sums, err := s.store.Results.GoalsReached(ctx, site.ID, a.begin, a.end)
	if err != nil {
		return err
	}
	for _, g := range site.Settings.Goals {
		one := GoalSum{ID: g.ID, Name: g.Name, Valued: g.Value != ""}
		for _, sum := range sums {
			if sum.Goal == g.ID {
				one.Times, one.Value = sum.Times, float64(sum.Amount)/100
			}
		}
		r.Goals = append(r.Goals, one)
	}
	return nil
}

// overRange is how the first goal went, in steps of days.
func (s *Place) overRange(ctx context.Context, site sites.Site, a span, runs []launch.Run, r *SiteResults) error {
	r.Step = max(1, (a.days()+mostSteps-1)/mostSteps)
	if a.days() >= 21 {
		r.Step = max(7, r.Step)
	}
	if len(r.Brought) == 0 {
		return nil
	}
	goal := r.Brought[0].Goal
	totals, err := s.store.Results.StepTotals(ctx, site.ID, a.piece, a.from, a.to, r.Step)
	if err != nil {
		return err
	}
	for day := a.from; !day.After(a.to); day = day.AddDate(0, 0, r.Step) {
		var of []compare.Total
		for _, t := range totals {
			if t.Day.Equal(day) {
				of = append(of, t)
			}
		}
		var shown, held weigh.Count
		for _, id := range pieceIDs(of) {
			gain := compare.Gain(of, runs, id, goal)
			shown.Visitors, shown.Conversions = shown.Visitors+gain.Shown.Visitors, shown.Conversions+gain.Shown.Conversions
			held.Visitors, held.Conversions = held.Visitors+gain.Held.Visitors, held.Conversions+gain.Held.Conversions
		}
		r.Over = append(r.Over, GainStep{day.Format(time.DateOnly), parts.MeasureOf(shown), parts.MeasureOf(held)})
	}
	return nil
}

// hours is when visitors convert.
func (s *Place) hours(ctx context.Context, site sites.Site, a span) ([][]int, error) {
	sums, err := s.store.Results.HourSums(ctx, site.ID, a.piece, a.begin, a.end, site.Location().String())
	hours := make([][]int, 7)
	for i := range hours {
		hours[i] = make([]int, 24)
	}
	monday := time.Date(2024, 1, 1, 0, 0, 0, 0, time.UTC)
	for _, sum := range sums {
		at := int(sum.Hour.Sub(monday) / time.Hour)
		hours[at/24][at%24] = sum.Converted
	}
	return hours, err
}

// resultRows are the pieces by what is asked, the best rates first.
func (s *Place) resultRows(ctx context.Context, site sites.Site, a, before span, names map[string]string, r *SiteResults) error {
	now, err := s.store.Results.RangeTotals(ctx, site.ID, a.piece, a.from, a.to, a.by)
	if err != nil {
		return err
	}
	then, err := s.store.Results.RangeTotals(ctx, site.ID, a.piece, before.from, before.to, a.by)
	if err != nil {
		return err
	}
	goal := "-"
	if len(site.Settings.Goals) > 0 {
		goal = site.Settings.Goals[0].ID
	}
	type key struct{ piece, value string }
	of := func(totals []compare.Total) (all map[key][]compare.Total) {
		all = map[key][]compare.Total{}
		for _, t := range totals {
			k := key{t.Piece, t.Value}
			all[k] = append(all[k], t)
		}
		return all
	}
	was := of(then)
	r.Rows = []ResultRow{}
	for k, totals := range of(now) {
		is, earlier := compare.Shown(totals, ""), compare.Shown(was[k], "")
		if is.Visitors < fewForRow {
			r.More++
			continue
		}
		row := ResultRow{Piece: k.piece, Name: names[k.piece], Value: k.value, Now: parts.MeasureOf(is), Then: parts.MeasureOf(earlier), Goal: parts.MeasureOf(compare.Shown(totals, goal))}
		change, bounds, _ := weigh.Newcombe(is, earlier, parts.Confidence)
		row.Change, row.ChangeInterval = weigh.Maybe(change), bounds
		r.Rows = append(r.Rows, row)
	}
	slices.SortFunc(r.Rows, func(x, y ResultRow) int {
		return cmp.Or(cmp.Compare(*y.Now.Rate, *x.Now.Rate), cmp.Compare(x.Piece, y.Piece), cmp.Compare(x.Value, y.Value))
	})
	if len(r.Rows) > mostRows {
		// The best and the worst.
		r.More += len(r.Rows) - mostRows
		r.Rows = append(r.Rows[:mostRows/2:mostRows/2], r.Rows[len(r.Rows)-mostRows/2:]...)
	}
	return nil
}

// leadQuality is what leads of each source did after they left their address.
func (s *Place) leadQuality(ctx context.Context, site sites.Site, a span, r *SiteResults) error {
	at := slices.IndexFunc(site.Settings.Goals, func(g setup.Goal) bool { return g.Value != "" })
	if at < 0 {
		return nil
	}
	rows, err := s.store.Results.LeadQuality(ctx, site.ID, a.piece, a.begin, a.end, site.Settings.Goals[at].ID)
	for _, row := range rows {
		r.Leads = append(r.Leads, LeadQuality{row.Channel, row.Leads, parts.MeasureOf(weigh.Count{Visitors: row.Leads, Conversions: row.Ordered}), float64(row.Amount) / 100})
	}
	return err
}

// broughtWords gives core what it needs to say what the pieces brought.
func broughtWords(site sites.Site, a span, r *SiteResults) weigh.Brought {
	b := weigh.Brought{Days: a.days(), Visitors: r.Now.Visitors, Conversions: r.Now.Conversions, Currency: site.Settings.Currency}
	if len(r.Brought) > 0 {
		b.Gain, b.Has = r.Brought[0].Gain, true
		for _, g := range site.Settings.Goals {
			if g.ID == r.Brought[0].Goal {
				b.Goal = g.Name
			}
		}
	}
	return b
}

// resultsCSV is the table of Results as a file.
func (s *Place) resultsCSV(c *route.Call, ask ResultsQuery) error {
	site := c.Site
	a, err := s.rangeAsked(c, ask)
	if err != nil {
		return err
	}
	names, err := s.store.Pieces.NamesEver(c, site.ID)
	if err != nil {
		return err
	}
	before := a.before(site.Location())
	var r SiteResults
	if err := s.resultRows(c, site, a, before, names, &r); err != nil {
		return err
	}
	f := c.CSV("results.csv", []string{
		"piece", cmp.Or(a.by, "part"), "visitors", "conversions", "rate", "rate low", "rate high", "visitors before", "conversions before", "rate before", "difference", "difference low", "difference high", "reached goal",
	})
	for _, row := range r.Rows {
		f.Row([]string{
			row.Name, row.Value, fmt.Sprint(row.Now.Visitors), fmt.Sprint(row.Now.Conversions), shareText(row.Now.Rate), fmt.Sprint(row.Now.Interval[0]), fmt.Sprint(row.Now.Interval[1]),
			fmt.Sprint(row.Then.Visitors), fmt.Sprint(row.Then.Conversions), shareText(row.Then.Rate), maybeText(row.Change), fmt.Sprint(row.ChangeInterval[0]), fmt.Sprint(row.ChangeInterval[1]), fmt.Sprint(row.Goal.Conversions),
		})
	}
	return f.Close()
}

func shareText(rate *float64) string {
	if rate == nil {
		return ""
	}
	return fmt.Sprint(*rate)
}

func maybeText(m weigh.Maybe) string {
	if !m.Is() {
		return ""
	}
	return fmt.Sprint(float64(m))
}
