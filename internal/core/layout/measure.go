package layout

import (
	"math"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// box is a size in px.
type box struct{ w, h float64 }

// belowHeadline is the least gap below a headline, over its size (set by eye on the
// contact sheets).
const (
	belowHeadline      = 0.36
	belowHeadlineTight = 0.26
)

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
	if t.class == spec.Ribbon || t.tiny {
		return math.Max(g*t.unit, clear)
	}
	// where the unit is small against the type, as on towers, a gap of units
	// would be no larger than the space between lines: parts would run together
	px := g * math.Max(t.unit, 0.55*t.body)
	if t.endsInFirst(children[i-1]) {
		least := belowHeadline
		if t.st.tight {
			least = belowHeadlineTight
		}
		px = math.Max(px, least*t.headline())
	}
	return math.Max(px, clear)
}

// measure is the natural size of content in a width; false when it cannot be
// that narrow.
func (t *trial) measure(n *Node, w float64) (box, bool) {
	p := n.part()
	if w <= 0 || p == nil {
		return box{}, false
	}
	return p.measure(t, n, w)
}

// place puts content into its rectangle and draws it.
func (t *trial) place(n *Node, r spec.Rect, seat colourway.Seat) bool {
	p := n.part()
	return p != nil && p.place(t, n, r, seat)
}
