package web

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/core/adjust"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// closeState is what the Close-up needs to know of the piece it shows, beside what the
// Mat knows of it.
type closeState struct {
	Piece   string        `json:"piece"`
	Class   string        `json:"class"` // its shape, as a reach names it
	Shape   string        `json:"shape"` // as people call it
	Parts   []partState   `json:"parts"` // from below, as they are drawn
	Margin  [4]float64    `json:"margin"`
	Colours []colourState `json:"colours"`
	Faces   []string      `json:"faces"`  // of the kit
	Others  []string      `json:"others"` // that ship
	Facts   []string      `json:"facts"`  // of the card it shows
	Gone    []partState   `json:"gone"`   // left out by hand
}

// partState is a part that is taken hold of as one.
type partState struct {
	Unit  string     `json:"unit"` // what adjustments call it
	Kind  scene.Kind `json:"kind"`
	Label string     `json:"label"`
	Says  string     `json:"says"` // a few words about it, for the margin
	Field string     `json:"field,omitempty"`
	Box   [4]float64 `json:"box"` // upright, as it is drawn
	Was   [4]float64 `json:"was"` // before it was moved, sized and turned

	Before [4]float64 `json:"before"` // as it was solved: it is sized and turned about the middle of this
	Sides  string     `json:"sides"`  // which of them can be chosen apart: both, across or none
	Align  string     `json:"align,omitempty"`

	Offset  [2]float64 `json:"offset"` // fractions of the short side
	Scale   float64    `json:"scale"`
	Rotate  float64    `json:"rotate"`
	Opacity float64    `json:"opacity"`

	Fill     string  `json:"fill,omitempty"`
	Ground   string  `json:"ground,omitempty"`
	Contrast float64 `json:"contrast,omitempty"`
	Size     float64 `json:"size,omitempty"` // px of type
	Level    string  `json:"level,omitempty"`
	Family   string  `json:"family,omitempty"`
	Weight   int     `json:"weight,omitempty"`
	Capitals bool    `json:"capitals,omitempty"` // the kit sets its level in them
	Text     string  `json:"text,omitempty"`
	Lines    []int   `json:"lines"` // after how many words lines end

	Baselines []float64 `json:"baselines,omitempty"` // from the top, of words that stand upright
	Stack     int       `json:"stack"`               // where it was in the order of drawing, before any was moved up or down

	Crop     *[4]float64  `json:"crop,omitempty"`
	File     string       `json:"file,omitempty"`     // of a picture of the brief
	Hash     string       `json:"hash,omitempty"`     // of any picture
	Subjects [][4]float64 `json:"subjects,omitempty"` // kept whole, in px of the piece

	Moves bool         `json:"moves"`          // it can be moved; the ground takes a colour alone
	Lost  bool         `json:"lost,omitempty"` // this piece has nothing it could change
	Added bool         `json:"added"`
	Part  *brief.Added `json:"part,omitempty"` // what was added, and within which reach
	Reach string       `json:"partReach,omitempty"`
	Hand  []handState  `json:"hand"`
}

// handState is a property that was changed by hand.
type handState struct {
	Property string          `json:"property"`
	Label    string          `json:"label"`
	Reach    string          `json:"reach"`
	Value    json.RawMessage `json:"value"`
}

// colourState is a colour of the kit.
type colourState struct {
	Token string `json:"token"`
	Name  string `json:"name"`
	Hex   string `json:"hex"`
}

// partNames are what people call parts that are no copy.
var partNames = map[string]string{
	"ground": "Ground", "panel": "Panel", "band": "Band", "card": "Card", "rule": "Rule", "ornament": "Ornament", "edge": "Edge frame", "pattern": "Pattern", "logo": "Logo",
	"mark": "Mark", "icon": "Icons", "portrait": "Portrait", "button": "Button", "veil": "Veil", "picture": "Picture", "picture2": "Second picture",
	"picture3": "Third picture", "picture4": "Fourth picture",
}

// shapeNames are what people call shapes of pieces.
var shapeNames = map[spec.Class]string{spec.Ribbon: "ribbons", spec.Wide: "wide ones", spec.Square: "square ones", spec.Tall: "tall ones", spec.Tower: "towers"}

// notHeld are slots that go with what they lie on and are not taken hold of.
var notHeld = []string{"fade", "veil", "tone", scene.PictureGround}

