package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/roles"
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
	Logos    []logoChip
	Places   placesPage
	Swipe    spec.Placement // one for several cards, while none is chosen
	Open     int            // pieces that are not finished
	Finished int
	Moved    int
}

// Formats are those a piece can be downloaded in.
func (matPage) Formats() string { return strings.Join(raster.Formats, " ") }

type matChannel struct {
	spec.Channel
	Pieces []matPiece
}

type matPiece struct {
	*piece.Piece
	SVG      string
	Flags    int
	Said     int // comments nobody is done with
	Findings []preflight.Finding
	Done     string // address of the file as it was finished, "" while it is open
	Moved    bool   // it would look different now
	W, H     float64
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
	Logo     *logoChip
	LogoName string
	Findings int
	Clear    int
	Of       int
}

func (s *Server) mat(w http.ResponseWriter, r *http.Request) error {
	set, f, err := s.opened(r, "mat")
	if err != nil {
		return err
	}
	m := member(r)
	done, err := s.app.Sets.Finished(r.Context(), m, set.Doc.ID)
	if err != nil {
		return err
	}
	said, err := s.app.Proofs.OpenComments(r.Context(), m, set.Doc.ID)
	if err != nil {
		return err
	}
	p := matPage{ID: set.Doc.ID.String(), Seq: set.Doc.Seq}
	for _, pc := range set.Pieces() {
		ch := spec.Channel{ID: pc.Placement.Channel, Name: pc.Placement.ChannelName}
		i := slices.IndexFunc(p.Channels, func(c matChannel) bool { return c.ID == ch.ID })
		if i < 0 {
			i = len(p.Channels)
			p.Channels = append(p.Channels, matChannel{Channel: ch})
		}
		mp := matPiece{Piece: pc, SVG: pc.Scene.SVG(s.screen(pc.Placement, matZoom))}
		mp.Flags, mp.Said = len(flagged(pc.Findings)), said[pc.Placement.ID]
		if f, ok := done[app.PieceKey(pc.Look, pc.Placement.ID)]; ok {
			mp.Done, mp.Moved, mp.Flags = frozenHref(f), f.Moved, 0
			mp.W = seenWidth(pc.Placement) * matZoom
			mp.H = mp.W * float64(pc.Placement.Height) / float64(pc.Placement.Width)
			p.Finished++
			if f.Moved {
				p.Moved++
			}
		} else {
			p.Open++
		}
		p.Channels[i].Pieces = append(p.Channels[i].Pieces, mp)
	}
	p.State = s.state(set, done, allShown)
	p.State.Rails, p.State.Kits = hints(member(r), set), member(r).May(roles.WriteKits)
	p.State.Undo, p.State.Redo = f.Steps.Undo, f.Steps.Redo
	p.Bench, p.Logos, p.Places, p.Swipe = s.benchOf(set), logoChips(set.Kit), s.placesOf(set, ""), swipeFor(set)
	f.Page = p
	s.show(w, r, "mat", f)
	return nil
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

// flagged are the findings a corner flag counts: what is more than a note, and the same of
// several parts once, as the count of the whole set has it ([app.Set.ToLookAt]).
func flagged(list []preflight.Finding) (out []preflight.Finding) {
	for _, f := range list {
		same := func(o preflight.Finding) bool { return o.Code == f.Code && o.Message == f.Message }
		if f.Severity != preflight.Note && !slices.ContainsFunc(out, same) {
			out = append(out, f)
		}
	}
	return out
}

func (s *Server) benchOf(set *app.Set) benchView {
	b := benchView{ID: set.Doc.ID.String(), Words: set.Brief.Cards[0].Words(set.Kit.Kit, set.Brief.Language), Bench: set.Bench(), Kit: set.Kit, Thumb: s.thumbOf(set, 112, 124)}
	b.Colours = benchColours(b.Bench.Colours)
	b.Headline, b.Body = b.Bench.TypeSet.Levels[brand.Headline], b.Bench.TypeSet.Levels[brand.Body]
	b.LogoName = "by the rule"
	for i := range set.Kit.Logos {
		l := &set.Kit.Logos[i]
		if l.Art == nil {
			continue
		}
		c := chipOf(set.Kit, l)
		if l.Art.Box == nil && (b.Logo == nil || l.Lockup == "symbol") && set.Brief.Logo == "" {
			b.Logo = &c
		}
		if l.File == set.Brief.Logo {
			b.Logo, b.LogoName = &c, c.Name
		}
	}
	for _, pc := range set.Pieces() {
		b.Of++
		if len(flagged(pc.Findings)) == 0 {
			b.Clear++
		}
	}
	b.Findings = set.ToLookAt()
	return b
}

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

// syncRequest is what the Mat sends: at most one change ([setActions]), and what it has.
type syncRequest struct {
	Client  string      `json:"client"`
	Base    int64       `json:"base"`
	Have    shownGroups `json:"have"`
	BenchIs string      `json:"benchIs"` // the bench the page has
	Caret   *struct {
		Placement string `json:"placement"`
		Slot      string `json:"slot"`
		Text      string `json:"text"`
		Have      string `json:"have"` // key of the glyphs the page has
	} `json:"caret"`
	Close string `json:"close"` // the piece the Close-up shows
	Sure  bool   `json:"sure"`  // an undo is done though the Close-up shows nothing of it

	action string
	with   json.RawMessage
}

// sync makes the change, if any, and answers with whatever on the mat is not
// as the page has it.
func (s *Server) sync(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
	if err != nil {
		return err
	}
	var q syncRequest
	if err := readJSON(r, &q); err != nil {
		return err
	}
	ctx := r.Context()
	var made madeState
	err = s.once(r, func() (err error) {
		made, err = s.changeSet(r, m, id, &q)
		return err
	})
	if err != nil {
		return err
	}
	set, err := s.app.Sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	done, err := s.app.Sets.FinishedOf(ctx, m, set)
	if err != nil {
		return err
	}
	st := s.state(set, done, q.Have.has)
	st.Rails, st.Kits = hints(member(r), set), member(r).May(roles.WriteKits)
	steps := set.Doc.Steps()
	st.Undo, st.Redo, st.madeState = steps.Undo, steps.Redo, made
	bench, err := s.fragment("mat", "bench", s.benchOf(set))
	if err != nil {
		return err
	}
	if st.BenchIs = hashOf(bench); st.BenchIs != q.BenchIs { // the page has it otherwise
		st.Bench = bench
	}
	if q.Close != "" {
		if st.Close, err = closeOf(set, q.Close); err != nil {
			return err
		}
	}
	if c := q.Caret; c != nil {
		st.Caret = caretOf(set, c.Placement, c.Slot, c.Text, c.Have)
	}
	reply(w, http.StatusOK, st)
	return nil
}

// revert takes the last change of a document back ("undo"), or puts it back ("redo"), and
// tells whether there was none.
func (s *Server) revert(r *http.Request, m app.Member, id app.ID, client, which string) (nothing bool, err error) {
	_, _, err = s.app.Documents.Undo(r.Context(), m, id, client, which == "redo")
	if errors.Is(err, app.ErrNothing) {
		return true, nil
	}
	return false, err
}

// leadsAway says what an undo would do that nothing of is seen on the piece of the Close-up, until
// somebody is sure of it.
func (s *Server) leadsAway(r *http.Request, m app.Member, id app.ID, q *syncRequest, redo bool) (string, error) {
	if q.Close == "" || q.Sure {
		return "", nil
	}
	set, err := s.app.Sets.Set(r.Context(), m, id)
	if err != nil {
		return "", err
	}
	p, err := set.Channels.Parse(q.Close)
	if err != nil {
		return "", fmt.Errorf("%w: %v", app.ErrInvalid, err)
	}
	return s.app.Documents.LeadsAway(r.Context(), m, set, redo, p)
}

// hashOf tells one fragment of a page from another.
func hashOf(html string) string {
	h := fnv.New64a()
	_, _ = io.WriteString(h, html)
	return strconv.FormatUint(h.Sum64(), 36)
}

// findingsPage is what preflight says of the whole set.
type findingsPage struct {
	List    []app.SetFinding
	ToLook  int      // that are more than notes
	Fixable int      // of them
	Will    []string // what fixing all of them does, part by part
	Places  map[string]string
}

// findings answers with the list of findings, each with the pieces it stands on.
func (s *Server) findings(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	if err != nil {
		return err
	}
	p := findingsPage{List: set.Findings(set.Pieces()), Places: map[string]string{}}
	for _, m := range p.List {
		if m.Fixable && m.Severity != preflight.Note {
			p.Fixable++
			p.Will = append(p.Will, m.Will)
		}
	}
	p.ToLook = set.ToLookAt()
	for _, pl := range set.Placements() {
		p.Places[pl.ID] = pl.Name
	}
	return s.replyPart(w, r, "mat", "findings", p, nil)
}

// colourways answers with a piece in every colourway of its layout, within a reach.
func (s *Server) colourways(w http.ResponseWriter, r *http.Request) error {
	set, err := s.set(r)
	var p spec.Placement
	if err == nil {
		if p, err = set.Channels.Parse(r.URL.Query().Get("placement")); err != nil {
			err = fmt.Errorf("%w: %v", app.ErrInvalid, err)
		}
	}
	if err != nil {
		return err
	}
	look := set.Job.LookAt(set.CurrentLook(), p)
	list, at := set.Colourways(look)
	job := set.Job.Without("look", "seats") // what was chosen by hand would win
	type choice struct {
		Mini mini
		Name string
		At   int
		On   bool
	}
	var out []choice
	var drawn []*scene.Scene
	for i, c := range list {
		look.Seats = c.Tokens()
		pc := job.Compose(look, p, min(p.Card, len(set.Brief.Cards)-1))
		if i != at && slices.ContainsFunc(drawn, func(o *scene.Scene) bool { return scene.Apart(o, pc.Scene) < app.SeenApart }) {
			continue // its colours differ where nobody sees them
		}
		drawn = append(drawn, pc.Scene)
		names := c.At(colourway.Ground).Name + ", " + c.At(colourway.Panel).Name + ", " + c.At(colourway.Button).Name
		out = append(out, choice{miniOf(pc.Scene, p, fmt.Sprintf("cw%d-", i), 132, 0), names, i, i == at})
	}
	return s.replyPart(w, r, "mat", "colourways", out, nil)
}

// undo takes the last change of a kit or brief back, or puts it back.
func (s *Server) undo(w http.ResponseWriter, r *http.Request) error {
	m, id, err := about(r)
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
		err = s.once(r, func() (err error) {
			path, seq, err = s.app.Documents.Undo(r.Context(), m, id, q.Client, q.Redo)
			return err
		})
	}
	if errors.Is(err, app.ErrNothing) {
		reply(w, http.StatusOK, map[string]any{"nothing": true})
		return nil
	}
	if err != nil {
		return err
	}
	reply(w, http.StatusOK, map[string]any{"seq": seq, "path": path})
	return nil
}
