package web

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

type matPage struct {
	ID       string
	Seq      int64
	Channels []matChannel
	Bench    benchView
	State    matState
}

type matChannel struct {
	spec.Channel
	Pieces []matPiece
}

type matPiece struct {
	*piece.Piece
	SVG      string
	Flags    int
	Findings []preflight.Finding
}

// matState is what the page's script needs to know of every piece.
type matState struct {
	Seq    int64           `json:"seq"`
	KitSeq int64           `json:"kitSeq"`
	Undo   bool            `json:"undo"`
	Redo   bool            `json:"redo"`
	Pieces []pieceState    `json:"pieces"`
	Logos  []logoChoice    `json:"logos"`
	Logo   string          `json:"logo"`
	Bench  string          `json:"bench,omitempty"`
	Caret  *caretState     `json:"caret,omitempty"`
	Fields map[string]text `json:"fields"`
}

// text is a field of copy as written, and whether it is written at all.
type text struct {
	Value string `json:"v"`
	Set   bool   `json:"set"`
}

type pieceState struct {
	ID       string              `json:"id"`
	Name     string              `json:"name"`
	Alt      string              `json:"alt"` // what the piece says, for those who do not see it
	Channel  string              `json:"channel"`
	W        int                 `json:"w"`
	H        int                 `json:"h"`
	Seen     float64             `json:"seen"` // px wide at zoom 1
	Safe     [4]float64          `json:"safe"`
	Groups   []groupState        `json:"groups"`
	Words    []wordState         `json:"words"`
	Logo     *[4]float64         `json:"logo"`
	LogoFile string              `json:"logoFile,omitempty"`
	Findings []preflight.Finding `json:"findings"`
	Adjusted map[string]string   `json:"adjusted"` // slot -> reach
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
	Box      [4]float64 `json:"box"`
	Size     float64    `json:"size"`
	Contrast float64    `json:"contrast"`
	Fill     string     `json:"fill"`
	Text     string     `json:"text"` // as written, for this piece
}

type logoChoice struct {
	File string `json:"file"`
	Name string `json:"name"`
}

type caretState struct {
	Piece string       `json:"piece"`
	Slot  string       `json:"slot"`
	Stops []piece.Stop `json:"stops"`
}

type benchView struct {
	ID       string
	Words    map[string]string
	Thumb    string
	Bench    app.Bench
	Colours  []string
	Headline brand.Style
	Body     brand.Style
	Kit      *app.Kit
	Logo     *brand.Art
	LogoName string
	Findings int
	Clear    int
	Of       int
}

