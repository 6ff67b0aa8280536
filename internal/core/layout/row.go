package layout

import (
	"fmt"
	"math"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// rowPart is nodes side by side; the flexible one takes the rest.
type rowPart struct{}

func (rowPart) name() string { return "row" }
func (rowPart) words() bool  { return false }
func (rowPart) lint(c *checker, n *Node, at string, seat colourway.Seat, bare bool) error {
	flex := 0
	for _, child := range n.Row {
		if child.Flex {
			flex++
		}
	}
	if flex > 1 {
		return fmt.Errorf("%s.row: %d flexible children, want at most one", at, flex)
	}
	return c.each(n.Row, at+".row", seat, bare)
}
func (rowPart) present(t *trial, n *Node) bool { return t.some(n.Row) }

func (rowPart) measure(t *trial, n *Node, w float64) (box, bool) {
	_, b, ok := t.rowWidths(n, w)
	if !ok && n.V == "spread" {
		return t.measure(n.stacked(), w)
	}
	return b, ok
}

func (rowPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	return t.placeRow(n, r, seat)
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
		if len(children) > 1 && !n.Natural {
			limit = w * 0.62
		}
		if c.Frame != nil {
			widths[i] = math.Round(w * t.yielding(c.Frame.Min))
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
		if n.V == "end" || c.Turned { // what reads upwards begins at the foot
			at.Y = r.Bottom() - s.h
		}
		if !t.place(c, at, seat) {
			return false
		}
		x += widths[i]
	}
	return true
}
