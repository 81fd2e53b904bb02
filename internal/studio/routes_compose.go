package studio

import (
	"gobbet/internal/route"
)

// composeRoutes is what is answered about designing a piece.
func (s *Server) composeRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pieces/:piece", s.piece),
		route.Put("/sites/:site/pieces/:piece", s.saveDraft),
		route.Get("/sites/:site/pieces/:piece/versions", s.versions),
		route.Post("/sites/:site/walk", s.walk),
		route.Post("/sites/:site/playthrough", s.playThrough),
		route.Post("/sites/:site/reckon", s.reckon),
		route.File("/sites/:site/page", "text/html", s.page),
	}
}
