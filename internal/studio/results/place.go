// Package results tells what the site's pieces brought and cost, and what is not as
// usual.
package results

import (
	"context"
	"time"

	"gobbet/core/alert"
	"gobbet/core/compare"
	"gobbet/core/launch"
	"gobbet/core/reach"
	"gobbet/internal/route"
	"gobbet/internal/store/alerts"
	"gobbet/internal/store/events"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/results"
	"gobbet/internal/store/sites"
)

// Stores is what this place needs of the store.
type Stores struct {
	Alerts interface {
		Keep(ctx context.Context, site int64, now []alert.Alert) error
		List(ctx context.Context, site int64, since time.Time) ([]alerts.Kept, error)
		QuietGoals(ctx context.Context, site int64, now time.Time) ([]alerts.Quiet, error)
		QuietPages(ctx context.Context, site int64, today time.Time, many int) ([]alerts.Quiet, error)
	}
	Events interface {
		LeftOut(ctx context.Context, site int64, days int) ([]events.LeftOut, error)
		List(ctx context.Context, site int64, q events.Query) (events.Page, error)
	}
	PageViews interface {
		Costs(ctx context.Context, site int64, from, to time.Time) ([]pageviews.CostSum, error)
		Interruptions(ctx context.Context, site int64, from, to time.Time) ([]int, error)
	}
	Pieces interface {
		List(ctx context.Context, site int64) ([]pieces.Piece, error)
		NamesEver(ctx context.Context, site int64) (map[string]string, error)
		Runs(ctx context.Context, site int64, piece string) ([]launch.Run, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
	}
	Results interface {
		Days(ctx context.Context, site int64, piece string, since time.Time) ([]results.Tally, error)
		GoalsReached(ctx context.Context, site int64, from, to time.Time) ([]results.GoalSum, error)
		HourSums(ctx context.Context, site int64, piece string, from, to time.Time, zone string) ([]results.HourTotal, error)
		LeadQuality(ctx context.Context, site int64, piece string, from, to time.Time, goal string) ([]results.LeadsOf, error)
		PieceSums(ctx context.Context, site int64, piece string, from, to time.Time) ([]results.HourTotal, error)
		RangeTotals(ctx context.Context, site int64, piece string, from, to time.Time, cut string) ([]compare.Total, error)
		RunSums(ctx context.Context, site int64) ([]compare.Total, error)
		StepTotals(ctx context.Context, site int64, piece string, from, to time.Time, step int) ([]compare.Total, error)
	}
	Sites interface {
		ByID(ctx context.Context, ids []int64) ([]sites.Site, error)
		SnapshotNumbers(ctx context.Context) ([]sites.SnapshotNumber, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	store Stores
	now   func() time.Time
}

// New makes it over the store, with what all places share.
func New(s Stores, now func() time.Time) *Place {
	return &Place{s, now}
}

// Routes is what is answered about Results.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/results", s.siteResults),
		route.File("/sites/:site/results.csv", route.CSVMedia, s.resultsCSV),
		route.Get("/sites/:site/results/behind", s.behind),
		route.Get("/sites/:site/alerts", s.alerts),
	}
}
