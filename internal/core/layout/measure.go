package layout

import (
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// box is a size in px.
type box struct{ w, h float64 }

// expand turns a words node into one text node per slot that has words.
func (t *trial) expand(list []*Node) []*Node {
	var out []*Node
	for _, c := range list {
		switch {
		case !t.present(c):
		case c.Words != nil:
			out = append(out, t.wordsOf(c)...)
		default:
			out = append(out, c)
		}
	}
	return out
}

// wordsOf are the texts of a node that lists slots, those with words.
func (t *trial) wordsOf(c *Node) (out []*Node) {
	for _, s := range c.Words {
		if t.words(s) == "" {
			continue
		}
		n := &Node{Text: s, Lines: c.Lines, Before: 1.6}
		if len(out) == 0 {
			n.Before = c.Before
		}
		out = append(out, n)
	}
	return out
}

// belowHeadline is the least gap below a headline, over its size (set by eye on the
// contact sheets).
const belowHeadline = 0.26

// gap is the space before child i of a stack or row, in px.
func (t *trial) gap(n *Node, children []*Node, i int) float64 {
	if i == 0 {
		return 0
	}
	g := n.Gap
	if g == 0 {
		g = 2
	}
	if b := children[i].Before; b > 0 {
		g = b
	}
	g *= t.airy()
	clear := math.Max(t.logoClear(children[i-1]), t.logoClear(children[i]))
	if t.class == spec.Ribbon || t.in.Placement.Tiny() {
		return math.Max(g*t.unit, clear)
	}
	// where the unit is small against the type, as on towers, a gap of units
	// would be no larger than the space between lines: parts would run together
	px := g * math.Max(t.unit, 0.55*t.body)
	if children[i-1].Text == "headline" {
		px = math.Max(px, belowHeadline*t.headline())
	}
	return math.Max(px, clear)
}

// measure is the natural size of content in a width; false when it cannot be
// that narrow.
func (t *trial) measure(n *Node, w float64) (box, bool) {
	if w <= 0 {
		return box{}, false
	}
	switch n.kind() {
	case "stack":
		children := t.expand(n.Stack)
		var b box
		for i, c := range children {
			s, ok := t.measure(c, w)
			if !ok {
				return b, false
			}
			b.w = math.Max(b.w, s.w)
			b.h += s.h + t.gap(n, children, i)
		}
		return b, true
	case "row":
		_, b, ok := t.rowWidths(n, w)
		if !ok && n.V == "spread" {
			return t.measure(n.stacked(), w)
		}
		return b, ok
	case "card":
		return t.measureCard(n.Card, w)
	case "words":
		return t.measure(&Node{Stack: []*Node{n}, Gap: 1.6}, w)
	case "text":
		s, ok := t.set(n, n.Text, w)
		return box{s.w, s.h}, ok
	case "figure":
		f, ok := t.setFigure(n, w)
		return f.box, ok
	case "mark":
		h := t.markHeight(n)
		return box{h * markAspect, h}, h*markAspect <= w
	case "button":
		s, padX, padY, ok := t.buttonSize(w)
		if !ok {
			return box{}, false
		}
		return box{s.w + 2*padX, s.face.CapHeight*s.size + 2*padY}, ok
	case "logo":
		return t.logoSize(n, w)
	case "frame":
		return box{w, math.Max(4*t.unit, t.least(n.Frame.Min)*t.safe.H)}, true
	case "rule":
		return box{w * n.Rule.Width, t.lineWidth(n.Rule.Thickness * t.unit)}, true
	}
	return box{}, false
}

// stacked is what a row with its ends apart becomes where it is too wide.
func (n *Node) stacked() *Node { return &Node{Stack: n.Row, Gap: 2} }

// rowWidths shares a width among the children of a row.
func (t *trial) rowWidths(n *Node, w float64) ([]float64, box, bool) {
	children := t.expand(n.Row)
	widths := make([]float64, len(children))
	rest, flex := w, -1
	var b box
	for i, c := range children {
		g := t.gap(n, children, i)
		rest -= g
		b.w += g
		if c.Flex {
			flex = i
			continue
		}
		limit := w
		if len(children) > 1 {
			limit = w * 0.62
		}
		if c.Frame != nil {
			widths[i] = math.Round(w * c.Frame.Min)
			rest -= widths[i]
			b.w += widths[i]
			continue
		}
		s, ok := t.measure(c, limit)
		if !ok {
			return nil, b, false
		}
		widths[i] = s.w
		rest -= s.w
		b.w += s.w
		b.h = math.Max(b.h, s.h)
	}
	if rest < -0.01 {
		return nil, b, false
	}
	if flex >= 0 {
		if rest < w*0.2 {
			return nil, b, false
		}
		s, ok := t.measure(children[flex], rest)
		if !ok {
			return nil, b, false
		}
		widths[flex] = rest
		b.w = w
		b.h = math.Max(b.h, s.h)
	}
	return widths, b, true
}

// place puts content into its rectangle and draws it.
func (t *trial) place(n *Node, r spec.Rect, seat colourway.Seat) bool {
	switch n.kind() {
	case "stack":
		return t.placeStack(n, r, seat)
	case "words":
		return t.placeStack(&Node{Stack: []*Node{n}, Gap: 1.6}, r, seat)
	case "row":
		return t.placeRow(n, r, seat)
	case "card":
		return t.placeCard(n.Card, r)
	case "text":
		s, ok := t.set(n, n.Text, r.W)
		if ok {
			t.drawText(n.Text, scene.KindText, s, r, t.align(), seat)
		}
		return ok
	case "button":
		return t.placeButton(r, seat)
	case "logo":
		return t.placeLogo(n, r, seat)
	case "frame":
		t.placeFrame(n.Frame, r)
		return true
	case "figure":
		return t.placeFigure(n, r, seat)
	case "mark":
		t.placeMark(n, r, seat)
		return true
	case "rule":
		w := r.W * n.Rule.Width
		x := t.startX(r, w)
		t.content = append(t.content, scene.Part{
			Slot: "rule", Kind: scene.KindShape, Fill: t.ruleColour(seat),
			Box: spec.Rect{X: math.Round(x), Y: math.Round(r.Y), W: math.Round(w), H: math.Max(1, math.Round(r.H))},
		})
		return true
	}
	return false
}

func (t *trial) ruleColour(seat colourway.Seat) colour.RGB {
	if c := t.colour(colourway.Rule); colour.Contrast(c, t.colour(seat)) >= 1.5 {
		return c
	}
	return t.colour(colourway.InkOn(seat))
}

func (t *trial) placeStack(n *Node, r spec.Rect, seat colourway.Seat) bool {
	children := t.expand(n.Stack)
	sizes := make([]box, len(children))
	total, grow := 0.0, -1
	for i, c := range children {
		s, ok := t.measure(c, r.W)
		if !ok {
			return false
		}
		sizes[i] = s
		total += s.h + t.gap(n, children, i)
		if c.Frame != nil || c.Fill {
			grow = i
		}
	}
	if total > r.H+0.5 {
		return false
	}
	spare := math.Max(0, r.H-total)
	y := r.Y
	if grow < 0 && n.Fill {
		switch n.V {
		case "center":
			y += spare / 2
		case "end":
			y += spare
		}
	}
	for i, c := range children {
		y += t.gap(n, children, i)
		h := sizes[i].h
		switch {
		case i == grow:
			h += spare
		case grow < 0 && n.V == "spread" && i == len(children)-1 && i > 0:
			y += spare
		}
		at := spec.Rect{X: r.X, Y: y, W: r.W, H: h}
		if c.Frame != nil {
			t.place(c, at, seat)
		} else if !t.placeAligned(c, at, sizes[i], seat, c.V) {
			return false
		}
		y += h
	}
	return true
}

func (t *trial) placeRow(n *Node, r spec.Rect, seat colourway.Seat) bool {
	widths, natural, ok := t.rowWidths(n, r.W)
	if !ok {
		return n.V == "spread" && t.placeStack(n.stacked(), r, seat)
	}
	children := t.expand(n.Row)
	x := r.X
	spread := n.V == "spread" && natural.w < r.W
	if t.align() == "center" && !spread {
		x += (r.W - natural.w) / 2
	}
	for i, c := range children {
		x += t.gap(n, children, i)
		if spread && i == len(children)-1 && i > 0 {
			x = r.Right() - widths[i]
		}
		from := x
		if t.rtl { // the same row, read from the other side
			from = r.X + r.Right() - x - widths[i]
		}
		if c.Frame != nil {
			t.place(c, spec.Rect{X: from, Y: r.Y, W: widths[i], H: r.H}, seat)
			x += widths[i]
			continue
		}
		s, ok := t.measure(c, widths[i]+0.01)
		if !ok || s.h > r.H+0.5 {
			return false
		}
		at := spec.Rect{X: from, Y: r.Y + (r.H-s.h)/2, W: widths[i] + 0.01, H: s.h}
		if n.V == "end" {
			at.Y = r.Bottom() - s.h
		}
		if !t.place(c, at, seat) {
			return false
		}
		x += widths[i]
	}
	return true
}

// drawText draws a setting into a rectangle, aligned by ink.
func (t *trial) drawText(slot string, kind scene.Kind, s setting, r spec.Rect, align string, seat colourway.Seat) {
	part := scene.Part{
		Slot: slot, Kind: kind, Text: s.text, Field: t.field(slot), SizePx: s.size, Family: s.style.Family, Weight: s.face.Weight,
		Fill: t.inkFor(s.style, seat), Ground: t.colour(seat), Set: s.look, Upper: s.style.Upper, Align: "start",
	}
	switch {
	case align == "center":
		part.Align = "middle"
	case t.rtl || typeset.RTL(s.text):
		part.Align = "end"
	}
	part.Contrast = colour.Contrast(part.Fill, part.Ground)
	y := r.Y + s.top
	if s.items != nil {
		r, align = t.drawItems(s, r, align, seat)
	}
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for i, l := range s.set.Lines {
		if i > 0 && s.items[i] {
			y += s.itemGap
		}
		size, ly := s.size, y+float64(i)*s.leading
		if s.fitted != nil {
			size, ly = s.fitted[i].size, r.Y+s.fitted[i].y
		}
		ink := l.Ink.Scale(size)
		var x float64
		switch {
		case align == "center":
			x = r.X + (r.W-(ink.X1-ink.X0))/2 - ink.X0
		case t.rtl || typeset.RTL(s.text):
			x = r.Right() - ink.X1
		default:
			x = r.X - ink.X0
		}
		x = math.Round(x*100) / 100
		ly = math.Round(ly*100) / 100
		line := scene.TextLine{Line: l, X: x, Y: ly, From: s.set.Starts[i]}
		if s.fitted != nil {
			line.SizePx = size
			part.Lines = append(part.Lines, line)
		} else {
			runs := t.emphasised(&part, s, line, seat)
			part.Lines = append(part.Lines, runs...)
			for _, u := range runs[0].Under {
				x0, y0, x1, y1 = math.Min(x0, u.X), math.Min(y0, u.Y), math.Max(x1, u.Right()), math.Max(y1, u.Bottom())
			}
		}
		if !l.Ink.Empty() {
			x0, y0 = math.Min(x0, x+ink.X0), math.Min(y0, ly+ink.Y0)
			x1, y1 = math.Max(x1, x+ink.X1), math.Max(y1, ly+ink.Y1)
		}
	}
	if x0 <= x1 {
		part.Box = spec.Rect{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
	} else {
		part.Box = spec.Rect{X: r.X, Y: r.Y}
	}
	t.content = append(t.content, part)
}

// field is the copy field a slot's words come from.
func (t *trial) field(slot string) string {
	if slot == "headline" {
		return t.in.headlineField(t.st)
	}
	return slot
}

// inkFor is the ink of a style on a seat: the colour of its preferred role
// where that reads, else the colourway's.
func (t *trial) inkFor(s brand.Style, seat colourway.Seat) colour.RGB {
	if s.Role != "" {
		for _, c := range t.in.Kit.Colours() {
			if c.Role == s.Role && colour.Contrast(c.Value, t.colour(seat)) >= colourway.InkContrast {
				return c.Value
			}
		}
	}
	return t.colour(colourway.InkOn(seat))
}
