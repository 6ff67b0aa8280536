package motif

import (
	"encoding/xml"
	"math"
	"strconv"
	"strings"
)

// Of reads the shape of a mark from SVG markup that was cleaned; what cannot be read is left out,
// and the zero value is of what has no outlines.
func Of(markup string) Shape {
	d := xml.NewDecoder(strings.NewReader("<svg>" + markup + "</svg>"))
	r := reader{}
	open := []state{{matrix: identity}}
	for {
		token, err := d.Token()
		if err != nil {
			return shapeOf(r.strokes)
		}
		switch t := token.(type) {
		case xml.StartElement:
			at := map[string]string{}
			for _, a := range t.Attr {
				at[a.Name.Local] = a.Value
			}
			now := open[len(open)-1].into(t.Name.Local, at)
			open = append(open, now)
			if !now.hidden && len(r.strokes) < mostStrokes {
				r.element(t.Name.Local, at, now)
			}
		case xml.EndElement:
			open = open[:len(open)-1]
		}
	}
}

// mostStrokes is how many runs of outlines are looked at.
const mostStrokes = 20_000

// state is what the elements around one say.
type state struct {
	matrix [6]float64
	hidden bool
	stroke string
	width  float64
}

var identity = [6]float64{1, 0, 0, 1, 0, 0}

func (s state) into(name string, at map[string]string) state {
	switch name {
	case "defs", "clipPath", "mask", "symbol", "pattern", "linearGradient", "radialGradient":
		s.hidden = true
	}
	if v, ok := at["stroke"]; ok {
		s.stroke = v
	}
	if v, err := strconv.ParseFloat(at["stroke-width"], 64); err == nil {
		s.width = v
	}
	if v, ok := at["transform"]; ok {
		s.matrix = times(s.matrix, transform(v))
	}
	return s
}

// transform reads a list of transforms; one that is not known changes nothing.
func transform(s string) [6]float64 {
	out := identity
	for {
		name, rest, ok := strings.Cut(s, "(")
		if !ok {
			return out
		}
		inside, after, _ := strings.Cut(rest, ")")
		s = after
		n := numbers(inside)
		at := func(i int, or float64) float64 {
			if i < len(n) {
				return n[i]
			}
			return or
		}
		m := identity
		switch strings.Trim(name, " ,\n\t") {
		case "matrix":
			if len(n) == 6 {
				copy(m[:], n)
			}
		case "translate":
			m[4], m[5] = at(0, 0), at(1, 0)
		case "scale":
			m[0] = at(0, 1)
			m[3] = at(1, m[0])
		case "rotate":
			sin, cos := math.Sincos(at(0, 0) * math.Pi / 180)
			x, y := at(1, 0), at(2, 0)
			m = [6]float64{cos, sin, -sin, cos, x - cos*x + sin*y, y - sin*x - cos*y}
		case "skewX":
			m[2] = math.Tan(at(0, 0) * math.Pi / 180)
		case "skewY":
			m[1] = math.Tan(at(0, 0) * math.Pi / 180)
		}
		out = times(out, m)
	}
}

func times(a, b [6]float64) [6]float64 {
	return [6]float64{
		a[0]*b[0] + a[2]*b[1], a[1]*b[0] + a[3]*b[1],
		a[0]*b[2] + a[2]*b[3], a[1]*b[2] + a[3]*b[3],
		a[0]*b[4] + a[2]*b[5] + a[4], a[1]*b[4] + a[3]*b[5] + a[5],
	}
}

// reader collects the outlines of elements.
type reader struct {
	strokes  []stroke
	in       state
	at, from point // in the element's own units
}

func (r *reader) element(name string, at map[string]string, in state) {
	r.in = in
	n := func(name string) float64 { v, _ := strconv.ParseFloat(at[name], 64); return v }
	switch name {
	case "path":
		r.path(at["d"])
	case "rect":
		x, y, w, h := n("x"), n("y"), n("width"), n("height")
		rx := math.Max(n("rx"), n("ry"))
		if rx = math.Min(rx, math.Min(w, h)/2); rx > 0 {
			for _, c := range [][2]float64{{x + rx, y + rx}, {x + w - rx, y + rx}, {x + w - rx, y + h - rx}, {x + rx, y + h - rx}} {
				r.ring(c[0], c[1], rx, rx, 0.25)
			}
		}
		if w > 0 && h > 0 {
			r.polyline([]float64{x + rx, y, x + w - rx, y}, false)
			r.polyline([]float64{x + w, y + rx, x + w, y + h - rx}, false)
			r.polyline([]float64{x + w - rx, y + h, x + rx, y + h}, false)
			r.polyline([]float64{x, y + h - rx, x, y + rx}, false)
		}
	case "circle":
		r.ring(n("cx"), n("cy"), n("r"), n("r"), 1)
	case "ellipse":
		r.ring(n("cx"), n("cy"), n("rx"), n("ry"), 1)
	case "line":
		r.polyline([]float64{n("x1"), n("y1"), n("x2"), n("y2")}, false)
	case "polyline", "polygon":
		r.polyline(numbers(at["points"]), name == "polygon")
	}
}

// add adds a run of points in the element's own units.
func (r *reader) add(curved bool, points ...point) {
	m := r.in.matrix
	out := stroke{curved: curved}
	for _, p := range points {
		out.points = append(out.points, point{m[0]*p.x + m[2]*p.y + m[4], m[1]*p.x + m[3]*p.y + m[5]})
	}
	if r.in.stroke != "" && r.in.stroke != "none" {
		if out.width = r.in.width; out.width == 0 {
			out.width = 1
		}
		out.width *= math.Sqrt(math.Abs(m[0]*m[3] - m[1]*m[2]))
	}
	if len(points) > 1 {
		r.strokes = append(r.strokes, out)
	}
}

func (r *reader) polyline(n []float64, closed bool) {
	var points []point
	for i := 0; i+1 < len(n); i += 2 {
		points = append(points, point{n[i], n[i+1]})
	}
	if closed && len(points) > 0 {
		points = append(points, points[0])
	}
	r.add(false, points...)
}

// ring adds a part (0-1) of an ellipse.
func (r *reader) ring(cx, cy, rx, ry, part float64) {
	if rx <= 0 || ry <= 0 {
		return
	}
	var points []point
	for i := range 33 {
		sin, cos := math.Sincos(2 * math.Pi * part * float64(i) / 32)
		points = append(points, point{cx + rx*cos, cy + ry*sin})
	}
	r.add(true, points...)
}