// closeOf describes a piece for the Close-up.
func closeOf(set *app.Set, placement string) (*closeState, error) {
	p, err := set.Channels.Parse(placement)
	if err != nil {
		return nil, fmt.Errorf("%w: %v", app.ErrInvalid, err)
	}
	pc := set.Piece(set.CurrentLook(), p)
	st := &closeState{Piece: placement, Class: string(p.Class()), Shape: shapeNames[p.Class()], Margin: rect(p.SafeBox()), Colours: []colourState{}, Parts: []partState{}, Gone: []partState{}, Faces: facesOf(set)}
	st.Others, st.Facts = otherFaces(st.Faces), []string{}
	for _, f := range set.Brief.Cards[min(p.Card, len(set.Brief.Cards)-1)].Facts {
		st.Facts = append(st.Facts, f.Text)
	}
	for _, c := range set.Job.Kit.Colours() {
		st.Colours = append(st.Colours, colourState{"color." + c.Token, c.Name, c.Value.Hex()})
	}
	hands := set.Brief.Hands(p)
	units := adjust.Units(pc.Scene.Parts)
	added := map[string]brief.Added{}
	for _, a := range set.Brief.Added(p) {
		added[a.Slot] = a
	}
	for i := range pc.Scene.Parts {
		part, unit := &pc.Scene.Parts[i], units[i]
		if slices.Contains(notHeld, part.Slot) {
			continue
		}
		at := slices.IndexFunc(st.Parts, func(o partState) bool { return o.Unit == unit })
		if at < 0 {
			ps := partState{Unit: unit, Scale: 1, Opacity: 1, Moves: unit != "ground", Lines: []int{}, Hand: []handState{}, Stack: len(st.Parts)}
			if part.Unit != "" {
				ps.Stack = part.Stack
			}
			ps.byHand(set, p, hands[unit])
			if a, ok := added[unit]; ok && ps.Label == "" {
				ps.Label = addedName(a)
			}
			if a, ok := added[unit]; ok {
				ps.Added, ps.Part = true, &a
				_, ps.Reach, _ = set.Brief.Adjusted(p, unit, "part")
			}
			at = len(st.Parts)
			st.Parts = append(st.Parts, ps)
		}
		st.Parts[at].join(set, p, part, unit)
	}
	for i := range st.Parts {
		st.Parts[i].Sides = sidesOf(&st.Parts[i], pc.Scene.Parts, units)
	}
	for _, slot := range slices.Sorted(maps.Keys(hands)) {
		drawn := slices.ContainsFunc(st.Parts, func(o partState) bool { return o.Unit == slot })
		if drawn || !slices.ContainsFunc(hands[slot].Changed(), func(p brief.Property) bool { return p.Drawn || p.Name == "hidden" || p.Name == "part" }) {
			continue
		}
		ps := partState{Unit: slot, Lost: !hands[slot].Hidden, Hand: []handState{}}
		ps.byHand(set, p, hands[slot])
		if a, ok := added[slot]; ok && ps.Label == "" {
			ps.Label = addedName(a)
		}
		ps.Label = cmp.Or(ps.Label, labelOf(slot))
		st.Gone = append(st.Gone, ps)
	}
	return st, nil
}

// sidesOf is which sides of a thing can be chosen apart.
func sidesOf(ps *partState, parts []scene.Part, units []string) string {
	if ps.Added {
		if slices.Contains([]string{"shape", "picture", "pattern"}, ps.Part.Kind) {
			return "both"
		}
		return ""
	}
	var own []scene.Part
	for i, unit := range units {
		if unit == ps.Unit {
			own = append(own, parts[i])
		}
	}
	return adjust.Sides(own)
}

// facesOf are the families the kit sets words in.
func facesOf(set *app.Set) []string {
	out := []string{}
	add := func(family string) {
		if family != "" && !slices.Contains(out, family) {
			out = append(out, family)
		}
	}
	for _, t := range set.Job.Kit.TypeSets {
		for _, l := range brand.Levels {
			add(t.Levels[l].Family)
		}
	}
	for _, f := range set.Job.Kit.Fonts {
		add(f.Family)
	}
	return out
}

// otherFaces are the families that ship and are none of these.
func otherFaces(kit []string) []string {
	out := []string{}
	for _, f := range assets.Families() {
		if f.Kind != "fallback" && !slices.Contains(kit, f.Family) {
			out = append(out, f.Family)
		}
	}
	return out
}

// labelOf is what people call a slot.
func labelOf(slot string) string {
	if name := partNames[slot]; name != "" {
		return name
	}
	return brief.PartOf(slot).Label
}

