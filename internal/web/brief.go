package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	"github.com/google/uuid"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/spec"
)

// set reads the brief a request is about.
func (s *Server) set(r *http.Request) (*app.Set, error) {
	m, _ := member(r)
	id, err := pathID(r)
	if err != nil {
		return nil, err
	}
	return s.app.Set(r.Context(), m, id)
}

func (s *Server) briefFrame(r *http.Request, set *app.Set, screen string) (frame, error) {
	m, _ := member(r)
	steps, err := s.app.Store.Steps(r.Context(), m.Workspace, set.Doc.ID)
	title := set.Brief.Name
	if title == "" {
		title = "Untitled brief"
	}
	return frame{
		Title: title, Screen: screen, Kit: set.Kit, Set: set, Undoes: set.Doc.ID.String(), Steps: steps,
		Watch: set.Doc.ID.String() + "," + watchKit(set.Kit),
	}, err
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
func (s *Server) newBrief(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	kit, err := uuid.Parse(r.FormValue("kit"))
	if err != nil {
		if kit, err = s.app.DefaultKit(r.Context(), m); err != nil && !errors.Is(err, app.ErrNotFound) {
			s.problem(w, r, err)
			return
		}
	}
	if kit == (app.ID{}) {
		if kit, err = s.app.NewKit(r.Context(), m, ""); err != nil {
			s.problem(w, r, err)
			return
		}
	}
	id, err := s.app.NewBrief(r.Context(), m, kit)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	if ref := r.FormValue("picture"); ref != "" {
		if err := s.app.UsePicture(r.Context(), m, id, "", ref, ""); err != nil {
			s.problem(w, r, err)
			return
		}
	}
	http.Redirect(w, r, "/briefs/"+id.String()+"/start", http.StatusSeeOther)
}

type startPage struct {
	ID       string
	Card     brief.Card
	Seq      int64
	Preview  previewPage
	Channels []channelChoice
	Purposes []string
}

type channelChoice struct {
	spec.Channel
	Places []placeChoice
}

type placeChoice struct {
	spec.Placement
	On   bool
	W, H float64 // drawn to scale, px
}

type previewPage struct {
	Empty      bool
	Minis      []mini
	Thumb      string // of the first picture, empty for none
	Words      brief.Words
	PictureRef string // the first picture, as documents name it
	InKit      bool
	KitName    string
	Colours    []colour.Found // of the picture, those not in the kit
	Brand      []brandPic
}

func (s *Server) start(w http.ResponseWriter, r *http.Request) {
	set, err := s.set(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	f, err := s.briefFrame(r, set, "start")
	if err != nil {
		s.problem(w, r, err)
		return
	}
	p := startPage{ID: set.Doc.ID.String(), Card: set.Brief.Cards[0], Seq: set.Doc.Seq, Purposes: brief.Purposes}
	if p.Preview, err = s.previewOf(r, set); err != nil {
		s.problem(w, r, err)
		return
	}
	chosen := map[string]bool{}
	for _, pl := range set.Placements() {
		chosen[pl.ID] = true
	}
	for _, c := range spec.Catalogue() {
		choice := channelChoice{Channel: c}
		for _, pl := range c.Placements {
			if pl.Kind == "image" {
				k := 30 / float64(max(pl.Width, pl.Height))
				choice.Places = append(choice.Places, placeChoice{pl, chosen[pl.ID], max(3, float64(pl.Width)*k), max(3, float64(pl.Height)*k)})
			}
		}
		p.Channels = append(p.Channels, choice)
	}
	f.Page = p
	s.show(w, r, "start", f)
}

func (s *Server) previewOf(r *http.Request, set *app.Set) (previewPage, error) {
	p := previewPage{Empty: set.Empty(), Words: set.Brief.Cards[0].Words(set.Kit.Kit)}
	for _, id := range []string{"feed-tall", "story", "ad-300x250", "shop-banner"} {
		pl, _ := spec.Find(id)
		box := map[string]float64{"feed-tall": 400, "story": 400, "ad-300x250": 190, "shop-banner": 520}[id]
		p.Minis = append(p.Minis, s.mini(set, pl, "pre-", box))
	}
	for _, pic := range set.Brief.Cards[0].Pictures {
		if ph, ok := set.Job.Pictures[pic.File]; ok {
			c := ph.Crop(4.0/3, [2]float64{0.5, 0.5})
			p.Thumb = fmt.Sprintf("/pictures/%s/%.0f,%.0f,%.0f,%.0f/240x180", ph.Hash, c.X, c.Y, c.W, c.H)
			p.PictureRef = pic.File
			break
		}
	}
	p.KitName = set.Kit.Name
	err := s.fromTheKit(r, set, &p)
	return p, err
}

// preview is the changing part of Start.
func (s *Server) preview(w http.ResponseWriter, r *http.Request) {
	set, err := s.set(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	s.replyPreview(w, r, set)
}

func (s *Server) replyPreview(w http.ResponseWriter, r *http.Request, set *app.Set) {
	m, _ := member(r)
	view, err := s.previewOf(r, set)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	html, err := s.fragment("start", "preview", view)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	steps, err := s.app.Store.Steps(r.Context(), m.Workspace, set.Doc.ID)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	c := set.Brief.Cards[0]
	fields := map[string]string{}
	for _, name := range brief.CopyFields {
		fields[name] = deref(c.Field(name))
	}
	fields["name"] = set.Brief.Name
	reply(w, http.StatusOK, map[string]any{"seq": set.Doc.Seq, "preview": html, "undo": steps.Undo, "redo": steps.Redo, "fields": fields})
}

type briefEdit struct {
	Client string          `json:"client"`
	Base   int64           `json:"base"`
	Path   string          `json:"path"`
	Value  json.RawMessage `json:"value"`
	Typing bool            `json:"typing"`
}

// editBrief makes one change from Start and answers with the preview.
func (s *Server) editBrief(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	var e briefEdit
	if err := readJSON(r, &e); err != nil {
		s.problem(w, r, err)
		return
	}
	if _, err := s.app.Edit(r.Context(), m, id, app.Change{Op: edit.Op{Path: e.Path, Value: e.Value}, Base: e.Base, Client: e.Client, Typing: e.Typing}); err != nil {
		s.problem(w, r, err)
		return
	}
	s.preview(w, r)
}
