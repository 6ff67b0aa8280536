package layout

import (
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// trial lays the tree out at one body size and headline ratio.
type trial struct {
	in    *Input
	st    state
	tree  *Node
	class spec.Class
	safe  spec.Rect
	seen  float64 // canvas px to px as seen

	unit, margin       float64 // px
	body, ratio        float64 // px, times
	ratioMin, ratioMax float64

	rtl bool // the piece reads from right to left, as its headline does

	centred bool   // inside a shape whose content stands in its middle
	here    region // the cell whose content is being placed
	inCard  bool   // inside a card of it

	underlined bool // somewhere no second ink reads, and words that are to stand out get a stroke

	under, shapes, cards, content []scene.Part
	buttons                       []spec.Rect
}

// region is a part of the canvas while regions are divided: what its ground
// covers, what of it is safe, and which sides meet a neighbour.
type region struct {
	bleed, safe              spec.Rect
	top, right, bottom, left bool // inner sides
	cover                    [4]float64
	// cover is how much of each side (top, right, bottom, left), in px, will be
	// hidden by a neighbour's edge or a card.
}

// run lays everything out; false when something does not fit.
func (t *trial) run() bool {
	t.under, t.shapes, t.cards, t.content, t.buttons = nil, nil, nil, nil, nil
	return t.placeRegion(t.tree, region{bleed: t.in.Placement.Canvas(), safe: t.safe})
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
	return t.spareWindow(n) || n.Cell != nil && n.Cell.Content != nil && !t.present(n.Cell.Content) && n.Cell.Picture == 0
}

// spareWindow reports whether a region is there for further pictures alone, and there
// are none for it.
func (t *trial) spareWindow(n *Node) bool {
	if n.Split == "" {
		return n.Cell.Content == nil && n.Cell.Picture > 1 && n.Cell.Picture > len(t.in.Pictures)
	}
	some := false
	for _, c := range n.Cells {
		switch {
		case t.spareWindow(c):
			some = true
		case c.Split != "" || c.Cell.Content != nil || c.Cell.Picture > 0:
			return false
		}
	}
	return some
}

// leastOf is the least share (0-1) of a region in its split: where a picture gets what
// the words leave, enough to show something.
func (n *Node) leastOf(left bool) float64 {
	switch {
	case n.Cell != nil && n.Cell.Min > 0:
		return n.Cell.Min
	case left && n.windows():
		return leftToPictures
	}
	return 0
}

const leftToPictures = 0.36

// windows reports whether a region has windows for pictures.
func (n *Node) windows() bool {
	if n.Split != "" {
		return slices.ContainsFunc(n.Cells, (*Node).windows)
	}
	return n.Cell.Picture > 0 && n.Cell.Content == nil
}

func (t *trial) placeSplit(n *Node, r region) bool {
	along := r.safe.H
	if n.Split == "x" {
		along = r.safe.W
	}
	var cells []*Node
	var sizes []float64
	weights, fixed := 0.0, 0.0
	for i := range n.Cells {
		if t.rtl && n.Split == "x" { // read from the other side
			i = len(n.Cells) - 1 - i
		}
		c, share := n.Cells[i], float64(n.At[i])
		if t.collapses(c) {
			continue
		}
		if t.st.lean > 0 && c.holds("headline") {
			share *= t.st.lean
		}
		cells, sizes = append(cells, c), append(sizes, share)
		weights += share
	}
	sub := func(i int, from, size float64) region {
		first, last := i == 0, i == len(cells)-1
		c := r
		if n.Split == "y" {
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
		} else {
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
		}
		return c
	}
	start := r.safe.Y
	if n.Split == "x" {
		start = r.safe.X
	}
	for i, c := range cells {
		if sizes[i] > 0 {
			continue
		}
		// fit: grow until the content, with its padding and around any
		// rectangle to keep out of, has the height it needs
		h := 2 * t.margin
		for range 4 {
			from := start
			if i == len(cells)-1 {
				from = start + along - h
			}
			rect := t.contentRect(c.Cell, sub(i, from, h))
			size, ok := t.measure(c.Cell.Content, rect.W)
			if !ok {
				return false
			}
			if rect.H >= size.h-0.01 {
				break
			}
			h += math.Ceil(size.h - rect.H)
		}
		if weights == 0 && i == len(cells)-1 {
			h = along - fixed
		}
		sizes[i] = -h
		fixed += h
	}
	rest := along - fixed
	if rest < 0 {
		return false
	}
	from := start
	for i, c := range cells {
		size := -sizes[i]
		if sizes[i] > 0 {
			size = rest * sizes[i] / weights
			if size < t.least(c.leastOf(fixed > 0))*along-0.5 {
				return false
			}
		}
		end := math.Round(from + size)
		if i == len(cells)-1 {
			end = start + along
		}
		part := sub(i, from, end-from)
		var before, after *Node
		if i > 0 {
			before = cells[i-1]
		}
		if i < len(cells)-1 {
			after = cells[i+1]
		}
		t.cover(&part, before, after, n.Split)
		if !t.placeRegion(c, part) {
			return false
		}
		from = end
	}
	return true
}

// least is the least share of a cell or frame, less where it gives way to the
// headline.
func (t *trial) least(share float64) float64 { return share / math.Max(1, t.st.lean) }

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
	rect := spec.Rect{X: x0, Y: y0, W: math.Max(0, x1-x0), H: math.Max(0, y1-y0)}
	for _, k := range t.in.Placement.KeepOuts() {
		rect = cutAround(rect, spec.Rect{X: k.X - t.unit, Y: k.Y - t.unit, W: k.W + 2*t.unit, H: k.H + 2*t.unit})
	}
	return rect
}

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

