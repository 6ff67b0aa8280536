package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

type startPage struct {
	ID       string
	Seq      int64
	Card     int // which card is shown, from 0
	CardID   string
	Cards    int
	Values   map[string]string // what the fields say, by path within the brief
	Preview  previewPage
	Places   placesPage
	Purposes []string
	Logos    []logoChip
	Swipe    spec.Placement // one for several cards, while none is chosen; the zero one else
	Data     startData
}

// startData is what the page's script needs.
type startData struct {
	Icons    map[string]string `json:"icons"`    // name -> drawing
	KitIcons []kitIcon         `json:"kitIcons"` // the kit's come first
	Facts    []brief.Fact      `json:"facts"`
}

type kitIcon struct {
	Name string `json:"name"`
	Src  string `json:"src"`
}

type previewPage struct {
	Empty    bool
	Minis    []mini
	Words    brief.Words
	Pictures []briefPicture
	More     bool // room for another
	Portrait string
	KitName  string
	Colours  []colour.Found // of the first picture, those not in the kit
	Brand    []brandPic

	Own        int    // colours of this brief only
	Only       bool   // they are used instead of the kit's
	PictureRef string // the first picture, as documents name it
	InKit      bool
}

// briefPicture is a picture of the brief with what can be done to it.
type briefPicture struct {
	ID    string
	File  string
	Src   string
	W, H  int
	X, Y  float64     // focus, px of what is shown
	Said  *spec.Rect  // the part somebody said matters, px of what is shown
	Found []spec.Rect // what was found in it, where nobody said anything
	Alt   string
	First bool
	Runs  string // how long the clip runs it is a frame of
}

type gallery struct {
	ID, Purpose, Query string
	Purposes           []string
	Examples           []exampleCard
}

type exampleCard struct {
	ID, Name, Purpose string
	Mini              mini
}

func (s *Server) start(w http.ResponseWriter, r *http.Request) error {
	set, f, err := s.opened(r, "start")
	if err != nil {
		return err
	}
	card := shownCard(r, set)
	p := startPage{ID: set.Doc.ID.String(), Seq: set.Doc.Seq, Values: values(set, card), Card: card, CardID: set.Brief.Cards[card].ID, Cards: len(set.Brief.Cards), Purposes: brief.Purposes}
	if p.Preview, err = s.previewOf(r, set); err != nil {
		return err
	}
	if p.Places, err = s.placesWithUsual(r, set, ""); err != nil {
		return err
	}
	p.Logos, p.Swipe = logoChips(set.Kit), swipeFor(set)
	p.Data = startData{Icons: assets.Icons(), KitIcons: []kitIcon{}, Facts: set.Brief.Cards[card].Facts}
	for _, pic := range set.Kit.Pictures {
		if pic.Kind == brand.Icon {
			p.Data.KitIcons = append(p.Data.KitIcons, kitIcon{pic.File, "/pictures/" + app.HashOf(pic.File) + "/0,0,9999,9999/48x48"})
		}
	}
	f.Page = p
	s.show(w, r, "start", f)
	return nil
}

// swipeFor is a place that shows several cards, for a brief that has several and
// goes to none; the zero one else.
func swipeFor(set *app.Set) spec.Placement {
	if len(set.Brief.Cards) < 2 || slices.ContainsFunc(set.Placements(), func(p spec.Placement) bool { return len(p.Cards) > 0 }) {
		return spec.Placement{}
	}
	for _, c := range set.Channels.Directory {
		for _, p := range c.Placements {
			if len(p.Cards) > 0 && p.Kind == "image" {
				return p
			}
		}
	}
	return spec.Placement{}
}

// shownCard is the card a page shows: the one whose id the request names, else
// the one at its number, else the first.
func shownCard(r *http.Request, set *app.Set) int {
	if n := slices.IndexFunc(set.Brief.Cards, func(c brief.Card) bool { return c.ID == cardID(r) }); n >= 0 {
		return n
	}
	if n := cardOf(r); n < len(set.Brief.Cards) {
		return n
	}
	return 0
}

// values are the fields of a brief as its form shows them.
func values(set *app.Set, card int) map[string]string {
	b, c := set.Brief, set.Brief.Cards[card]
	out := map[string]string{"name": b.Name, "purpose": b.Purpose, "signature": b.Signature, "logo": b.Logo, "language": b.Language, "edge": b.Edge}
	for _, f := range brief.CopyFields {
		out["card/"+f] = deref(c.Field(f))
	}
	out["card/lines"] = strings.Join(c.Lines, "\n")
	out["card/hours"] = strings.Join(c.Hours, "\n")
	out["card/emphasis"] = strings.Join(c.Emphasis, ", ")
	facts, err := json.Marshal(c.Facts)
	if err != nil {
		panic(err) // plain strings
	}
	out["card/facts"] = string(facts)
	if w := c.When; w != nil {
		out["card/when/date"], out["card/when/weekday"], out["card/when/from"], out["card/when/to"] = w.Date, w.Weekday, w.From, w.To
	}
	if o := c.Offer; o != nil {
		if o.Percent > 0 {
			out["card/offer/percent"] = strconv.FormatFloat(o.Percent, 'f', -1, 64)
		}
		out["card/offer/price"], out["card/offer/oldPrice"], out["card/offer/code"], out["card/offer/until"] = o.Price, o.OldPrice, o.Code, o.Until
	}
	if v := c.Rating; v != nil && v.Stars > 0 {
		out["card/rating/stars"] = strconv.FormatFloat(v.Stars, 'f', -1, 64)
		if v.Voices > 0 {
			out["card/rating/voices"] = strconv.Itoa(v.Voices)
		}
	}
	if q := c.Quote; q != nil {
		out["card/quote/text"], out["card/quote/source"] = q.Text, q.Source
	}
	if p := c.Person; p != nil {
		out["card/person/name"], out["card/person/role"] = p.Name, p.Role
	}
	return out
}

