package layout

import (
	"fmt"
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// textPart is the words of one slot.
type textPart struct{}

func (textPart) name() string { return "text" }
func (textPart) words() bool  { return true }
func (textPart) lint(c *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Text == "headline" {
		c.headline++
		if n.Turned {
			return fmt.Errorf("%s.turned: the headline reads across, want another slot", at)
		}
	}
	return nil
}
func (textPart) present(t *trial, n *Node) bool { return t.words(n.Text) != "" }
func (textPart) measure(t *trial, n *Node, w float64) (box, bool) {
	if n.Turned {
		b, ok := t.measure(n.upright(), t.here.safe.H)
		return box{b.h, b.w}, ok && b.h <= w
	}
	s, ok := t.setText(n, n.Text, w)
	return box{s.w, s.h}, ok
}
func (textPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	if n.Turned {
		return t.placeTurned(n, r, seat)
	}
	s, ok := t.setText(n, n.Text, r.W)
	if ok {
		t.drawText(n.Text, scene.KindText, s, r, t.align(), seat)
	}
	return ok
}

// upright is a turned text as it is set before it is turned.
func (n *Node) upright() *Node { return &Node{Text: n.Text, Lines: 1} }

// placeTurned sets a text across and turns it a quarter to the left: it begins at the foot of its
// rectangle and reads upwards.
func (t *trial) placeTurned(n *Node, r spec.Rect, seat colourway.Seat) bool {
	from := len(t.content)
	if !t.place(n.upright(), spec.Rect{W: r.H, H: r.W}, seat) {
		return false
	}
	in := (r.W - t.content[from].Box.Bottom()) / 2 // in the middle of a wider place
	for i := from; i < len(t.content); i++ {
		t.content[i].Move(scene.Turn(-90).Then(scene.Shift(r.X+in, r.Bottom())))
	}
	return true
}

// drawText draws a setting into a rectangle, aligned by ink.
func (t *trial) drawText(slot string, kind scene.Kind, s setting, r spec.Rect, align string, seat colourway.Seat) {
	part := t.wordsOn(slot, kind, s, align, seat)
	room, side := r, part.Align
	if s.items != nil {
		if room, align = t.drawItems(s, r, align, seat); align != "center" && side == "middle" {
			side = "start"
		}
	}
	part.Lines, part.Box = t.lines(&part, s, room, side)
	if part.Box.W == 0 {
		part.Box = spec.Rect{X: r.X, Y: r.Y}
	} else if h := t.in.Hands[slot]; h != nil && h.Sides[0] > 0 && kind == scene.KindText && s.items == nil && s.fitted == nil {
		width := h.Sides[0] * part.Box.W
		set := t.broken(slot, s, width)
		at := spec.Rect{X: beginsAt(side, part.Box, width), Y: r.Y + s.top - set.top, W: width}
		part.Measured = &scene.Measured{}
		part.Measured.Lines, part.Measured.Box = t.lines(&part, set, at, side)
	}
	t.content = append(t.content, part)
}

// lines are the lines of a setting in a rectangle and the box of their ink, one without a
// width where they have none.
func (t *trial) lines(part *scene.Part, s setting, r spec.Rect, side string) ([]scene.TextLine, spec.Rect) {
	out := make([]scene.TextLine, 0, len(s.set.Lines))
	y := r.Y + s.top
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
		x := math.Round((beginsAt(side, r, ink.X1-ink.X0)-ink.X0)*100) / 100
		ly = math.Round(ly*100) / 100
		line := scene.TextLine{Line: l, X: x, Y: ly, From: s.set.Starts[i]}
		if s.fitted != nil {
			line.SizePx = size
		}
		runs := t.emphasised(part, s, line)
		out = append(out, runs...)
		for _, u := range runs[0].Under {
			x0, y0, x1, y1 = math.Min(x0, u.X), math.Min(y0, u.Y), math.Max(x1, u.Right()), math.Max(y1, u.Bottom())
		}
		if !l.Ink.Empty() {
			x0, y0 = math.Min(x0, x+ink.X0), math.Min(y0, ly+ink.Y0)
			x1, y1 = math.Max(x1, x+ink.X1), math.Max(y1, ly+ink.Y1)
		}
	}
	if x0 > x1 {
		return out, spec.Rect{}
	}
	return out, spec.Rect{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
}

// emphasisedLine adds a line to a part, in the setting's size with its emphasised words, and tells
// what it covers.
func (t *trial) emphasisedLine(part *scene.Part, s setting, l scene.TextLine) spec.Rect {
	runs := []scene.TextLine{l}
	if l.SizePx == 0 { // headings and large figures stand out as they are
		runs = t.emphasised(part, s, l)
	}
	part.Lines = append(part.Lines, runs...)
	ink := l.Line.Ink.Scale(s.sizeOf(l))
	around := spec.Rect{X: l.X + ink.X0, Y: l.Y + ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0}
	for _, u := range runs[0].Under {
		around = around.Union(u)
	}
	return around
}

// wordsOn is the part of a setting on a seat, without its lines.
func (t *trial) wordsOn(slot string, kind scene.Kind, s setting, align string, seat colourway.Seat) scene.Part {
	part := scene.Part{
		Slot: slot, Kind: kind, Text: s.text, Field: t.field(slot), SizePx: s.size, Family: s.style.Family, Weight: s.face.Weight,
		Fill: t.inkFor(s.style, seat), Ground: t.colour(seat), Style: s.look, Upper: s.style.Upper, Align: "start",
	}
	switch {
	case align == "center":
		part.Align = "middle"
	case t.rtl || typeset.RTL(s.text):
		part.Align = "end"
	}
	if h := t.in.Hands[slot]; h != nil && h.Align != "" {
		part.Align = h.Align
	}
	part.Contrast = colour.Contrast(part.Fill, part.Ground)
	return part
}

// beginsAt is where something so wide begins in a room, px, aligned as words are.
func beginsAt(align string, r spec.Rect, w float64) float64 {
	switch align {
	case "middle":
		return r.X + (r.W-w)/2
	case "end":
		return r.Right() - w
	}
	return r.X
}

// sizeOf is the size of a line, px: its own, else that of the others.
func (s *setting) sizeOf(l scene.TextLine) float64 {
	if l.SizePx > 0 {
		return l.SizePx
	}
	return s.size
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
