package layout

import (
	"math"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

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

// setFigure sets the lead as large as the node's scale asks and the width
// allows, the rest at the size of subheadings above and below it, by ink.
func (t *trial) setFigure(n *Node, w float64) (figureSetting, bool) {
	fig, ok := t.in.Figures[n.Figure]
	if !ok {
		fig.Lead = t.words(n.Figure)
	}
	style := t.in.Types.Levels[brand.Headline]
	face := t.face(style)
	f := figureSetting{style: style, face: face}
	small := t.body * t.in.Types.Ratio(brand.Subheading)
	small = math.Round(10*math.Max(small, seenCap/face.CapHeight/t.seen*1.01*t.st.shrink)) / 10
	if style.Small != nil && small*t.seen < 16 {
		style = *style.Small
		face = t.face(style)
		f.style, f.face = style, face
	}
	scale := n.Scale
	if scale == 0 {
		scale = figureScale
	}
	if t.st.lean > 1 {
		scale = math.Max(math.Min(scale, figureLeast), scale/t.st.lean)
	}
	rest := figureRest
	if t.st.tight {
		scale, rest = math.Max(math.Min(scale, 1.2), 0.6*scale), 0
	}
	set := typeset.Style{Face: face, Tracking: style.Tracking, Figures: typeset.Lining}
	cased := func(s string) string {
		if style.Upper {
			return strings.ToUpper(s)
		}
		return s
	}
	lead, wide := t.numeral(cased(fig.Lead), set)
	size := math.Min(t.body*t.ratio*scale, w/wide)
	size = math.Floor(size*10) / 10
	if len(lead) > 1 && signSize*size < small { // its signs would be too small to read
		lead, wide = t.plainLead(cased(fig.Lead), set)
		size = math.Floor(10*math.Min(size, w/wide)) / 10
	}
	if size < small {
		return f, false
	}
	small = math.Max(small, math.Round(rest*size*10)/10)
	f.least = size
	y := 0.0
	add := func(text string, runs []run, size, gap float64) {
		rise, drop, w := face.CapHeight, 0.0, 0.0
		for _, r := range runs {
			rise, drop = math.Max(rise, r.y-r.line.Ink.Y0*r.size), math.Max(drop, r.line.Ink.Y1*r.size-r.y)
			w = math.Max(w, r.x+r.line.Ink.X1*r.size)
			f.box.w = math.Max(f.box.w, math.Max((r.x+r.line.Ink.X1*r.size)*size, r.line.Advance*r.size*size)) // as breaking measures
		}
		if f.text != "" {
			y += gap
			f.text += "\n"
		}
		for _, r := range runs {
			f.lines = append(f.lines, figureLine{
				scene.TextLine{Line: r.line, X: r.x * size, Y: y + (rise-r.y)*size, From: len([]rune(f.text)) + r.from, SizePx: r.size * size}, w * size,
			})
			f.least = math.Min(f.least, r.size*size)
		}
		f.text += text
		y += (rise + drop) * size
	}
	beside := func(s string, small, gap float64) bool {
		if s == "" {
			return true
		}
		most := 2
		if !strings.Contains(s, " ") {
			most = 1 // hours stay together
		}
		set := t.in.Shaper.Paragraph(cased(s), set).Narrowest(w/small, most)
		if set == nil {
			return false
		}
		for i, l := range set.Lines {
			if i > 0 {
				gap = 0.4 * small
			}
			add(l.Text, []run{{line: l, size: 1, x: -l.Ink.X0}}, small, gap)
		}
		return true
	}
	// what belongs to the lead stands close to it and a little larger; the terms
	// are a group of their own
	next := math.Round(10*math.Min(1.3*small, 0.4*size)) / 10
	if t.st.tight || next < small {
		next = small
	}
	if !beside(fig.Above, next, 0) {
		return f, false
	}
	add(cased(fig.Lead), lead, size, 0.5*small)
	for i, s := range fig.Below {
		at, gap := small, 0.42*small
		switch i {
		case 0:
			at, gap = next, 0.6*small
		case 1:
			gap = 0.9 * small
		}
		if !beside(s, at, gap) {
			return f, false
		}
	}
	f.box.h = y
	return f, true
}

func (t *trial) placeFigure(n *Node, r spec.Rect, seat colourway.Seat) bool {
	f, ok := t.setFigure(n, r.W)
	if !ok || f.box.h > r.H+0.5 {
		return false
	}
	part := scene.Part{
		Slot: n.Figure, Kind: scene.KindText, Text: f.text, Field: n.Figure, SizePx: f.least, Family: f.style.Family, Weight: f.face.Weight,
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
		return true
	}
	part.Box = spec.Rect{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
	t.content = append(t.content, part)
	return true
}
