package layout

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// figurePart is a slot with its telling part set large.
type figurePart struct{}

func (figurePart) name() string { return "figure" }
func (figurePart) words() bool  { return true }
func (figurePart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Figure != "when" && n.Figure != "offer" {
		return fmt.Errorf("%s.figure %q: want when or offer", at, n.Figure)
	}
	return nil
}
func (figurePart) present(t *trial, n *Node) bool { return t.words(n.Figure) != "" }
func (figurePart) measure(t *trial, n *Node, w float64) (box, bool) {
	f, ok := t.setFigure(n, w)
	return f.box, ok
}
func (figurePart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	return t.placeFigure(n, r, seat)
}

// Figure is a slot's copy with its telling part apart: "Friday", "28", "May";
// "", "20%", "off". Above and Below may be empty, Lead never is.
type Figure struct {
	Above, Lead string
	Below       []string
}

// figureScale is how much larger than the headline a figure's lead is set
// where a layout says nothing (set by eye on the contact sheets).
const figureScale = 1.5

// figureLeast is how large, over the headline, a lead stays where it gives
// way to it.
const figureLeast = 0.85

// figureRows is the room a line above or below a lead takes, over its size, with the gap to it.
const figureRows = 1.75

// figureLarge is how large, over the headline, one stays that gives way to its cell.
const figureLarge = 1.25

// figureRest is the least size of what stands around a lead, as a share (0-1)
// of it: smaller, it no longer belongs to it.
const figureRest = 0.18

// figureSetting is a figure at the current size in a width.
type figureSetting struct {
	box   box
	lines []figureLine
	text  string
	style brand.Style
	face  *typeset.Face
	least float64 // px, the smallest type in it
}

// figureLine is a line of a figure, or a run of its lead.
type figureLine struct {
	scene.TextLine         // Y from the figure's top; X of its origin from its line's start
	w              float64 // px, of the ink of its line
}

// across is the diameter, px, of the smallest circle around the middle of a centred figure that
// has all its lines inside.
func (s figureSetting) across() (d float64) {
	for _, l := range s.lines {
		ink := l.Line.Ink.Scale(l.SizePx)
		from, to := l.Y+ink.Y0-s.box.h/2, l.Y+ink.Y1-s.box.h/2
		d = math.Max(d, 2*math.Hypot(l.w/2, math.Max(math.Abs(from), math.Abs(to))))
	}
	return d
}

// setFigure sets the lead as large as the node's scale asks and the width
// allows, the rest at the size of subheadings above and below it, by ink.
func (t *trial) setFigure(n *Node, w float64) (figureSetting, bool) {
	fig, ok := t.in.Figures[n.Figure]
	if !ok {
		fig.Lead = t.words(n.Figure)
	}
	s := figureStack{t: t, w: w}
	small := s.dress()
	joined := fig
	if n.Figure == "when" && len(fig.Below) > 1 { // month and hours on one line
		line := strings.Join(fig.Below, " · ")
		if t.in.Shaper.Line(s.cased(line), s.how).Advance*small <= w {
			joined.Below = []string{line}
		}
	}
	if t.st.tight {
		fig = joined
	}
	stacked := s
	fits := stacked.measure(n, fig, small)
	if n.Scale > 0 && !t.centred && t.align() != "center" {
		if across, large, ok := t.figureAcross(n, fig, small, w); ok && (!fits || large > acrossGain*stacked.size) {
			return across, true
		}
	}
	if !fits {
		return stacked.figureSetting, false
	}
	if over, ok := t.figureOver(fig, small, stacked.size, w); ok && over.box.h <= t.figureRoom() {
		return over, true
	}
	for {
		if !stacked.set(fig, small) {
			return stacked.figureSetting, false
		}
		if n.Scale == 0 || stacked.box.h <= t.figureRoom() || stacked.size <= figureLarge*t.headline() {
			return stacked.figureSetting, true
		}
		if len(joined.Below) < len(fig.Below) {
			fig = joined
		} else {
			s.most = 0.92 * stacked.size
		}
		if stacked = s; !stacked.measure(n, fig, small) {
			return stacked.figureSetting, false
		}
	}
}

