package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
)

// severalPage is where several briefs are begun from a list.
type severalPage struct {
	Kits   []app.KitName
	Kit    app.ID
	Places placesPage
	Most   int
}

// severalRows is how a list is read.
type severalRows struct {
	Rows     []brief.Row
	Purposes []string
}

func (s *Server) several(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	p := severalPage{Most: brief.MaxRows}
	var err error
	if p.Kits, err = s.app.Kits.KitNames(r.Context(), m); err != nil {
		return err
	}
	if len(p.Kits) == 0 { // a kit comes first
		http.Redirect(w, r, "/kits/new", http.StatusSeeOther)
		return nil
	}
	if p.Kit, err = idIn(r.FormValue("kit")); err == nil && p.Kit == (app.ID{}) {
		p.Kit, err = s.app.Kits.DefaultKit(r.Context(), m)
		if errors.Is(err, app.ErrNotFound) || !slices.ContainsFunc(p.Kits, func(k app.KitName) bool { return k.ID == p.Kit }) {
			p.Kit, err = p.Kits[0].ID, nil // one they see
		}
	}
	if err == nil {
		p.Places, err = s.severalPlaces(r, p.Kit)
	}
	if err != nil {
		return err
	}
	s.show(w, r, "several", frame{Title: "Several briefs", Screen: "several", Page: p})
	return nil
}

// severalPlaces are the places that fit what was typed; chosen are those a request names, else
// the last ones of the kit.
func (s *Server) severalPlaces(r *http.Request, kit app.ID) (placesPage, error) {
	where, err := s.app.Places.Channels(r.Context(), member(r))
	if err != nil {
		return placesPage{}, err
	}
	ids := r.URL.Query()["on"]
	if len(ids) == 0 {
		if ids, err = s.app.Briefs.LastPlaces(r.Context(), member(r), kit); err != nil {
			return placesPage{}, err
		}
	}
	var on []spec.Placement
	for _, id := range ids {
		if p, err := where.Parse(id); err == nil && p.Kind == "image" {
			on = append(on, p)
		}
	}
	return placesAmong(where, on, r.URL.Query().Get("q")), nil
}

// findSeveralPlaces answers with the places for several briefs.
func (s *Server) findSeveralPlaces(w http.ResponseWriter, r *http.Request) error {
	kit, err := idIn(r.FormValue("kit"))
	var p placesPage
	if err == nil {
		p, err = s.severalPlaces(r, kit)
	}
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "several", "places", p, map[string]any{"chosen": p.Chosen})
}

// severalOf is a list of briefs as its page sends it.
type severalOf struct {
	Kit      string            `json:"kit"`
	Text     string            `json:"text"`
	Purposes map[string]string `json:"purposes"` // chosen, by the row they are of
	Places   []string          `json:"places"`
}

func (q severalOf) rows() ([]brief.Row, error) {
	rows, err := brief.ReadRows(q.Text)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", app.ErrInvalid, err)
	}
	for i, row := range rows {
		if p := q.Purposes[row.Text]; slices.Contains(brief.Purposes, p) {
			rows[i].Purpose, rows[i].Guessed = p, false
		}
	}
	return rows, nil
}

// readSeveral answers with how a list is read.
func (s *Server) readSeveral(w http.ResponseWriter, r *http.Request) error {
	var q severalOf
	err := readJSON(r, &q)
	var p severalRows
	if err == nil {
		p.Purposes = brief.Purposes
		p.Rows, err = q.rows()
	}
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "several", "rows", p, map[string]any{"count": len(p.Rows)})
}

// beginSeveral begins them and says where they stand on a wall.
func (s *Server) beginSeveral(w http.ResponseWriter, r *http.Request) error {
	var q severalOf
	err := readJSON(r, &q)
	var kit app.ID
	if err == nil {
		kit, err = idIn(q.Kit)
	}
	var rows []brief.Row
	if err == nil {
		rows, err = q.rows()
	}
	var ids []app.ID
	if err == nil {
		ids, err = s.app.Briefs.Begin(r.Context(), member(r), kit, q.Places, rows)
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"wall": wallAddress(ids)})
	return nil
}

// wallAddress is where several briefs stand side by side.
func wallAddress(ids []app.ID) string {
	q := url.Values{}
	for _, id := range ids {
		q.Add("b", id.String())
	}
	return "/wall?" + q.Encode()
}

// wallPage shows the first piece of several briefs side by side.
type wallPage struct {
	Posts   []wallPost
	Files   int
	Places  []spec.Placement // they all go to
	As      string           // which of them they are seen in
	Narrow  bool             // all of them are tall there
	Changes bool
}

// wallPost is a brief on the wall.
type wallPost struct {
	ID      app.ID
	Title   string
	Kit     string
	Look    string // name of its layout, "" before one is chosen
	Chosen  *piece.Look
	Address string // where it is worked on, or looked at
	Changes bool
	Mini    mini
	Pieces  int
}

