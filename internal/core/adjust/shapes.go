package adjust

import (
	"math"
	"strings"

	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// kappa is how far the handles of a Bezier curve stand off for a quarter of a circle.
const kappa = 0.5522847498

// FramePath is the outline of a frame in a box as absolute path data; "" for one there is
// not. Corners are measured in the short side of the piece, px.
func FramePath(name string, r spec.Rect, short float64) string {
	least := math.Min(r.W, r.H)
	switch name {
	case "rectangle":
		return poly(r, 0, 0, 1, 0, 1, 1, 0, 1)
	case "rounded":
		d := math.Min(0.06*short, least/2)
		return corners(r, d, d, d, d)
	case "circle":
		c := spec.Rect{X: r.X + (r.W-least)/2, Y: r.Y + (r.H-least)/2, W: least, H: least}
		return corners(c, least/2, least/2, least/2, least/2)
	case "arch":
		d := math.Min(r.W/2, r.H)
		return corners(r, d, d, 0, 0)
	case "leaf":
		d := least / 2
		return corners(r, d, 0, d, 0)
	case "ticket":
		return ticket(r, 0.09*least)
	}
	return ""
}

type pen struct{ strings.Builder }

func (p *pen) to(verb string, xy ...float64) *pen {
	p.WriteString(verb)
	for i, v := range xy {
		if i > 0 {
			p.WriteByte(' ')
		}
		p.WriteString(typeset.Num(v))
	}
	return p
}

// corners is a rectangle whose corners are quarters of circles: top left, top right,
// bottom right, bottom left, in px.
func corners(r spec.Rect, tl, tr, br, bl float64) string {
	p := &pen{}
	k := 1 - kappa
	p.to("M", r.X+tl, r.Y).to("L", r.Right()-tr, r.Y).to("C", r.Right()-k*tr, r.Y, r.Right(), r.Y+k*tr, r.Right(), r.Y+tr)
	p.to("L", r.Right(), r.Bottom()-br).to("C", r.Right(), r.Bottom()-k*br, r.Right()-k*br, r.Bottom(), r.Right()-br, r.Bottom())
	p.to("L", r.X+bl, r.Bottom()).to("C", r.X+k*bl, r.Bottom(), r.X, r.Bottom()-k*bl, r.X, r.Bottom()-bl)
	p.to("L", r.X, r.Y+tl).to("C", r.X, r.Y+k*tl, r.X+k*tl, r.Y, r.X+tl, r.Y).to("Z")
	return p.String()
}

// ticket is a rectangle with half a circle bitten out of its left and right side.
func ticket(r spec.Rect, bite float64) string {
	p := &pen{}
	m := r.Y + r.H/2
	k := kappa * bite
	p.to("M", r.X, r.Y).to("L", r.Right(), r.Y).to("L", r.Right(), m-bite)
	p.to("C", r.Right()-k, m-bite, r.Right()-bite, m-k, r.Right()-bite, m).to("C", r.Right()-bite, m+k, r.Right()-k, m+bite, r.Right(), m+bite)
	p.to("L", r.Right(), r.Bottom()).to("L", r.X, r.Bottom()).to("L", r.X, m+bite)
	p.to("C", r.X+k, m+bite, r.X+bite, m+k, r.X+bite, m).to("C", r.X+bite, m-k, r.X+k, m-bite, r.X, m-bite).to("Z")
	return p.String()
}

// poly is a polygon, its corners in fractions of a box.
func poly(r spec.Rect, xy ...float64) string {
	p := &pen{}
	for i := 0; i+1 < len(xy); i += 2 {
		verb := "L"
		if i == 0 {
			verb = "M"
		}
		p.to(verb, r.X+xy[i]*r.W, r.Y+xy[i+1]*r.H)
	}
	return p.to("Z").String()
}

// points of a burst, and how deep they are cut in.
const (
	burstPoints = 16
	burstDepth  = 0.82
)

// ShapePath is the outline of an added shape in a box as absolute path data; "" for those
// that are plain rectangles or are not there.
func ShapePath(name string, r spec.Rect) string {
	switch name {
	case "circle":
		return corners(r, math.Min(r.W, r.H)/2, math.Min(r.W, r.H)/2, math.Min(r.W, r.H)/2, math.Min(r.W, r.H)/2)
	case "arrow":
		return poly(r, 0, 0.32, 0.62, 0.32, 0.62, 0, 1, 0.5, 0.62, 1, 0.62, 0.68, 0, 0.68)
	case "burst":
		var xy []float64
		for i := range 2 * burstPoints {
			d := 0.5
			if i%2 == 1 {
				d *= burstDepth
			}
			sin, cos := math.Sincos(float64(i) * math.Pi / burstPoints)
			xy = append(xy, 0.5+d*sin, 0.5-d*cos)
		}
		return poly(r, xy...)
	case "wave":
		p := &pen{}
		y := r.Y + 0.3*r.H
		p.to("M", r.X, y).to("C", r.X+0.25*r.W, r.Y-0.1*r.H, r.X+0.25*r.W, r.Y-0.1*r.H, r.X+0.5*r.W, y)
		return p.to("C", r.X+0.75*r.W, r.Y+0.7*r.H, r.X+0.75*r.W, r.Y+0.7*r.H, r.Right(), y).to("L", r.Right(), r.Bottom()).to("L", r.X, r.Bottom()).to("Z").String()
	case "corner":
		return poly(r, 0, 0, 1, 0, 0, 1)
	}
	return ""
}
