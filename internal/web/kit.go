package web

import (
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
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/spec"
)

type kitPage struct {
	*app.Kit
	ID         string
	Palette    []swatch // the colours of every palette
	Palettes   []paletteRow
	Doubles    []double
	Seen       []seenRow
	Starters   []assets.Palette
	Matrix     []matrixRow
	Dense      bool // the matrix shows no numbers
	More       int  // colours it does not compare
	Logos      []logoTile
	Tone       *proposedTone // a version the logos lack
	Steps      []mannerRow
	Levels     []levelRow
	TypeSets   []brand.TypeSet
	TypeSet    brand.TypeSet // the one shown
	Families   []assets.Family
	OwnFonts   []ownFontRow
	Head       string
	Text       string
	Shelf      []mini
	Following  int // briefs
	Open       int // their pieces that follow the kit
	Finished   int // pieces that keep the kit as it was
	Moved      int // of those, how many would look different now
	Missing    []missing
	Ready      bool
	Lockups    []string
	Tones      []string
	Roles      []brand.Role
	Folders    []pictureFolder
	Colourways []keptRow
	Motion     motionPage
	Words      []wordField
	Spoken     []wordField
	Parent     *app.Ancestor // nil for none
	Others     []app.KitName
	Owns       bool     // who looks says what is left to everybody
	Signers    []signer // who may sign pieces off, where the kit wants that
}

// columns are the sections of the sheet in the order they are read. The template of the
// same name as its id draws a section; h-<id> is where it stands.
var columns = []kitColumn{
	{"colL", []kitSection{{"logos", "Logos"}, {"colours", "Colours"}, {"pics", "Pictures"}, {"motion", "Motion"}}},
	{"colR", []kitSection{{"type", "Type"}, {"manner", "Manner"}, {"words", "Words"}, {"rails", "Rails"}}},
}

type kitColumn struct {
	Class    string
	Sections []kitSection
}

type kitSection struct{ ID, Name string }

// Columns are for the template.
func (kitPage) Columns() []kitColumn { return columns }

// missing is something the kit lacks: where it goes on the sheet, and why it
// matters.
type missing struct{ What, At, Why string }

// paletteRow is a palette on the sheet; its name shows when there are several.
type paletteRow struct {
	ID, Name, Path string
	Swatches       []swatch
}

type swatch struct {
	brand.Colour
	origin
	Path string // JSON Pointer of the token
}

// matrixRow is a colour against those before it.
type matrixRow struct {
	Name  string
	Value colour.RGB
	Cells []matrixCell
}

type matrixCell struct {
	Ratio        float64
	Ground, Ink  string
	Any, Large   bool // carries any text; large text
	Description_ string
}

func (c matrixCell) Description() string { return c.Description_ }

func (s *Server) kit(w http.ResponseWriter, r *http.Request) error {
	k, p, err := s.kitView(r)
	if err != nil {
		return err
	}
	title := k.Name
	if title == "" {
		title = "New kit"
	}
	s.show(w, r, "kit", frame{Title: title, Screen: "kit", Kit: k, Undoes: k.ID.String(), Steps: k.Steps, Watch: watchKit(k), Page: p})
	return nil
}

// kitSheet is the changing part of the kit's page: the sheet and the shelf.
func (s *Server) kitSheet(w http.ResponseWriter, r *http.Request) error {
	k, p, err := s.kitView(r)
	if err != nil {
		return err
	}
	return s.replySheet(w, r, k, p)
}

// kitPart is a section of the sheet, or the shelf, as it is now.
type kitPart struct {
	Tag  string `json:"tag"`
	HTML string `json:"html,omitempty"` // left out where the page shows it as it is
}

// replySheet answers with the parts of the kit's page that differ from what it shows, which it
// names by their tags ("have": logos.1x2y,colours.3z).
func (s *Server) replySheet(w http.ResponseWriter, r *http.Request, k *app.Kit, p kitPage) error {
	shown := map[string]string{}
	for entry := range strings.SplitSeq(r.FormValue("have"), ",") {
		id, tag, _ := strings.Cut(entry, ".")
		shown[id] = tag
	}
	parts := map[string]kitPart{}
	add := func(name, template string, data any) error {
		html, err := s.fragment("kit", template, data)
		part := kitPart{Tag: tagOf(html)}
		if part.Tag != shown[name] {
			part.HTML = html
		}
		parts[name] = part
		return err
	}
	for _, c := range columns {
		for _, section := range c.Sections {
			if err := add(section.ID, section.ID, p); err != nil {
				return err
			}
		}
	}
	if err := add("shelf-head", "shelf-head", p); err != nil {
		return err
	}
	if n := strconv.Itoa(len(p.Shelf)); n == shown["shelf-row"] { // each piece of it for itself
		parts["shelf-row"] = kitPart{Tag: n}
		for i, piece := range p.Shelf {
			if err := add(fmt.Sprintf("shelf-%d", i), "shelf-piece", piece); err != nil {
				return err
			}
		}
	} else {
		row, err := s.fragment("kit", "shelf-row", p)
		if err != nil {
			return err
		}
		parts["shelf-row"] = kitPart{n, row}
	}
	reply(w, http.StatusOK, map[string]any{"seq": k.Seq, "version": k.Stamp(), "parts": parts, "name": k.Name, "undo": k.Steps.Undo, "redo": k.Steps.Redo, "unread": unreadOf(r)})
	return nil
}

