package web

import (
	"encoding/json"
	"errors"
	"net/http"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// once makes the change a request asks for unless it has been made: the request
// arrived before, and its answer was lost. Then, too, the answer is how things
// stand.
func (s *Server) once(r *http.Request, act func() error) error {
	err := act()
	if err == nil || errors.Is(err, app.ErrRepeated) {
		return nil
	}
	// it may have arrived before, and what it did then stands in its own way
	m := member(r)
	if _, made, e := s.app.Made(r.Context(), m); e == nil && made {
		return nil
	}
	return err
}

// making makes something a request asks for and answers with its id: the same when the request
// arrives again.
func (s *Server) making(r *http.Request, act func(m app.Member) (app.ID, error)) (app.ID, error) {
	m := member(r)
	id, err := act(m)
	if err == nil {
		return id, nil
	}
	// it may have arrived before, and what it did then may stand in its own way
	if was, made, e := s.app.Made(r.Context(), m); e == nil && made {
		return app.ParseID(was)
	}
	return id, err
}

// set reads the brief a request is about.
func (s *Server) set(r *http.Request) (*app.Set, error) {
	m, id, err := about(r)
	if err != nil {
		return nil, err
	}
	return s.app.Sets.Set(r.Context(), m, id)
}

func briefFrame(set *app.Set, screen string) frame {
	return frame{
		Title: set.Title(), Screen: screen, Kit: set.Kit, Set: set, Undoes: set.Doc.ID.String(), Steps: set.Doc.Steps(),
		Watch: set.Doc.ID.String() + "," + watchKit(set.Kit),
	}
}

// opened reads the brief of a request with the frame of its screen.
func (s *Server) opened(r *http.Request, screen string) (*app.Set, frame, error) {
	set, err := s.set(r)
	if err != nil {
		return nil, frame{}, err
	}
	return set, briefFrame(set, screen), nil
}

// watchKit names a kit and those it follows, for a page that shows it.
func watchKit(k *app.Kit) string {
	out := k.ID.String()
	for _, p := range k.Ancestors() {
		out += "," + p.ID.String()
	}
	return out
}

// newBrief starts a brief for a kit and goes to Start.
func (s *Server) newBrief(w http.ResponseWriter, r *http.Request) error {
	ctx := r.Context()
	id, err := s.making(r, func(m app.Member) (app.ID, error) {
		kit, err := app.ParseID(r.FormValue("kit"))
		if err != nil {
			if kit, err = s.app.Kits.DefaultKit(ctx, m); err != nil && !errors.Is(err, app.ErrNotFound) {
				return app.ID{}, err
			}
		}
		if kit == (app.ID{}) {
			if kit, err = s.app.Kits.NewKit(ctx, m.Sending(""), ""); err != nil { // the brief is what is asked for
				return app.ID{}, err
			}
		}
		id, err := s.app.Briefs.NewBrief(ctx, m, kit)
		if ref := r.FormValue("picture"); err == nil && ref != "" {
			err = s.app.Briefs.UsePicture(ctx, m, id, "", "", ref, "")
		}
		return id, err
	})
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/briefs/"+id.String()+"/start", http.StatusSeeOther)
	return nil
}

type briefEdit struct {
	Client string          `json:"client"`
	Base   int64           `json:"base"`
	Path   string          `json:"path"`
	Value  json.RawMessage `json:"value"`
	Typing bool            `json:"typing"`
	Before string          `json:"before"`
	Move   bool            `json:"move"`
}

// editBrief makes one change from Start and answers with the preview.
func (s *Server) editBrief(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	var e briefEdit
	if err := readJSON(r, &e); err != nil {
		return err
	}
	if err := s.once(r, func() error {
		_, err := s.app.Briefs.EditBrief(r.Context(), m, id, app.Change{Kind: "brief", Named: true, Op: edit.Op{Path: e.Path, Value: e.Value, Before: e.Before, Move: e.Move}, Base: e.Base, Client: e.Client, Typing: e.Typing})
		return err
	}); err != nil {
		return err
	}
	return s.preview(w, r)
}
