// Package people answers for the people who left an address.
package people

import (
	"context"

	"gobbet/internal/route"
	"gobbet/internal/store/leads"
	"gobbet/internal/studio/parts"
)

// Stores is what this place needs of the store.
type Stores struct {
	Leads interface {
		AnswerKeys(ctx context.Context, site int64, q leads.Query) ([]string, error)
		Count(ctx context.Context, site int64, q leads.Query) (int, error)
		List(ctx context.Context, site int64, q leads.Query) ([]leads.Lead, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	read  *parts.Reader
	store Stores
}

// New makes it over the store, with what all places share.
func New(read *parts.Reader, s Stores) *Place {
	return &Place{read, s}
}

// Routes is what is answered about people.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/people", s.people),
		route.File("/sites/:site/people.csv", route.CSVMedia, s.peopleCSV),
	}
}