func (t *trial) placeCell(c *Cell, r region) bool {
	t.here = r
	if c.On != nil && c.Picture <= len(t.in.Pictures) && c.Content != nil && t.present(c.Content) {
		return t.placeOn(c, r)
	}
	if c.Picture > 0 {
		c = t.anchored(c, r)
		t.coverCard(c, &r)
	}
	t.paintCell(c, r)
	if c.Content == nil || !t.present(c.Content) {
		return true
	}
	rect := t.contentRect(c, r)
	size, ok := t.measure(c.Content, rect.W)
	if !ok || size.h > rect.H+0.01 {
		return false
	}
	return t.placeAligned(c.Content, rect, size, c.Seat, t.away(c))
}

// away resolves a cell's vertical alignment: "away" leaves the subject of the
// picture under it uncovered.
func (t *trial) away(c *Cell) string {
	v := c.Content.V
	if v != "away" {
		return v
	}
	if c.Picture > 0 && c.Picture <= len(t.in.Pictures) && t.in.Pictures[c.Picture-1].Focus[1] > 0.5 {
		return "start"
	}
	return "end"
}

// placeAligned puts content into a rectangle that may be higher than it.
func (t *trial) placeAligned(n *Node, r spec.Rect, size box, seat colourway.Seat, v string) bool {
	if n.Fill || v == "spread" {
		return t.place(n, r, seat)
	}
	at := spec.Rect{X: r.X, Y: r.Y, W: r.W, H: size.h}
	switch v {
	case "center":
		at.Y += (r.H - size.h) / 2
	case "end":
		at.Y += r.H - size.h
	}
	return t.place(n, at, seat)
}

// align is how content is set here.
func (t *trial) align() string {
	if t.centred {
		return "center"
	}
	return t.in.Layout.Align
}

// side is a side of a layout as it lies here: left and right change places where the
// piece reads from right to left.
func (t *trial) side(s string) string {
	if t.rtl {
		switch s {
		case "left":
			return "right"
		case "right":
			return "left"
		}
	}
	return s
}

// startX is where something w px wide begins to read in a rectangle.
func (t *trial) startX(r spec.Rect, w float64) float64 {
	switch {
	case t.align() == "center":
		return r.X + (r.W-w)/2
	case t.rtl:
		return r.Right() - w
	}
	return r.X
}

