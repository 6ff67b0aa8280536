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
func (t *trial) setBeside(n *Node, w float64) (s figureSetting, ok bool) {
	part := t.partOf(n.Beside)
	style, face, size := t.sized(n, part)
	words := t.besideWords(n.Beside)
	upper := func(s string) string {
		if style.Upper {
			return strings.ToUpper(s)
		}
		return s
	}
	small := typeset.Style{Face: face, Tracking: t.tracked(n.Beside, style, part.Level, size), Figures: typeset.Lining}
	leading := besideLines * size
	rows := len(words)
	capped := face.CapHeight * size
	span := float64(max(rows, 1)-1)*leading + capped // from the head of the first line to the foot of the last

	head := t.in.Types.Levels[brand.Headline]
	figures := figureStack{t: t, w: w}
	figures.style, figures.face = head, t.face(head)
	figures.set = typeset.Style{Face: figures.face, Tracking: head.Tracking, Figures: typeset.Lining}
	lead, wide := t.numeral(figures.cased(t.in.Figures[n.Beside].Lead), figures.set)
	most := besideMost
	if n.Beside == "offer" {
		most = offerMost
	}
	large := math.Min(most*t.headline(), span/figures.face.CapHeight)
	if rows < 2 {
		large = math.Min(0.7*t.headline(), 2.4*size)
	}
	large = math.Floor(large*10) / 10
	if large < besideLeast*size && rows > 0 || large < size {
		return s, false
	}
	if len(lead) > 1 && signSize*large < t.leastSize(n.Beside, figures.face) { // its signs would be too small to read
		lead, wide = t.plainLead(figures.cased(t.in.Figures[n.Beside].Lead), figures.set)
	}
	s.style, s.face, s.text = figures.style, figures.face, figures.cased(t.in.Figures[n.Beside].Lead)
	s.least = size
	if rows > 0 { // what is told of it is told of its least words
		s.style, s.face = style, face
	}
	top := 0.0 // of the lead's head
	height := math.Max(span, figures.face.CapHeight*large)
	if tall := figures.face.CapHeight * large; tall < height {
		top = (height - tall) / 2
	}
	for _, r := range lead {
		s.lines = append(s.lines, figureLine{TextLine: scene.TextLine{Line: r.line, X: r.x * large, Y: top + figures.face.CapHeight*large - r.y*large, From: r.from, SizePx: r.size * large}})
		s.least = math.Min(s.least, r.size*large)
	}
	drop := 0.0 // how far what hangs reaches below
	for _, r := range lead {
		drop = math.Max(drop, top+figures.face.CapHeight*large-r.y*large+r.line.Ink.Y1*r.size*large-height)
	}
	x, right := wide*large+besideGap*large, wide*large
	y := (height-span)/2 + capped
	for _, line := range words {
		l := t.in.Shaper.Line(upper(line), small)
		s.text += "\n"
		s.lines = append(s.lines, figureLine{TextLine: scene.TextLine{Line: l, X: x - l.Ink.X0*size, Y: y, From: len([]rune(s.text)), SizePx: size}})
		s.text += l.Text
		right = math.Max(right, x+(l.Ink.X1-l.Ink.X0)*size)
		drop = math.Max(drop, y+l.Ink.Y1*size-height)
		y += leading
	}
	if right > w {
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
