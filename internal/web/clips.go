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
	return toDisk(r, func(path string) error {
		q := r.URL.Query()
		job, err := s.app.Files.BringClip(r.Context(), m, id, q.Get("card"), q.Get("name"), path)
		if err == nil {
			reply(w, http.StatusOK, map[string]any{"job": job})
		}
		return err
	})
}

// bringSound takes a file of sound in and answers with how documents name it.
func (s *Server) bringSound(w http.ResponseWriter, r *http.Request) error {
	return toDisk(r, func(path string) error {
		ref, seconds, err := s.app.Files.BringSound(r.Context(), member(r), r.URL.Query().Get("name"), path)
		if err == nil {
			reply(w, http.StatusOK, map[string]any{"file": ref, "seconds": seconds})
		}
		return err
	})
}

// toDisk writes the body of a request into a file that is there until use returns.
func toDisk(r *http.Request, use func(path string) error) error {
	f, err := os.CreateTemp("", "aspenridge-came-")
	if err != nil {
		return err
	}
	defer func() { _ = os.Remove(f.Name()) }()
	defer func() { _ = f.Close() }()
	if _, err := io.Copy(f, r.Body); err != nil {
		return err
	}
	return use(f.Name())
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
