package web

import (
	"slices"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// matState is what the page's script needs to know of every piece.
type matState struct {
	Seq     int64        `json:"seq"`
	KitSeq  int64        `json:"kitSeq"`
	Undo    bool         `json:"undo"`
	Redo    bool         `json:"redo"`
	Pieces  []pieceState `json:"pieces"`
	Logos   []logoChoice `json:"logos"`
	Pics    []picChoice  `json:"pics"`
	Logo    string       `json:"logo"`
	Bench   string       `json:"bench,omitempty"` // where the page has another
	BenchIs string       `json:"benchIs,omitempty"`
	Looks   []lookTab    `json:"looks"`

	Rails map[string]string `json:"rails,omitempty"` // what holds who looks, in words
	Kits  bool              `json:"kits"`            // who looks may change kits
	Caret *caretState       `json:"caret,omitempty"`
	Close *closeState       `json:"close,omitempty"` // of the piece the Close-up shows
	madeState
}

// madeState is what came of a change that was just made.
type madeState struct {
	Fixed   []string `json:"fixed,omitempty"`   // what a fix did, when one was just made
	Variant string   `json:"variant,omitempty"` // the piece that was put beside another
	Nothing bool     `json:"nothing,omitempty"` // there was nothing to undo or redo
	Away    string   `json:"away,omitempty"`    // what an undo would have done elsewhere; it was not done
	Kept    string   `json:"kept,omitempty"`    // the name the kit keeps the colourway under, when it was just kept
}

// lookTab is a kept look where one goes between them.
type lookTab struct {
	ID     string `json:"id"`
	Letter string `json:"letter"`
	Name   string `json:"name"`
	Shown  bool   `json:"shown"`
}

// lookTabs are the kept looks of a set by their letters.
func lookTabs(set *app.Set) []lookTab {
	out := []lookTab{}
	for _, k := range set.Looks {
		t := lookTab{ID: k.ID, Letter: set.LookName(k.ID), Shown: set.Look != nil && set.Look.ID == k.ID}
		if l := layoutOf(set, k.Layout); l != nil {
			t.Name = l.Name
		}
		out = append(out, t)
	}
	return out
}

type pieceState struct {
	ID       string              `json:"id"`
	Card     string              `json:"card"` // id of the card it shows
	Key      string              `json:"key"`  // tells it apart over all looks
	Name     string              `json:"name"`
	Alt      string              `json:"alt"` // what the piece says, for those who do not see it
	Channel  string              `json:"channel"`
	W        int                 `json:"w"`
	H        int                 `json:"h"`
	Seen     float64             `json:"seen"`  // px wide at zoom 1
	Small    float64             `json:"small"` // px wide where it is seen smallest
	Safe     [4]float64          `json:"safe"`
	Groups   []groupState        `json:"groups"`
	Words    []wordState         `json:"words"`
	Logo     *[4]float64         `json:"logo"`
	Pictures []pictureState      `json:"pictures"`
	Layout   string              `json:"layout"` // as people call it
	Seats    []string            `json:"seats"`  // ground, panel, button
	Said     []saidState         `json:"said"`   // words that are written on Start
	LogoFile string              `json:"logoFile,omitempty"`
	Findings []preflight.Finding `json:"findings"`
	Adjusted map[string]string   `json:"adjusted"` // slot -> reach
	Done     bool                `json:"done"`     // finished: it stays as it is
	Moved    bool                `json:"moved"`    // it would look different now
	Edge     string              `json:"edge"`     // on or off: the kit's frame along its edges; "" where there is none
	Moves    *brief.Movement     `json:"moves"`    // besides standing still; null where it does not
}

// pictureState is a picture on a piece.
type pictureState struct {
	Slot string     `json:"slot"`
	Box  [4]float64 `json:"box"`
	Crop [4]float64 `json:"crop"` // fractions of the picture
}

// saidState is a part whose words come from a date, an offer, a list.
type saidState struct {
	Slot  string     `json:"slot"`
	Label string     `json:"label"`
	Box   [4]float64 `json:"box"`
	Text  string     `json:"text"`
}

type groupState struct {
	ID   string `json:"id"`
	Hash string `json:"h"`
	SVG  string `json:"svg,omitempty"`
}

// wordState is a slot of words on a piece.
type wordState struct {
	Slot     string     `json:"slot"`
	Field    string     `json:"field"`
	Label    string     `json:"label"` // what people call it
	Box      [4]float64 `json:"box"`
	Size     float64    `json:"size"`
	Contrast float64    `json:"contrast"`
	Fill     string     `json:"fill"`
	Text     string     `json:"text"` // as written, for this piece

	// Of a headline: the other of the two, and what the short one would say if it
	// followed, while it is in doubt.
	OtherField string `json:"otherField,omitempty"`
	OtherLabel string `json:"otherLabel,omitempty"`
	Other      string `json:"other,omitempty"`
	Doubt      bool   `json:"doubt,omitempty"`
}

type picChoice struct {
	File string `json:"file"`
	Src  string `json:"src"`
	Alt  string `json:"alt"`
}

type logoChoice struct {
	File string `json:"file"`
	Name string `json:"name"`
}

type caretState struct {
	Placement string        `json:"placement"`
	Slot      string        `json:"slot"`
	Stops     []piece.Stop  `json:"stops"`
	Moved     *scene.Affine `json:"moved,omitempty"` // where the words went by hand, carets with them
	Echo      *piece.Echo   `json:"echo"`            // for drawing letters at once; nil where the server has to
}

// cardOn is the id of the card a placement shows.
func cardOn(set *app.Set, p spec.Placement) string {
	return set.Brief.Cards[min(p.Card, len(set.Brief.Cards)-1)].ID
}

// shownGroups are the hashes of the groups a page shows, by piece and by group.
type shownGroups map[string]map[string]string

func (h shownGroups) has(piece string, g scene.Group) bool { return h[piece][g.ID] == g.Hash }

// allShown is what a page shows that draws every piece itself.
func allShown(string, scene.Group) bool { return true }

// state describes the set; groups which the page shows come without markup.
func (s *Server) state(set *app.Set, done map[string]app.Frozen, shown func(piece string, g scene.Group) bool) matState {
	st := matState{Seq: set.Doc.Seq, KitSeq: set.Kit.Stamp(), Logo: set.Brief.Logo, Logos: []logoChoice{}, Looks: lookTabs(set)}
	for _, l := range set.Kit.Logos {
		if l.Art != nil {
			st.Logos = append(st.Logos, logoChoice{l.File, logoName(set.Kit, &l)})
		}
	}
	st.Pics = picChoices(set)
	for _, pc := range set.Pieces() {
		p := pc.Placement
		ps := pieceState{
			ID: p.ID, Card: cardOn(set, p), Key: app.PieceKey(pc.Look, p.ID), Name: p.Name, Alt: pc.Scene.Alt, Channel: p.Channel,
			W: p.Width, H: p.Height, Seen: seenWidth(p), Small: p.SmallestSeenScale() * float64(p.Width), Safe: rect(p.SafeBox()),
			Findings: pc.Findings, Words: []wordState{}, Adjusted: map[string]string{}, Pictures: []pictureState{}, Said: []saidState{},
			Layout: pc.Layout.Name, Seats: benchColours(pc.Colours),
		}
		ps.adjusted(set, p, "picture", "picture", "file")
		ps.adjusted(set, p, "layout", "look", "layout")
		ps.adjusted(set, p, "seats", "look", "seats")
		ps.adjusted(set, p, "moving", brief.WholePiece, "moving")
		if m, ok := set.Brief.Moves(p); ok {
			ps.Moves = &m
		}
		for slot, h := range set.Brief.Hands(p) {
			for _, prop := range h.Changed() {
				if prop.Drawn {
					ps.Adjusted[slot+" by hand"] = h.Reach(prop.Name)
				}
			}
		}
		if len(set.Brief.Added(p)) > 0 {
			ps.Adjusted["added"] = "piece:" + p.ID
		}
		if ps.Findings == nil {
			ps.Findings = []preflight.Finding{}
		}
		if h := set.Brief.Hands(p)["edge"]; h != nil && h.Hidden {
			ps.Edge = "off"
		} else if slices.ContainsFunc(pc.Scene.Parts, func(part scene.Part) bool { return part.Slot == "edge" }) {
			ps.Edge = "on"
		}
		if f, ok := done[ps.Key]; ok {
			ps.Done, ps.Moved, ps.Groups, ps.Findings = true, f.Moved, []groupState{}, []preflight.Finding{}
			st.Pieces = append(st.Pieces, ps)
			continue
		}
		for _, g := range pc.Scene.Groups(s.screen(p, 1)) {
			gs := groupState{ID: g.ID, Hash: g.Hash}
			if !shown(p.ID, g) {
				gs.SVG = g.SVG
			}
			ps.Groups = append(ps.Groups, gs)
		}
		for i := range pc.Scene.Parts {
			ps.part(set, p, &pc.Scene.Parts[i])
		}
		st.Pieces = append(st.Pieces, ps)
	}
	return st
}

// adjusted notes within which reach something of a piece was changed by hand, if it was.
func (ps *pieceState) adjusted(set *app.Set, p spec.Placement, as, slot, property string) {
	if _, reach, ok := set.Brief.Adjusted(p, slot, property); ok {
		ps.Adjusted[as] = reach
	}
}

// part says of a part what can be chosen on it.
func (ps *pieceState) part(set *app.Set, p spec.Placement, part *scene.Part) {
	switch part.Kind {
	case scene.KindText, scene.KindButton:
		ps.words(set, p, part)
	case scene.KindPicture:
		if strings.HasPrefix(part.Slot, "picture") {
			ps.Pictures = append(ps.Pictures, pictureState{Slot: part.Slot, Box: rect(part.Box), Crop: cropOf(set, part)})
			ps.adjusted(set, p, part.Slot+" crop", part.Slot, "crop")
		}
	case scene.KindLogo:
		box := rect(part.Box)
		ps.Logo, ps.LogoFile = &box, part.File
		ps.adjusted(set, p, "logo", "logo", "file")
	}
}

// addedWords are words of a part that was added, which are typed where they stand like all others.
func (ps *pieceState) addedWords(set *app.Set, p spec.Placement, part *scene.Part) {
	added := set.Brief.Added(p)
	i := slices.IndexFunc(added, func(a brief.Added) bool { return a.Slot == part.Slot })
	if i < 0 || added[i].Kind == "facts" || ps.has(part.Slot) { // facts are a line each, in the slip
		return
	}
	ps.Words = append(ps.Words, wordState{
		Slot: part.Slot, Field: part.Slot, Label: addedName(added[i]), Box: rect(part.Box),
		Size: part.SizePx, Contrast: part.Contrast, Fill: part.Fill.Hex(), Text: added[i].Text,
	})
}

// has reports whether words of a slot are among those of the piece already.
func (ps *pieceState) has(slot string) bool {
	return slices.ContainsFunc(ps.Words, func(w wordState) bool { return w.Slot == slot })
}

func (ps *pieceState) words(set *app.Set, p spec.Placement, part *scene.Part) {
	field := part.Field
	if strings.HasPrefix(part.Slot, brief.AddedSlot) {
		ps.addedWords(set, p, part)
		return
	}
	if part.Kind == scene.KindButton {
		field = "callToAction"
	}
	if !slices.Contains(brief.CopyFields, field) {
		ps.Said = append(ps.Said, saidState{part.Slot, brief.PartOf(part.Slot).Label, rect(part.Box), part.Text})
		return
	}
	ws := wordState{
		Slot: part.Slot, Field: field, Label: brief.PartOf(field).Label, Box: rect(part.Box),
		Size: part.SizePx, Contrast: part.Contrast, Fill: part.Fill.Hex(), Text: written(set, p, field),
	}
	card := set.Brief.Cards[min(p.Card, len(set.Brief.Cards)-1)]
	switch other := map[string]string{"headline": "shortHeadline", "shortHeadline": "headline"}[field]; {
	case other == "":
	case other == "shortHeadline" && deref(card.ShortHeadline) == "": // there is none
	default:
		ws.OtherField, ws.OtherLabel, ws.Other, ws.Doubt = other, brief.PartOf(other).Label, written(set, p, other), card.ShortIsStale()
	}
	ps.Words = append(ps.Words, ws)
	ps.adjusted(set, p, part.Slot, field, "text")
}

// cropOf is the part of a picture that shows, as fractions of it.
func cropOf(set *app.Set, part *scene.Part) [4]float64 {
	for _, pics := range []map[string]photo.Picture{set.Job.Pictures, set.Job.KitPictures} {
		for _, p := range pics {
			if p.Hash == part.Picture && p.W > 0 && p.H > 0 {
				c := part.Crop
				return [4]float64{c.X / float64(p.W), c.Y / float64(p.H), c.W / float64(p.W), c.H / float64(p.H)}
			}
		}
	}
	return [4]float64{0, 0, 1, 1}
}

// picChoices are the brief's pictures, then the kit's.
func picChoices(set *app.Set) []picChoice {
	out := []picChoice{}
	add := func(file, alt string, pics map[string]photo.Picture) {
		ph, ok := pics[file]
		if !ok || len(out) >= 12 || slices.ContainsFunc(out, func(c picChoice) bool { return app.HashOf(c.File) == app.HashOf(file) }) {
			return
		}
		ph.Focus = [2]float64{0.5, 0.5}
		out = append(out, picChoice{file, screenHref(1)(scene.PictureRef{Hash: ph.Hash, Crop: ph.Crop(1.3, ph.Focus), W: 104, H: 80}), alt})
	}
	for _, p := range set.Brief.Cards[0].Pictures {
		add(p.File, p.Alt, set.Job.Pictures)
	}
	for _, p := range set.Kit.Pictures {
		if p.Kind == brand.PhotoPicture || p.Kind == brand.Portrait {
			add(p.File, p.Alt, set.Job.KitPictures)
		}
	}
	return out
}

func rect(r spec.Rect) [4]float64 { return [4]float64{r.X, r.Y, r.W, r.H} }

// written is the text of a field as somebody typed it, for a placement.
func written(set *app.Set, p spec.Placement, field string) string {
	if v, _, ok := set.Brief.Adjusted(p, field, "text"); ok {
		return v
	}
	card := set.Brief.Cards[min(p.Card, len(set.Brief.Cards)-1)]
	if v := card.Field(field); v != nil {
		return *v
	}
	return card.Words(set.Kit.Kit, set.Brief.Language)[field]
}

// caretOf lists where the caret can stand in a slot's words; nil when the slot
// is not on the piece any more.
func caretOf(set *app.Set, placement, slot, typed, have string) *caretState {
	p, err := set.Channels.Parse(placement)
	if err != nil {
		return nil
	}
	pc := set.Piece(set.CurrentLook(), p)
	for i := range pc.Scene.Parts {
		part := &pc.Scene.Parts[i]
		if part.Slot == slot && (part.Kind == scene.KindText || part.Kind == scene.KindButton) {
			return &caretState{placement, slot, piece.Stops(part, typed), part.Moved, piece.EchoOf(set.Job.Shaper, part, typed, have)}
		}
	}
	return nil
}
