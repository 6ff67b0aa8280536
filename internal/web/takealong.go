package web

import (
	"net/http"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"aspenridge/internal/app"
)

// takeAlong hands a kit out in one of the open formats.
func (s *Server) takeAlong(w http.ResponseWriter, r *http.Request) {
	k, err := s.kitOf(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	m, _ := member(r)
	name, archive, err := s.app.ExportKit(r.Context(), m, k.ID)
	if err != nil {
		s.problem(w, r, err)
		return
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
		s.problem(w, r, app.ErrNotFound)
		return
	}
	w.Header().Set("Content-Type", mediaType)
	w.Header().Set("Content-Disposition", attachment(name))
	_, _ = w.Write(data)
}

// importKit makes a kit of an uploaded file: an archive, tokens, colours in any
// form, a logo, a picture.
func (s *Server) importKit(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	name, data, err := upload(r)
	var id app.ID
	if err == nil {
		err = s.once(r, func() (err error) {
			if id, err = s.app.BringKit(r.Context(), m, name, data); err != nil {
				id = app.ID{}
			}
			return err
		})
	}
	if err == nil && id == (app.ID{}) { // it was made when the request arrived first
		var made string
		if made, _, err = s.app.Store.Made(r.Context(), m.Workspace); err == nil {
			id, err = uuid.Parse(made)
		}
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	reply(w, http.StatusOK, map[string]string{"kit": id.String(), "from": name})
}

// duplicateKit copies a kit and goes to the copy.
func (s *Server) duplicateKit(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	if err == nil {
		id, err = s.app.DuplicateKit(r.Context(), m, id)
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	http.Redirect(w, r, "/kits/"+id.String(), http.StatusSeeOther)
}
