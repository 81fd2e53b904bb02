package studio

import (
	"gobbet/internal/route"
)

// reportRoutes is what is answered about what visitors did in a piece.
func (s *Server) reportRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pieces/:piece/played", s.played),
		route.Get("/sites/:site/pieces/:piece/answers", s.answers),
		route.File("/sites/:site/pieces/:piece/answers.csv", route.CSVMedia, s.answersCSV),
		route.File("/sites/:site/pieces/:piece/goes.csv", route.CSVMedia, s.goesCSV),
	}
}
