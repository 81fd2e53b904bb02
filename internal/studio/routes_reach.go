package studio

import (
	"gobbet/core/reach"
	"gobbet/internal/route"
)

// reachRoutes is what is answered about who sees a piece, and when.
func (s *Server) reachRoutes() []route.Route {
	return []route.Route{
		route.Get("/facts", func(*route.Call, route.None) (FactBook, error) { return FactBook{reach.Facts, reach.Ops}, nil }),
		route.Post("/sites/:site/rehearse", s.rehearse),
		route.Post("/sites/:site/try", s.try),
		route.Post("/sites/:site/visitors", s.visitors),
		route.Post("/sites/:site/values", s.values),
		route.Get("/sites/:site/reaches", s.reaches),
		route.Put("/sites/:site/reaches/:reach", s.saveReach),
		route.Delete("/sites/:site/reaches/:reach", s.removeReach),
		route.Get("/sites/:site/order", s.order),
		route.Put("/sites/:site/order", s.setOrder),
		route.Post("/sites/:site/pieces/:piece/inspect", s.inspectLink),
	}
}
