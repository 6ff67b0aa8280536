// Package layouts holds the layouts that ship, one file each; docs/formats.md
// describes the format and package layout reads and checks it.
package layouts

import (
	"embed"
	"fmt"
	"sync"

	"aspenridge/internal/core/layout"
)

//go:embed *.json
var files embed.FS

// All is every shipped layout, in the order of their file names.
var All = sync.OnceValue(func() []*layout.Layout {
	entries, err := files.ReadDir(".")
	if err != nil {
		panic(err)
	}
	var out []*layout.Layout
	for _, e := range entries {
		data, err := files.ReadFile(e.Name())
		if err != nil {
			panic(err)
		}
		l, err := layout.Parse(data)
		if err != nil {
			panic(fmt.Errorf("layouts/%s: %w", e.Name(), err)) // a test loads them all
		}
		out = append(out, l)
	}
	return out
})