// wallBox is the longer side of a piece on the wall, px.
const wallBox = 272

func (s *Server) wall(w http.ResponseWriter, r *http.Request) error {
	ids, err := idsIn(r.URL.Query()["b"])
	var sets []*app.Set
	if err == nil {
		sets, err = s.app.Sets.Together(r.Context(), member(r), ids)
	}
	if err == nil && len(sets) == 0 {
		err = app.ErrNotFound
	}
	if err != nil {
		return err
	}
	p := wallPage{As: r.FormValue("as"), Places: sets[0].Placements(), Changes: member(r).May(roles.WriteBriefs)}
	for _, set := range sets[1:] {
		theirs := set.Placements()
		p.Places = slices.DeleteFunc(p.Places, func(a spec.Placement) bool {
			return !slices.ContainsFunc(theirs, func(b spec.Placement) bool { return a.ID == b.ID })
		})
	}
	for _, set := range sets {
		post := s.wallPostOf(set, p.As, p.Changes)
		p.Posts = append(p.Posts, post)
		view, ok := seenAs(set, p.As)
		p.Narrow = (len(p.Posts) == 1 || p.Narrow) && ok && 3*view.Width < 2*view.Height
		p.Files += post.Pieces
	}
	s.show(w, r, "wall", frame{Title: fmt.Sprintf("%d briefs side by side", len(sets)), Screen: "wall", Page: p})
	return nil
}

func idsIn(list []string) ([]app.ID, error) {
	var out []app.ID
	for _, v := range list {
		id, err := app.ParseID(v)
		if err != nil {
			return nil, app.ErrNotFound
		}
		if !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out, nil
}

func (s *Server) wallPostOf(set *app.Set, as string, changes bool) wallPost {
	places := set.Placements()
	post := wallPost{ID: set.Doc.ID, Title: set.Title(), Kit: set.Kit.Name, Pieces: len(places), Chosen: set.Look}
	post.Changes, post.Address = changes, "/briefs/"+set.Doc.ID.String()+"/proof/"
	if changes {
		post.Address = "/briefs/" + set.Doc.ID.String() + "/mat"
	}
	if set.Look != nil {
		post.Look = nameOfLook(set, *set.Look)
	}
	if view, ok := seenAs(set, as); ok && !set.Empty() && (set.Look != nil || !changes) { // one without a look is drawn once it has one
		post.Mini = s.mini(set, view, "wall-"+set.Doc.ID.String()[:8], wallBox)
	}
	return post
}

// seenAs is the place a brief is seen in on the wall.
func seenAs(set *app.Set, as string) (spec.Placement, bool) {
	places := set.Placements()
	if i := slices.IndexFunc(places, func(p spec.Placement) bool { return p.ID == as }); i >= 0 {
		return places[i], true
	}
	return set.Seen()
}

func nameOfLook(set *app.Set, l piece.Look) string {
	if lay := layoutOf(set, l.Layout); lay != nil {
		return lay.Name
	}
	return strings.SplitN(l.Layout, "@", 2)[0]
}

// wallLook gives a brief on the wall a look: one that differs from its neighbours, the next or
// the one before, or the one a request names in place of another, which it has to have still.
func (s *Server) wallLook(w http.ResponseWriter, r *http.Request) error {
	var q struct {
		Client  string      `json:"client"`
		Wall    []string    `json:"wall"`
		Brief   string      `json:"brief"`
		By      int         `json:"by"`
		Look    *piece.Look `json:"look"`
		Instead *piece.Look `json:"instead"` // of Look: the one it has
		As      string      `json:"as"`
	}
	err := readJSON(r, &q)
	var wall []app.ID
	if err == nil {
		wall, err = idsIn(q.Wall)
	}
	var id app.ID
	if err == nil {
		id, err = idIn(q.Brief)
	}
	if err != nil {
		return err
	}
	m, ctx := member(r), r.Context()
	err = s.once(r, func() error {
		if q.Look == nil {
			return s.app.Sets.LookOnWall(ctx, m, q.Client, wall, id, q.By)
		}
		return s.app.Sets.BackOnWall(ctx, m, q.Client, id, q.Instead, *q.Look)
	})
	var set *app.Set
	if err == nil {
		set, err = s.app.Sets.Set(ctx, m, id)
	}
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "wall", "post", s.wallPostOf(set, q.As, true), nil)
}

// wallParcel packs the files of several briefs into one.
func (s *Server) wallParcel(w http.ResponseWriter, r *http.Request) error {
	ids, err := idsIn(r.URL.Query()["b"])
	var sets []*app.Set
	if err == nil {
		sets, err = s.app.Sets.Together(r.Context(), member(r), ids)
	}
	var job app.ID
	if err == nil {
		job, err = s.app.Files.Bundle(r.Context(), member(r), sets, handOverOf(r.URL.Query()))
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"job": job})
	return nil
}
