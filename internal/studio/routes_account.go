package studio

import (
	"time"

	"gobbet/internal/route"
)

// accountRoutes is what is answered about signing in.
func (s *Server) accountRoutes() []route.Route {
	return []route.Route{
		route.Post("/session", s.signIn).For(route.Anyone).Takes(16<<10).At(30, time.Minute),
		route.Delete("/session", s.signOut).For(route.Anyone),
		route.Get("/me", s.me),
	}
}
