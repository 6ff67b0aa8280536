package web

import (
	"compress/gzip"
	"io"
	"net/http"

	"github.com/go-chi/chi/v5/middleware"
)

// compressed packs what is text on its way out; pages are large, with the pieces
// drawn in them, and packing them well takes longer than drawing them.
func compressed() func(http.Handler) http.Handler {
	c := middleware.NewCompressor(1, "text/html", "text/css", "text/javascript", "application/json", "image/svg+xml", "font/ttf")
	c.SetEncoder("gzip", func(w io.Writer, level int) io.Writer {
		z, err := gzip.NewWriterLevel(w, level)
		if err != nil {
			panic(err) // the level is above
		}
		return z
	})
	return c.Handler
}