// inTheMiddle places content in the middle of its shape, whatever the layout's
// own alignment.
func (t *trial) inTheMiddle(n *Node, r spec.Rect, seat colourway.Seat) bool {
	was := t.centred
	t.centred = true
	ok := t.place(n, r, seat)
	t.centred = was
	return ok
}

// present reports whether a node has anything to show.
func (t *trial) present(n *Node) bool {
	shown := func(slot string) bool { return t.words(slot) != "" }
	if len(n.If) > 0 && !slices.ContainsFunc(n.If, shown) || slices.ContainsFunc(n.Unless, shown) {
		return false
	}
	some := func(list []*Node) bool {
		for _, c := range list {
			if t.present(c) {
				return true
			}
		}
		return false
	}
	switch n.kind() {
	case "stack":
		return some(n.Stack)
	case "row":
		return some(n.Row)
	case "card":
		return t.present(n.Card.Content) || (n.Card.Stub != nil && t.present(n.Card.Stub))
	case "words":
		for _, s := range n.Words {
			if t.words(s) != "" {
				return true
			}
		}
		return false
	case "text":
		return t.words(n.Text) != ""
	case "button":
		return t.words("callToAction") != ""
	case "logo":
		return t.in.shows("logo") && !t.st.dropped["logo"] && (len(t.in.Kit.Logos) > 0 || t.in.Words["businessName"] != "")
	case "frame":
		return n.Frame.Picture <= len(t.in.Pictures) || n.Frame.Portrait && t.in.Portrait != nil || n.Frame.Shape == "arch"
	case "figure":
		return t.words(n.Figure) != ""
	case "rule":
		return t.in.Manner.Lines != "none"
	case "mark":
		return true
	}
	return false
}

// words is the copy of a slot as it is shown now.
func (t *trial) words(slot string) string {
	switch {
	case t.st.dropped[slot], t.st.dropped[t.in.With[slot]]:
		return ""
	case slot == "website" && !t.in.shows("website"):
		return ""
	case slot == "headline":
		s := t.in.headline(t.st)
		if t.st.cut != 0 && s != "" {
			s = cutWords(s, t.st.cut)
		}
		return t.cased(slot, s)
	}
	s := t.in.Words[slot]
	if (t.class == spec.Ribbon || t.in.Placement.Tiny()) && (slot == "lines" || slot == "facts") {
		s = strings.ReplaceAll(s, "\n", " · ") // no room for one below the other
	}
	return t.cased(slot, s)
}

func (t *trial) cased(slot, s string) string {
	if t.in.Types.Levels[levelOf(slot)].Upper {
		return strings.ToUpper(s)
	}
	return s
}

// levelOf is the type level a slot is set in.
func levelOf(slot string) brand.Level {
	switch slot {
	case "headline":
		return brand.Headline
	case "subheading", "when", "where", "offer", "quote", "businessName":
		return brand.Subheading
	case "callToAction":
		return brand.Button
	case "website", "tagline", "person":
		return brand.Caption
	}
	return brand.Body
}

// result turns the trial into a scene.
func (t *trial) result(dropped []string) Result {
	p := t.in.Placement
	s := &scene.Scene{W: p.Width, H: p.Height}
	s.Parts = append(s.Parts, scene.Part{Slot: "ground", Kind: scene.KindShape, Box: p.Canvas(), Fill: t.base()})
	t.ornament()
	joinFlats(t.shapes)
	for _, layer := range [][]scene.Part{t.under, t.shapes, t.cards, t.content} {
		s.Parts = append(s.Parts, layer...)
	}
	r := Result{Scene: s, Dropped: dropped, worth: t.worth()}
	if t.st.cut != 0 || t.st.short {
		r.Shortened = []string{"headline"}
	}
	// what the tree has no place for is left out as well
	for _, slot := range dropOrder {
		drawn := func(p scene.Part) bool { return p.Slot == slot || slot == "logo" && p.Slot == "businessName" }
		if t.in.shows(slot) && !slices.Contains(dropped, slot) && !slices.ContainsFunc(s.Parts, drawn) && (slot != "logo" || len(t.in.Kit.Logos) > 0) {
			r.Dropped = append(r.Dropped, slot)
		}
	}
	return r
}
