package web

import "github.com/go-chi/chi/v5"

// Routes are those of a server.
func (s *Server) Routes() chi.Routes { return s.handler.(chi.Routes) }
