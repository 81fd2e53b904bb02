package studio

import (
	"gobbet/internal/route"
)

// peopleRoutes is what is answered about people.
func (s *Server) peopleRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/people", s.people),
		route.File("/sites/:site/people.csv", route.CSVMedia, s.peopleCSV),
	}
}
