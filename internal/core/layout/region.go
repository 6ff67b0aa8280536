package layout

import (
	"math"
	"slices"

	"aspenridge/internal/core/spec"
)

// region is a part of the canvas while regions are divided: what its ground
// covers, what of it is safe, and which sides meet a neighbour.
type region struct {
	bleed, safe              spec.Rect
	top, right, bottom, left bool // inner sides
	cover                    [4]float64
	// cover is how much of each side (top, right, bottom, left), in px, will be
	// hidden by a neighbour's edge or a card.
}

func (t *trial) placeRegion(n *Node, r region) bool {
	if n.Split != "" {
		return t.placeSplit(n, r)
	}
	return t.placeCell(n.Cell, r)
}

// collapses reports whether a region has nothing to show, neither words nor, as a
// further window, a picture: it then leaves its share to its neighbours.
func (t *trial) collapses(n *Node) bool {
	return t.vacant(n) || n.Cell != nil && n.Cell.Content != nil && !t.present(n.Cell.Content) && n.Cell.Picture == 0
}

// vacant reports whether a region is there for further pictures alone, or for one there may
// be, and there are none for it.
func (t *trial) vacant(n *Node) bool {
	if n.Split == "" {
		return n.Cell.Content == nil && (n.Cell.Picture > 1 || n.Cell.Optional) && n.Cell.Picture > len(t.in.Pictures) || n.Cell.Optional && t.st.yield
	}
	some := false
	for _, c := range n.Cells {
		switch {
		case t.vacant(c):
			some = true
		case c.Split != "" || c.Cell.Content != nil || c.Cell.Picture > 0:
			return false
		}
	}
	return some
}

// leastOf is the least share (0-1) of a region in its split: where a picture gets what
// the words leave, enough to show something.
func (t *trial) leastOf(n *Node, left bool) float64 {
	switch {
	case t.in.caption() && n.windows():
		return pictureLeast
	case n.Cell != nil && n.Cell.Min > 0:
		return n.Cell.Min
	case left && n.windows():
		return leftToPictures
	}
	return 0
}

const leftToPictures = 0.36

// yielded is what is left of the share of a picture that gives way.
const yielded = 0.5

// windows reports whether a region has windows for pictures.
func (n *Node) windows() bool {
	if n.Split != "" {
		return slices.ContainsFunc(n.Cells, (*Node).windows)
	}
	return n.Cell.Picture > 0 && n.Cell.Content == nil
}

// slice is a region of a split while its size is found.
type slice struct {
	node  *Node
	share float64 // weight among those that share, 0 for one that takes what it needs
	size  float64 // px, once it is known
}

func (t *trial) placeSplit(n *Node, r region) bool {
	along, start := r.safe.H, r.safe.Y
	if n.Split == "x" {
		along, start = r.safe.W, r.safe.X
	}
	list, weights := t.slices(n)
	fixed := 0.0
	for i := range list {
		c, last := &list[i], i == len(list)-1
		if c.share > 0 {
			continue
		}
		if !t.fitSlice(c, func(h float64) region {
			from := start
			if last {
				from = start + along - h
			}
			return r.slice(n.Split, i == 0, last, from, h)
		}) {
			return false
		}
		if weights == 0 && last {
			c.size = along - fixed
		}
		fixed += c.size
	}
	rest := along - fixed
	if rest < 0 {
		return false
	}
	from := start
	for i, c := range list {
		if c.share > 0 {
			c.size = rest * c.share / weights
			if c.size < t.least(t.leastOf(c.node, fixed > 0))*along-0.5 {
				return false
			}
		}
		end := math.Round(from + c.size)
		if i == len(list)-1 {
			end = start + along
		}
		part := r.slice(n.Split, i == 0, i == len(list)-1, from, end-from)
		var before, after *Node
		if i > 0 {
			before = list[i-1].node
		}
		if i < len(list)-1 {
			after = list[i+1].node
		}
		t.cover(&part, before, after, n.Split)
		if !t.placeRegion(c.node, part) {
			return false
		}
		from = end
	}
	return true
}

// slices are the regions of a split that show something, in the order they lie here,
// and the weights of those that share.
func (t *trial) slices(n *Node) (list []slice, weights float64) {
	for i := range n.Cells {
		if t.rtl && n.Split == "x" { // read from the other side
			i = len(n.Cells) - 1 - i
		}
		c, share := n.Cells[i], float64(n.At[i])
		if t.collapses(c) {
			continue
		}
		if t.st.lean > 0 && c.holds(t.first) {
			share *= t.st.lean
		}
		if c.windows() {
			share = t.yielding(share)
		}
		list = append(list, slice{node: c, share: share})
		weights += share
	}
	if t.in.caption() && !t.st.yield {
		for i := range list {
			c := &list[i]
			if least := pictureLeast / (1 - pictureLeast) * (weights - c.share); c.share > 0 && c.share < least && c.node.windows() {
				weights += least - c.share
				c.share = least
			}
		}
	}
	return list, weights
}

