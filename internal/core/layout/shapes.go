package layout

import (
	"fmt"
	"math"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

var num = typeset.Num

// paintCell draws a cell's ground: its picture, or its seat's colour with the
// shaped edge. A cell made for a picture that has none is filled with the band
// colour and contour lines, so the layout's idea survives.
func (t *trial) paintCell(c *Cell, r region) {
	b := r.bleed
	if c.Picture > 0 && (c.On == nil || c.Picture <= len(t.in.Pictures)) {
		if c.Picture <= len(t.in.Pictures) {
			seen := spec.Rect{X: b.X + r.cover[3], Y: b.Y + r.cover[0], W: b.W - r.cover[1] - r.cover[3], H: b.H - r.cover[0] - r.cover[2]}
			at, radius := t.framed(b)
			if at != b {
				t.under = append(t.under, scene.Part{Slot: "ground", Kind: scene.KindShape, Box: b, Fill: t.colour(c.Seat)})
			}
			from := len(t.under)
			t.under = t.drawPicture(t.under, c.Picture, at, seen.Intersect(at))
			for i := from; radius > 0 && i < len(t.under); i++ {
				t.under[i].Clip = roundedPath(at, radius)
			}
			return
		}
		t.under = append(t.under, scene.Part{Slot: "band", Kind: scene.KindShape, Box: b, Fill: t.colour(colourway.Band)})
		t.contours(b)
		return
	}
	if c.Pattern != "" {
		t.patterns = append(t.patterns, pattern{c.Pattern, b, len(t.under)})
		return
	}
	part := scene.Part{Slot: string(c.Seat), Kind: scene.KindShape, Box: b, Fill: t.colour(c.Seat)}
	if c.Edge != nil && meets(r, t.side(c.Edge.Side)) {
		edge := *c.Edge
		edge.Side, edge.Kind = t.side(edge.Side), t.edgeKind(edge.Kind)
		part.Path, part.Box = edgePath(b, edge, t.edgeDepth(c.Edge), t.unit, t.slope())
	}
	t.shapes = append(t.shapes, part)
}

func (t *trial) edgeDepth(e *Edge) float64 {
	canvas := t.in.Placement.Canvas()
	return math.Round(e.Depth * math.Min(canvas.W, canvas.H))
}

// cover notes on a picture's region what its neighbours' edges will hide, on
// average.
func (t *trial) cover(r *region, before, after *Node, axis string) {
	hide := func(n *Node, side string, at int) {
		if n != nil && n.Cell != nil && n.Cell.Edge != nil && t.side(n.Cell.Edge.Side) == side {
			r.cover[at] = t.edgeDepth(n.Cell.Edge) / 2
		}
	}
	if axis == "y" {
		hide(before, "bottom", 0)
		hide(after, "top", 2)
		return
	}
	hide(before, "right", 3)
	hide(after, "left", 1)
}

// joint is how far flats of one colour that meet reach under one another, px: a px of the
// screen on the smallest preview.
const joint = 12

// joinFlats lets flats of one colour that meet along an edge overlap: on a screen that
// shows a piece smaller, what lies under them would shine through as a hairline.
func joinFlats(shapes []scene.Part) {
	flat := func(p scene.Part) bool {
		return p.Kind == scene.KindShape && p.Path == "" && p.Stroke == 0 && p.Alpha == 0 && p.Fade == nil && p.Radius == 0
	}
	for i := range shapes {
		for k := range shapes {
			if i != k && flat(shapes[i]) && flat(shapes[k]) && shapes[i].Fill == shapes[k].Fill {
				join(&shapes[i].Box, shapes[k].Box)
			}
		}
	}
}

// join lets a box grow a little into one it touches: the shorter side grows into the
// longer one, so that nothing else is covered.
func join(a *spec.Rect, b spec.Rect) {
	within := func(a0, a1, b0, b1 float64) bool { return a0 >= b0-0.01 && a1 <= b1+0.01 }
	if by := math.Min(joint, b.W); within(a.Y, a.Bottom(), b.Y, b.Bottom()) {
		if math.Abs(a.Right()-b.X) < 0.01 {
			a.W += by
		} else if math.Abs(b.Right()-a.X) < 0.01 {
			a.X, a.W = a.X-by, a.W+by
		}
	}
	if by := math.Min(joint, b.H); within(a.X, a.Right(), b.X, b.Right()) {
		if math.Abs(a.Bottom()-b.Y) < 0.01 {
			a.H += by
		} else if math.Abs(b.Bottom()-a.Y) < 0.01 {
			a.Y, a.H = a.Y-by, a.H+by
		}
	}
}

func meets(r region, side string) bool {
	switch side {
	case "top":
		return r.top
	case "right":
		return r.right
	case "bottom":
		return r.bottom
	}
	return r.left
}

// edgePath is the rectangle b with one side shaped, bulging outwards by at most
// depth px. Every control point lies outside b, so b stays covered. slope is the angle, in
// radians, of what may have any.
func edgePath(b spec.Rect, e Edge, depth, unit, slope float64) (string, spec.Rect) {
	box := b
	length := b.W
	// (s, d): s runs 0-1 along the side, d outwards in px
	var at func(s, d float64) (x, y float64)
	var far [4]float64 // the two corners on the other side, in the order the path goes on
	switch e.Side {
	case "top":
		at = func(s, d float64) (x, y float64) { return b.X + s*b.W, b.Y - d }
		far = [4]float64{b.Right(), b.Bottom(), b.X, b.Bottom()}
		box.Y, box.H = b.Y-depth, b.H+depth
	case "bottom":
		at = func(s, d float64) (x, y float64) { return b.X + s*b.W, b.Bottom() + d }
		far = [4]float64{b.Right(), b.Y, b.X, b.Y}
		box.H = b.H + depth
	case "left":
		at = func(s, d float64) (x, y float64) { return b.X - d, b.Y + s*b.H }
		far = [4]float64{b.Right(), b.Bottom(), b.Right(), b.Y}
		box.X, box.W = b.X-depth, b.W+depth
		length = b.H
	default:
		at = func(s, d float64) (x, y float64) { return b.Right() + d, b.Y + s*b.H }
		far = [4]float64{b.X, b.Bottom(), b.X, b.Y}
		box.W = b.W + depth
		length = b.H
	}
	// into one buffer: edges are drawn anew for every trial of the search
	path := make([]byte, 0, 256)
	to := func(command byte, s, d float64) {
		x, y := at(s, d)
		path = append(path, command)
		path = append(typeset.AppendNum(path, x), ' ')
		path = typeset.AppendNum(path, y)
	}
	curve := func(s1, d1, s2, d2, s, d float64) {
		to('C', s1, d1)
		to(' ', s2, d2)
		to(' ', s, d)
	}
	switch e.Kind {
	case "slant":
		to('M', 0, 0)
		to('L', 1, depth)
	case "tear":
		// perforation: half circles biting into a strip of the edge's depth
		n := math.Max(3, math.Round(length/(3.2*unit+1)))
		to('M', 0, depth)
		for i := range int(n) {
			s0, s1 := (float64(i)+0.25)/n, (float64(i)+0.75)/n
			to('L', s0, depth)
			curve(s0, 0, s1, 0, s1, depth)
		}
		to('L', 1, depth)
	case "dome":
		to('M', 0, 0)
		curve(0.18, 0.62*depth, 0.34, depth, 0.5, depth)
		curve(0.66, depth, 0.82, 0.62*depth, 1, 0)
	case "blade": // it rises as the sign does and falls to the other end
		to('M', 0, 0)
		to('L', math.Max(0.03, math.Min(0.5, depth/math.Tan(slope)/length)), depth)
		to('L', 1, 0)
	case "steps":
		to('M', 0, depth)
		for i := range steps - 1 {
			s := float64(i+1) / steps
			to('L', s, depth*float64(steps-1-i)/(steps-1))
			to('L', s, depth*float64(steps-2-i)/(steps-1))
		}
		to('L', 1, 0)
	default: // shore: a long swell and a short one
		to('M', 0, 0.22*depth)
		curve(0.14, 1.0*depth, 0.3, 1.0*depth, 0.5, 0.56*depth)
		curve(0.66, 0.2*depth, 0.8, 0.02*depth, 1, 0.5*depth)
	}
	for i := 0; i < len(far); i += 2 {
		path = append(typeset.AppendNum(append(path, 'L'), far[i]), ' ')
		path = typeset.AppendNum(path, far[i+1])
	}
	return string(append(path, 'Z')), box
}

// contours draws quiet lines, in the family of the kit's sign, or like those of a map.
func (t *trial) contours(b spec.Rect) {
	line := t.colour(colourway.Ground)
	if colour.DeltaE(line, t.colour(colourway.Band)) < 6 {
		line = t.colour(colourway.Panel)
	}
	stroke := math.Max(1, t.unit*0.3)
	step := math.Max(6, math.Min(b.W, b.H)/7)
	if path := t.signLines(b, step); path != "" {
		t.under = append(t.under, scene.Part{Slot: "band", Kind: scene.KindShape, Box: b, Path: path, Clip: roundedPath(b, 0), Fill: line, Stroke: t.signWeight(step)})
		return
	}
	var p strings.Builder
	// stay inside b: the swell's amplitude is kept from its edges
	for y := b.Y + step; y < b.Bottom()-step*0.7; y += step {
		a := step * 0.55
		p.WriteString("M" + num(b.X) + " " + num(y) +
			"C" + num(b.X+b.W*0.2) + " " + num(y-a) + " " + num(b.X+b.W*0.3) + " " + num(y-a) + " " + num(b.X+b.W*0.5) + " " + num(y) +
			"S" + num(b.X+b.W*0.8) + " " + num(y+a) + " " + num(b.Right()) + " " + num(y-a*0.4))
	}
	if p.Len() == 0 {
		return
	}
	t.under = append(t.under, scene.Part{Slot: "band", Kind: scene.KindShape, Box: b, Path: p.String(), Fill: line, Stroke: stroke})
}

// drawPicture adds picture n, cut to b, to a layer. A logo or a page that would be cut stands there
// whole, on its own ground.
func (t *trial) drawPicture(layer []scene.Part, n int, b, seen spec.Rect) []scene.Part {
	if n > len(t.in.Pictures) || b.Empty() {
		return layer
	}
	part, p := t.picture(n, b, seen), t.in.Pictures[n-1]
	whole, cut := p.Whole(part.Crop)
	if !cut || seen.Empty() {
		return append(layer, part)
	}
	if ground, err := colour.Parse(p.Subjects[0].Ground); err == nil {
		layer = append(layer, scene.Part{Slot: scene.PictureGround, Kind: scene.KindShape, Box: b, Fill: ground})
	}
	part.Tone, part.Crop, part.Box = scene.Tone{}, whole, within(seen, whole.W/whole.H)
	return append(layer, part)
}

// picture is picture n, cut to b; its subject goes to the middle of the part that is seen, what
// nothing covers.
func (t *trial) picture(n int, b, seen spec.Rect) scene.Part {
	p := t.in.Pictures[n-1]
	slot := "picture"
	if n > 1 {
		slot = fmt.Sprintf("picture%d", n)
	}
	return t.inManner(scene.Part{
		Slot: slot, Kind: scene.KindPicture, Box: b, Picture: p.Hash,
		Crop: p.CropFor(photo.Frame{W: b.W, H: b.H, Seen: [4]float64{(seen.X - b.X) / b.W, (seen.Y - b.Y) / b.H, seen.W / b.W, seen.H / b.H}}),
	}, n)
}

// drawnIn is how much of its room a logo or a page takes that stands whole in a picture's place.
const drawnIn = 0.86

// within is a box of an aspect in the middle of another.
func within(b spec.Rect, aspect float64) spec.Rect {
	w := drawnIn * math.Min(b.W, b.H*aspect)
	h := w / aspect
	return spec.Rect{X: math.Round(b.X + (b.W-w)/2), Y: math.Round(b.Y + (b.H-h)/2), W: math.Round(w), H: math.Round(h)}
}
