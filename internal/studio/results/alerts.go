package results

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gobbet/core/alert"
	"gobbet/core/compare"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/route"
	"gobbet/internal/store/alerts"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

const (
	fewPageViews = 140 // in alert.History, below which a page's silence says little
)

func runsOfPiece(runs []launch.Run, id string) []launch.Run {
	return slices.DeleteFunc(slices.Clone(runs), func(r launch.Run) bool { return r.Piece != id })
}

func totalsOfPiece(totals []compare.Total, id string) []compare.Total {
	return slices.DeleteFunc(slices.Clone(totals), func(t compare.Total) bool { return t.Piece != id })
}

// Watch keeps what is not as usual on every site. One that cannot be watched
// keeps none of the others from being.
func (s *Place) Watch(ctx context.Context) error {
	numbers, err := s.store.Sites.SnapshotNumbers(ctx)
	errs := []error{err}
	for _, n := range numbers {
		sites, err := s.store.Sites.ByID(ctx, []int64{n.ID})
		for _, site := range sites {
			now, unknown := s.unusual(ctx, site)
			if err = unknown; err == nil {
				err = s.store.Alerts.Keep(ctx, site.ID, now)
			}
		}
		if err != nil {
			errs = append(errs, fmt.Errorf("site %s: %w", n.Key, err))
		}
	}
	return errors.Join(errs...)
}

// unusual says what is not as usual on a site.
func (s *Place) unusual(ctx context.Context, site sites.Site) (all []alert.Alert, err error) {
	now := s.now()
	today := tally.DayOf(now, site.Location())
	add := func(a alert.Alert, is bool) {
		if is {
			all = append(all, a)
		}
	}
	if err := s.unusualPieces(ctx, site, now, today, add); err != nil {
		return nil, err
	}
	quiet := func(q alerts.Quiet) alert.Quiet {
		return alert.Quiet{PerDay: q.PerDay(), Expected: q.Expected, Silent: now.Sub(q.Last)}
	}
	goals, err := s.store.Alerts.QuietGoals(ctx, site.ID, now)
	if err != nil {
		return nil, err
	}
	for _, g := range site.Settings.Goals {
		for _, q := range goals {
			if q.About == g.ID {
				add(alert.Goal(g.ID, g.Name, quiet(q)))
			}
		}
	}
	pages, err := s.store.Alerts.QuietPages(ctx, site.ID, today, fewPageViews)
	if err != nil {
		return nil, err
	}
	for _, q := range pages {
		add(alert.Page(q.About, quiet(q)))
	}
	return all, nil
}

// unusualPieces adds live pieces whose rate is not as it was, or whose split is not
// as asked.
func (s *Place) unusualPieces(ctx context.Context, site sites.Site, now, today time.Time, add func(alert.Alert, bool)) error {
	since := today.AddDate(0, 0, -alert.History)
	rows, err := s.store.Pieces.List(ctx, site.ID)
	if err != nil {
		return err
	}
	days, err := s.store.Results.Days(ctx, site.ID, "", since)
	if err != nil {
		return err
	}
	runs, err := s.store.Pieces.Runs(ctx, site.ID, "")
	if err != nil {
		return err
	}
	sums, err := s.store.Results.RunSums(ctx, site.ID)
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(ctx, site.ID)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if row.State != "live" {
			continue
		}
		var counts []alert.Day
		for _, d := range days {
			if d.Piece == row.ID {
				counts = append(counts, alert.Day{Day: d.Day, Count: weigh.Count{Visitors: d.Visitors, Conversions: d.Conversions}})
			}
		}
		name := parts.NameIn(row.Live)
		add(alert.RateOf(row.ID, name, counts, today))
		p, err := piece.ParseWith(row.Live, book)
		if err != nil {
			continue // the board says so
		}
		t := compare.Of(p, site.Settings.GoalIDs(), runsOfPiece(runs, row.ID), totalsOfPiece(sums, row.ID), nil)
		if t.Testing && t.Period.Ended == nil {
			if report, err := weigh.Weigh(t.Test(p, now)); err == nil {
				add(alert.Split(row.ID, name, report.Split))
			}
		}
	}
	return nil
}

// alerts says what is not as usual, since when, and what was left out of the counts.
func (s *Place) alerts(c *route.Call, _ route.None) (answer Alerts, err error) {
	site := c.Site
	now, err := s.unusual(c, site)
	if err != nil {
		return answer, err
	}
	kept, err := s.store.Alerts.List(c, site.ID, s.now())
	if err != nil {
		return answer, err
	}
	answer = Alerts{Alerts: []AlertNow{}, LeftOut: []LeftOut{}, Days: alert.History}
	for _, a := range now {
		one := AlertNow{Alert: a}
		for _, k := range kept {
			if k.Ended == nil && k.Kind == a.Kind && k.Piece == a.Piece && k.About == a.About {
				one.Since = &k.Began
			}
		}
		answer.Alerts = append(answer.Alerts, one)
	}
	left, err := s.store.Events.LeftOut(c, site.ID, alert.History)
	if err != nil {
		return answer, err
	}
	for _, l := range left {
		answer.LeftOut = append(answer.LeftOut, LeftOut{l.Why, l.What, l.Events})
	}
	return answer, nil
}
