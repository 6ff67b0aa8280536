// Package raster stands between files and pixels. It takes in what people
// upload (pictures, logos) and turns it into something safe, upright and
// measured; and it turns scenes into PNG, JPEG, WebP and PDF files.
//
// Uploaded bytes are told by their magic numbers and their size is read before
// anything is decoded; reading them happens in a child process ([Import],
// [ImportLogo], [ImportFont]) that is killed when it takes too long. SVG is
// rewritten there first ([CleanSVG]). libvips and librsvg do the drawing, in
// processes of their own that a caller who goes away takes along (worker.go).
package raster

import (
	"sync"

	"github.com/davidbyttow/govips/v2/vips"
)

// start brings libvips up once per process, quiet, one thread per image: pieces
// are drawn side by side instead.
var start = sync.OnceFunc(func() {
	vips.LoggingSettings(func(string, vips.LogLevel, string) {}, vips.LogLevelError)
	vips.Startup(&vips.Config{ConcurrencyLevel: 1, MaxCacheSize: 0, MaxCacheMem: 0, MaxCacheFiles: 0})
})
