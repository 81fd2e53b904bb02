package studio

import (
	"net/http"
	"slices"

	"github.com/gin-gonic/gin"

	"gobbet/core/alert"
	"gobbet/core/piece"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/store"
)

const (
	alertHistory = 28 // days that what is usual is taken from
	alertLately  = 3
	fewPageViews = 140 // in that time, below which a page's silence says little
)

func runsOfPiece(runs []store.Run, id string) []store.Run {
	return slices.DeleteFunc(slices.Clone(runs), func(r store.Run) bool { return r.Piece != id })
}

func totalsOfPiece(totals []store.RunTotal, id string) []store.RunTotal {
	return slices.DeleteFunc(slices.Clone(totals), func(t store.RunTotal) bool { return t.Piece != id })
}

// alerts says what is not as usual.
func (s *Server) alerts(c *gin.Context) error {
	site := siteOf(c)
	now := s.now()
	today := tally.DayOf(now, site.Location())
	since, lately := today.AddDate(0, 0, -alertHistory), today.AddDate(0, 0, 1-alertLately)
	answer := Alerts{Alerts: []alert.Alert{}, LeftOut: []LeftOut{}, Days: alertHistory}
	add := func(a alert.Alert, is bool) {
		if is {
			answer.Alerts = append(answer.Alerts, a)
		}
	}
	rows, err := s.store.Pieces(c, site.ID)
	if err != nil {
		return err
	}
	days, err := s.store.Days(c, site.ID, "", since)
	if err != nil {
		return err
	}
	runs, err := s.store.Runs(c, site.ID, "")
	if err != nil {
		return err
	}
	sums, err := s.store.RunSums(c, site.ID)
	if err != nil {
		return err
	}
	book, err := s.store.Book(c, site.ID)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if row.State != "live" {
			continue
		}
		var before, after weigh.Count
		for _, d := range days {
			if d.Piece != row.ID {
				continue
			}
			of := &before
			if !d.Day.Before(lately) {
				of = &after
			}
			of.Visitors, of.Conversions = of.Visitors+d.Visitors, of.Conversions+d.Conversions
		}
		name := nameIn(row.Live)
		add(alert.Rate(row.ID, name, before, after, alertLately))
		p, err := piece.ParseWith(row.Live, book)
		if err != nil {
			continue // the board says so
		}
		t := triedOf(site, p, runsOfPiece(runs, row.ID), totalsOfPiece(sums, row.ID), nil)
		if t.testing && t.period.Ended == nil {
			if report, err := weigh.Weigh(t.test(p, now)); err == nil {
				add(alert.Split(row.ID, name, report.Split))
			}
		}
	}
	history := now.AddDate(0, 0, -alertHistory)
	goals, err := s.store.GoalSums(c, site.ID, history)
	if err != nil {
		return err
	}
	for _, g := range site.Settings.Goals {
		for _, sum := range goals {
			if sum.Goal == g.ID {
				add(alert.Goal(g.Name, sum.Times, alertHistory, sum.Last, now))
			}
		}
	}
	pages, err := s.store.Pages(c, site.ID, since)
	if err != nil {
		return err
	}
	for _, p := range pages {
		if p.Views >= fewPageViews {
			add(alert.Page(p.Path, p.Views, alertHistory, p.LastAt, now))
		}
	}
	left, err := s.store.LeftOut(c, site.ID, alertHistory)
	if err != nil {
		return err
	}
	for _, l := range left {
		answer.LeftOut = append(answer.LeftOut, LeftOut{l.Why, l.What, l.Events})
	}
	c.JSON(http.StatusOK, answer)
	return nil
}
