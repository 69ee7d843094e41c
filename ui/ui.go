// Package ui holds the built interface, so that the house is one program.
package ui

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Files are the built pages, scripts, styles and fonts. Before a build there is
// only a note that says so.
func Files() fs.FS {
	if app, err := fs.Sub(dist, "dist/app"); err == nil {
		if _, err := fs.Stat(app, "index.html"); err == nil {
			return app
		}
	}
	none, err := fs.Sub(dist, "dist")
	if err != nil {
		return dist
	}
	return none
}
