package layout

import (
	"fmt"
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// markPart is an ornament among content.
type markPart struct{}

func (markPart) name() string { return "mark" }
func (markPart) words() bool  { return true } // its colour is that of words
func (markPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Mark != quoteMark && n.Mark != arrowMark {
		return fmt.Errorf("%s.mark %q: want %s or %s", at, n.Mark, quoteMark, arrowMark)
	}
	return nil
}
func (markPart) present(t *trial, n *Node) bool {
	return n.Mark != arrowMark || buttonPart{}.present(t, nil)
}
func (markPart) measure(t *trial, n *Node, w float64) (box, bool) {
	b := t.markBox(n)
	return b, b.w <= w
}
func (markPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	if n.Mark == arrowMark {
		t.placeArrow(n, r, seat)
	} else {
		t.placeMark(n, r, seat)
	}
	return true
}

// The ornaments among content: a pair of opening quotation marks, and an arrow drawn to what stands
// before it in its row.
const (
	quoteMark = "quote"
	arrowMark = "arrow"
)

// Widths of the ornaments to their heights.
const (
	markAspect  = 1.25
	arrowAspect = 1.2
)

// markBox is how large an ornament is: a quote to the headline's size, an arrow to the button.
func (t *trial) markBox(n *Node) box {
	if n.Mark == arrowMark {
		style := t.in.Types.Levels[brand.Button]
		h := math.Round(3.2 * t.face(style).CapHeight * t.body * t.in.Types.Ratio(brand.Button))
		return box{h * arrowAspect, h}
	}
	h := t.markHeight(n)
	return box{h * markAspect, h}
}

func (t *trial) markHeight(n *Node) float64 {
	k := n.Scale
	if k == 0 {
		k = 1
	}
	return math.Round(k * 0.55 * t.body * t.ratio)
}

// arrowPen is how thick an arrow is drawn, of its height.
const arrowPen = 0.075

// placeArrow draws an arrow that comes down in a swing and points at what is before it.
func (t *trial) placeArrow(n *Node, r spec.Rect, seat colourway.Seat) {
	b := t.markBox(n)
	at := func(x, y float64) string { // in its box, mirrored where one reads from the right
		if t.rtl {
			x = 1 - x
		}
		return num(r.X+x*b.w) + " " + num(r.Y+y*b.h)
	}
	t.content = append(t.content, scene.Part{
		Slot: "mark", Kind: scene.KindShape, Fill: t.ruleColour(seat), Stroke: math.Max(1.5, arrowPen*b.h),
		Box: spec.Rect{X: r.X, Y: r.Y, W: b.w, H: b.h},
		Path: "M" + at(0.95, 0.06) + "C" + at(1, 0.62) + " " + at(0.6, 0.82) + " " + at(0.08, 0.62) +
			"M" + at(0.34, 0.36) + "L" + at(0.06, 0.62) + "L" + at(0.36, 0.9),
	})
}

// placeMark draws a pair of opening quotation marks in the rule's colour.
func (t *trial) placeMark(n *Node, r spec.Rect, seat colourway.Seat) {
	h := t.markHeight(n)
	w := h * markAspect
	x := t.startX(r, w)
	one := func(x float64) string { // a drop with its tail swung up to the right
		d := 0.46 * w
		return "M" + num(x+d) + " " + num(r.Y) +
			"C" + num(x+0.42*d) + " " + num(r.Y+0.1*h) + " " + num(x) + " " + num(r.Y+0.42*h) + " " + num(x) + " " + num(r.Y+0.7*h) +
			"C" + num(x) + " " + num(r.Y+0.9*h) + " " + num(x+0.2*d) + " " + num(r.Y+h) + " " + num(x+0.46*d) + " " + num(r.Y+h) +
			"C" + num(x+0.74*d) + " " + num(r.Y+h) + " " + num(x+0.92*d) + " " + num(r.Y+0.86*h) + " " + num(x+0.92*d) + " " + num(r.Y+0.68*h) +
			"C" + num(x+0.92*d) + " " + num(r.Y+0.5*h) + " " + num(x+0.76*d) + " " + num(r.Y+0.38*h) + " " + num(x+0.56*d) + " " + num(r.Y+0.38*h) +
			"C" + num(x+0.62*d) + " " + num(r.Y+0.26*h) + " " + num(x+0.8*d) + " " + num(r.Y+0.14*h) + " " + num(x+1.08*d) + " " + num(r.Y+0.1*h) + "Z"
	}
	t.content = append(t.content, scene.Part{Slot: "mark", Kind: scene.KindShape, Fill: t.ruleColour(seat),
		Box: spec.Rect{X: x, Y: r.Y, W: w, H: h}, Path: one(x) + one(x+0.54*w)})
}
