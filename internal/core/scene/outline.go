package scene

import (
	"math"
	"regexp"
	"strconv"
	"strings"

	"aspenridge/internal/core/spec"
)

// Covers reports whether a shape with this outline hides everything within a box: path
// data of SVG with straight lines, curves and arcs. What cannot be read covers nothing.
func Covers(path string, box spec.Rect) bool {
	rings, ok := Rings(path)
	if !ok {
		return false
	}
	for i := range coverSteps + 1 {
		for j := range coverSteps + 1 {
			x, y := box.X+box.W*float64(i)/coverSteps, box.Y+box.H*float64(j)/coverSteps
			if !within(rings, x, y) {
				return false
			}
		}
	}
	return true
}

// How finely a box is looked through, and how many straight lines stand for a curve.
const (
	coverSteps = 8
	curveSteps = 16
)

// within reports whether a point is inside, by the nonzero rule.
func within(rings [][][2]float64, x, y float64) bool {
	wind := 0
	for _, r := range rings {
		for i := range r {
			a, b := r[i], r[(i+1)%len(r)]
			side := (b[0]-a[0])*(y-a[1]) - (b[1]-a[1])*(x-a[0])
			switch {
			case a[1] <= y && b[1] > y && side > 0:
				wind++
			case a[1] > y && b[1] <= y && side < 0:
				wind--
			}
		}
	}
	return wind != 0
}

// outline is path data while it is read.
type outline struct {
	rings  [][][2]float64
	at     [2]float64
	handle [2]float64 // of the curve just drawn, where the next may go on from
}

func (o *outline) line(x, y float64) {
	o.at = [2]float64{x, y}
	last := len(o.rings) - 1
	o.rings[last] = append(o.rings[last], o.at)
}

// curve is a cubic Bezier curve.
func (o *outline) curve(x1, y1, x2, y2, x, y float64) {
	x0, y0 := o.at[0], o.at[1]
	for i := 1; i <= curveSteps; i++ {
		t := float64(i) / curveSteps
		u := 1 - t
		a, b, c, d := u*u*u, 3*u*u*t, 3*u*t*t, t*t*t
		o.line(a*x0+b*x1+c*x2+d*x, a*y0+b*y1+c*y2+d*y)
	}
}

// arc is part of a circle or of an upright ellipse, by the way from end points to a centre
// of SVG 1.1, appendix F.6.5.
func (o *outline) arc(rx, ry float64, large, sweep bool, x, y float64) {
	x0, y0 := o.at[0], o.at[1]
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx == 0 || ry == 0 || x0 == x && y0 == y {
		o.line(x, y)
		return
	}
	px, py := (x0-x)/2, (y0-y)/2
	if l := px*px/(rx*rx) + py*py/(ry*ry); l > 1 {
		rx, ry = rx*math.Sqrt(l), ry*math.Sqrt(l)
	}
	k := math.Sqrt(math.Max(0, (rx*rx*ry*ry-rx*rx*py*py-ry*ry*px*px)/(rx*rx*py*py+ry*ry*px*px)))
	if large == sweep {
		k = -k
	}
	cx, cy := k*rx*py/ry+(x0+x)/2, -k*ry*px/rx+(y0+y)/2
	from, to := math.Atan2((y0-cy)/ry, (x0-cx)/rx), math.Atan2((y-cy)/ry, (x-cx)/rx)
	switch {
	case sweep && to < from:
		to += 2 * math.Pi
	case !sweep && to > from:
		to -= 2 * math.Pi
	}
	for i := 1; i <= curveSteps; i++ {
		sin, cos := math.Sincos(from + (to-from)*float64(i)/curveSteps)
		o.line(cx+rx*cos, cy+ry*sin)
	}
	o.at = [2]float64{x, y}
}

// wants is how many numbers a command of a path takes.
var wants = map[byte]int{'M': 2, 'L': 2, 'H': 1, 'V': 1, 'C': 6, 'S': 4, 'Q': 4, 'A': 7, 'Z': 0}

