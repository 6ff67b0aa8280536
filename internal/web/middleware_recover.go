package web

import (
	"net/http"
	"runtime/debug"
)

// recovered answers a fault of ours like any other problem, and notes where it
// was.
func (s *Server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			switch fault := recover(); fault {
			case nil:
			case http.ErrAbortHandler:
				panic(fault)
			default:
				s.log.Error("fault", "path", redactToken(r.URL.Path), "error", fault, "at", string(debug.Stack()))
				s.problem(w, r, errFault)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