// set sets the lead and what stands above and below it; false where that does not fit.
func (s *figureStack) set(fig Figure, small float64) bool {
	rest := figureRest
	if s.t.st.tight {
		rest = 0
	}
	small = math.Max(small, math.Round(rest*s.size*10)/10)
	// what belongs to the lead stands close to it and a little larger; the terms
	// are a group of their own
	next := math.Round(10*math.Min(1.3*small, 0.4*s.size)) / 10
	if s.t.st.tight || next < small {
		next = small
	}
	if !s.beside(fig.Above, next, 0) {
		return false
	}
	s.add(s.cased(fig.Lead), s.lead, s.size, 0.5*small)
	for i, words := range fig.Below {
		at, gap := small, 0.42*small
		switch i {
		case 0:
			at, gap = next, 0.6*small
		case 1:
			gap = 0.9 * small
		}
		if !s.beside(words, at, gap) {
			return false
		}
	}
	s.box.h = s.y
	return true
}

// What is set by eye on sheets.
const (
	acrossGain = 1.25 // how much larger than stacked a lead has to be across
	acrossRest = 0.24 // of the lead: the words beside it, where they may be as large
)

// figureAcross is a figure that fills a low cell: the lead as high as it, the rest beside.
func (t *trial) figureAcross(n *Node, fig Figure, small, w float64) (s figureSetting, large float64, ok bool) {
	f := t.headlineFigure(w)
	room := t.figureRoom()
	large = math.Floor(10*math.Min(n.Scale*t.headline(), room/f.face.CapHeight)) / 10
	words := besideLead{lines: joinedFigure(fig), style: f.style, face: f.face, set: f.how}
	for ; large > small; large = math.Floor(9*large) / 10 {
		words.size = 1
		words.size = math.Floor(10*math.Min(math.Max(small, acrossRest*large), f.face.CapHeight*large/words.span())) / 10
		if words.size < small {
			return s, large, false
		}
		if s, ok = f.withBeside(fig.Lead, large, small, words); ok {
			return s, large, true
		}
	}
	return s, large, false
}

// figureOver is a figure that says what it is of beside its lead, the rest of it under both: 50%
// off, until when. False where nothing belongs beside it, or it has no room at that size.
func (t *trial) figureOver(fig Figure, small, large, w float64) (figureSetting, bool) {
	if fig.Above != "" || len(fig.Below) == 0 || t.centred || t.align() == "center" {
		return figureSetting{}, false
	}
	f := t.headlineFigure(w)
	words := besideLead{lines: fig.Below, style: f.style, face: f.face, set: f.how}
	words.size = overRest * large
	for _, line := range fig.Below[1:] { // sooner smaller than broken
		words.size = math.Min(words.size, w/t.in.Shaper.Line(words.cased(line), words.set).Advance)
	}
	words.size = math.Round(10*math.Max(small, math.Floor(10*words.size)/10)) / 10
	first := words
	first.lines = fig.Below[:1]
	s, ok := f.withBeside(fig.Lead, large, small, first)
	if !ok {
		return s, false
	}
	return f.withUnder(s, words, 1)
}

// overRest is what stands beside and under such a lead, over its size (by eye).
const overRest = 0.3

// figureRoom is the height there is for a figure that fills its cell, px.
func (t *trial) figureRoom() float64 { return t.here.safe.H - 2*t.margin - t.taken }

// joinedFigure are the lines above and below a lead, as they stand beside it.
func joinedFigure(fig Figure) []string {
	lines := slices.Clone(fig.Below)
	if fig.Above != "" {
		lines = append([]string{fig.Above}, lines...)
	}
	return lines
}

// figureStack is a figure as it is set, from the top down.
type figureStack struct {
	figureSetting
	t    *trial
	w    float64 // px there are
	how  typeset.Style
	lead []run
	size float64 // px, of the lead
	most float64 // px it may be, 0 for any
	y    float64 // px set so far
}

// dress chooses the style, and says how small the words around the lead may be, px.
func (s *figureStack) dress() (small float64) {
	t := s.t
	s.style = t.in.Types.Levels[brand.Headline]
	s.face = t.face(s.style)
	small = t.body * t.in.Types.Ratio(brand.Subheading)
	small = math.Round(10*math.Max(small, t.leastSize("figure", s.face))) / 10
	if s.style.Small != nil && small*t.seen < 16 {
		s.style = *s.style.Small
		s.face = t.face(s.style)
	}
	s.how = typeset.Style{Face: s.face, Tracking: s.style.Tracking, Figures: typeset.Lining}
	return small
}

func (s *figureStack) cased(words string) string {
	if s.style.Upper {
		return strings.ToUpper(words)
	}
	return words
}

