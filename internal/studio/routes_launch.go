package studio

import (
	"gobbet/internal/route"
)

// launchRoutes is what is answered about launching a piece.
func (s *Server) launchRoutes() []route.Route {
	return []route.Route{
		route.File("/sites/:site/qr", "image/*", s.qr),
		route.Post("/sites/:site/pieces/:piece/launch", s.launch),
	}
}
