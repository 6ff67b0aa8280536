// Package piece turns a brief into pieces: brief x look x placement x card,
// each a scene with a report of what stands in it. A [Job] holds what the
// pieces of one brief share; [Job.Looks] proposes whole alternatives and
// [Job.Compose] computes one piece. Nothing is stored.
package piece

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/adjust"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// Job is a brief ready to be composed. Safe for concurrent use once built.
type Job struct {
	Kit      *brand.Kit
	Brief    *brief.Brief
	Layouts  []*layout.Layout
	Library  *typeset.Library
	Shaper   *typeset.Shaper
	Pictures map[string]photo.Picture // by file

	Today time.Time // dates before it are over; zero looks at no dates

	KitPictures map[string]photo.Picture // the kit's own, by file
	KitClips    map[string]photo.Picture // the kit's films, by file: the frame that stands for each
	Icons       map[string]string        // shipped icons by name: the inside of a 24 x 24 drawing of strokes
}

// Look is a whole alternative, resolved values only.
type Look struct {
	ID      string                `json:"id,omitempty"` // tells the kept looks of a brief apart; empty for the first
	Layout  string                `json:"layout"`       // id@revision
	Seats   map[string]string     `json:"seats"`        // seat -> colour token
	TypeSet string                `json:"typeSet"`
	Crops   map[string][2]float64 `json:"crops"` // picture file -> focal point
}

// Piece is one computed piece.
type Piece struct {
	Placement spec.Placement
	Card      int
	Look      Look
	Layout    *layout.Layout // the one used, plain when the look's could not hold the copy
	Colours   colourway.Colourway
	Scene     *scene.Scene
	Dropped   []string
	Shortened []string
	Findings  []preflight.Finding
	Worth     Worth

	pictures map[string]shown // by hash
}

// shown is a picture with the name documents give its file.
type shown struct {
	photo.Picture
	file string
}

// LayoutOf is the layout of a look, nil for one there is not.
func (j *Job) LayoutOf(l Look) *layout.Layout { return j.layoutByRef(l.Layout) }

// layoutByRef finds a layout by "id@revision" or "id".
func (j *Job) layoutByRef(ref string) *layout.Layout {
	id, _, _ := strings.Cut(ref, "@")
	for _, l := range j.Layouts {
		if l.ID == id {
			return l
		}
	}
	return layout.Plain()
}

// Expand lists the placements of a set one by one: a post one swipes through
// once for every card, variants beside what they are variants of.
func Expand(places []spec.Placement, cards int) []spec.Placement {
	var out []spec.Placement
	add := func(p spec.Placement) {
		out = append(out, p)
		for _, v := range places {
			if v.Variant != "" && v.First() == p.ID {
				out = append(out, v)
			}
		}
	}
	for _, p := range places {
		if p.Variant != "" {
			continue
		}
		add(p)
		for n := 1; n < cards && len(p.Cards) > 0 && p.Card == 0; n++ {
			add(p.OfCard(n))
		}
	}
	return out
}

// Faces the job cannot find, or that failed while they were set, are replaced by
// the library's default family; the kit's warnings and a finding say so.
func (j *Job) face(s brand.Style) *typeset.Face {
	f, err := j.Library.Face(s.Family, s.Weight, s.Italic)
	if err != nil || f.Broken() {
		f, err = j.Library.Face(brand.DefaultFamily, s.Weight, s.Italic)
	}
	if err != nil {
		panic(fmt.Errorf("the shipped library is broken: %w", err))
	}
	return f
}

// Language is the one the words of the first card are in, as BCP 47 has it; "" for one
// that is not known.
func (j *Job) Language() string {
	return cmp.Or(j.Brief.Language, j.Kit.Language, j.Brief.Cards[0].Language(j.Kit, ""))
}

// Manner is how the kit's pieces are built, every step of it.
func (j *Job) Manner() brand.Manner {
	return j.Kit.MannerWith(j.face(j.Kit.TypeSet("").Levels[brand.Headline]).Character())
}

