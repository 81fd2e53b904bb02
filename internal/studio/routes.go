package studio

import (
	"slices"

	"gobbet/internal/route"
)

// Routes is all that the studio is answered.
func (s *Server) Routes() []route.Route {
	return slices.Concat(s.accountRoutes(), s.reachRoutes(), s.siteRoutes(), s.launchRoutes(), s.boardRoutes(), s.composeRoutes(), s.splitRoutes(), s.reportRoutes(), s.resultsRoutes(), s.libraryRoutes(), s.peopleRoutes())
}
