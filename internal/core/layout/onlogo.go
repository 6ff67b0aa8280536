package layout

import (
	"math"
	"slices"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// logoIn is the logo among a cell's content that is shown, nil for none.
func (t *trial) logoIn(n *Node) *Node {
	if n.kind() == "logo" && t.present(n) && len(t.in.Kit.Logos) > 0 {
		return n
	}
	if !t.present(n) {
		return nil
	}
	if n.SignOff != "" && t.some([]*Node{{Logo: "wide"}}) && len(t.in.Kit.Logos) > 0 {
		return t.mark()
	}
	for _, c := range slices.Concat(n.Stack, n.Row) {
		if logo := t.logoIn(c); logo != nil {
			return logo
		}
	}
	return nil
}

// placeWithLogo draws content with a logo on a picture. The logo has a tone that reads
// on all it may stand on; where there is none it leaves the words for a quiet corner of
// the picture, and where there is none of those it gets a plate.
func (t *trial) placeWithLogo(c *Cell, r region, s arrangement, logo *Node) bool {
	defer func() { t.logoOn, t.lifted = nil, false }()
	flat, _, _, _ := t.pickLogo(c.Seat, logo.Logo)
	if s.panel.Empty() {
		on := t.veiled(t.boundsUnder(s, s.under), c, s.alpha, 1) // the veil may grow up to its own colour
		t.logoOn = &on
	}
	fit, _, _, _ := t.pickLogo(c.Seat, logo.Logo)
	if fit.Plate {
		t.lifted = true
		if t.placeWithCorner(c, r, logo) {
			return true
		}
		t.lifted = false
	}
	if fit != flat {
		var ok bool
		if s, ok = t.bestStand(c, r); !ok {
			return false
		}
	}
	if !s.panel.Empty() {
		t.logoOn = nil
	}
	_, ok := t.placeStand(c, r, s)
	return ok
}

// veiled is what lies between a picture under a cell's veil of one opacity (0-1) and
// under one of another.
func (t *trial) veiled(b photo.Bounds, c *Cell, from, to float64) photo.Bounds {
	veil := t.colour(c.Seat)
	lo, hi := veil.Over(b.Lo, from), veil.Over(b.Hi, from)
	low, high := veil.Over(b.Lo, to), veil.Over(b.Hi, to)
	b.Lo = colour.RGB{R: min(lo.R, low.R), G: min(lo.G, low.G), B: min(lo.B, low.B)}
	b.Hi = colour.RGB{R: max(hi.R, high.R), G: max(hi.G, high.G), B: max(hi.B, high.B)}
	return b
}

// placeWithCorner draws content without its logo, and the logo in a corner of the
// picture; false, with nothing drawn, where no corner is quiet enough.
func (t *trial) placeWithCorner(c *Cell, r region, logo *Node) bool {
	before := t.placed
	if s, ok := t.bestStand(c, r); ok {
		if cover, ok := t.placeStand(c, r, s); ok {
			if fit, at, on, ok := t.quietCorner(c, r, s, cover, logo); ok {
				t.logoOn = &on
				t.drawLogo(fit, at, c.Seat, "left")
				return true
			}
		}
	}
	t.placed = before
	return false
}

// quietCorner is the least busy corner of a stand's picture where a tone of the logo
// reads on every px, away from words and subjects; on is what is there.
func (t *trial) quietCorner(c *Cell, r region, s arrangement, cover *scene.Part, logo *Node) (fit brand.LogoFit, at spec.Rect, on photo.Bounds, ok bool) {
	room := t.contentRect(c, r)
	if !s.panel.Empty() {
		room = room.Intersect(s.picture.Box.Inset(t.margin))
	}
	picture := t.in.PictureBy(s.picture.Picture)
	taken := append(picture.FacesIn(s.picture.Crop, s.picture.Box), s.at)
	if thing, ok := picture.ThingIn(s.picture.Crop, s.picture.Box); ok {
		taken = append(taken, thing)
	}
	scale := 1.0
	if logo.Scale > 0 {
		scale = logo.Scale
	}
	least := math.Inf(1)
	defer func(was *photo.Bounds) { t.logoOn = was }(t.logoOn)
	for i := range 4 {
		t.logoOn = nil
		_, w, h, _ := t.pickLogo(c.Seat, logo.Logo)
		var box spec.Rect
		var here photo.Bounds
		var f brand.LogoFit
		for range 2 { // another tone can have another shape
			w, h = w*scale, h*scale
			box = spec.Rect{X: room.X, Y: room.Y, W: w, H: h}
			if (i%2 == 1) != t.rtl {
				box.X = room.Right() - w
			}
			if i > 1 {
				box.Y = room.Bottom() - h
			}
			around := box.Inset(-t.unit)
			here = t.veiled(t.boundsUnder(s, around), c, 0, opacityOver(cover, around))
			t.logoOn = &here
			f, w, h, _ = t.pickLogo(c.Seat, logo.Logo)
		}
		clear := math.Max(2*t.unit, f.Logo.ClearSpace*box.H)
		switch {
		case f.Plate, w*scale > box.W+0.5, h*scale > box.H+0.5:
			continue
		case box.H+2*clear > room.H:
			continue
		case slices.ContainsFunc(taken, func(x spec.Rect) bool { return x.Overlaps(box.Inset(-clear), 0) }):
			continue
		}
		if cost := here.Busy + cornerCost*float64(i); cost < least {
			fit, at, on, ok, least = f, box, here, true, cost
		}
	}
	return fit, at, on, ok
}

// opacityOver is the most a part that grades to clear hides of a box, 0-1.
func opacityOver(part *scene.Part, b spec.Rect) float64 {
	if part == nil {
		return 0
	}
	near := func(v, from, to float64) float64 { return math.Max(from, math.Min(to, v)) }
	x, y := b.X+b.W/2, b.Y+b.H/2
	if f := part.Fade; f != nil { // it is strongest where it starts
		x, y = near(f.X0, b.X, b.Right()), near(f.Y0, b.Y, b.Bottom())
	}
	return part.Opacity(x, y)
}

// cornerCost is how much less busy (0-1) a corner must be to be preferred to one named
// before it: the top ones before the lower, where reading starts before where it ends.
const cornerCost = 0.01