func addedName(a brief.Added) string {
	name := a.Kind
	if a.Kind == "shape" || a.Kind == "icon" {
		name = a.Name
	}
	name = plain(name)
	return strings.ToUpper(name[:1]) + name[1:]
}

func (ps *partState) byHand(set *app.Set, p spec.Placement, h *brief.Hand) {
	if h == nil {
		return
	}
	ps.Offset, ps.Rotate = h.Offset, h.Rotate
	if h.Scale > 0 {
		ps.Scale = h.Scale
	}
	if h.Opacity > 0 {
		ps.Opacity = h.Opacity
	}
	for _, prop := range h.Changed() {
		if prop.Name == "part" && !ps.Lost {
			continue
		}
		for _, a := range set.Brief.Adjustments {
			if a.Slot == ps.Unit && a.Property == prop.Name && a.Reach == h.Reach(prop.Name) {
				ps.Hand = append(ps.Hand, handState{prop.Name, prop.Label, a.Reach, a.Value})
				if prop.Name == "name" {
					ps.Label = a.Text()
				}
				break
			}
		}
	}
}

// join takes one drawn part into what is known of a thing: its words, picture or logo say
// what the thing is, the first of its parts if it has none.
func (ps *partState) join(set *app.Set, p spec.Placement, part *scene.Part, unit string) {
	union := func(have [4]float64, r spec.Rect) [4]float64 {
		return rect(spec.Rect{X: have[0], Y: have[1], W: have[2], H: have[3]}.Union(r))
	}
	if part.Slot != adjust.Strip { // it reaches beyond the canvas
		ps.Box, ps.Was, ps.Before = union(ps.Box, part.Box), union(ps.Was, part.Solved()), union(ps.Before, part.Laid())
	}
	slot := strings.TrimRight(unit, "0123456789")
	own := part.Slot == slot || part.Slot == unit
	if !own || ps.Kind != "" && part.Kind == scene.KindShape {
		return
	}
	ps.Kind = part.Kind
	if ps.Label == "" {
		ps.Label = labelOf(part.Slot)
		if n := strings.TrimPrefix(unit, part.Slot); n != "" {
			ps.Label += " " + n
		}
	}
	if part.Kind != scene.KindPicture && part.Kind != scene.KindLogo {
		ps.Fill = part.Fill.Hex()
	}
	switch part.Kind {
	case scene.KindText, scene.KindButton:
		ps.Ground, ps.Contrast, ps.Size, ps.Family, ps.Weight, ps.Text = part.Ground.Hex(), part.Contrast, part.SeenPx(), part.Family, part.Weight, part.Text
		ps.Level = string(brief.PartOf(part.Field).Level)
		for _, h := range ps.Hand {
			if h.Property == "level" {
				_ = json.Unmarshal(h.Value, &ps.Level)
			}
		}
		ps.Capitals = set.Kit.Kit.TypeSet(set.CurrentLook().TypeSet).Levels[brand.Level(ps.Level)].Upper
		ps.Says = fmt.Sprintf("%s, %.0f px", part.Family, part.SeenPx())
		ps.Lines, ps.Baselines, ps.Align = linesOf(part), baselinesOf(part), part.Align
		if ps.Added && ps.Part.Kind != "facts" {
			ps.Field = unit
		} else if part.Kind == scene.KindButton {
			ps.Field = "callToAction"
		} else if slices.Contains(brief.CopyFields, part.Field) {
			ps.Field = part.Field
		}
	case scene.KindPicture:
		ps.picture(set, p, part)
	case scene.KindLogo:
		ps.File = part.File
		for i := range set.Kit.Logos {
			if set.Kit.Logos[i].File == part.File {
				ps.Says = plain(set.Kit.Logos[i].Lockup) + ", " + plain(set.Kit.Logos[i].Tone)
			}
		}
	default:
		ps.Says = nameOf(set, part.Fill)
	}
}

// nameOf is the kit's name of a colour, else its value.
func nameOf(set *app.Set, c colour.RGB) string {
	for _, k := range set.Job.Kit.Colours() {
		if k.Value == c {
			return k.Name
		}
	}
	return c.Hex()
}

