package web

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
)

// takeAlong hands a kit out in one of the open formats.
func (s *Server) takeAlong(w http.ResponseWriter, r *http.Request) error {
	k, err := s.kitOf(r)
	if err != nil {
		return err
	}
	m := member(r)
	name, archive, err := s.app.Kits.ExportKit(r.Context(), m, k.ID)
	if err != nil {
		return err
	}
	stem := name[:len(name)-len(".zip")]
	var mediaType string
	var data []byte
	switch chi.URLParam(r, "what") {
	case "kit.zip":
		mediaType, data = "application/zip", archive
	case "colours.css":
		name, mediaType, data = stem+".css", "text/css; charset=utf-8", []byte(k.CSS())
	case "colours.gpl":
		name, mediaType, data = stem+".gpl", "text/plain; charset=utf-8", []byte(k.GPL())
	case "colours.svg":
		name, mediaType, data = stem+"-colours.svg", "image/svg+xml", []byte(k.Swatches())
	default:
		return app.ErrNotFound
	}
	w.Header().Set("Content-Type", mediaType)
	w.Header().Set("Content-Disposition", attachment(name))
	_, _ = w.Write(data)
	return nil
}

// importKit makes a kit of an uploaded file: an archive, tokens, colours in any
// form, a logo, a picture.
func (s *Server) importKit(w http.ResponseWriter, r *http.Request) error {
	name, data, err := upload(r)
	var id app.ID
	if err == nil {
		id, err = s.making(r, func(m app.Member) (app.ID, error) { return s.app.Kits.BringKit(r.Context(), m, name, data) })
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]string{"kit": id.String(), "from": name})
	return nil
}

// duplicateKit copies a kit and goes to the copy.
func (s *Server) duplicateKit(w http.ResponseWriter, r *http.Request) error {
	_, id, err := about(r)
	if err == nil {
		id, err = s.making(r, func(m app.Member) (app.ID, error) { return s.app.Kits.DuplicateKit(r.Context(), m, id) })
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/kits/"+id.String(), http.StatusSeeOther)
	return nil
}
