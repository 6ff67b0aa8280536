package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

type deskPage struct {
	Kits   []deskKit
	Briefs []deskBrief
	Broken []app.Broken
	Away   []app.Document // put away, to be brought back
	More   bool           // there are more kits than the desk shows
	Find   string
	Next   int // where the next page of briefs begins, 0 for none

	Changes    bool // who looks may begin and change briefs
	WritesKits bool // and kits
}

// deskKits is how many kits lie on the desk; all of them have a page of their
// own.
const deskKits = 12

// deskDrawn is how many briefs come with their pieces drawn; those of the others
// are asked for when they scroll into view.
const deskDrawn = 9

// deskKit is a kit as a specimen card.
type deskKit struct {
	*app.Kit
	Headline brand.Style
	Default  bool      // new briefs start with it
	Mark     *logoChip // its leading logo, nil for none
}

type deskBrief struct {
	*app.Set
	Minis []mini
	Later string // where the pieces are to be had, "" when they are here
}

// mini is a piece shown small.
type mini struct {
	ID, Name string
	SVG      string
	W, H     int
	Findings int
}

func (s *Server) home(w http.ResponseWriter, r *http.Request) {
	http.Redirect(w, r, "/desk", http.StatusSeeOther)
}

func (s *Server) desk(w http.ResponseWriter, r *http.Request) error {
	m := member(r)
	desk, err := s.app.Documents.Desk(r.Context(), m, deskKits)
	if err != nil {
		return err
	}
	kits, def := desk.Kits, desk.Default
	p, err := s.briefsOnDesk(r)
	if err != nil {
		return err
	}
	p.More, p.Broken, p.Away = len(kits)+len(desk.Unread) == deskKits, append(p.Broken, desk.Unread...), desk.Away
	slices.SortStableFunc(kits, func(a, b *app.Kit) int { // the default leads
		if a.ID == def {
			return -1
		}
		if b.ID == def {
			return 1
		}
		return 0
	})
	for _, k := range kits {
		card := deskKit{Kit: k, Headline: k.TypeSets[0].Levels[brand.Headline], Default: k.ID == def && len(kits) > 1}
		if fit, ok := k.PickLogo(colour.White, brand.WideRoom, ""); ok {
			c := chipOf(k, fit.Logo)
			card.Mark = &c
		}
		p.Kits = append(p.Kits, card)
	}
	if p.Changes && p.nothingYet() {
		http.Redirect(w, r, "/kits/new", http.StatusSeeOther)
		return nil
	}
	s.show(w, r, "desk", frame{Title: "Desk", Screen: "desk", Page: p})
	return nil
}

// briefsOnDesk are the briefs the Desk shows: found by words, a page of them.
func (s *Server) briefsOnDesk(r *http.Request) (p deskPage, err error) {
	m := member(r)
	from, _ := strconv.Atoi(r.FormValue("from"))
	p.Find, p.Changes, p.WritesKits = r.FormValue("find"), m.May(roles.WriteBriefs), m.May(roles.WriteKits)
	sets, broken, more, err := s.app.Briefs.FindBriefs(r.Context(), m, p.Find, from)
	if err != nil {
		return p, err
	}
	p.Broken = broken
	if more {
		p.Next = max(0, from) + len(sets) + len(broken)
	}
	for i, set := range sets {
		b := deskBrief{Set: set}
		if i < deskDrawn && from == 0 {
			b.Minis = s.shapes(set)
		} else {
			b.Later = "/briefs/" + set.Doc.ID.String() + "/minis"
		}
		p.Briefs = append(p.Briefs, b)
	}
	return p, nil
}

// findBriefs answers with the briefs that are found, a page of them.
func (s *Server) findBriefs(w http.ResponseWriter, r *http.Request) error {
	p, err := s.briefsOnDesk(r)
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "desk", "briefs", p, map[string]any{"found": len(p.Briefs) + len(p.Broken), "next": p.Next})
}

// makeAgain copies a brief and goes to where its words are written.
func (s *Server) makeAgain(w http.ResponseWriter, r *http.Request) error {
	_, id, err := about(r)
	if err == nil {
		id, err = s.making(r, func(m app.Member) (app.ID, error) {
			return s.app.Briefs.MakeAgain(r.Context(), m, id, app.Again(r.FormValue("how")))
		})
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/briefs/"+id.String()+"/start#f-headline", http.StatusSeeOther)
	return nil
}

// shapes are pieces of a set in up to three different shapes, none while it is
// empty.
func (s *Server) shapes(set *app.Set) (out []mini) {
	if set.Empty() {
		return nil
	}
	shown := map[spec.Class]bool{}
	for _, pl := range set.Placements() {
		if !shown[pl.Class()] && len(out) < 3 {
			shown[pl.Class()] = true
			out = append(out, s.mini(set, pl, set.Doc.ID.String()[:8], 132))
		}
	}
	return out
}

// minis answers with the pieces of a brief as they lie on the desk.
func (s *Server) minis(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	return s.replyPart(w, r, "desk", "minis", s.shapes(set), nil)
}

// mini draws a piece as a picture of at most box px on its longer side; prefix
// keeps its ids apart from others on the page.
func (s *Server) mini(set *app.Set, p spec.Placement, prefix string, box float64) mini {
	return app.Once(set, fmt.Sprint("mini ", prefix, " ", p.ID, " ", p.Card, " ", box), func() mini {
		pc := set.Piece(set.CurrentLook(), p)
		return miniOf(pc.Scene, p, prefix, box, len(pc.Findings))
	})
}

func miniOf(sc *scene.Scene, p spec.Placement, prefix string, box float64, findings int) mini {
	k := box / float64(max(sc.W, sc.H))
	w, h := max(1, int(float64(sc.W)*k+0.5)), max(1, int(float64(sc.H)*k+0.5))
	return mini{
		ID: p.ID, Name: p.Name, W: w, H: h, Findings: findings,
		SVG: sc.SVG(scene.Options{Scale: k, IDs: prefix + p.ID + "-", Href: screenHref(2 * k)}),
	}
}

// screenHref points image elements at the picture route, in about the size
// they are shown at.
func screenHref(scale float64) func(scene.PictureRef) string {
	return func(ref scene.PictureRef) string {
		k := min(scale, 1)
		w, h := max(1, int(ref.W*k+0.5)), max(1, int(ref.H*k+0.5))
		at := fmt.Sprintf("/pictures/%s/%.0f,%.0f,%.0f,%.0f/%dx%d", ref.Hash, ref.Crop.X, ref.Crop.Y, ref.Crop.W, ref.Crop.H, w, h)
		if t := ref.Tone; t.On() {
			at += "?tone=" + url.QueryEscape(t.String())
		}
		if d := ref.Dials; d.On() {
			sep := "?"
			if ref.Tone.On() {
				sep = "&"
			}
			at += sep + "dials=" + d.String()
		}
		return at
	}
}