func (ps *partState) picture(set *app.Set, p spec.Placement, part *scene.Part) {
	crop := cropOf(set, part)
	ps.Crop, ps.Hash = &crop, part.Picture
	for file, pic := range set.Job.Pictures {
		if pic.Hash != part.Picture {
			continue
		}
		ps.Says, ps.File = pic.Alt, file
		if ps.Says == "" {
			ps.Says = altOf(set, file)
		}
		var whole [][4]float64
		for _, s := range pic.Subjects {
			whole = append(whole, s.Box)
		}
		card := set.Brief.Cards[min(p.Card, len(set.Brief.Cards)-1)]
		if i := slices.Index(piece.PictureSlots, part.Slot); i >= 0 {
			if all := set.Job.Chosen(card, p); i < len(all) && all[i].FocusBox != nil { // somebody said it
				whole = [][4]float64{*all[i].FocusBox}
			}
		}
		at := part.Box
		for _, b := range whole {
			ps.Subjects = append(ps.Subjects, [4]float64{at.X + (b[0]-crop[0])/crop[2]*at.W, at.Y + (b[1]-crop[1])/crop[3]*at.H, b[2] / crop[2] * at.W, b[3] / crop[3] * at.H})
		}
		return
	}
}

func altOf(set *app.Set, file string) string {
	for _, c := range set.Brief.Cards {
		for _, p := range c.Pictures {
			if p.File == file {
				return p.Alt
			}
		}
	}
	return ""
}

// baselinesOf are the baselines of words as they are drawn, px from the top; none for
// those that are turned.
func baselinesOf(part *scene.Part) []float64 {
	if !part.Moved.Upright() {
		return nil
	}
	var out []float64
	for _, l := range part.Lines {
		if _, y := part.Moved.At(l.X, l.Y); !slices.Contains(out, y) {
			out = append(out, y)
		}
	}
	return out
}

// pictureColours answers with the colours a picture is made of, most used first.
func (s *Server) pictureColours(w http.ResponseWriter, r *http.Request) error {
	found, err := s.app.Files.PictureColours(r.Context(), member(r), chi.URLParam(r, "hash"), coloursShown)
	return replyColours(w, found, err)
}

// coloursOfFile answers with the colours of a picture that is sent along and not kept.
func (s *Server) coloursOfFile(w http.ResponseWriter, r *http.Request) error {
	if !member(r).May(roles.WriteBriefs) {
		return app.ErrNotAllowed
	}
	name, data, err := upload(r)
	var found []colour.Found
	if err == nil {
		found, err = s.app.Files.ColoursOf(r.Context(), member(r), name, data, coloursShown)
	}
	return replyColours(w, found, err)
}

// coloursShown is how many colours of a picture are offered.
const coloursShown = 6

func replyColours(w http.ResponseWriter, found []colour.Found, err error) error {
	if err != nil {
		return err
	}
	list := []string{}
	for _, f := range found {
		list = append(list, f.Colour.Hex())
	}
	reply(w, http.StatusOK, map[string]any{"colours": list})
	return nil
}

// mostIcons is how many icons one search shows.
const mostIcons = 48

var frameIcons = sync.OnceValue(func() []string { return adjust.FrameIcons(assets.Icons()) })

// icons answers with the shipped icons whose names hold the words asked for, or with the one a
// fact proposes.
func (s *Server) icons(w http.ResponseWriter, r *http.Request) error {
	type icon struct {
		Name   string `json:"name"`
		Inside string `json:"inside"`
	}
	if fact := r.URL.Query().Get("for"); fact != "" {
		reply(w, http.StatusOK, map[string]any{"icon": brief.IconFor(fact)})
		return nil
	}
	all := assets.Icons()
	words := strings.Fields(strings.ToLower(r.URL.Query().Get("q")))
	out := []icon{}
	names := slices.Sorted(maps.Keys(all))
	if r.URL.Query().Has("frames") { // those a picture can be cut to
		names = frameIcons()
	}
	for _, name := range names {
		if len(out) < mostIcons && !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(name, w) }) {
			out = append(out, icon{name, all[name]})
		}
	}
	reply(w, http.StatusOK, map[string]any{"icons": out})
	return nil
}

// linesOf is after how many words each line but the last ends.
func linesOf(part *scene.Part) []int {
	runes := []rune(part.Text)
	out := []int{}
	for i := 1; i < len(part.Lines); i++ {
		if part.Lines[i].Y == part.Lines[i-1].Y { // a run of the same line
			continue
		}
		if n := len(strings.Fields(string(runes[:min(len(runes), part.Lines[i].From)]))); len(out) == 0 || n > out[len(out)-1] {
			out = append(out, n)
		}
	}
	return out
}
