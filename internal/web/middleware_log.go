package web

import (
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5/middleware"
)

// logged writes a line for every request, without the secrets in addresses.
func (s *Server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		start := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		if !strings.HasPrefix(r.URL.Path, "/static/") && !strings.HasPrefix(r.URL.Path, "/fonts") {
			s.log.Info("request", "method", r.Method, "path", redactToken(r.URL.Path), "status", ww.Status(), "bytes", ww.BytesWritten(), "ms", time.Since(start).Milliseconds())
		}
	})
}

// redactToken is an address without the secret in it, where it has one.
func redactToken(path string) string {
	for _, way := range []string{"/g/", "/p/", "/see/", "/join/", "/reset/", "/confirm/"} {
		if rest, ok := strings.CutPrefix(path, way); ok {
			_, after, more := strings.Cut(rest, "/")
			if more {
				after = "/" + after
			}
			return way + "…" + after
		}
	}
	return path
}
