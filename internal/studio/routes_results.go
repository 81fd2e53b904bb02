package studio

import (
	"gobbet/internal/route"
)

// resultsRoutes is what is answered about Results.
func (s *Server) resultsRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/results", s.siteResults),
		route.File("/sites/:site/results.csv", route.CSVMedia, s.resultsCSV),
		route.Get("/sites/:site/results/behind", s.behind),
		route.Get("/sites/:site/alerts", s.alerts),
	}
}
