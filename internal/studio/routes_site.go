package studio

import (
	"gobbet/internal/route"
)

// siteRoutes is what is answered about a site and its settings.
func (s *Server) siteRoutes() []route.Route {
	return []route.Route{
		route.Put("/sites/:site", s.changeSite),
		route.Put("/sites/:site/settings", s.changeSettings),
		route.Get("/sites/:site/health", s.health),
		route.Delete("/sites/:site/data-names/:name", s.forgetDataName),
		route.Put("/sites/:site/kit", s.changeKit),
		route.Get("/sites/:site/kit/uses", s.kitUses),
	}
}