// Rings is path data of SVG as rings of points, curves and arcs as short straight lines;
// false for what cannot be read.
func Rings(path string) ([][][2]float64, bool) {
	o := &outline{}
	for i := 0; i < len(path); {
		cmd := path[i]
		upper := cmd &^ 0x20
		n, known := wants[upper]
		if !known || upper != 'M' && len(o.rings) == 0 {
			return nil, false
		}
		j := i + 1
		for j < len(path) && (path[j] < 'A' || path[j] == 'e') {
			j++
		}
		nums, ok := numbersIn(path[i+1 : j])
		if !ok || n == 0 && len(nums) > 0 || n > 0 && (len(nums) == 0 || len(nums)%n != 0) {
			return nil, false
		}
		if n == 0 {
			if r := o.rings[len(o.rings)-1]; len(r) > 0 {
				o.at = r[0]
			}
		}
		for k := 0; n > 0 && k < len(nums); k += n {
			o.do(upper, cmd != upper, k > 0, nums[k:k+n])
		}
		i = j
	}
	return o.rings, true
}

// Stretched is path data as it lies in one rectangle, drawn into another; as it was where it
// cannot be read.
func Stretched(path string, from, to spec.Rect) string {
	kx, ky := to.W/from.W, to.H/from.H
	var b strings.Builder
	for i := 0; i < len(path); {
		cmd := path[i]
		n, known := wants[cmd&^0x20]
		j := i + 1
		for j < len(path) && (path[j] < 'A' || path[j] == 'e') {
			j++
		}
		v, ok := numbersIn(path[i+1 : j])
		if !known || !ok || n > 0 && len(v)%n != 0 {
			return path
		}
		b.WriteByte(cmd)
		for k := range v {
			across := k%n%2 == 0 // of a point
			switch cmd &^ 0x20 {
			case 'V':
				across = false
			case 'A':
				across = k%n == 0 || k%n == 5
			}
			switch {
			case cmd&^0x20 == 'A' && k%n >= 2 && k%n <= 4: // its angle and flags
			case across:
				v[k] *= kx
			default:
				v[k] *= ky
			}
			if upper := cmd&0x20 == 0; upper && (cmd != 'A' || k%n >= 5) {
				if across {
					v[k] += to.X - from.X*kx
				} else {
					v[k] += to.Y - from.Y*ky
				}
			}
			b.WriteString(num(v[k]))
			b.WriteByte(' ')
		}
		i = j
	}
	return b.String()
}

// do is one command; more numbers after a move are lines.
func (o *outline) do(cmd byte, relative, again bool, v []float64) {
	bx, by := 0.0, 0.0
	if relative {
		bx, by = o.at[0], o.at[1]
	}
	switch cmd {
	case 'M':
		if !again {
			o.rings = append(o.rings, nil)
		}
		o.line(bx+v[0], by+v[1])
	case 'L':
		o.line(bx+v[0], by+v[1])
	case 'H':
		o.line(bx+v[0], o.at[1])
	case 'V':
		o.line(o.at[0], by+v[0])
	case 'C':
		o.curve(bx+v[0], by+v[1], bx+v[2], by+v[3], bx+v[4], by+v[5])
		o.handle = [2]float64{bx + v[2], by + v[3]}
		return
	case 'S': // goes on as the curve before it came
		from := o.at
		if o.handle != from {
			from = [2]float64{2*from[0] - o.handle[0], 2*from[1] - o.handle[1]}
		}
		o.curve(from[0], from[1], bx+v[0], by+v[1], bx+v[2], by+v[3])
		o.handle = [2]float64{bx + v[0], by + v[1]}
		return
	case 'Q': // as a cubic one: its handles are two thirds of the way to the one of this
		x0, y0, qx, qy, x, y := o.at[0], o.at[1], bx+v[0], by+v[1], bx+v[2], by+v[3]
		o.curve(x0+(qx-x0)*2/3, y0+(qy-y0)*2/3, x+(qx-x)*2/3, y+(qy-y)*2/3, x, y)
	case 'A':
		o.arc(v[0], v[1], v[3] != 0, v[4] != 0, bx+v[5], by+v[6])
	}
	o.handle = o.at
}

// number is one as path data has it: its sign or its point may begin it at once.
var number = regexp.MustCompile(`[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?`)

// numbersIn reads numbers that stand apart by spaces or commas, or by how the next begins.
func numbersIn(s string) ([]float64, bool) {
	if strings.Trim(number.ReplaceAllString(s, ""), " ,\t\r\n") != "" {
		return nil, false
	}
	var out []float64
	for _, f := range number.FindAllString(s, -1) {
		v, err := strconv.ParseFloat(f, 64)
		if err != nil {
			return nil, false
		}
		out = append(out, v)
	}
	return out, true
}
