package typeset

import (
	"errors"
	"math"
	"slices"
	"strconv"
	"sync"
	"time"
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
	Figures  Figures
	// Language is whose words may be divided where a paragraph is broken, as package
	// hyphen has them; "" divides none.
	Language string
}

// Figures are the digits a text is set with, as far as its face has them.
type Figures string

// The figures of OpenType 1.9 (features lnum, pnum, tnum).
const (
	OwnFigures Figures = ""        // the face's
	Lining     Figures = "lining"  // as high as capitals, each as wide as it is
	Tabular    Figures = "tabular" // all of one width, to stand below each other
)

// features switch figures on.
func (f Figures) features() []shaping.FontFeature {
	on := func(tag string) shaping.FontFeature {
		return shaping.FontFeature{Tag: ot.MustNewTag(tag), Value: 1}
	}
	switch f {
	case Lining:
		return []shaping.FontFeature{on("lnum"), on("pnum")}
	case Tabular:
		return []shaping.FontFeature{on("tnum")}
	}
	return nil
}

// Shaper shapes and caches. Safe for concurrent use: nothing is locked while a
// line is shaped, so that a slow or broken face delays no other line.
type Shaper struct {
	fallback []*Face      // lend glyphs a face lacks, families in order, several weights of each
	emoji    func() *Face // what signs in colour come from; nil for none

	mu         sync.RWMutex
	lines      map[lineKey]*Line
	paragraphs map[lineKey]*Paragraph
	held       int // bytes of the lines, roughly

	benches sync.Pool // of *bench
}

// shaperBytes is about how much of shaped lines is kept before they are
// forgotten: a set of 24 pieces takes about 1 MB with all the lines tried for it.
const shaperBytes = 96 << 20

// settingTime is how long shaping one line with a face of people may take, by the wall clock:
// the last resort, for what never comes back. A proven face takes under a second of processor
// time for 2,000 characters, so no machine, however busy, has its words set in another face.
const settingTime = 30 * time.Second

// bench is what one line is shaped on at a time. Faces keep state while shaping,
// so each bench has its own of every face.
type bench struct {
	segmenter shaping.Segmenter
	harfbuzz  shaping.HarfbuzzShaper
	faces     map[*Face]*font.Face
}

// benchFaces is how many faces a bench knows before it is thrown away.
const benchFaces = 48

func (b *bench) face(f *Face) *font.Face {
	own := b.faces[f]
	if own == nil {
		own = font.NewFace(f.font)
		b.faces[f] = own
	}
	return own
}

type lineKey struct {
	text  string
	style Style
}

// NewShaper makes a shaper that borrows missing glyphs from fallback: families in order,
// of each the face nearest in weight.
func NewShaper(fallback ...*Face) *Shaper {
	return &Shaper{
		fallback: fallback,
		lines:    map[lineKey]*Line{}, paragraphs: map[lineKey]*Paragraph{},
		benches: sync.Pool{New: func() any { return &bench{faces: map[*Face]*font.Face{}} }},
	}
}

// WithEmoji has signs that are to be in colour come from a face, which is asked for
// when the first is set.
func (s *Shaper) WithEmoji(face func() *Face) *Shaper {
	s.emoji = face
	return s
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
	glyphs   int
}

// part is a run of one face with its own path, or a layer of a sign in colour.
type part struct {
	upem, x float64 // x in em
	path    string
	ink     *Paint
}

// Path returns the outline as SVG path data and the transform that puts it at
// (x, y) px with size px to the em. A line of a single face, the common case,
// is one path; each borrowed face adds one, a sign in colour one for each layer.
func (l *Line) Path(i int) (data string, upem, x float64) {
	p := l.parts[i]
	return p.path, p.upem, p.x
}

// Paint is the colour of a path's own; ok is false where it is in the line's.
func (l *Line) Paint(i int) (own Paint, ok bool) {
	if ink := l.parts[i].ink; ink != nil {
		return *ink, true
	}
	return Paint{}, false
}

// Paths is the number of paths [Line.Path] returns.
func (l *Line) Paths() int { return len(l.parts) }

