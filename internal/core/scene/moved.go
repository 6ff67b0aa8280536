package scene

import (
	"math"
	"strconv"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// Affine maps points: x' = ax + cy + e, y' = bx + dy + f, in the order of SVG's
// matrix(a b c d e f). A nil one leaves them where they are.
type Affine [6]float64

// Pen is a line along letters.
type Pen struct {
	Fill  colour.RGB
	Width float64 // px, half of it outside the letters
}

// Cast is a copy of letters beside them.
type Cast struct {
	Fill colour.RGB
	X, Y float64 // px
}

// Then is the map that does m first and n after it.
func (m Affine) Then(n Affine) Affine {
	return Affine{
		n[0]*m[0] + n[2]*m[1], n[1]*m[0] + n[3]*m[1],
		n[0]*m[2] + n[2]*m[3], n[1]*m[2] + n[3]*m[3],
		n[0]*m[4] + n[2]*m[5] + n[4], n[1]*m[4] + n[3]*m[5] + n[5],
	}
}

// Shift moves by px.
func Shift(x, y float64) Affine { return Affine{1, 0, 0, 1, x, y} }

// Grow makes larger about the origin; a negative factor mirrors.
func Grow(x, y float64) Affine { return Affine{x, 0, 0, y, 0, 0} }

// Turn turns clockwise, as seen, about the origin by degrees.
func Turn(degrees float64) Affine {
	sin, cos := math.Sincos(degrees * math.Pi / 180)
	return Affine{cos, sin, -sin, cos, 0, 0}
}

// At is where a point goes.
func (m *Affine) At(x, y float64) (float64, float64) {
	if m == nil {
		return x, y
	}
	return m[0]*x + m[2]*y + m[4], m[1]*x + m[3]*y + m[5]
}

// Scale is how many times as large things are made.
func (m *Affine) Scale() float64 {
	if m == nil {
		return 1
	}
	return math.Sqrt(math.Abs(m[0]*m[3] - m[1]*m[2]))
}

// Degrees is how far things are turned clockwise, -180 to 180.
func (m *Affine) Degrees() float64 {
	if m == nil {
		return 0
	}
	if m[0]*m[3]-m[1]*m[2] < 0 { // mirrored: the other axis tells
		return math.Atan2(-m[2], m[3]) * 180 / math.Pi
	}
	return math.Atan2(m[1], m[0]) * 180 / math.Pi
}

// Box is the upright rectangle around where one goes.
func (m *Affine) Box(r spec.Rect) spec.Rect {
	if m == nil {
		return r
	}
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	for _, p := range [][2]float64{{r.X, r.Y}, {r.Right(), r.Y}, {r.X, r.Bottom()}, {r.Right(), r.Bottom()}} {
		x, y := m.At(p[0], p[1])
		x0, y0, x1, y1 = math.Min(x0, x), math.Min(y0, y), math.Max(x1, x), math.Max(y1, y)
	}
	return spec.Rect{X: x0, Y: y0, W: x1 - x0, H: y1 - y0}
}

// Undo is the map back.
func (m *Affine) Undo() *Affine {
	d := m[0]*m[3] - m[1]*m[2]
	out := Affine{m[3] / d, -m[1] / d, -m[2] / d, m[0] / d}
	out[4], out[5] = -(out[0]*m[4] + out[2]*m[5]), -(out[1]*m[4] + out[3]*m[5])
	return &out
}

// Upright reports whether rectangles stay upright.
func (m *Affine) Upright() bool { return m == nil || math.Abs(m[1]) < 1e-9 && math.Abs(m[2]) < 1e-9 }

// Solved is the part's box as it was solved, before it was moved by hand.
func (p *Part) Solved() spec.Rect {
	if p.Moved == nil {
		return p.Box
	}
	return p.Was
}

// Laid is the part's box before a hand changed anything of where and how large it is.
func (p *Part) Laid() spec.Rect {
	if p.Before.W > 0 {
		return p.Before
	}
	return p.Solved()
}

// Move maps the part, after whatever it was moved by before.
func (p *Part) Move(m Affine) {
	if p.Moved == nil {
		p.Was = p.Box
	} else {
		m = p.Moved.Then(m)
	}
	p.Moved = &m
	p.Box = m.Box(p.Was)
}

// wrap opens a group for what was changed by hand, "" for nothing.
func (p *Part) wrap() string {
	s := ""
	if m := p.Moved; m != nil {
		s += ` transform="matrix(`
		for i, v := range m {
			if i > 0 {
				s += " "
			}
			s += strconv.FormatFloat(math.Round(v*1e6)/1e6, 'f', -1, 64)
		}
		s += `)"`
	}
	if p.Sheer > 0 && p.Sheer < 1 {
		s += ` opacity="` + num4(p.Sheer) + `"`
	}
	if s == "" {
		return ""
	}
	return "<g" + s + ">"
}