// picture is what is known of a picture of a card, with the focal point of the
// look, else the one somebody set, else the guessed one; false when its file
// could not be read.
func (j *Job) picture(p brief.Picture, look Look) (photo.Picture, bool) {
	pic, ok := j.Pictures[p.File]
	if !ok {
		pic, ok = j.KitPictures[p.File]
	}
	if pic.Focus == [2]float64{} { // nobody has guessed
		pic.Focus = [2]float64{0.5, 0.5}
	}
	switch {
	case p.FocusBox != nil:
		pic = pic.FocusedOnBox(*p.FocusBox)
	case p.Focus != nil:
		pic = pic.FocusedOn(*p.Focus)
	}
	if f, ok := look.Crops[p.File]; ok {
		pic.Focus = f
	}
	pic.Alt = p.Alt
	return pic, ok
}

// pictures lists the card's pictures that could be read.
func (j *Job) pictures(c brief.Card, look Look) []photo.Picture {
	var out []photo.Picture
	for _, p := range c.Pictures {
		if pic, ok := j.picture(p, look); ok {
			out = append(out, pic)
		}
	}
	return out
}

// Without is the job as it would be without what was adjusted by hand in a property
// of a slot.
func (j *Job) Without(slot, property string) *Job {
	b := *j.Brief
	b.Adjustments = slices.DeleteFunc(slices.Clone(b.Adjustments), func(a brief.Adjustment) bool { return a.Slot == slot && a.Property == property })
	out := *j
	out.Brief = &b
	return &out
}

// LookAt is a look with what was chosen by hand for a placement: another layout
// or other colours.
func (j *Job) LookAt(look Look, p spec.Placement) Look {
	if v, _, ok := j.Brief.Adjusted(p, "look", "layout"); ok {
		look.Layout = v
	}
	if v, _, ok := j.Brief.Adjusted(p, "look", "seats"); ok {
		seats := map[string]string{}
		if json.Unmarshal([]byte(v), &seats) == nil {
			look.Seats = seats
		}
	}
	return look
}

// PictureSlots are the parts pictures of a card fill, in their order.
var PictureSlots = []string{"picture", "picture2", "picture3", "picture4"}

// Chosen are the pictures of a card on a placement: with those chosen for it by hand, and
// what of them is kept whole.
func (j *Job) Chosen(c brief.Card, p spec.Placement) []brief.Picture {
	out := slices.Clone(c.Pictures)
	for i, slot := range PictureSlots {
		v, _, ok := j.Brief.Adjusted(p, slot, "file")
		switch {
		case !ok || i > len(out):
		case i == len(out):
			out = append(out, brief.Picture{File: v})
		default:
			out[i] = brief.Picture{File: v, Alt: out[i].Alt}
		}
		if whole, _, ok := j.Brief.Adjusted(p, slot, "whole"); ok && i < len(out) {
			if box, err := brief.ParseCrop(json.RawMessage(whole)); err == nil {
				out[i].FocusBox = &box
			}
		}
	}
	return out
}

// windows are the parts of pictures chosen by hand for a placement, by the
// pictures' order; those of no size were not.
func (j *Job) windows(p spec.Placement) [][4]float64 {
	out := make([][4]float64, len(PictureSlots))
	for i, slot := range PictureSlots {
		if v, _, ok := j.Brief.Adjusted(p, slot, "crop"); ok {
			if w, err := brief.ParseCrop(json.RawMessage(v)); err == nil {
				out[i] = w
			}
		}
	}
	return out
}

// Compose computes a piece and checks it.
func (j *Job) Compose(look Look, p spec.Placement, card int) Piece {
	out, in, words, plain := j.solve(look, p, card)
	c := j.Brief.Cards[card]
	out.Findings = preflight.Check(preflight.Input{
		Placement: p, Scene: out.Scene, Kit: j.Kit, Words: words, Pictures: in.Pictures,
		Dropped: out.Dropped, Carries: layout.Carries(j.Brief.Purpose), Shortened: out.Shortened, Plain: plain, CapHeight: j.capHeight,
		Smallest: j.smallest, Purpose: j.Brief.Purpose, Other: j.Brief.OtherPurpose, Card: &c, Middle: len(p.Cards) > 0 && card < len(j.Brief.Cards)-1, Sample: j.Brief.Sample, Today: j.Today, Types: in.Types, Hands: in.Hands, Added: j.Brief.Added(p),
	})
	for _, family := range j.broken(in.Types) {
		out.Findings = append(out.Findings, preflight.Finding{
			Code: "font-broken", Severity: preflight.Warning, Slot: "headline", Fixes: []string{},
			Message: family + " fails while it is set; " + brand.DefaultFamily + " stands in for it",
		})
	}
	return out
}

