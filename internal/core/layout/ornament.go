package layout

import (
	"math"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/motif"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// What is set by eye on sheets of words alone.
const (
	cutLeast = 0.26 // of a flat's short side: a smaller cut shape says nothing
	cutMost  = 0.66
	strewnBy = 0.16 // most opacity of a pattern under words
	rounded  = 0.02 // how much stronger it may be drawn

	giantBy    = 0.17 // the same of a symbol behind them: it is one shape
	giantShort = 1.3  // its size over the flat's short side
	giantLong  = 0.85 // and its long one, at least
	giantIn    = 0.72 // of it that is in view either way
	cornerStep = 0.02 // how much less hidden (0-1) it is worth to be in a later corner
)

// cut are shapes in the corner of a flat that is farthest from what stands on it.
func (t *trial) cut(flat scene.Part) []scene.Part {
	b := flat.Box
	short := math.Min(b.W, b.H)
	best, size := 0, 0.0
	for corner := range 4 {
		free := cutMost * short
		for _, layer := range [][]scene.Part{t.cards, t.content} {
			for _, p := range layer {
				free = math.Min(free, t.cutRoom(b, corner, p.Box)-1.2*t.unit)
			}
		}
		if free > size+0.5 {
			best, size = corner, free
		}
	}
	if size < cutLeast*short {
		return nil
	}
	size = math.Floor(size)
	outer, inner := t.cutColours(flat.Fill)
	x, y, sx, sy := b.X, b.Y, 1.0, 1.0
	if best%2 == 1 {
		x, sx = b.Right(), -1
	}
	if best/2 == 1 {
		y, sy = b.Bottom(), -1
	}
	part := func(r float64, fill colour.RGB) scene.Part {
		return scene.Part{
			Slot: "ornament", Kind: scene.KindShape, Path: t.cutPath(x, y, sx*r, sy*r), Fill: fill,
			Box: spec.Rect{X: math.Min(x, x+sx*r), Y: math.Min(y, y+sy*r), W: r, H: r},
		}
	}
	return []scene.Part{part(size, outer), part(math.Floor(0.56*size), inner)}
}

// cutRoom is how large a shape in a corner may be before it touches a box.
func (t *trial) cutRoom(b spec.Rect, corner int, o spec.Rect) float64 {
	dx, dy := o.X-b.X, o.Y-b.Y
	if corner%2 == 1 {
		dx = b.Right() - o.Right()
	}
	if corner/2 == 1 {
		dy = b.Bottom() - o.Bottom()
	}
	dx, dy = math.Max(0, dx), math.Max(0, dy)
	switch t.cutFamily() {
	case motif.Slanted:
		return dx + dy
	case motif.Upright:
		return (dx + dy) / (1 + 1.0/steps)
	}
	return math.Hypot(dx, dy)
}

// cutFamily is the family of a cut shape: of the kit's sign, else of the brand's corners.
func (t *trial) cutFamily() motif.Family {
	switch f := t.family(); {
	case f != motif.Unknown:
		return f
	case t.in.Manner.Corners == "sharp":
		return motif.Slanted
	}
	return motif.Curved
}

// cutPath is a shape in a corner at x, y, reaching up to rx and ry px into the flat: a straight
// cut, steps or a quarter of a circle.
func (t *trial) cutPath(x, y, rx, ry float64) string {
	p := "M" + num(x) + " " + num(y) + "L" + num(x+rx) + " " + num(y)
	switch t.cutFamily() {
	case motif.Slanted:
		if rise := math.Tan(t.slope()); rise < 1 {
			ry *= rise
		} else {
			rx /= rise
		}
		return "M" + num(x) + " " + num(y) + "L" + num(x+rx) + " " + num(y) + "L" + num(x) + " " + num(y+ry) + "Z"
	case motif.Upright:
		return stepsPath(x, y, rx, ry)
	}
	sweep := "1"
	if (rx < 0) != (ry < 0) {
		sweep = "0"
	}
	r := num(math.Abs(rx))
	return p + "A" + r + " " + r + " 0 0 " + sweep + " " + num(x) + " " + num(y+ry) + "Z"
}

// cutColours are two colours told apart from a flat and from each other, the
// colourway's before the kit's; the button's comes last, for it means "do this".
func (t *trial) cutColours(flat colour.RGB) (outer, inner colour.RGB) {
	var list []colour.RGB
	for _, s := range []colourway.Seat{colourway.Band, colourway.Panel, colourway.Ground, colourway.Rule} {
		list = append(list, t.colour(s))
	}
	for _, c := range t.in.Kit.Colours() {
		if c.Value != t.colour(colourway.Button) {
			list = append(list, c.Value)
		}
	}
	list = append(list, t.colour(colourway.Button), t.colour(colourway.InkOn(colourway.Ground)))
	outer, inner = t.patternColour(flat, false), flat
	for i, c := range list {
		if colour.DeltaE(c, flat) >= 9 {
			outer = c
			for _, d := range list[i+1:] {
				if colour.DeltaE(d, flat) >= 9 && colour.DeltaE(d, outer) >= 9 {
					return outer, d
				}
			}
			return outer, flat
		}
	}
	return outer, inner
}

// strewn covers a flat with the brand's pattern, as faint as the words on it need.
func (t *trial) strewn(flat scene.Part) []scene.Part {
	fill := t.patternColour(flat.Fill, false)
	alpha := t.faint(flat, fill, strewnBy)
	if alpha == 0 {
		return nil
	}
	b := flat.Box
	part := scene.Part{Slot: "ornament", Kind: scene.KindShape, Box: b, Fill: fill, Alpha: alpha, Clip: roundedPath(b, 0)}
	u := math.Max(3, math.Min(b.W, b.H)/30)
	if tiles := t.repeated(b, u); tiles != nil {
		tiles.Fill, tiles.Alpha = fill, alpha
		return []scene.Part{*tiles}
	}
	switch t.in.Manner.Corners {
	case "sharp":
		part.Path = bars(b, u)
	case "round":
		part.Path = dots(b, 1.1*u, 4*u, 0)
	default:
		part.Path = dots(b, 0.8*u, 4*u, 0)
	}
	return []scene.Part{part}
}

// giant is the kit's sign, or the piece's figure, behind the words of a flat: much larger than they
// are and cropped by two of its edges, as faint as they need; nil where there is none.
func (t *trial) giant(flat scene.Part) []scene.Part {
	symbol := t.giantArt()
	if symbol == nil {
		return nil
	}
	fill := t.patternColour(flat.Fill, false)
	alpha := t.faint(flat, fill, giantBy)
	if alpha == 0 {
		return nil
	}
	b, a := flat.Box, symbol.Aspect()
	h := math.Max(giantShort*math.Min(b.W, b.H), giantLong*math.Max(b.W, b.H)) / math.Max(1, a)
	at := spec.Rect{X: b.Right() - giantIn*a*h, Y: b.Bottom() - giantIn*h, W: a * h, H: h}
	best := math.Inf(1)
	for corner := range 4 { // where it is seen beside the words
		r := at
		if corner%2 == 1 {
			r.X = b.X - (1-giantIn)*r.W
		}
		if corner/2 == 1 {
			r.Y = b.Y - (1-giantIn)*r.H
		}
		hidden := cornerStep * float64(corner)
		for _, p := range t.content {
			hidden += r.Intersect(b).Share(p.Box)
		}
		if hidden < best {
			best, at = hidden, r
		}
	}
	seen := at.Intersect(b)
	art := *symbol
	k := art.View[2] / at.W
	art.View = [4]float64{art.View[0] + (seen.X-at.X)*k, art.View[1] + (seen.Y-at.Y)*k, seen.W * k, seen.H * k}
	return []scene.Part{{Slot: "ornament", Kind: scene.KindShape, Box: seen, Art: &art, Fill: fill, Alpha: alpha}}
}

// faint is the greatest opacity up to most, 0-1, of a colour behind the words of a flat with which
// they read; they stand on it then. 0 where there is none worth drawing.
func (t *trial) faint(flat scene.Part, fill colour.RGB, most float64) float64 {
	alpha := most
	for ; alpha > 0.02; alpha *= 0.8 {
		ground := fill.Over(flat.Fill, alpha+rounded)
		reads := true
		for _, p := range t.content {
			for _, ink := range inksOn(p, flat.Fill) {
				reads = reads && colour.Contrast(ink, ground) >= math.Min(onContrast, colour.Contrast(ink, flat.Fill))
			}
		}
		if reads {
			break
		}
	}
	if alpha <= 0.02 {
		return 0
	}
	ground := fill.Over(flat.Fill, alpha+rounded)
	t.ground(0, flat.Fill, func(ink colour.RGB) (float64, colour.RGB) {
		if v := colour.Contrast(ink, ground); v < colour.Contrast(ink, flat.Fill) {
			return v, ground
		}
		return colour.Contrast(ink, flat.Fill), flat.Fill
	})
	return alpha
}
