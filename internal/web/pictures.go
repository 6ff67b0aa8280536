package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// picture serves a cut of a picture of the workspace. The address says all
// there is to it, so it may be kept for ever.
func (s *Server) picture(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	hash := chi.URLParam(r, "hash")
	var c spec.Rect
	var pw, ph int
	if _, err := fmt.Sscanf(chi.URLParam(r, "crop"), "%f,%f,%f,%f", &c.X, &c.Y, &c.W, &c.H); err != nil {
		return app.ErrNotFound
	}
	if _, err := fmt.Sscanf(chi.URLParam(r, "size"), "%dx%d", &pw, &ph); err != nil || pw < 1 || ph < 1 || pw > 4096 || ph > 4096 || c.W < 1 || c.H < 1 {
		return app.ErrNotFound
	}
	tone, err := scene.ParseTone(r.URL.Query().Get("tone"))
	if err != nil {
		return app.ErrNotFound
	}
	dials, err := scene.ParseDials(r.URL.Query().Get("dials"))
	if err != nil {
		return app.ErrNotFound
	}
	data, kind, err := s.app.Files.Cut(r.Context(), m, scene.PictureRef{Hash: hash, Crop: c, W: float64(pw), H: float64(ph), Tone: tone, Dials: dials}, pw, ph)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", kind)
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	_, _ = w.Write(data)
	return nil
}

// upload reads the one file of a multipart form.
func upload(r *http.Request) (name string, data []byte, err error) {
	mr, err := r.MultipartReader()
	if err != nil {
		return "", nil, fmt.Errorf("%w: no file came with the request", app.ErrInvalid)
	}
	for {
		part, err := mr.NextPart()
		if errors.Is(err, io.EOF) {
			return "", nil, fmt.Errorf("%w: no file came with the request", app.ErrInvalid)
		}
		if err != nil {
			return "", nil, err
		}
		if part.FormName() == "file" {
			data, err := io.ReadAll(part)
			return part.FileName(), data, err
		}
	}
}

// onCard takes an uploaded picture in for the card the address names.
func (s *Server) onCard(take func(ctx context.Context, m app.Member, id app.ID, client, card, name string, data []byte) error) handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		return s.intake(func(ctx context.Context, m app.Member, id app.ID, client, name string, data []byte) error {
			return take(ctx, m, id, client, cardID(r), name, data)
		}, s.preview)(w, r)
	}
}

// cardOf is the card of a brief a page shows, from 0.
func cardOf(r *http.Request) int {
	n, _ := strconv.Atoi(r.URL.Query().Get("card"))
	return max(0, n-1)
}

// cardID is the card a change is about, by its id; "" is the first.
func cardID(r *http.Request) string { return r.URL.Query().Get("on") }

// placePicture takes an uploaded picture in as the first one of the brief, or
// within the reach the address names.
func (s *Server) placePicture(w http.ResponseWriter, r *http.Request) error {
	return s.intake(func(ctx context.Context, m app.Member, id app.ID, client, name string, data []byte) error {
		return s.app.Briefs.PlacePicture(ctx, m, id, client, r.URL.Query().Get("reach"), name, data)
	}, s.preview)(w, r)
}

// keepPicture takes a picture into the workspace and answers with how documents name it;
// doing so twice keeps one.
func (s *Server) keepPicture(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	there, err := s.app.Documents.There(r.Context(), m, id)
	if err != nil {
		return err
	}
	if !there[id] {
		return app.ErrNotFound
	}
	name, data, err := upload(r)
	if err != nil {
		return err
	}
	ref, err := s.app.Files.KeepPicture(r.Context(), member(r), name, data)
	if err != nil {
		return err
	}
	width, height, err := s.app.Files.PictureSize(r.Context(), member(r), app.HashOf(ref))
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"file": ref, "w": width, "h": height})
	return nil
}

// intake reads an uploaded file, hands it to what takes it in and shows the
// page's changing part as it is then.
func (s *Server) intake(take func(ctx context.Context, m app.Member, id app.ID, client, name string, data []byte) error, show handler) handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		m, id, err := about(r)
		if err != nil {
			return err
		}
		name, data, err := upload(r)
		if err == nil {
			err = s.once(r, func() error { return take(r.Context(), m, id, r.Header.Get("X-Client"), name, data) })
		}
		if err != nil {
			return err
		}
		return show(w, r)
	}
}