func (s *Server) previewOf(r *http.Request, set *app.Set) (previewPage, error) {
	n := shownCard(r, set)
	card := set.Brief.Cards[n]
	p := previewPage{Empty: set.Empty(), Words: card.Words(set.Kit.Kit, set.Brief.Language), More: len(card.Pictures) < app.MaxPictures}
	for _, pl := range set.Views(4.0/5, 9.0/16, 1.2, 4) {
		box := 380.0 // px of the longer side
		switch {
		case max(pl.Width, pl.Height) <= 400:
			box = 170
		case pl.Width > 2*pl.Height:
			box = 600
		}
		p.Minis = append(p.Minis, s.mini(set, pl.OfCard(n), "pre-", box))
	}
	for _, pic := range card.Pictures {
		ph, ok := set.Job.Pictures[pic.File]
		if !ok {
			continue
		}
		const h = 112
		w := max(1, h*ph.W/ph.H)
		bp := briefPicture{ID: pic.ID, File: pic.File, W: w, H: h, X: ph.Focus[0] * float64(w), Y: ph.Focus[1] * h, Alt: pic.Alt, First: p.PictureRef == ""}
		bp.Src = fmt.Sprintf("/pictures/%s/0,0,%d,%d/%dx%d", ph.Hash, ph.W, ph.H, 2*w, 2*h)
		if ph.Clip != nil {
			bp.Runs = fmt.Sprintf("%.1f s", ph.Clip.Seconds)
		}
		shown := func(b [4]float64) spec.Rect {
			return spec.Rect{X: b[0] * float64(w), Y: b[1] * h, W: b[2] * float64(w), H: b[3] * h}
		}
		switch {
		case pic.FocusBox != nil:
			said := shown(*pic.FocusBox)
			bp.Said, bp.X, bp.Y = &said, said.X+said.W/2, said.Y+said.H/2
		case pic.Focus != nil:
			bp.X, bp.Y = pic.Focus[0]*float64(w), pic.Focus[1]*h
		default:
			for _, s := range ph.Subjects {
				bp.Found = append(bp.Found, shown(s.Box))
			}
		}
		if p.PictureRef == "" {
			p.PictureRef = pic.File
		}
		p.Pictures = append(p.Pictures, bp)
	}
	if card.Person != nil {
		if ph, ok := set.Job.Pictures[card.Person.Picture]; ok {
			c := ph.Crop(1, [2]float64{0.5, 0.5})
			p.Portrait = screenHref(1)(scene.PictureRef{Hash: ph.Hash, Crop: c, W: 88, H: 88})
		}
	}
	p.KitName, p.Own, p.Only = set.Kit.Name, len(set.Brief.Palette), set.Brief.OnlyPalette
	err := s.fromTheKit(r, set, &p)
	return p, err
}

// preview is the changing part of Start.
func (s *Server) preview(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	return s.replyPreview(w, r, set)
}

func (s *Server) replyPreview(w http.ResponseWriter, r *http.Request, set *app.Set) error {
	view, err := s.previewOf(r, set)
	if err != nil {
		return err
	}
	html, err := s.fragment("start", "preview", view)
	if err != nil {
		return err
	}
	steps := set.Doc.Steps()
	reply(w, http.StatusOK, map[string]any{"seq": set.Doc.Seq, "preview": html, "title": set.Title(), "undo": steps.Undo, "redo": steps.Redo, "fields": values(set, shownCard(r, set)), "portrait": view.Portrait})
	return nil
}

func (s *Server) galleryOf(set *app.Set, purpose, query string) gallery {
	g := gallery{ID: set.Doc.ID.String(), Purpose: purpose, Query: query, Purposes: brief.Purposes}
	pl, _ := spec.Find("feed-tall")
	for _, e := range app.FindExamples(purpose, query) {
		g.Examples = append(g.Examples, app.Once(set, "example "+e.ID, func() exampleCard {
			job, look := s.app.Briefs.Example(set, e)
			pc := job.Compose(look, pl, 0)
			return exampleCard{e.ID, e.Name, e.Purpose, miniOf(pc.Scene, pl, "ex-"+e.ID+"-", 190, 0)}
		}))
	}
	return g
}

// examples answers with the gallery for a purpose and what was typed.
func (s *Server) examples(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	q := r.URL.Query()
	return s.replyPart(w, r, "start", "examples", s.galleryOf(set, q.Get("purpose"), q.Get("q")), nil)
}

// beginFrom fills the brief from an example.
func (s *Server) beginFrom(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	var q struct {
		Client  string `json:"client"`
		Example string `json:"example"`
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	if err == nil {
		err = s.once(r, func() error { return s.app.Briefs.BeginFrom(r.Context(), m, id, q.Client, q.Example) })
	}
	if err != nil {
		return err
	}
	return s.preview(w, r)
}