// kitOf is the kit a request is about.
func (s *Server) kitOf(r *http.Request) (*app.Kit, error) {
	m, id, err := about(r)
	if err != nil {
		return nil, err
	}
	return s.app.Kits.Kit(r.Context(), m, id)
}

func (s *Server) kitView(r *http.Request) (*app.Kit, kitPage, error) {
	m := member(r)
	k, err := s.kitOf(r)
	if err != nil {
		return nil, kitPage{}, err
	}
	id := k.ID
	p := kitPage{
		Kit: k, ID: id.String(), Roles: brand.Roles, Lockups: brand.Lockups, Tones: brand.Tones,
		Families: chooseFrom(k.Kit), OwnFonts: ownFonts(k), Owns: m.May(roles.ManageWorkspace),
	}
	if k.Rails.SignOff {
		team, err := s.app.Team.People(r.Context(), m)
		if err != nil {
			return nil, p, err
		}
		for _, t := range team {
			if t.Suspended == nil {
				p.Signers = append(p.Signers, signer{t.ID, t.Name, roles.May(t.Role, roles.ManageWorkspace), roles.May(t.Role, roles.ManageWorkspace) || slices.Contains(k.Rails.SignOffBy, t.ID.String())})
			}
		}
	}
	for _, pal := range k.Kit.Palettes {
		row := paletteRow{ID: pal.ID, Name: pal.Name, Path: "/color/" + edit.Escape(pal.ID)}
		for _, c := range pal.Colours {
			row.Swatches = append(row.Swatches, swatch{c, originOf(k, tokenPath(c.Token)), tokenPath(c.Token)})
		}
		p.Palette = append(p.Palette, row.Swatches...)
		p.Palettes = append(p.Palettes, row)
	}
	p.Matrix = matrix(p.Palette[:min(len(p.Palette), matrixColours)])
	p.Dense, p.More = len(p.Palette) > matrixNumbers, max(0, len(p.Palette)-matrixColours)
	p.Doubles, p.Seen, p.Starters = doubles(p.Palette), seenBy(p.Palette), assets.Palettes()
	p.Logos, p.Tone = tiles(k), proposeTone(k)
	p.Steps = mannerRows(k, s.app.Kits.Manner(k))
	p.Folders, p.Colourways = folders(k), keptRows(k)
	set := k.Kit.TypeSet(r.FormValue("set"))
	p.TypeSets, p.TypeSet = k.TypeSets, set
	p.Head, p.Text = set.Levels[brand.Headline].Family, set.Levels[brand.Body].Family
	p.Levels = levels(k, set)
	reach, err := s.app.Kits.ReachOf(r.Context(), m, id)
	if err != nil {
		return nil, p, err
	}
	p.Finished, p.Following, p.Open = reach.Finished, reach.Briefs, reach.Open
	if p.Finished > 0 && p.Finished <= comparedLive {
		frozen, err := s.app.Sets.FinishedWith(r.Context(), m, id)
		if err != nil {
			return nil, p, err
		}
		for _, f := range frozen {
			if f.Moved {
				p.Moved++
			}
		}
	}
	p.Words, p.Spoken = wordFields(k)
	if parent, ok := k.Parent(); ok {
		p.Parent = &parent
	}
	if p.Others, err = s.others(r.Context(), m, k); err != nil {
		return nil, p, err
	}
	if p.Shelf, err = s.shelf(r, m, k); err != nil {
		return nil, p, err
	}
	if p.Motion, err = s.motionOf(r, m, k); err != nil {
		return nil, p, err
	}
	for _, c := range []struct {
		missing bool
		what    missing
	}{
		{k.Name == "", missing{"a name", "w-name", "pieces are signed with it"}},
		{len(k.Logos) == 0, missing{"a logo", "h-logos", "without one, pieces are signed with the name in type"}},
		{len(k.Neutrals) > 0, missing{"a neutral", "h-colours", "no two colours of the kit carry small text at 7:1"}},
		{len(p.Palette) == 0, missing{"a colour", "h-colours", "one is enough: the rest is black and white until there are more"}},
		{k.Website == "", missing{"a web address", "w-website", "most places need to say where to go"}},
		{len(k.CallsToAction) == 0, missing{"a call to action", "w-cta", "advertisements ask people to do something"}},
	} {
		if c.missing {
			p.Missing = append(p.Missing, c.what)
		}
	}
	p.Ready = k.Name != "" || len(k.Logos) > 0
	return k, p, nil
}

