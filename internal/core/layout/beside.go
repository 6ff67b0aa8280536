package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// besidePart is a slot's telling part set large with the rest of it beside: the day of a date
// with month, weekday and hours; a price or a percentage with until when and instead of what.
// Where that has no room its words stand as a text.
type besidePart struct{}

func (besidePart) name() string { return "beside" }
func (besidePart) words() bool  { return true }
func (besidePart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	return fmt.Errorf("%s.beside %q: a layout lists the slot among its words", at, n.Beside)
}
func (besidePart) present(t *trial, n *Node) bool { return t.words(n.Beside) != "" }
func (besidePart) measure(t *trial, n *Node, w float64) (box, bool) {
	if s, ok := t.setBeside(n, w); ok {
		return s.box, true
	}
	return t.measure(&Node{Text: n.Beside}, w)
}
func (besidePart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	s, ok := t.setBeside(n, r.W)
	if !ok {
		return t.place(&Node{Text: n.Beside}, r, seat)
	}
	t.drawFigure(n.Beside, s, r, seat)
	return true
}

// What is set by eye on sheets.
const (
	besideMost  = 1.15 // times the headline a lead may be
	offerMost   = 1.6  // the same of an offer: it shares the first place
	offerOver   = 1.3  // times as high as the words beside it the lead of an offer may be
	besideLeast = 1.7  // times the words beside it a lead is at least
	besideUnder = 1.0  // times the headline a lead is with words under it
	besideGap   = 0.26 // of the lead, between it and them
	besideLines = 1.24 // leading of the words beside it
)

// standsBeside reports whether a slot is set with its telling part large: where it is of the
// first or second rank, is taken apart, and nobody has set its words by hand.
func (t *trial) standsBeside(slot string) bool {
	fig, ok := t.in.Figures[slot]
	if !ok || t.class == spec.Ribbon || t.tiny || !t.isSecond(slot) || !strings.ContainsFunc(fig.Lead, unicode.IsNumber) || strings.Contains(fig.Lead, ":") {
		return false
	}
	h := t.in.Hands[slot]
	return h == nil || h.Level == "" && h.Align == "" && len(h.Breaks)+len(h.Runs) == 0 && h.Sides[0] == 0
}

// besideWords are the lines beside a lead.
func (t *trial) besideWords(slot string) (lines []string) {
	fig := t.in.Figures[slot]
	switch {
	case slot != "when":
		lines = append([]string{fig.Above}, fig.Below...)
	case len(fig.Below) > 1:
		lines = []string{joined(" · ", fig.Below[0], fig.Above), strings.Join(fig.Below[1:], " ")}
	default:
		lines = append(slices.Clone(fig.Below), fig.Above)
	}
	return slices.DeleteFunc(lines, func(l string) bool { return l == "" })
}

// joined puts a sign between those of its words there are.
func joined(sign string, words ...string) string {
	return strings.Join(slices.DeleteFunc(words, func(s string) bool { return s == "" }), sign)
}

// setBeside sets them: all beside the lead, or what has no room there under it; false where that
// does not fit either.
func (t *trial) setBeside(n *Node, w float64) (figureSetting, bool) {
	part := t.partOf(n.Beside)
	style, face, size := t.sized(n, part)
	words := besideLead{
		lines: t.besideWords(n.Beside), style: style, face: face, size: size,
		set: typeset.Style{Face: face, Tracking: t.tracked(n.Beside, style, part.Level, size), Figures: typeset.Lining},
	}
	f := t.headlineFigure(w)
	lead, least := t.in.Figures[n.Beside].Lead, t.leastSize(n.Beside, f.face)
	if large, ok := t.besideLarge(n.Beside, f, words); ok {
		if s, ok := f.withBeside(lead, large, least, words); ok {
			return s, true
		}
	}
	if t.in.Placement.Advertisement() || t.st.tight && n.Beside != "offer" { // no height to spare for it
		return figureSetting{}, false
	}
	for kept := len(words.lines) - 1; kept >= 0; kept-- {
		next := words
		next.lines = words.lines[:kept]
		large := math.Floor(10*math.Max(besideLeast*size, besideUnder*t.headline())) / 10
		if s, ok := f.withBeside(lead, large, least, next); ok {
			return f.withUnder(s, words, kept)
		}
	}
	return figureSetting{}, false
}

// besideLarge is how large a lead is with all its words beside it, px; false where it would not
// be clearly larger than they are.
func (t *trial) besideLarge(slot string, f figureStack, words besideLead) (large float64, ok bool) {
	most, over := besideMost, 1.0
	if slot == "offer" {
		most = offerMost
		if !t.st.tight && !t.in.Placement.Advertisement() {
			over = offerOver
		}
	}
	large = math.Min(most*t.headline(), over*words.span()/f.face.CapHeight)
	if len(words.lines) < 2 {
		large = math.Min(0.7*t.headline(), 2.4*words.size)
	}
	large = math.Floor(large*10) / 10
	return large, large >= words.size && (large >= besideLeast*words.size || len(words.lines) == 0)
}