// measure sizes the lead; false where it would be smaller than what stands around it.
func (s *figureStack) measure(n *Node, fig Figure, small float64) bool {
	t, words := s.t, fig.Lead
	scale := n.Scale
	if scale == 0 {
		scale = figureScale
	}
	if t.st.lean > 1 {
		scale = math.Max(math.Min(scale, figureLeast), scale/t.st.lean)
	}
	if t.st.tight {
		scale = math.Max(math.Min(scale, 1.2), 0.6*scale)
	}
	lead, wide := t.numeral(s.cased(words), s.how)
	size := math.Min(t.body*t.ratio*scale, s.w/wide)
	if n.Scale > 0 { // it is to fill its cell, not to keep the headline small
		rows := float64(len(fig.Below))
		if fig.Above != "" {
			rows++
		}
		room := t.figureRoom() - figureRows*rows*small
		size = math.Min(size, math.Max(room/s.face.CapHeight, figureLarge*t.headline()))
	}
	if s.most > 0 {
		size = math.Min(size, s.most)
	}
	size = math.Floor(size*10) / 10
	if len(lead) > 1 && signSize*size < small { // its signs would be too small to read
		lead, wide = t.plainLead(s.cased(words), s.how)
		size = math.Floor(10*math.Min(size, s.w/wide)) / 10
	}
	if size < small {
		return false
	}
	s.lead, s.size, s.least = lead, size, size
	return true
}

// add sets runs as one line, gap px under the one before.
func (s *figureStack) add(text string, runs []run, size, gap float64) {
	rise, drop, w := s.face.CapHeight, 0.0, 0.0
	for _, r := range runs {
		rise, drop = math.Max(rise, r.y-r.line.Ink.Y0*r.size), math.Max(drop, r.line.Ink.Y1*r.size-r.y)
		w = math.Max(w, r.x+r.line.Ink.X1*r.size)
		s.box.w = math.Max(s.box.w, math.Max((r.x+r.line.Ink.X1*r.size)*size, r.line.Advance*r.size*size)) // as breaking measures
	}
	if s.text != "" {
		s.y += gap
		s.text += "\n"
	}
	for _, r := range runs {
		s.lines = append(s.lines, figureLine{
			scene.TextLine{Line: r.line, X: r.x * size, Y: s.y + (rise-r.y)*size, From: len([]rune(s.text)) + r.from, SizePx: r.size * size}, w * size,
		})
		s.least = math.Min(s.least, r.size*size)
	}
	s.text += text
	s.y += (rise + drop) * size
}

// beside sets words above or below the lead; false where they do not fit.
func (s *figureStack) beside(words string, small, gap float64) bool {
	if words == "" {
		return true
	}
	most := 2
	if !strings.Contains(words, " ") {
		most = 1 // hours stay together
	}
	set := s.t.in.Shaper.Paragraph(s.cased(words), s.how).Narrowest(s.w/small, most)
	if set == nil {
		return false
	}
	for i, l := range set.Lines {
		if i > 0 {
			gap = 0.4 * small
		}
		s.add(l.Text, []run{{line: l, size: 1, x: -l.Ink.X0}}, small, gap)
	}
	return true
}

func (t *trial) placeFigure(n *Node, r spec.Rect, seat colourway.Seat) bool {
	f, ok := t.setFigure(n, r.W)
	if !ok || f.box.h > r.H+0.5 {
		return false
	}
	t.drawFigure(n.Figure, f, r, seat)
	return true
}

// drawFigure draws a figure's lines into a rectangle.
func (t *trial) drawFigure(slot string, f figureSetting, r spec.Rect, seat colourway.Seat) {
	part := scene.Part{
		Slot: slot, Kind: scene.KindText, Text: f.text, Field: slot, SizePx: f.least, Family: f.style.Family, Weight: f.face.Weight,
		Fill: t.inkFor(f.style, seat), Ground: t.colour(seat),
	}
	part.Contrast = colour.Contrast(part.Fill, part.Ground)
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, l := range f.lines {
		ink := l.Line.Ink.Scale(l.SizePx)
		l.X = math.Round((t.startX(r, l.w)+l.X)*100) / 100
		l.Y = math.Round((r.Y+l.Y)*100) / 100
		part.Lines = append(part.Lines, l.TextLine)
		if !l.Line.Ink.Empty() {
			x0, y0 = math.Min(x0, l.X+ink.X0), math.Min(y0, l.Y+ink.Y0)
			x1, y1 = math.Max(x1, l.X+ink.X1), math.Max(y1, l.Y+ink.Y1)
		}
	}
	if x0 > x1 {
		return
	}
	part.Box = spec.Rect{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
	t.content = append(t.content, part)
}