// fitSlice grows a slice until its content, with its padding and around any rectangle
// to keep out of, has the height it needs; of is the region it would be at a height.
func (t *trial) fitSlice(c *slice, of func(h float64) region) bool {
	c.size = 2 * t.margin
	for range 4 {
		rect := t.contentRect(c.node.Cell, of(c.size))
		size, ok := t.measure(c.node.Cell.Content, rect.W)
		if !ok {
			return false
		}
		if rect.H >= size.h-0.01 {
			break
		}
		c.size += math.Ceil(size.h - rect.H)
	}
	return true
}

// slice is the part of a region from a place along a split on; the first and the last
// one reach to its edges.
func (r region) slice(split string, first, last bool, from, size float64) region {
	c := r
	if split == "y" {
		c.safe.Y, c.safe.H = from, size
		c.bleed.Y, c.bleed.H = from, size
		if first {
			c.bleed.Y, c.bleed.H = r.bleed.Y, from+size-r.bleed.Y
		} else {
			c.top = true
		}
		if last {
			c.bleed.H = r.bleed.Bottom() - c.bleed.Y
		} else {
			c.bottom = true
		}
		return c
	}
	c.safe.X, c.safe.W = from, size
	c.bleed.X, c.bleed.W = from, size
	if first {
		c.bleed.X, c.bleed.W = r.bleed.X, from+size-r.bleed.X
	} else {
		c.left = true
	}
	if last {
		c.bleed.W = r.bleed.Right() - c.bleed.X
	} else {
		c.right = true
	}
	return c
}

// least is the least share of a cell or frame, less where it gives way to the
// headline.
func (t *trial) least(share float64) float64 { return t.yielding(share) / math.Max(1, t.st.lean) }

// yielding is a share of a picture, less where it gives way to what the purpose lives on.
func (t *trial) yielding(share float64) float64 {
	if t.st.yield {
		return yielded * share
	}
	return share
}

// contentRect is where a cell's content may stand: inside the safe box, a
// margin from the canvas' edge and a padding from inner sides, clear of
// everything to keep out of.
func (t *trial) contentRect(c *Cell, r region) spec.Rect {
	pad := t.margin
	if c.Pad > 0 {
		pad *= c.Pad
	}
	canvas := t.in.Placement.Canvas()
	x0, y0, x1, y1 := r.safe.X, r.safe.Y, r.safe.Right(), r.safe.Bottom()
	if r.left {
		x0 += pad
	} else {
		x0 = math.Max(x0, canvas.X+t.margin)
	}
	if r.right {
		x1 -= pad
	} else {
		x1 = math.Min(x1, canvas.Right()-t.margin)
	}
	if r.top {
		y0 += pad
	} else {
		y0 = math.Max(y0, canvas.Y+t.margin)
	}
	if r.bottom {
		y1 -= pad
	} else {
		y1 = math.Min(y1, canvas.Bottom()-t.margin)
	}
	if c.Content.Turned { // a spine: it may be narrower than two margins
		x0, x1 = r.safe.X+spinePad*t.margin, r.safe.Right()-spinePad*t.margin
	}
	rect := spec.Rect{X: x0, Y: y0, W: math.Max(0, x1-x0), H: math.Max(0, y1-y0)}
	for _, k := range t.in.Placement.KeepOuts() {
		rect = cutAround(rect, spec.Rect{X: k.X - t.unit, Y: k.Y - t.unit, W: k.W + 2*t.unit, H: k.H + 2*t.unit})
	}
	return rect
}

// spinePad is the space on either side of words that read upwards in a cell of their own, in
// margins (by eye).
const spinePad = 0.3

// cutAround is the largest rectangle inside r beside k.
func cutAround(r, k spec.Rect) spec.Rect {
	if !r.Overlaps(k, 0) {
		return r
	}
	best := spec.Rect{}
	for _, c := range []spec.Rect{
		{X: r.X, Y: r.Y, W: r.W, H: k.Y - r.Y},
		{X: r.X, Y: r.Y, W: k.X - r.X, H: r.H},
		{X: r.X, Y: k.Bottom(), W: r.W, H: r.Bottom() - k.Bottom()},
		{X: k.Right(), Y: r.Y, W: r.Right() - k.Right(), H: r.H},
	} {
		if !c.Empty() && c.W*c.H > best.W*best.H {
			best = c
		}
	}
	return best
}
