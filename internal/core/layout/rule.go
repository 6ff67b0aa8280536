package layout

import (
	"math"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// rulePart is a thin line.
type rulePart struct{}

func (rulePart) name() string                                             { return "rule" }
func (rulePart) words() bool                                              { return false }
func (rulePart) lint(*checker, *Node, string, colourway.Seat, bool) error { return nil }
func (rulePart) present(t *trial, _ *Node) bool                           { return t.in.Manner.Lines != "none" }
func (rulePart) measure(t *trial, n *Node, w float64) (box, bool) {
	return box{w * n.Rule.Width, t.lineWidth(n.Rule.Thickness * t.unit)}, true
}
func (rulePart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	w := r.W * n.Rule.Width
	x := t.startX(r, w)
	t.content = append(t.content, scene.Part{
		Slot: "rule", Kind: scene.KindShape, Fill: t.ruleColour(seat),
		Box: spec.Rect{X: math.Round(x), Y: math.Round(r.Y), W: math.Round(w), H: math.Max(1, math.Round(r.H))},
	})
	return true
}

func (t *trial) ruleColour(seat colourway.Seat) colour.RGB {
	if c := t.colour(colourway.Rule); colour.Contrast(c, t.colour(seat)) >= 1.5 {
		return c
	}
	return t.colour(colourway.InkOn(seat))
}
