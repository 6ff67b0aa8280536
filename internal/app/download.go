package app

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// HandOver says which pieces are handed over, and how. The zero value is the
// whole set in the look that is shown, each piece in the format that fits it.
type HandOver struct {
	Look        string   `json:"look"`   // letter of a kept look, "all" for all of them, "" for the one that is shown
	Skip        []string `json:"skip"`   // keys of pieces left out
	Format      string   `json:"format"` // one of [raster.Formats]; "" for what fits place and content
	Scale       string   `json:"scale"`  // 1, 2 or 4k; "" for 1
	Transparent bool     `json:"transparent"`
	Videos      bool     `json:"videos"` // those made of it as it stands come along
	Names       string   `json:"names"`  // a pattern with {brief}, {place}, {size}, {look}, {channel}; "" for the usual one
}

// NamePattern is the usual pattern of file names.
const NamePattern = "{brief}_{place}_{size}"

// Plan is one file to be handed over.
type Plan struct {
	Key     string // see [PieceKey]
	Piece   *piece.Piece
	Formats []string // in order; the first that meets the weight limit is taken
	Scale   float64
	W, H    int // px
	Limit   int // bytes, 0 for none
	stem    string
}

// Name is the name of the file in a format.
func (p Plan) Name(format string) string { return p.stem + "." + raster.Extension(format) }

// NameWords are the words in braces a pattern of file names may have.
var NameWords = []string{"{brief}", "{place}", "{size}", "{look}", "{channel}"}

var braced = regexp.MustCompile(`\{[^{}]*\}?|\}`)

// checkNames refuses a pattern with words nobody knows.
func (h HandOver) checkNames() error {
	for _, w := range braced.FindAllString(h.Names, -1) {
		if !slices.Contains(NameWords, w) {
			return fmt.Errorf("%w: file names: %s means nothing here; what is filled in is %s", ErrInvalid, w, strings.Join(NameWords, ", "))
		}
	}
	return nil
}

// Scales are the sizes files can have.
var Scales = []string{"1", "2", "4k"}

func (h HandOver) check() error {
	if h.Format != "" && !slices.Contains(raster.Formats, h.Format) {
		return fmt.Errorf("%w: format %q: want %s", ErrInvalid, h.Format, strings.Join(raster.Formats, ", "))
	}
	if err := h.checkNames(); err != nil {
		return err
	}
	if h.Scale != "" && !slices.Contains(Scales, h.Scale) {
		return fmt.Errorf("%w: scale %q: want 1, 2 or 4k", ErrInvalid, h.Scale)
	}
	if len(h.Names) > 200 {
		return fmt.Errorf("%w: the pattern of names has %d characters, at most 200", ErrInvalid, len(h.Names))
	}
	return nil
}

// times is how many px of a file one px of a placement becomes.
func (h HandOver) times(p spec.Placement) float64 {
	switch h.Scale {
	case "2":
		return 2
	case "4k":
		return math.Max(1, 3840/float64(max(p.Width, p.Height)))
	}
	return 1
}

// looks are the looks that are asked for.
func (h HandOver) looks(s *Set) ([]piece.Look, error) {
	switch h.Look {
	case "all":
		return s.AllLooks(), nil
	case "":
		return []piece.Look{s.CurrentLook()}, nil
	}
	for _, l := range s.Looks {
		if s.LookName(l.ID) == h.Look {
			return []piece.Look{l}, nil
		}
	}
	return nil, fmt.Errorf("%w: no look %q is kept", ErrInvalid, h.Look)
}

// Plans lists the files to be handed over, in the order they are shown.
func (s *Set) Plans(h HandOver) ([]Plan, error) {
	if err := h.check(); err != nil {
		return nil, err
	}
	looks, err := h.looks(s)
	if err != nil {
		return nil, err
	}
	var out []Plan
	taken := map[string]int{}
	for _, pc := range s.PiecesIn(looks...) {
		p := pc.Placement
		pl := Plan{Key: PieceKey(pc.Look, p.ID), Piece: pc, Scale: h.times(p), Formats: []string{h.Format}}
		if slices.Contains(h.Skip, pl.Key) {
			continue
		}
		if h.Format == "" {
			pl.Formats = fitting(pc, h.Transparent)
		}
		if pl.Scale == 1 {
			pl.Limit = p.MaxBytes // a larger file is for other eyes than the channel's
		}
		pl.W, pl.H = int(float64(p.Width)*pl.Scale+0.5), int(float64(p.Height)*pl.Scale+0.5)
		pl.stem = s.stem(h, pc, pl, len(looks) > 1)
		// names are never used twice, whatever the pattern leaves out
		taken[pl.stem]++
		if n := taken[pl.stem]; n > 1 {
			pl.stem += fmt.Sprintf("_%d", n)
		}
		out = append(out, pl)
	}
	return out, nil
}

// Title is what people call the brief: its name, else what it says first.
func (s *Set) Title() string { return cmp.Or(s.Doc.Name, "New brief") }

