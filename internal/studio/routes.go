package studio

import (
	"slices"

	"gobbet/internal/route"
)

// Routes is all that the studio is answered, place by place.
func (s *Server) Routes() []route.Route {
	return slices.Concat(
		s.account.Routes(), s.site.Routes(), s.board.Routes(), s.compose.Routes(), s.reach.Routes(), s.split.Routes(), s.report.Routes(), s.launch.Routes(),
		s.results.Routes(), s.library.Routes(), s.people.Routes(),
	)
}

// Routes is what any server answers, to be told of and not to be asked.
func Routes() []route.Route { return (&Server{}).Routes() }