func (s *Server) mat(w http.ResponseWriter, r *http.Request) {
	set, err := s.set(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	f, err := s.briefFrame(r, set, "mat")
	if err != nil {
		s.problem(w, r, err)
		return
	}
	p := matPage{ID: set.Doc.ID.String(), Seq: set.Doc.Seq}
	for _, pc := range set.Pieces() {
		ch := spec.ChannelOf(pc.Placement.ID)
		i := slices.IndexFunc(p.Channels, func(c matChannel) bool { return c.ID == ch.ID })
		if i < 0 {
			i = len(p.Channels)
			p.Channels = append(p.Channels, matChannel{Channel: ch})
		}
		mp := matPiece{Piece: pc, SVG: pc.Scene.SVG(s.screen(pc.Placement, matZoom))}
		mp.Flags = len(flagged(pc.Findings))
		p.Channels[i].Pieces = append(p.Channels[i].Pieces, mp)
	}
	p.State = s.state(set, nil)
	p.State.Undo, p.State.Redo = f.Steps.Undo, f.Steps.Redo
	p.Bench = s.benchOf(set)
	f.Page = p
	s.show(w, r, "mat", f)
}

// matZoom is the scale of the mat against the widths pieces are seen at.
const matZoom = 0.6

// seenWidth is how wide a piece lies on the mat at zoom 1, in px: as it is
// seen, the very wide ones at the smaller of their sizes.
func seenWidth(p spec.Placement) float64 {
	w := p.Seen[0]
	if w > 760 {
		w = max(400, min(w, p.Seen[len(p.Seen)-1]))
	}
	return min(w, 620)
}

func (s *Server) screen(p spec.Placement, zoom float64) scene.Options {
	k := seenWidth(p) / float64(p.Width)
	return scene.Options{Scale: k * zoom, IDs: p.ID + "-", Href: screenHref(2 * k)}
}

// flagged are the findings a corner flag counts.
func flagged(list []preflight.Finding) []preflight.Finding {
	return slices.DeleteFunc(slices.Clone(list), func(f preflight.Finding) bool { return f.Severity == preflight.Note })
}

// state describes the set; groups whose hash the page has come without markup.
func (s *Server) state(set *app.Set, have map[string]map[string]string) matState {
	st := matState{Seq: set.Doc.Seq, KitSeq: set.Kit.Seq, Logo: set.Brief.Logo, Logos: []logoChoice{}, Fields: map[string]text{}}
	card := set.Brief.Cards[0]
	for _, name := range brief.CopyFields {
		v := card.Field(name)
		st.Fields[name] = text{deref(v), v != nil}
	}
	for _, l := range set.Kit.Logos {
		if l.Art != nil {
			st.Logos = append(st.Logos, logoChoice{l.File, plain(l.Lockup) + ", " + plain(l.Tone)})
		}
	}
	for _, pc := range set.Pieces() {
		p := pc.Placement
		ps := pieceState{ID: p.ID, Name: p.Name, Alt: pc.Scene.Alt, Channel: spec.ChannelOf(p.ID).ID, W: p.Width, H: p.Height, Seen: seenWidth(p), Safe: rect(p.SafeBox()),
			Findings: pc.Findings, Words: []wordState{}, Adjusted: map[string]string{}}
		if ps.Findings == nil {
			ps.Findings = []preflight.Finding{}
		}
		for _, g := range pc.Scene.Groups(s.screen(p, 1)) {
			gs := groupState{ID: g.ID, Hash: g.Hash}
			if have[p.ID][g.ID] != g.Hash {
				gs.SVG = g.SVG
			}
			ps.Groups = append(ps.Groups, gs)
		}
		for i := range pc.Scene.Parts {
			part := &pc.Scene.Parts[i]
			switch part.Kind {
			case scene.KindText, scene.KindButton:
				field := part.Field
				if part.Kind == scene.KindButton {
					field = "callToAction"
				}
				if !slices.Contains(brief.CopyFields, field) {
					continue
				}
				ps.Words = append(ps.Words, wordState{
					Slot: part.Slot, Field: field, Box: rect(part.Box),
					Size: part.SizePx, Contrast: part.Contrast, Fill: part.Fill.Hex(), Text: written(set, p, part.Slot, field),
				})
				if _, reach, ok := piece.Adjusted(set.Brief, p, part.Slot, "text"); ok {
					ps.Adjusted[part.Slot] = reach
				}
			case scene.KindLogo:
				box := rect(part.Box)
				ps.Logo = &box
				ps.LogoFile = part.File
				if _, reach, ok := piece.Adjusted(set.Brief, p, "logo", "file"); ok {
					ps.Adjusted["logo"] = reach
				}
			}
		}
		st.Pieces = append(st.Pieces, ps)
	}
	return st
}

func rect(r spec.Rect) [4]float64 { return [4]float64{r.X, r.Y, r.W, r.H} }

// written is the text of a field as somebody typed it, for a placement.
func written(set *app.Set, p spec.Placement, slot, field string) string {
	if v, _, ok := piece.Adjusted(set.Brief, p, slot, "text"); ok {
		return v
	}
	card := set.Brief.Cards[0]
	if v := card.Field(field); v != nil {
		return *v
	}
	return card.Words(set.Kit.Kit)[field]
}

func (s *Server) benchOf(set *app.Set) benchView {
	b := benchView{ID: set.Doc.ID.String(), Words: set.Brief.Cards[0].Words(set.Kit.Kit), Bench: set.Bench(), Kit: set.Kit, Thumb: s.previewThumb(set)}
	b.Colours = benchColours(b.Bench.Colours)
	b.Headline, b.Body = b.Bench.TypeSet.Levels[brand.Headline], b.Bench.TypeSet.Levels[brand.Body]
	b.LogoName = "by the rule"
	for _, l := range set.Kit.Logos {
		if l.Art != nil && l.Art.Box == nil && (b.Logo == nil || l.Lockup == "symbol") && set.Brief.Logo == "" {
			b.Logo = l.Art
		}
		if l.Art != nil && l.File == set.Brief.Logo {
			b.Logo, b.LogoName = l.Art, plain(l.Lockup)
		}
	}
	for _, pc := range set.Pieces() {
		b.Of++
		if n := len(flagged(pc.Findings)); n > 0 {
			b.Findings += n
		} else {
			b.Clear++
		}
	}
	return b
}

func (s *Server) previewThumb(set *app.Set) string { return s.thumbOf(set, 112, 124) }

// thumbOf is a small cut of the first picture, "" for none.
func (s *Server) thumbOf(set *app.Set, w, h int) string {
	for _, pic := range set.Brief.Cards[0].Pictures {
		if ph, ok := set.Job.Pictures[pic.File]; ok {
			if pic.Focus != nil {
				ph.Focus = *pic.Focus
			}
			c := ph.Crop(float64(w)/float64(h), [2]float64{0.5, 0.5})
			return fmt.Sprintf("/pictures/%s/%.0f,%.0f,%.0f,%.0f/%dx%d", ph.Hash, c.X, c.Y, c.W, c.H, w, h)
		}
	}
	return ""
}

// syncRequest is what the Mat sends: at most one change, and what it has.
type syncRequest struct {
	Client string                       `json:"client"`
	Base   int64                        `json:"base"`
	Have   map[string]map[string]string `json:"have"`
	Write  *struct {
		Field string `json:"field"`
		Reach string `json:"reach"`
		Text  string `json:"text"`
	} `json:"write"`
	Turn  *app.Step   `json:"turn"`
	Logo  *logoChange `json:"logo"`
	Lift  *liftChange `json:"lift"`
	Caret *struct {
		Piece string `json:"piece"`
		Slot  string `json:"slot"`
		Text  string `json:"text"`
	} `json:"caret"`
}

type logoChange struct{ Reach, File string }

type liftChange struct{ Reach, Slot, Property string }

// sync makes the change, if any, and answers with whatever on the mat is not
// as the page has it.
func (s *Server) sync(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	var q syncRequest
	if err := readJSON(r, &q); err != nil {
		s.problem(w, r, err)
		return
	}
	ctx := r.Context()
	switch {
	case q.Write != nil:
		_, err = s.app.Write(ctx, m, id, app.Change{Base: q.Base, Client: q.Client, Typing: true}, q.Write.Field, q.Write.Reach, q.Write.Text)
	case q.Turn != nil:
		_, err = s.app.Turn(ctx, m, id, q.Client, *q.Turn)
	case q.Logo != nil:
		_, err = s.app.SetLogo(ctx, m, id, q.Client, q.Logo.Reach, q.Logo.File)
	case q.Lift != nil:
		_, err = s.app.Lift(ctx, m, id, q.Client, q.Lift.Reach, q.Lift.Slot, q.Lift.Property)
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	set, err := s.app.Set(ctx, m, id)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	st := s.state(set, q.Have)
	steps, err := s.app.Store.Steps(ctx, m.Workspace, id)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	st.Undo, st.Redo = steps.Undo, steps.Redo
	if st.Bench, err = s.fragment("mat", "bench", s.benchOf(set)); err != nil {
		s.problem(w, r, err)
		return
	}
	if c := q.Caret; c != nil {
		st.Caret = caretOf(set, c.Piece, c.Slot, c.Text)
	}
	reply(w, http.StatusOK, st)
}

// caretOf lists where the caret can stand in a slot's words; nil when the slot
// is not on the piece any more.
func caretOf(set *app.Set, placement, slot, typed string) *caretState {
	p, err := spec.Parse(placement)
	if err != nil {
		return nil
	}
	pc := set.Piece(set.CurrentLook(), p)
	for i := range pc.Scene.Parts {
		part := &pc.Scene.Parts[i]
		if part.Slot == slot && (part.Kind == scene.KindText || part.Kind == scene.KindButton) {
			return &caretState{placement, slot, piece.Stops(part, typed)}
		}
	}
	return nil
}

// undo takes the last change of a kit or brief back, or puts it back.
func (s *Server) undo(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	var q struct {
		Client string `json:"client"`
		Redo   bool   `json:"redo"`
	}
	if err == nil {
		err = readJSON(r, &q)
	}
	var path string
	var seq int64
	if err == nil {
		path, seq, err = s.app.Undo(r.Context(), m, id, q.Client, q.Redo)
	}
	if errors.Is(err, app.ErrNotFound) {
		reply(w, http.StatusOK, map[string]any{"nothing": true})
		return
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	reply(w, http.StatusOK, map[string]any{"seq": seq, "path": path})
}

func (s *Server) archive(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	if err == nil {
		err = s.app.Archive(r.Context(), m, id, r.FormValue("back") == "")
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	http.Redirect(w, r, "/desk", http.StatusSeeOther)
}

var mediaTypes = map[string]string{"png": "image/png", "jpeg": "image/jpeg", "webp": "image/webp", "svg": "image/svg+xml", "pdf": "application/pdf"}

func (s *Server) download(w http.ResponseWriter, r *http.Request) {
	m, _ := member(r)
	id, err := pathID(r)
	format := chi.URLParam(r, "format")
	if err == nil && mediaTypes[format] == "" {
		err = fmt.Errorf("%w: format %q: want %s", app.ErrInvalid, format, strings.Join(raster.Formats, ", "))
	}
	var name string
	var data []byte
	if err == nil {
		name, data, err = s.app.Download(r.Context(), m, id, chi.URLParam(r, "placement"), format)
	}
	if err != nil {
		s.problem(w, r, err)
		return
	}
	w.Header().Set("Content-Type", mediaTypes[format])
	w.Header().Set("Content-Disposition", attachment(name))
	_, _ = w.Write(data)
}

func (s *Server) downloadAll(w http.ResponseWriter, r *http.Request) {
	set, err := s.set(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	name := set.FileName(spec.Placement{ID: "set"}, "zip")
	name, _, _ = strings.Cut(name, "_set_")
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", attachment(name+".zip"))
	if err := s.app.DownloadAll(r.Context(), set, w, "png"); err != nil {
		// the headers are out: break the connection so that nobody keeps half a ZIP
		s.log.Error("download", "brief", set.Doc.ID, "error", err)
		panic(http.ErrAbortHandler)
	}
}

// attachment names a download; the plain form is for old clients, the starred
// one (RFC 6266) carries any letter.
func attachment(name string) string {
	plain := strings.Map(func(r rune) rune {
		if r > '~' || r < ' ' || r == '"' || r == '\\' {
			return '-'
		}
		return r
	}, name)
	var star strings.Builder
	for _, b := range []byte(name) {
		if b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b >= '0' && b <= '9' || strings.IndexByte("-._", b) >= 0 {
			star.WriteByte(b)
		} else {
			fmt.Fprintf(&star, "%%%02X", b)
		}
	}
	return `attachment; filename="` + plain + `"; filename*=UTF-8''` + star.String()
}