func (s *Set) stem(h HandOver, pc *piece.Piece, pl Plan, several bool) string {
	pattern := h.Names
	if strings.TrimSpace(pattern) == "" {
		pattern = NamePattern
	}
	look := strings.ToLower(s.LookName(pc.Look.ID))
	if several && !strings.Contains(pattern, "{look}") {
		if pattern += "_look-{look}"; strings.HasSuffix(pattern, "_{size}_look-{look}") { // in the order the command line has
			pattern = strings.TrimSuffix(pattern, "_{size}_look-{look}") + "_look-{look}_{size}"
		}
	}
	name := strings.NewReplacer("{brief}", piece.FileName(s.Title()), "{place}", placeName.Replace(pc.Placement.ID), "{look}", look,
		"{channel}", pc.Placement.Channel, "{size}", fmt.Sprintf("%dx%d", pl.W, pl.H)).Replace(pattern)
	if name = strings.Trim(cleanName(name), ". "); name == "" {
		return "piece"
	}
	return name
}

// photoShare is the share (0-1) of a piece from which its pictures decide the
// format: flat colours and type stay crisp and small as PNG, pictures weigh less
// as JPEG.
const photoShare = 0.25

// fitting lists the formats a placement takes, the one that suits the content
// first.
func fitting(pc *piece.Piece, transparent bool) []string {
	takes := pc.Placement.Formats
	if len(takes) == 0 {
		takes = []string{"png", "jpeg"}
	}
	if transparent {
		return spec.FormatNames(func(f spec.Format) bool { return f.Pixels && f.Clear })
	}
	area := 0.0
	for _, p := range pc.Scene.Parts {
		if p.Kind == scene.KindPicture {
			area += p.Box.W * p.Box.H
		}
	}
	order := spec.FormatNames(func(f spec.Format) bool { return f.Pixels })
	if area > photoShare*pc.Placement.Canvas().W*pc.Placement.Canvas().H {
		order = spec.FormatNames(func(f spec.Format) bool { return f.Lighter == spec.ByQuality })
		order = append(order, spec.FormatNames(func(f spec.Format) bool { return f.Pixels && f.Lighter != spec.ByQuality })...)
	}
	var out []string
	for _, f := range order {
		if slices.Contains(takes, f) {
			out = append(out, f)
		}
	}
	if len(out) == 0 {
		return takes
	}
	return out
}

// Draw draws one planned file.
func (a Files) Draw(ctx context.Context, done map[string]Frozen, pl Plan, transparent bool) (raster.Fitted, error) {
	o := raster.Output{Format: pl.Formats[0], Scale: pl.Scale, Transparent: transparent}
	if f, ok := done[pl.Key]; ok && f.Moved && pl.Scale == 1 && !transparent {
		data, err := a.file(ctx, done, pl.Piece, o)
		return raster.Fitted{Data: data, Format: o.Format, How: "as it was finished"}, err
	}
	return a.studio.FitAny(ctx, pl.Piece.Scene, o, pl.Limit, pl.Formats)
}

// DrawChosen draws the file of one piece of a choice, by its [PieceKey].
func (a Files) DrawChosen(ctx context.Context, m Member, s *Set, h HandOver, key string) (Plan, raster.Fitted, error) {
	plans, err := s.Plans(h)
	if err != nil {
		return Plan{}, raster.Fitted{}, err
	}
	i := slices.IndexFunc(plans, func(p Plan) bool { return p.Key == key })
	if i < 0 {
		return Plan{}, raster.Fitted{}, ErrNotFound
	}
	done, err := a.sets.Finished(ctx, m, s.Doc.ID)
	if err != nil {
		return Plan{}, raster.Fitted{}, err
	}
	f, err := a.Draw(ctx, done, plans[i], h.Transparent)
	return plans[i], f, err
}

// Download draws one piece of the set in the look that is shown.
func (a Files) Download(ctx context.Context, m Member, id ID, placement, format string) (name string, data []byte, err error) {
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return "", nil, err
	}
	p, err := s.Channels.Parse(placement)
	if err != nil {
		return "", nil, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	done, err := a.sets.Finished(ctx, m, id)
	if err != nil {
		return "", nil, err
	}
	pc := s.Piece(s.CurrentLook(), p)
	if err := a.signedOff(ctx, m, s, pc); err != nil {
		return "", nil, err
	}
	pl := Plan{Key: PieceKey(pc.Look, p.ID), Piece: pc, Formats: []string{format}, Scale: 1, W: p.Width, H: p.Height, Limit: p.MaxBytes}
	pl.stem = s.stem(HandOver{}, pc, pl, false)
	f, err := a.Draw(ctx, done, pl, false)
	return pl.Name(format), f.Data, err
}

// line describes a file: what it is for, its weight, what was done for it.
func (p Plan) line(name string, f raster.Fitted, bytes int) string {
	out := fmt.Sprintf("%s\n  %s, %d × %d px, %d kB", name, p.Piece.Placement.Name, p.W, p.H, (bytes+999)/1000)
	if f.How != "" {
		out += ", " + f.How
	}
	if f.TooMuch {
		out += fmt.Sprintf(", HEAVIER than the %d kB this place takes", p.Limit/1000)
	}
	if alt := p.Piece.Scene.Alt; alt != "" {
		out += "\n  for those who cannot see it: " + alt
	}
	return out + "\n"
}
