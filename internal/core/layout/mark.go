package layout

import (
	"fmt"
	"math"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// markPart is an ornament among content.
type markPart struct{}

func (markPart) name() string { return "mark" }
func (markPart) words() bool  { return true } // its colour is that of words
func (markPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Mark != "quote" {
		return fmt.Errorf("%s.mark %q: want quote", at, n.Mark)
	}
	return nil
}
func (markPart) present(*trial, *Node) bool { return true }
func (markPart) measure(t *trial, n *Node, w float64) (box, bool) {
	h := t.markHeight(n)
	return box{h * markAspect, h}, h*markAspect <= w
}
func (markPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	t.placeMark(n, r, seat)
	return true
}

// markAspect is the width of the ornament to its height.
const markAspect = 1.25

func (t *trial) markHeight(n *Node) float64 {
	k := n.Scale
	if k == 0 {
		k = 1
	}
	return math.Round(k * 0.55 * t.body * t.ratio)
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
