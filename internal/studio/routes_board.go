package studio

import (
	"gobbet/internal/route"
)

const maxImport = 48 << 20

// boardRoutes is what is answered about the board.
func (s *Server) boardRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/board", s.board),
		route.Get("/sites/:site/pieces", s.list),
		route.Post("/sites/:site/pieces", s.addPiece).Created(),
		route.Get("/sites/:site/templates", s.templates),
		route.Upload("POST", "/sites/:site/import", maxImport, s.importPiece).Created(),
		route.File("/sites/:site/pieces/:piece/file", "application/zip", s.exportPiece),
		route.Delete("/sites/:site/pieces/:piece", s.removePiece),
		route.Get("/sites/:site/deleted", s.deleted),
		route.Post("/sites/:site/pieces/:piece/restore", s.restorePiece),
		route.Post("/sites/:site/pause", s.pause),
		route.Post("/sites/:site/resume", s.resume),
	}
}
