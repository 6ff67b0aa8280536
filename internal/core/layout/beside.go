package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

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
	besideLeast = 1.7  // times the words beside it a lead is at least
	besideGap   = 0.26 // of the lead, between it and them
	besideLines = 1.24 // leading of the words beside it
)

// standsBeside reports whether a slot is set with its telling part large: where it is of the
// first or second rank, is taken apart, and nobody has set its words by hand.
func (t *trial) standsBeside(slot string) bool {
	fig, ok := t.in.Figures[slot]
	if !ok || t.class == spec.Ribbon || t.tiny || !t.isSecond(slot) || !strings.ContainsAny(fig.Lead, "0123456789٠١٢٣٤٥٦٧٨٩") || strings.Contains(fig.Lead, ":") {
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

// setBeside sets them; false where they do not fit.
func (t *trial) setBeside(n *Node, w float64) (figureSetting, bool) {
	part := t.partOf(n.Beside)
	style, face, size := t.sized(n, part)
	words := besideLead{
		lines: t.besideWords(n.Beside), style: style, face: face, size: size,
		set: typeset.Style{Face: face, Tracking: t.tracked(n.Beside, style, part.Level, size), Figures: typeset.Lining},
	}
	f := t.headlineFigure(w)
	most := besideMost
	if n.Beside == "offer" {
		most = offerMost
	}
	large := math.Min(most*t.headline(), words.span()/f.face.CapHeight)
	if len(words.lines) < 2 {
		large = math.Min(0.7*t.headline(), 2.4*size)
	}
	large = math.Floor(large*10) / 10
	if large < besideLeast*size && len(words.lines) > 0 || large < size {
		return figureSetting{}, false
	}
	return f.withBeside(t.in.Figures[n.Beside].Lead, large, t.leastSize(n.Beside, f.face), words)
}

// headlineFigure is a figure in the headline's style, of which nothing is set yet.
func (t *trial) headlineFigure(w float64) figureStack {
	head := t.in.Types.Levels[brand.Headline]
	f := figureStack{t: t, w: w}
	f.style, f.face = head, t.face(head)
	f.set = typeset.Style{Face: f.face, Tracking: head.Tracking, Figures: typeset.Lining}
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
	lead, wide := t.numeral(s.text, f.set)
	if len(lead) > 1 && signSize*large < least { // its signs would be too small to read
		lead, wide = t.plainLead(s.text, f.set)
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

// wordsBeside is a node for a slot that stands beside its figure, nil where it is plain text.
func (t *trial) wordsBeside(slot string, before float64) *Node {
	if !t.standsBeside(slot) {
		return nil
	}
	return &Node{Beside: slot, Before: before}
}
