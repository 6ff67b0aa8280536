package web

import (
	"io"
	"net/http"
	"os"
	"time"

	"github.com/go-chi/chi/v5"
)

// bringClip takes a film in as a picture of a brief's card: its bytes go to the disk as they
// come, and a job makes a clip of them.
func (s *Server) bringClip(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	f, err := os.CreateTemp("", "aspenridge-came-")
	if err != nil {
		return err
	}
	defer func() { _ = os.Remove(f.Name()) }()
	defer func() { _ = f.Close() }()
	if _, err := io.Copy(f, r.Body); err != nil {
		return err
	}
	q := r.URL.Query()
	job, err := s.app.Files.BringClip(r.Context(), m, id, q.Get("card"), q.Get("name"), f.Name())
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"job": job})
	return nil
}

// clip answers with a clip, or with a stretch of it.
func (s *Server) clip(w http.ResponseWriter, r *http.Request) error {
	f, kind, err := s.app.Files.Clip(r.Context(), member(r), chi.URLParam(r, "hash"))
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	w.Header().Set("Content-Type", kind)
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	http.ServeContent(w, r, "", time.Time{}, f)
	return nil
}

// showFrame has another frame of a clip stand for it.
func (s *Server) showFrame(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var q struct {
		Client  string  `json:"client"`
		Picture string  `json:"picture"` // id
		At      float64 `json:"at"`      // s
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	if err == nil {
		err = s.once(r, func() error { return s.app.Briefs.ShowFrame(r.Context(), m, id, q.Client, q.Picture, q.At) })
	}
	if err != nil {
		return err
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}