// matrixColours is how many colours the contrast matrix compares; with more than
// matrixNumbers the ratios themselves are left to the tips.
const (
	matrixColours = 40
	matrixNumbers = 12
)

// comparedLive is how many finished pieces are compared with every change of the
// kit, at about 2 ms each; with more, the page that lists them does it.
const comparedLive = 24

// tokenOf is a colour's name within its palette's group.
func tokenOf(token string) string {
	_, name, _ := strings.Cut(token, ".")
	return name
}

func tokenPath(token string) string {
	palette, name, _ := strings.Cut(token, ".")
	return "/color/" + edit.Escape(palette) + "/" + edit.Escape(name)
}

func sampleHeadline(k *app.Kit) string {
	if k.Tagline != "" {
		return k.Tagline
	}
	return "Words worth stopping for"
}

func matrix(list []swatch) []matrixRow {
	var out []matrixRow
	for i, a := range list {
		row := matrixRow{Name: a.Name, Value: a.Value}
		for _, b := range list[:i] {
			ratio := colour.Contrast(a.Value, b.Value)
			c := matrixCell{Ratio: ratio, Ground: b.Value.Hex(), Ink: a.Value.Hex(), Any: ratio >= 4.5, Large: ratio >= 3}
			use := "no text"
			if c.Any {
				use = "any text"
			} else if c.Large {
				use = "large text only"
			}
			c.Description_ = fmt.Sprintf("%s on %s: %.1f to 1, %s", a.Name, b.Name, ratio, use)
			row.Cells = append(row.Cells, c)
		}
		out = append(out, row)
	}
	return out
}

// shelfPlaces are the shapes the shelf shows.
var shelfPlaces = []string{"feed-tall", "story", "shop-banner", "video-thumbnail", "ad-300x250", "landing-block", "profile-picture"}

// written is the latest brief of a kit that says something, nil for none.
func (s *Server) written(r *http.Request, m app.Member, k *app.Kit) (*app.Set, error) {
	return s.app.Kits.InUse(r.Context(), m, k.ID, func(set *app.Set) bool { return !set.Empty() })
}

// inUse composes real pieces of a kit: of its latest brief, or of sample copy
// while there is none.
func (s *Server) inUse(r *http.Request, m app.Member, k *app.Kit, places []string) ([]piece.Piece, error) {
	set, err := s.written(r, m, k)
	if err != nil {
		return nil, err
	}
	var compose func(i int, p spec.Placement) *piece.Piece
	if set != nil {
		compose = func(_ int, p spec.Placement) *piece.Piece { return set.Piece(set.CurrentLook(), p) }
	} else {
		job := s.app.Kits.SampleJob(k, brief.Card{Headline: ptr(sampleHeadline(k)), ShortHeadline: ptr("Worth stopping for"), Subheading: ptr("Every piece in one voice, every size")})
		looks := job.LooksFor(piece.Wish{Quick: true}, 3)
		compose = func(i int, p spec.Placement) *piece.Piece {
			pc := job.Compose(looks[i%len(looks)], p, 0)
			return &pc
		}
	}
	var out []piece.Piece
	for i, id := range places {
		p, ok := spec.Find(id)
		if !ok {
			return nil, fmt.Errorf("placement %q is not in the catalogue", id)
		}
		out = append(out, *compose(i, p))
	}
	return out, nil
}

// shelf shows the kit in use, a video frame among the pieces.
func (s *Server) shelf(r *http.Request, m app.Member, k *app.Kit) ([]mini, error) {
	pieces, err := s.inUse(r, m, k, shelfPlaces)
	if err != nil {
		return nil, err
	}
	var out []mini
	for _, pc := range pieces {
		p := pc.Placement
		k := min(160/float64(p.Height), 300/float64(p.Width))
		out = append(out, miniOf(pc.Scene, p, "shelf-", k*float64(max(p.Width, p.Height)), 0))
	}
	frame, err := s.videoFrame(r, m, k)
	if err != nil {
		return nil, err
	}
	return slices.Insert(out, 2, frame), nil
}

func ptr(s string) *string { return &s }

// newKit starts a kit and goes to it.
func (s *Server) newKit(w http.ResponseWriter, r *http.Request) error {
	id, err := s.making(r, func(m app.Member) (app.ID, error) { return s.app.Kits.NewKit(r.Context(), m, r.FormValue("name")) })
	if err != nil {
		return err
	}
	http.Redirect(w, r, "/kits/"+id.String(), http.StatusSeeOther)
	return nil
}

// benchColours are the swatches of a colourway on the bench, ground first.
func benchColours(c colourway.Colourway) []string {
	var out []string
	for _, s := range []colourway.Seat{colourway.Ground, colourway.Panel, colourway.Button} {
		out = append(out, c.At(s).Value.Hex())
	}
	return out
}
