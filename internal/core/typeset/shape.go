package typeset

import (
	"math"
	"strconv"
	"strings"
	"sync"
	"unicode"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
)

// Style is what shaping depends on besides the words.
type Style struct {
	Face     *Face
	Tracking float64 // em added after every cluster
}

// Shaper shapes and caches. Safe for concurrent use.
type Shaper struct {
	fallback []*Face // tried in order for glyphs the face lacks
	limit    int

	mu         sync.RWMutex
	lines      map[lineKey]*Line
	paragraphs map[lineKey]*Paragraph

	shaping   sync.Mutex // guards the two below
	segmenter shaping.Segmenter
	harfbuzz  shaping.HarfbuzzShaper
}

type lineKey struct {
	text  string
	style Style
}

// NewShaper makes a shaper that borrows missing glyphs from fallback, in order.
func NewShaper(fallback ...*Face) *Shaper {
	return &Shaper{
		fallback: fallback, limit: 50_000,
		lines: map[lineKey]*Line{}, paragraphs: map[lineKey]*Paragraph{},
	}
}

// Cluster is the smallest piece of text a caret can stand beside.
type Cluster struct {
	Rune    int     // index of its first rune in the line
	Runes   int     // how many runes it stands for
	X       float64 // em from the line's origin to its left edge
	Advance float64 // em
	RTL     bool
}

// Line is shaped text on one baseline. All lengths are in em, y downwards from
// the baseline.
type Line struct {
	Text     string
	Advance  float64 // without trailing spaces and the last cluster's tracking
	Ink      Box
	Clusters []Cluster // in visual order
	Missing  []rune    // runes no face had a glyph for
	Borrowed []rune    // runes taken from a fallback face
	parts    []part
}

// part is a run of one face with its own path.
type part struct {
	upem, x float64 // x in em
	path    string
}

// Path returns the outline as SVG path data and the transform that puts it at
// (x, y) px with size px to the em. A line of a single face, the common case,
// is one path; each borrowed face adds one.
func (l *Line) Path(i int) (data string, upem, x float64) {
	p := l.parts[i]
	return p.path, p.upem, p.x
}

// Paths is the number of paths [Line.Path] returns.
func (l *Line) Paths() int { return len(l.parts) }

// Line shapes text as one line.
func (s *Shaper) Line(text string, style Style) *Line {
	key := lineKey{text, style}
	s.mu.RLock()
	l := s.lines[key]
	s.mu.RUnlock()
	if l != nil {
		return l
	}
	l = s.shapeLine(text, style)
	s.mu.Lock()
	if len(s.lines) >= s.limit {
		clear(s.lines)
	}
	s.lines[key] = l
	s.mu.Unlock()
	return l
}

// fontmap picks the first face that has a glyph.
type fontmap []*Face

func (m fontmap) ResolveFace(r rune) *font.Face {
	for _, f := range m {
		if f.Covers(r) {
			return f.face
		}
	}
	return m[0].face
}