// solve computes a piece and what it is worth, without checking it.
func (j *Job) solve(look Look, p spec.Placement, card int) (out Piece, in layout.Input, words brief.Words, plain bool) {
	c := j.Brief.Cards[card]
	c.Pictures = j.Chosen(c, p)
	look = j.LookAt(look, p)
	hands := j.Brief.Hands(p)
	windows := j.windows(p)
	words = j.words(c, p)
	logo := j.Brief.Logo
	if v, _, ok := j.Brief.Adjusted(p, "logo", "file"); ok {
		logo = v
	}
	if !slices.ContainsFunc(j.Kit.Logos, func(l brand.Logo) bool { return l.File == logo && l.Art != nil }) {
		logo = ""
	}
	l := j.layoutByRef(look.Layout)
	cw := j.colours(l, look)
	manner := j.Manner()
	edge := j.edgeWidth(manner, p, hands)
	in = layout.Input{
		Layout: l, Placement: withinEdge(p, edge), Words: words, Short: j.Brief.Narrow(p, "shortHeadline", "text") > j.Brief.Narrow(p, "headline", "text"), With: c.With(words), Purpose: j.Brief.Purpose, Types: j.Kit.TypeSet(look.TypeSet),
		Face: j.face, Shaper: j.Shaper, Colours: cw, Pictures: j.pictures(c, look), Kit: j.Kit, Manner: manner, Language: c.Language(j.Kit, j.Brief.Language),
		Signature: j.Brief.Signature, Logo: logo,
		Hands: hands, Stars: c.Stars(), Figures: j.figures(c, p), Icons: j.icons(c), Emphasis: c.Emphasis, Pattern: j.pattern(),
	}
	for i, w := range windows {
		if i < len(in.Pictures) && w[2] > 0 {
			in.Pictures[i].Window = w
		}
	}
	pictures := map[string]shown{}
	for _, p := range c.Pictures {
		if pic, ok := j.picture(p, look); ok {
			pictures[pic.Hash] = shown{pic, p.File}
		}
	}
	if c.Person != nil {
		if pic, ok := j.Pictures[c.Person.Picture]; ok {
			in.Portrait = &pic
			if _, ok := pictures[pic.Hash]; !ok {
				pictures[pic.Hash] = shown{pic, c.Person.Picture}
			}
		}
	}
	for slot, h := range hands {
		switch {
		case h.Hidden && slot == "logo":
			in.Signature = map[string]string{"both": "address", "logo": "none"}[in.Signature]
		case h.Hidden:
			delete(words, slot)
		}
	}
	r := layout.Solve(in)
	if r.Plain {
		l = layout.Plain()
	}
	j.adjust(r.Scene, in, look, pictures)
	if edge > 0 {
		r.Scene.Parts = append(r.Scene.Parts, j.edge(r.Scene, manner, edge))
	}
	r.Scene.Alt = alt(r.Scene, in.Pictures)
	out = Piece{
		Placement: p, Card: card, Look: look, Layout: l, Colours: cw, Scene: r.Scene,
		Dropped: r.Dropped, Shortened: r.Shortened, pictures: pictures,
	}
	out.Worth = judged{
		placement: p, scene: r.Scene, kit: j.Kit, pictures: pictures, words: words, purpose: j.Brief.Purpose, first: r.First,
		signature: j.Brief.Signature, dropped: r.Dropped, shortened: r.Shortened, has: len(in.Pictures),
	}.worth()
	return out, in, words, r.Plain
}