// Line shapes text as one line.
func (s *Shaper) Line(text string, style Style) *Line {
	style.Language = "" // a line is not broken any more
	key := lineKey{text, style}
	s.mu.RLock()
	l := s.lines[key]
	s.mu.RUnlock()
	if l != nil {
		return l
	}
	l = s.shapeLine(text, style)
	s.mu.Lock()
	s.keep(key, l)
	s.mu.Unlock()
	return l
}

// keep remembers a line; s.mu must be held.
func (s *Shaper) keep(key lineKey, l *Line) {
	if s.held > shaperBytes {
		clear(s.lines)
		clear(s.paragraphs)
		s.held = 0
	}
	s.lines[key] = l
	s.held += 200 + len(l.Text) + 40*len(l.Clusters)
	for _, p := range l.parts {
		s.held += len(p.path)
	}
}

// errSetting means a line could not be shaped with its face.
var errSetting = errors.New("the face failed")

// shapeLine shapes text with the style's face, or where that fails with the
// first fallback face.
func (s *Shaper) shapeLine(text string, style Style) *Line {
	f := style.Face
	if !f.Broken() {
		l, err := s.shapeWatched(text, style)
		if err == nil {
			return l
		}
		f.giveUp()
	}
	if lent := s.lenders(f); len(lent) > 0 && lent[0] != f {
		if l, err := s.shapeOnce(text, Style{Face: lent[0], Tracking: style.Tracking}); err == nil {
			return l
		}
	}
	return &Line{Text: text, Missing: []rune(text)}
}

// shapeWatched shapes with a face of people in the time it has. What does not
// come back in time goes on by itself and is not waited for; the face is not
// used again.
func (s *Shaper) shapeWatched(text string, style Style) (*Line, error) {
	f := style.Face
	if f.slots == nil {
		return s.shapeOnce(text, style)
	}
	select { // every line ahead comes back or gives the face up: waiting is no fault of it
	case f.slots <- struct{}{}:
	case <-f.broken:
		return nil, errSetting
	}
	if f.Broken() { // meanwhile
		<-f.slots
		return nil, errSetting
	}
	type result struct {
		line *Line
		err  error
	}
	late := time.NewTimer(settingTime)
	defer late.Stop()
	done := make(chan result, 1)
	go func() {
		defer func() { <-f.slots }()
		l, err := s.shapeOnce(text, style)
		done <- result{l, err}
	}()
	select {
	case r := <-done:
		return r.line, r.err
	case <-late.C:
		return nil, errSetting
	}
}

// fontmap picks the first face that has a glyph.
type fontmap struct {
	faces []*Face
	bench *bench
	emoji *Face         // in which the signs in colour are set, nil for none
	signs map[rune]bool // what those are here
}

func (m fontmap) ResolveFace(r rune) *font.Face {
	if m.emoji != nil && m.signs[r] && m.emoji.Covers(r) {
		return m.bench.face(m.emoji)
	}
	for _, f := range m.faces {
		if f.Covers(r) {
			return m.bench.face(f)
		}
	}
	return m.bench.face(m.faces[0])
}

func (m fontmap) owner(f *font.Face) *Face {
	if m.emoji != nil && m.bench.face(m.emoji) == f {
		return m.emoji
	}
	for _, o := range m.faces {
		if m.bench.face(o) == f {
			return o
		}
	}
	return m.faces[0]
}

// lenders are the faces that lend glyphs to one, in order: of each family the one that is
// nearest to it in weight.
func (s *Shaper) lenders(f *Face) []*Face {
	far := func(o *Face) int { return max(o.Weight-f.Weight, f.Weight-o.Weight) }
	var out []*Face
	for _, o := range s.fallback {
		i := slices.IndexFunc(out, func(have *Face) bool { return have.Family == o.Family })
		if i < 0 {
			out = append(out, o)
		} else if far(o) < far(out[i]) {
			out[i] = o
		}
	}
	return out
}

