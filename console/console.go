// Package console holds the web console as it was built, for the service to
// serve. The console itself is written in TypeScript under src.
package console

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Files returns the built console; it lacks index.html when it was not built.
func Files() fs.FS {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // dist is a valid path
	}
	return files
}