// adjust puts on a solved drawing what was changed by hand.
func (j *Job) adjust(s *scene.Scene, in layout.Input, look Look, pictures map[string]shown) {
	a := adjust.Input{
		Placement: in.Placement, Hands: in.Hands, Added: j.Brief.Added(in.Placement), Pictures: map[string]photo.Picture{}, Kit: j.Kit,
		Types: in.Types, Face: j.face, Shaper: j.Shaper, Colours: in.Colours, Icons: j.Icons,
		Corner: func(h float64) float64 { return layout.ButtonCorner(in.Manner, h, float64(min(s.W, s.H))/40) },
		Files:  func(file string) (photo.Picture, bool) { return j.picture(brief.Picture{File: file}, look) },
	}
	if len(a.Hands) == 0 && len(a.Added) == 0 {
		return
	}
	for hash, p := range pictures {
		a.Pictures[hash] = p.Picture
	}
	for _, add := range a.Added {
		if pic, ok := a.Files(add.File); ok {
			a.Pictures[pic.Hash] = pic
			pictures[pic.Hash] = shown{pic, add.File}
		}
	}
	adjust.Apply(s, a)
}

// broken are the families of a type set whose faces failed, in order.
func (j *Job) broken(set brand.TypeSet) []string {
	var out []string
	for _, l := range brand.Levels {
		s := set.Levels[l]
		if f, err := j.Library.Face(s.Family, s.Weight, s.Italic); err == nil && f.Broken() && !slices.Contains(out, s.Family) {
			out = append(out, s.Family)
		}
	}
	return out
}

// words are what a card says on a placement, with what was written there by
// hand.
func (j *Job) words(c brief.Card, p spec.Placement) brief.Words {
	words := c.Words(j.Kit, j.Brief.Language)
	if p.End != "" {
		words = ending(words, j.Kit)
	}
	for _, slot := range append([]string{"shortHeadline"}, brief.Slots...) {
		if v, _, ok := j.Brief.Adjusted(p, slot, "text"); ok {
			if v = c.In(j.Kit, j.Brief.Language).Correct(v); v == "" {
				delete(words, slot)
			} else {
				words[slot] = v
			}
		}
	}
	// a headline written for this place is meant for it, however short the room:
	// the card's shorter one does not take its place
	if j.Brief.Narrow(p, "headline", "text") > j.Brief.Narrow(p, "shortHeadline", "text") {
		delete(words, "shortHeadline")
	}
	return words
}

// ending are the words of a card at the end of a video: what people are to do, when and where.
// The address is on the button, which every layout has room for.
func ending(words brief.Words, k *brand.Kit) brief.Words {
	out := brief.Words{"headline": words["callToAction"], "callToAction": words["website"]}
	if out["callToAction"] == "" {
		out["headline"], out["callToAction"] = "", words["callToAction"]
	}
	for _, head := range []string{k.Tagline, words["headline"], k.Name} {
		if out["headline"] == "" {
			out["headline"] = head
		}
	}
	for _, slot := range []string{"when", "where", "businessName"} {
		out[slot] = words[slot]
	}
	maps.DeleteFunc(out, func(_, w string) bool { return w == "" })
	return out
}

func (j *Job) smallest(family string, weight int) float64 {
	return j.face(brand.Style{Family: family, Weight: weight}).Character().SmallestPx()
}

func (j *Job) capHeight(family string, weight int) float64 {
	return j.face(brand.Style{Family: family, Weight: weight}).CapHeight
}

// colours resolves a look's seats; one that no longer holds gets the best
// colourway instead.
func (j *Job) colours(l *layout.Layout, look Look) colourway.Colourway {
	needs := l.Needs()
	if cw, ok := colourway.Resolve(j.Kit, look.Seats, needs); ok {
		return cw
	}
	ranked := colourway.Rank(j.Kit.Colours(), needs, 12)
	// the ranked one nearest to what the look asked for
	best, at := -1, 0
	for i, c := range ranked {
		if same := c.Matches(look.Seats); same > best {
			best, at = same, i
		}
	}
	return ranked[at]
}
