package studio

import (
	"gobbet/internal/route"
)

const (
	maxPicture = 12 << 20
	maxFile    = 24 << 20
)

// libraryRoutes is what is answered about what pieces are made from.
func (s *Server) libraryRoutes() []route.Route {
	return []route.Route{
		route.Get("/sites/:site/pictures", s.pictures),
		route.Upload("POST", "/sites/:site/pictures", maxPicture, s.addPicture).Created(),
		route.Put("/sites/:site/pictures/:hash", s.renamePicture),
		route.Delete("/sites/:site/pictures/:hash", s.removePicture),
		route.Post("/sites/:site/pictures/:hash/replace", s.replacePicture),
		route.Get("/sites/:site/files", s.files),
		route.Upload("POST", "/sites/:site/files", maxFile, s.addFile).Created(),
		route.Put("/sites/:site/files/:hash", s.renameFile),
		route.Delete("/sites/:site/files/:hash", s.removeFile),
		route.Get("/sites/:site/snippets", s.snippets),
		route.Post("/sites/:site/snippets", s.addSnippet).Created(),
		route.Put("/sites/:site/snippets/:id", s.renameSnippet),
		route.Delete("/sites/:site/snippets/:id", s.removeSnippet),
		route.Get("/sites/:site/pools", s.pools),
		route.Put("/sites/:site/pools/:id", s.addCodes),
		route.Upload("PUT", "/sites/:site/pools/:id/file", maxCodeFile, s.addCodeFile),
		route.Get("/sites/:site/pools/:id/codes", s.codes),
		route.File("/sites/:site/pools/:id/codes.csv", route.CSVMedia, s.codesCSV),
		route.Delete("/sites/:site/pools/:id", s.removePool),
	}
}
