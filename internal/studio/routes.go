package studio

import (
	"time"

	"gobbet/core/reach"
	"gobbet/internal/route"
)

const (
	maxPicture = 12 << 20
	maxFile    = 24 << 20
	maxImport  = 48 << 20
)

// Routes is all that the studio is answered.
func (s *Server) Routes() []route.Route {
	return []route.Route{
		route.Post("/session", s.signIn).For(route.Anyone).Takes(16<<10).At(30, time.Minute),
		route.Delete("/session", s.signOut).For(route.Anyone),
		route.Get("/me", s.me),
		route.Get("/facts", func(*route.Call, route.None) (FactBook, error) { return FactBook{reach.Facts, reach.Ops}, nil }),

		route.Put("/sites/:site", s.changeSite),
		route.Put("/sites/:site/settings", s.changeSettings),
		route.Get("/sites/:site/health", s.health),
		route.Delete("/sites/:site/data-names/:name", s.forgetDataName),
		route.Put("/sites/:site/kit", s.changeKit),
		route.Get("/sites/:site/kit/uses", s.kitUses),
		route.File("/sites/:site/qr", "image/*", s.qr),

		route.Get("/sites/:site/board", s.board),
		route.Get("/sites/:site/pieces", s.pieceNames),
		route.Post("/sites/:site/pieces", s.addPiece).Created(),
		route.Get("/sites/:site/templates", s.templates),
		route.Upload("POST", "/sites/:site/import", maxImport, s.importPiece).Created(),
		route.File("/sites/:site/pieces/:piece/file", "application/zip", s.exportPiece),
		route.Delete("/sites/:site/pieces/:piece", s.removePiece),
		route.Get("/sites/:site/deleted", s.deleted),
		route.Post("/sites/:site/pieces/:piece/restore", s.restorePiece),
		route.Post("/sites/:site/pause", s.pause),
		route.Post("/sites/:site/resume", s.resume),

		route.Get("/sites/:site/pieces/:piece", s.piece),
		route.Put("/sites/:site/pieces/:piece", s.saveDraft),
		route.Get("/sites/:site/pieces/:piece/versions", s.versions),
		route.Post("/sites/:site/walk", s.walk),
		route.Post("/sites/:site/playthrough", s.playThrough),
		route.Post("/sites/:site/reckon", s.reckon),
		route.File("/sites/:site/page", "text/html", s.page),

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

		route.Get("/sites/:site/pieces/:piece/split", s.split),
		route.Get("/sites/:site/pieces/:piece/split/cuts", s.splitCuts),
		route.Get("/sites/:site/pieces/:piece/plan", s.plan),
		route.Get("/sites/:site/pieces/:piece/played", s.played),
		route.Get("/sites/:site/pieces/:piece/answers", s.answers),
		route.File("/sites/:site/pieces/:piece/answers.csv", route.CSVMedia, s.answersCSV),
		route.File("/sites/:site/pieces/:piece/goes.csv", route.CSVMedia, s.goesCSV),

		route.Post("/sites/:site/pieces/:piece/launch", s.launch),

		route.Get("/sites/:site/results", s.siteResults),
		route.File("/sites/:site/results.csv", route.CSVMedia, s.resultsCSV),
		route.Get("/sites/:site/results/behind", s.behind),
		route.Get("/sites/:site/alerts", s.alerts),

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

		route.Get("/sites/:site/people", s.people),
		route.File("/sites/:site/people.csv", route.CSVMedia, s.peopleCSV),
	}
}