// shapeOnce shapes text as one line, with missing glyphs from the fallback
// faces. A fault in a face's tables is an error.
func (s *Shaper) shapeOnce(text string, style Style) (line *Line, err error) {
	defer func() { // the tables are somebody's, the shaper is not ours
		if r := recover(); r != nil {
			line, err = nil, errSetting
		}
	}()
	runes := []rune(text)
	line = &Line{Text: text}
	if len(runes) == 0 {
		return line, nil
	}
	signs, emoji := colourSigns(runes), (*Face)(nil)
	if len(signs) > 0 && s.emoji != nil {
		emoji = s.emoji()
	}
	lent := s.lenders(style.Face)
	for _, r := range runes {
		switch {
		case emoji != nil && signs[r] && emoji.Covers(r):
		case unicode.IsSpace(r) || unicode.In(r, unicode.Cf, unicode.Mn) || style.Face.Covers(r):
		case covered(lent, r):
			line.Borrowed = append(line.Borrowed, r)
		default:
			line.Missing = append(line.Missing, r)
		}
	}
	b := s.benches.Get().(*bench) // lost when shaping fails, with whatever state it is in
	faces := fontmap{append([]*Face{style.Face}, lent...), b, emoji, signs}
	in := shaping.Input{
		Text: runes, RunEnd: len(runes), Direction: baseDirection(text),
		Size: fixed.I(1000), Language: language.NewLanguage("en"), FontFeatures: style.Figures.features(),
	}
	if style.Tracking != 0 {
		// CSS Text 3, 8.2: spaced letters take no optional ligatures
		in.FontFeatures = append(in.FontFeatures, shaping.FontFeature{Tag: ot.MustNewTag("liga")}, shaping.FontFeature{Tag: ot.MustNewTag("clig")})
	}
	runs := split(&b.segmenter, in, faces)
	outs := make([]shaping.Output, len(runs))
	for i, run := range runs {
		run.Size = fixed.I(int(faces.owner(run.Face).UnitsPerEm))
		outs[i] = b.harfbuzz.Shape(run)
		line.glyphs += len(outs[i].Glyphs)
	}
	p := pen{line: line, runes: runes, style: style, b: b}
	for _, i := range visualOrder(outs, in.Direction) {
		p.run(outs[i], faces.owner(outs[i].Face))
	}
	line.Advance = math.Max(0, p.x-p.trailing)
	if len(b.faces) < benchFaces {
		s.benches.Put(b)
	}
	return line, nil
}

// widestSpace is what a space between words may be, em.
const widestSpace = 0.6

// space is the advance of the face's space in em, a usual one where it has none.
func (f *Face) space(face *font.Face) float64 {
	if gid, ok := f.font.NominalGlyph(' '); ok {
		return math.Min(widestSpace, float64(face.HorizontalAdvance(gid))/f.UnitsPerEm)
	}
	return 0.25
}

// keycap closes a digit in a key: digit, selector, keycap.
const keycap = '\u20E3'

// split divides text into runs of one face and direction. The digits of keys are set
// in the face of signs, all others are letters.
func split(segmenter *shaping.Segmenter, in shaping.Input, faces fontmap) []shaping.Input {
	var runs []shaping.Input
	part := func(from, to int, faces fontmap) {
		if from < to {
			in.RunStart, in.RunEnd = from, to
			runs = append(runs, slices.Clone(segmenter.Split(in, faces))...)
		}
	}
	from := 0
	for i := 0; faces.emoji != nil && i+2 < len(in.Text); i++ {
		if r := in.Text[i]; r < 0x80 && in.Text[i+1] == inColour && in.Text[i+2] == keycap && faces.emoji.Covers(r) {
			part(from, i, faces)
			part(i, i+3, fontmap{faces: []*Face{faces.emoji}, bench: faces.bench})
			from = i + 3
		}
	}
	part(from, len(in.Text), faces)
	return runs
}

func covered(faces []*Face, r rune) bool {
	for _, f := range faces {
		if f.Covers(r) {
			return true
		}
	}
	return false
}

// baseDirection is the direction of the first strong character (UAX #9, P2).
func baseDirection(text string) di.Direction {
	for _, r := range text {
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
func RTL(text string) bool { return baseDirection(text) == di.DirectionRTL }

// Num writes a number with at most three decimals and no trailing zeros, the
// form every drawing of ours uses.
func Num(v float64) string { return string(AppendNum(make([]byte, 0, 24), v)) }

// AppendNum appends what [Num] writes.
func AppendNum(to []byte, v float64) []byte {
	v = math.Round(v*1000) / 1000
	if v == 0 {
		return append(to, '0') // also for -0
	}
	return strconv.AppendFloat(to, v, 'f', -1, 64)
}
