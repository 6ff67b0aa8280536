package web

import (
	"net/http"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/roles"
)

// railWords are what rails hold, in words: as a kit says them, and as a hint to who is held.
var railWords = map[string][2]string{
	"colours": {"the kit’s colours", "Other colours than the kit’s are asked for."},
	"faces":   {"its faces", "Other faces than the kit’s are asked for."},
	"logo":    {"the logo as it is", "The logo stays as it is; what you change is asked for."},
	"voice":   {"what the voice says", ""},
	"signOff": {"pieces approved before they are handed over", ""},
}

// railRow is a rail of a kit, to be put up or down.
type railRow struct {
	Name, Words, Path string
	On                bool
}

// Rails are those of the kit.
func (p kitPage) Rails() (out []railRow) {
	for _, name := range brand.RailNames {
		out = append(out, railRow{name, railWords[name][0], "/$extensions/aspenridge/rails/" + name, p.Kit.Kit.Rails.On(name)})
	}
	return out
}

// signer is somebody of the team, and whether they may sign pieces off.
type signer struct {
	ID    app.ID
	Name  string
	Owner bool
	On    bool
}

// hints are what holds somebody who changes a set, by the rail.
func hints(m app.Member, set *app.Set) map[string]string {
	out := map[string]string{}
	for _, name := range brand.RailNames {
		if words := railWords[name][1]; words != "" && !m.May(roles.ManageWorkspace) && set.Kit.Rails.On(name) {
			out[name] = words
		}
	}
	return out
}

// askedRow is a request as the Desk shows it.
type askedRow struct {
	app.Request
	Place string // of the piece it shows on
	Also  int    // pieces it shows on besides
}

func (s *Server) askedRows(r *http.Request, list []app.Request) ([]askedRow, error) {
	if len(list) == 0 {
		return nil, nil
	}
	where, err := s.app.Places.Channels(r.Context(), member(r))
	if err != nil {
		return nil, err
	}
	out := make([]askedRow, len(list))
	for i, q := range list {
		out[i] = askedRow{Request: q, Also: q.Pieces - 1}
		if p, err := where.Parse(q.Placement); err == nil {
			out[i].Place = p.Name
		}
	}
	return out, nil
}

// answer answers a request.
func (s *Server) answer(w http.ResponseWriter, r *http.Request) error {
	id, err := pathID(r)
	if err != nil {
		return err
	}
	if err := s.app.Team.Answer(r.Context(), member(r), id, r.FormValue("answer"), r.FormValue("said")); err != nil {
		return err
	}
	http.Redirect(w, r, "/desk", http.StatusSeeOther)
	return nil
}

// snapshot is the picture of a request, before or after it.
func (s *Server) snapshot(w http.ResponseWriter, r *http.Request) error {
	id, err := pathID(r)
	if err != nil {
		return err
	}
	data, err := s.app.Team.Snapshot(r.Context(), member(r), id, chi.URLParam(r, "which"))
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", http.DetectContentType(data))
	w.Header().Set("Cache-Control", "private, max-age=86400")
	_, err = w.Write(data)
	return err
}