// headlineFigure is a figure in the headline's style, of which nothing is set yet.
func (t *trial) headlineFigure(w float64) figureStack {
	head := t.in.Types.Levels[brand.Headline]
	f := figureStack{t: t, w: w}
	f.style, f.face = head, t.face(head)
	f.how = typeset.Style{Face: f.face, Tracking: head.Tracking, Figures: typeset.Lining}
	return f
}

// besideLead are the words beside a lead, one below the other.
type besideLead struct {
	lines []string
	style brand.Style
	face  *typeset.Face
	set   typeset.Style
	size  float64 // px
}

// span is from the head of the first line to the foot of the last, px.
func (b besideLead) span() float64 {
	return float64(max(len(b.lines), 1)-1)*besideLines*b.size + b.face.CapHeight*b.size
}

func (b besideLead) cased(line string) string {
	if b.style.Upper {
		return strings.ToUpper(line)
	}
	return line
}

// withBeside sets a lead, large px, with words beside it, both in the middle of the higher of the
// two; signs of the lead under least px are set as large as it. False where they do not fit.
func (f *figureStack) withBeside(text string, large, least float64, words besideLead) (s figureSetting, ok bool) {
	t, size := f.t, words.size
	s.style, s.face, s.text, s.least = f.style, f.face, f.cased(text), large
	lead, wide := t.numeral(s.text, f.how)
	if len(lead) > 1 && signSize*large < least { // its signs would be too small to read
		lead, wide = t.plainLead(s.text, f.how)
	}
	if len(words.lines) > 0 { // what is told of it is told of its least words
		s.style, s.face, s.least = words.style, words.face, size
	}
	span, tall := words.span(), f.face.CapHeight*large
	height := math.Max(span, tall)
	foot, drop := (height+tall)/2, 0.0 // the lead's baseline; how far what hangs reaches below
	for _, r := range lead {
		s.lines = append(s.lines, figureLine{TextLine: scene.TextLine{Line: r.line, X: r.x * large, Y: foot - r.y*large, From: r.from, SizePx: r.size * large}})
		s.least = math.Min(s.least, r.size*large)
		drop = math.Max(drop, foot-r.y*large+r.line.Ink.Y1*r.size*large-height)
	}
	x, right := wide*large+besideGap*large, wide*large
	y := (height-span)/2 + words.face.CapHeight*size
	for _, line := range words.lines {
		l := t.in.Shaper.Line(words.cased(line), words.set)
		s.text += "\n"
		s.lines = append(s.lines, figureLine{TextLine: scene.TextLine{Line: l, X: x - l.Ink.X0*size, Y: y, From: len([]rune(s.text)), SizePx: size}})
		s.text += l.Text
		right = math.Max(right, x+(l.Ink.X1-l.Ink.X0)*size)
		drop = math.Max(drop, y+l.Ink.Y1*size-height)
		y += besideLines * size
	}
	if right > f.w {
		return s, false
	}
	s.box = box{right, height + drop}
	for i := range s.lines {
		l := &s.lines[i]
		l.w = right
		if t.rtl { // the same, read from the other side
			ink := l.Line.Ink.Scale(l.SizePx)
			l.X = right - (l.X + ink.X1) - ink.X0
		}
	}
	return s, true
}

// withUnder is a setting with the lines of words from kept on under it, broken where they have
// to be.
func (f *figureStack) withUnder(s figureSetting, words besideLead, kept int) (figureSetting, bool) {
	size := words.size
	y := s.box.h + underGap*size
	for _, line := range words.lines[kept:] {
		broken := f.t.in.Shaper.Paragraph(words.cased(line), words.set).Narrowest(f.w/size, 2)
		if broken == nil {
			return s, false
		}
		for _, l := range broken.Lines {
			s.text += "\n"
			ink := l.Ink.Scale(size)
			s.box.w = math.Max(s.box.w, ink.X1-ink.X0)
			s.lines = append(s.lines, figureLine{
				scene.TextLine{Line: l, X: -ink.X0, Y: y + words.face.CapHeight*size, From: len([]rune(s.text)), SizePx: size}, ink.X1 - ink.X0,
			})
			s.text += l.Text
			s.box.h = y + words.face.CapHeight*size + math.Max(ink.Y1, 0)
			y += besideLines * size
		}
	}
	s.style, s.face, s.least = words.style, words.face, math.Min(s.least, size)
	return s, true
}

// underGap is between a lead and the words under it, over their size (by eye).
const underGap = 0.55

// wordsBeside is a node for a slot that stands beside its figure, nil where it is plain text.
func (t *trial) wordsBeside(slot string, before float64) *Node {
	if !t.standsBeside(slot) {
		return nil
	}
	return &Node{Beside: slot, Before: before}
}