func (s *Shaper) shapeLine(text string, style Style) *Line {
	runes := []rune(text)
	line := &Line{Text: text}
	if len(runes) == 0 {
		return line
	}
	faces := append(fontmap{style.Face}, s.fallback...)
	for _, r := range runes {
		switch {
		case unicode.IsSpace(r) || unicode.In(r, unicode.Cf, unicode.Mn) || style.Face.Covers(r):
		case covered(s.fallback, r):
			line.Borrowed = append(line.Borrowed, r)
		default:
			line.Missing = append(line.Missing, r)
		}
	}

	s.shaping.Lock()
	defer s.shaping.Unlock()
	in := shaping.Input{
		Text: runes, RunEnd: len(runes), Direction: baseDirection(runes),
		Size: fixed.I(1000), Language: language.NewLanguage("en"),
	}
	if style.Tracking != 0 {
		// CSS Text 3, 8.2: spaced letters take no optional ligatures
		in.FontFeatures = []shaping.FontFeature{{Tag: ot.MustNewTag("liga")}, {Tag: ot.MustNewTag("clig")}}
	}
	runs := s.segmenter.Split(in, faces)
	outs := make([]shaping.Output, len(runs))
	for i, run := range runs {
		f := faces.owner(run.Face)
		f.mu.Lock()
		run.Size = fixed.I(int(f.UnitsPerEm))
		outs[i] = s.harfbuzz.Shape(run)
		f.mu.Unlock()
	}
	order := visualOrder(outs, in.Direction)
	pen, trailing := 0.0, 0.0
	for _, i := range order {
		out := outs[i]
		f := faces.owner(out.Face)
		var b strings.Builder
		penUnits, restX, restY := 0.0, 0.0, 0.0
		start := pen
		f.mu.Lock()
		for gi, g := range out.Glyphs {
			adv := float64(g.Advance) / 64 / f.UnitsPerEm
			last := gi+1 == len(out.Glyphs) || out.Glyphs[gi+1].TextIndex() != g.TextIndex()
			if last {
				adv += style.Tracking
			}
			outline := f.glyph(g.GlyphID)
			dx := pen + float64(g.XOffset)/64/f.UnitsPerEm
			dy := -float64(g.YOffset) / 64 / f.UnitsPerEm
			if outline.path != "" {
				gx := math.Round(penUnits + float64(g.XOffset)/64)
				gy := math.Round(-float64(g.YOffset) / 64)
				b.WriteByte('m')
				pair(&b, gx-restX, gy-restY)
				b.WriteString(outline.path)
				restX, restY = gx+outline.endX, gy+outline.endY
				line.Ink = line.Ink.Union(outline.ink.Shift(dx, dy))
			}
			if n := len(line.Clusters); n > 0 && line.Clusters[n-1].Rune == g.TextIndex() {
				line.Clusters[n-1].Advance += adv
			} else {
				line.Clusters = append(line.Clusters, Cluster{
					Rune: g.TextIndex(), Runes: g.RunesCount(), X: pen, Advance: adv,
					RTL: out.Direction.Progression() == di.TowardTopLeft,
				})
			}
			pen += adv
			penUnits = (pen - start) * f.UnitsPerEm
			if unicode.IsSpace(runes[g.TextIndex()]) {
				trailing += adv
			} else {
				trailing = style.Tracking
			}
		}
		f.mu.Unlock()
		if b.Len() > 0 {
			line.parts = append(line.parts, part{f.UnitsPerEm, start, b.String()})
		}
	}
	line.Advance = math.Max(0, pen-trailing)
	return line
}

func covered(faces []*Face, r rune) bool {
	for _, f := range faces {
		if f.Covers(r) {
			return true
		}
	}
	return false
}

func (m fontmap) owner(f *font.Face) *Face {
	for _, o := range m {
		if o.face == f {
			return o
		}
	}
	return m[0]
}

// baseDirection is the direction of the first strong character (UAX #9, P2).
func baseDirection(runes []rune) di.Direction {
	for _, r := range runes {
		switch {
		case unicode.In(r, unicode.Hebrew, unicode.Arabic, unicode.Syriac, unicode.Thaana, unicode.Nko):
			return di.DirectionRTL
		case unicode.IsLetter(r):
			return di.DirectionLTR
		}
	}
	return di.DirectionLTR
}

// visualOrder lists the runs left to right: UAX #9, L2, for the two levels the
// segmenter tells apart (runs against the base direction are reversed as one).
func visualOrder(outs []shaping.Output, base di.Direction) []int {
	order := make([]int, 0, len(outs))
	rtlBase := base == di.DirectionRTL
	isRTL := func(i int) bool { return outs[i].Direction.Progression() == di.TowardTopLeft }
	for i := 0; i < len(outs); {
		j := i
		for j < len(outs) && isRTL(j) == isRTL(i) {
			j++
		}
		run := make([]int, 0, j-i)
		for k := i; k < j; k++ {
			run = append(run, k)
		}
		if isRTL(i) {
			for a, b := 0, len(run)-1; a < b; a, b = a+1, b-1 {
				run[a], run[b] = run[b], run[a]
			}
		}
		if rtlBase {
			order = append(run, order...)
		} else {
			order = append(order, run...)
		}
		i = j
	}
	return order
}

// RTL reports whether text reads right to left.
func RTL(text string) bool { return baseDirection([]rune(text)) == di.DirectionRTL }

// Num writes a number with at most three decimals and no trailing zeros, the
// form every drawing of ours uses.
func Num(v float64) string {
	v = math.Round(v*1000) / 1000
	if v == 0 {
		return "0" // also for -0
	}
	return strconv.FormatFloat(v, 'f', -1, 64)
}
