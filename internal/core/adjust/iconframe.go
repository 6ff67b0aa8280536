package adjust

import (
	"encoding/xml"
	"math"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// leastFrame is how much of the square around it an icon has to fill to frame a picture.
const leastFrame = 0.4

// FrameIcons are the names of icons a picture can be cut to: those that fill enough of
// their square once their outlines are closed.
func FrameIcons(icons map[string]string) []string {
	var out []string
	for name, inside := range icons {
		if IconPath(inside, spec.Rect{W: 1, H: 1}) != "" {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// IconPath is the outline of an icon, closed and as large as fits in a box, as absolute
// path data; "" for an icon that fills too little of its square. The inside of an icon is
// paths and circles.
func IconPath(inside string, box spec.Rect) string {
	rings := ringsOf(inside)
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	area := 0.0
	for i, ring := range rings {
		a := areaOf(ring)
		if a < 0 { // all the same way around, so that none cuts a hole
			slices.Reverse(rings[i])
		}
		area = math.Max(area, math.Abs(a))
		for _, p := range ring {
			x0, y0, x1, y1 = math.Min(x0, p[0]), math.Min(y0, p[1]), math.Max(x1, p[0]), math.Max(y1, p[1])
		}
	}
	side := math.Max(x1-x0, y1-y0)
	if len(rings) == 0 || area < leastFrame*side*side {
		return ""
	}
	k := math.Min(box.W/(x1-x0), box.H/(y1-y0))
	dx, dy := box.X+(box.W-k*(x1-x0))/2, box.Y+(box.H-k*(y1-y0))/2
	p := &pen{}
	for _, ring := range rings {
		for i, at := range ring {
			verb := "L"
			if i == 0 {
				verb = "M"
			}
			p.to(verb, dx+k*(at[0]-x0), dy+k*(at[1]-y0))
		}
		p.to("Z")
	}
	return p.String()
}

// ringsOf are the outlines of what an icon is drawn of that enclose something.
func ringsOf(inside string) [][][2]float64 {
	var out [][][2]float64
	d := xml.NewDecoder(strings.NewReader("<g>" + inside + "</g>"))
	for {
		tok, err := d.Token()
		if err != nil {
			break
		}
		if el, ok := tok.(xml.StartElement); ok {
			rings, _ := scene.Rings(pathOf(el))
			out = append(out, rings...)
		}
	}
	return slices.DeleteFunc(out, func(ring [][2]float64) bool { return math.Abs(areaOf(ring)) < 2 })
}

// pathOf is a drawn element as path data.
func pathOf(el xml.StartElement) string {
	at := func(name string) string {
		for _, a := range el.Attr {
			if a.Name.Local == name {
				return a.Value
			}
		}
		return ""
	}
	num := func(name string) float64 {
		v, _ := strconv.ParseFloat(at(name), 64)
		return v
	}
	switch el.Name.Local {
	case "path":
		return at("d")
	case "circle":
		r := num("r")
		return corners(spec.Rect{X: num("cx") - r, Y: num("cy") - r, W: 2 * r, H: 2 * r}, r, r, r, r)
	case "rect":
		r := num("rx")
		return corners(spec.Rect{X: num("x"), Y: num("y"), W: num("width"), H: num("height")}, r, r, r, r)
	}
	return ""
}

// areaOf is the area within a ring, below 0 for one that goes the other way around.
func areaOf(ring [][2]float64) float64 {
	a := 0.0
	for i, p := range ring {
		q := ring[(i+1)%len(ring)]
		a += p[0]*q[1] - q[0]*p[1]
	}
	return a / 2
}
