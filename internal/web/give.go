package web

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"unicode/utf8"

	"aspenridge/internal/app"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// givePage is one open field for whatever somebody has, and what came of it so
// far.
type givePage struct {
	Kit, Brief string // ids, "" for none yet
	Seen       givenPage
	Sample     bool // there is a sample brand to look round in
}

// givenPage is what there is so far: pieces, and the kit in brief.
type givenPage struct {
	Kit     *app.Kit // nil before anything was given
	Brief   string
	Pieces  []mini
	Colours []colour.RGB
}

// idIn reads an id a request may name; the zero ID is none.
func idIn(s string) (app.ID, error) {
	if s == "" {
		return app.ID{}, nil
	}
	id, err := app.ParseID(s)
	if err != nil {
		return id, app.ErrNotFound
	}
	return id, nil
}

// idOut writes an id, none as nothing.
func idOut(id app.ID) string {
	if id == (app.ID{}) {
		return ""
	}
	return id.String()
}

// newKitPage is where a kit begins: with whatever there is.
func (s *Server) newKitPage(w http.ResponseWriter, r *http.Request) error {
	kit, err := idIn(r.FormValue("kit"))
	brief, err2 := idIn(r.FormValue("brief"))
	p := givePage{Kit: idOut(kit), Brief: idOut(brief)}
	if err = errors.Join(err, err2); err == nil {
		p.Seen, err = s.givenSoFar(r, kit, brief)
	}
	if err == nil {
		p.Sample, err = s.sampleOffered(r)
	}
	if err != nil {
		return err
	}
	s.show(w, r, "give", frame{Title: "A new kit", Screen: "give", Page: p})
	return nil
}

// givenPlaces are the shapes of the first three pieces, with the height they are
// shown at.
var givenPlaces = []struct {
	id  string
	box float64
}{{"feed-square", 264}, {"story", 330}, {"shop-banner", 470}}

func (s *Server) givenSoFar(r *http.Request, kit, brief app.ID) (p givenPage, err error) {
	if kit == (app.ID{}) {
		return p, nil
	}
	m := member(r)
	if p.Kit, err = s.app.Kits.Kit(r.Context(), m, kit); err != nil {
		return p, err
	}
	for _, c := range p.Kit.Colours() {
		p.Colours = append(p.Colours, c.Value)
	}
	p.Brief = idOut(brief)
	if brief != (app.ID{}) {
		set, err := s.app.Sets.Set(r.Context(), m, brief)
		if err != nil {
			return p, err
		}
		for _, g := range givenPlaces {
			pl, _ := spec.Find(g.id)
			p.Pieces = append(p.Pieces, s.mini(set, pl, "given-", g.box))
		}
		return p, nil
	}
	var ids []string
	for _, g := range givenPlaces {
		ids = append(ids, g.id)
	}
	pieces, err := s.inUse(r, m, p.Kit, ids)
	for i, pc := range pieces {
		p.Pieces = append(p.Pieces, miniOf(pc.Scene, pc.Placement, "given-", givenPlaces[i].box, 0))
	}
	return p, err
}

// give takes whatever comes, a file or words, and says where it went.
func (s *Server) give(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	g, seen, err := givingOf(r)
	var out app.Given
	if err == nil {
		out, err = s.app.Documents.Give(r.Context(), m, g)
	}
	if err != nil {
		return err
	}
	more := map[string]any{"kit": idOut(out.Kit), "brief": idOut(out.Brief), "placed": out.Placed, "left": out.Left}
	return s.replyGiven(w, r, seen, out.Kit, out.Brief, more)
}

// replyGiven answers with how things stand, drawn where the page shows it.
func (s *Server) replyGiven(w http.ResponseWriter, r *http.Request, seen bool, kit, brief app.ID, more map[string]any) error {
	if !seen {
		reply(w, http.StatusOK, more)
		return nil
	}
	p, err := s.givenSoFar(r, kit, brief)
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "give", "given", p, more)
}

// givingOf reads what is given; seen tells whether the page shows what there is.
func givingOf(r *http.Request) (g app.Giving, seen bool, err error) {
	mr, err := r.MultipartReader()
	if err != nil {
		return g, false, fmt.Errorf("%w: nothing came with the request", app.ErrInvalid)
	}
	g.Client = r.Header.Get("X-Client")
	for {
		part, err := mr.NextPart()
		if errors.Is(err, io.EOF) {
			return g, seen, nil
		}
		if err != nil {
			return g, seen, err
		}
		data, err := io.ReadAll(part)
		if err != nil {
			return g, seen, err
		}
		switch part.FormName() {
		case "file":
			g.Name, g.Data = part.FileName(), data
			if g.Data == nil {
				g.Data = []byte{}
			}
		case "text":
			if !utf8.Valid(data) || bytes.ContainsRune(data, 0) {
				return g, seen, errNoText
			}
			g.Text = string(data)
		case "as":
			g.As = string(data)
		case "only":
			g.KitOnly = len(data) > 0
		case "seen":
			seen = true
		case "kit":
			if g.Kit, err = idIn(string(data)); err != nil {
				return g, seen, err
			}
		case "brief":
			if g.Brief, err = idIn(string(data)); err != nil {
				return g, seen, err
			}
		}
	}
}

// takeBack undoes what came of one thing given.
func (s *Server) takeBack(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	var q struct {
		Client     string     `json:"client"`
		Placed     app.Placed `json:"placed"`
		Kit, Brief string
		Seen       bool `json:"seen"`
	}
	err := readJSON(r, &q)
	kit, err1 := idIn(q.Kit)
	brief, err2 := idIn(q.Brief)
	var gone []app.ID
	if err = errors.Join(err, err1, err2); err == nil {
		err = s.once(r, func() (err error) {
			gone, err = s.app.Documents.TakeBack(r.Context(), m, q.Client, q.Placed, kit, brief)
			return err
		})
	}
	if err != nil {
		return err
	}
	for _, id := range gone {
		if id == kit {
			kit = app.ID{}
		}
		if id == brief {
			brief = app.ID{}
		}
	}
	return s.replyGiven(w, r, q.Seen, kit, brief, map[string]any{"kit": idOut(kit), "brief": idOut(brief)})
}

// lookRound puts the sample brand into the workspace and goes to it.
func (s *Server) lookRound(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	var kit app.ID
	offered, err := s.sampleOffered(r)
	if err == nil && !offered {
		err = fmt.Errorf("%w: the sample brand is for a workspace without kits", app.ErrInvalid)
	}
	if err == nil {
		kit, err = s.sample(r.Context(), s.app, m)
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/kits/"+kit.String(), http.StatusSeeOther)
	return nil
}

// sampleOffered reports whether there is a sample brand, and no kit yet that it
// would stand beside.
func (s *Server) sampleOffered(r *http.Request) (bool, error) {
	m := member(r)
	kits, err := s.app.Kits.KitNames(r.Context(), m)
	return s.sample != nil && len(kits) == 0, err
}

// nothingYet reports whether a workspace has neither kits nor briefs, nor any put
// away.
func (p deskPage) nothingYet() bool {
	return len(p.Kits)+len(p.Briefs)+len(p.Broken)+len(p.Away) == 0
}
