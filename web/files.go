// Package web embeds the interface: templates, scripts as they are written, and
// what `make assets` builds of styles and libraries.
package web

import (
	"embed"
	"io/fs"
	"path"
)

// Files holds templates/, static/ and src/js/.
//
//go:embed all:templates static src/js
var Files embed.FS

// Static is what browsers may ask for: built files, and our own scripts under
// js/.
func Static() fs.FS { return static{} }

type static struct{}

// Open finds a file among the built ones, else among the scripts.
func (static) Open(name string) (fs.File, error) {
	if f, err := Files.Open(path.Join("static", name)); err == nil {
		return f, nil
	}
	return Files.Open(path.Join("src", name))
}
