package web

import (
	"aspenridge/internal/gate"
	"net/http"
	"strings"
)

// byTurns lets requests that compose pieces in as there are processors, by turns between
// workspaces and keys before pages, until they have something to write. While they wait for
// the database they have no place ([gate.Outside]): whoever reads slowly, or waits for a lock,
// keeps nobody else waiting.
func (s *Server) byTurns(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ctx := r.Context()
		if strings.HasSuffix(r.URL.Path, "/sync") {
			ctx = gate.Ahead(ctx)
		}
		ctx, place, err := s.app.Composing.Take(ctx)
		if err != nil {
			s.problem(w, r, err)
			return
		}
		defer place.Leave()
		next.ServeHTTP(leavingWriter{w, place.Leave}, r.WithContext(ctx))
	})
}

// leavingWriter gives a place at a gate back with the first thing that is written.
type leavingWriter struct {
	http.ResponseWriter
	leave func()
}

func (l leavingWriter) WriteHeader(status int) {
	l.leave()
	l.ResponseWriter.WriteHeader(status)
}

func (l leavingWriter) Write(b []byte) (int, error) {
	l.leave()
	return l.ResponseWriter.Write(b)
}

// Unwrap is for [http.ResponseController].
func (l leavingWriter) Unwrap() http.ResponseWriter { return l.ResponseWriter }
