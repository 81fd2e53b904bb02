package studio

import (
	"gobbet/internal/route"
)

// splitRoutes is what is answered about a piece's test.
func (s *Server) splitRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pieces/:piece/split", s.split),
		route.Get("/sites/:site/pieces/:piece/split/cuts", s.splitCuts),
		route.Get("/sites/:site/pieces/:piece/plan", s.plan),
	}
}
