// Package site answers for a site's settings, its style kit, and how it is wired up.
package site

import (
	"context"
	"time"

	"gobbet/core/setup"
	"gobbet/core/style"
	"gobbet/internal/jobs"
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

// Stores is what this place needs of the store.
type Stores struct {
	Sites interface {
		Change(ctx context.Context, site int64, version int, name, zone string, origins sites.Texts) error
		ChangeKit(ctx context.Context, site int64, version int, kit style.Kit, drawings map[string][]byte) error
		ChangePart(ctx context.Context, site int64, part setup.Part, version string, others setup.Settings) (setup.Settings, error)
		DataNames(ctx context.Context, site int64) ([]string, error)
		ForgetDataName(ctx context.Context, site int64, name string) error
		Refusals(ctx context.Context, site int64, days int) ([]sites.Refusal, error)
	}
	PageViews interface {
		LatestAt(ctx context.Context, site int64) (*time.Time, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read  *parts.Reader
	store Stores
	now   func() time.Time
	proxy func() string // the address of a proxy that is in use and not named
	pages string        // origin of the pages that pieces live at; empty: there are none
	jobs  func(ctx context.Context) ([]jobs.State, error)
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores, now func() time.Time, proxy func() string, pages string, jobs func(ctx context.Context) ([]jobs.State, error)) *Place {
	return &Place{read, s, now, proxy, pages, jobs}
}

// Routes is what is answered about a site and its settings.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Put("/sites/:site", s.changeSite),
		route.Put("/sites/:site/settings/:part", s.changeSettings),
		route.Get("/sites/:site/health", s.health),
		route.Get("/sites/:site/words", s.words),
		route.Delete("/sites/:site/data-names/:name", s.forgetDataName),
		route.Put("/sites/:site/kit", s.changeKit),
		route.Get("/sites/:site/kit/uses", s.kitUses),
	}
}
