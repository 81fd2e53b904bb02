// Package web holds the built front end. It is empty until make build has run,
// and the program says so where it would serve it.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Studio is the studio's files, Page the visitors' scripts; both are empty
// until built.
func Studio() fs.FS { return below("dist/studio") }
func Page() fs.FS   { return below("dist/page") }

func below(dir string) fs.FS {
	files, err := fs.Sub(dist, dir)
	if err != nil {
		panic(err)
	}
	return files
}
