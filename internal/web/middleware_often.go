package web

import (
	"net/http"
	"time"
)

// often refuses a network that asks for pages of links too often, over all servers.
func (s *Server) often(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if s.app.People.Often(r.Context(), "links", s.network(r), 600, time.Minute) {
			s.problem(w, r, errOften)
			return
		}
		next.ServeHTTP(w, r)
	})
}
