package motif

import (
	"math"
	"strconv"
	"strings"
)

// arguments are how many numbers each command of a path takes (SVG 2, 9.3).
var arguments = map[byte]int{'M': 2, 'L': 2, 'H': 1, 'V': 1, 'C': 6, 'S': 4, 'Q': 4, 'T': 2, 'A': 7, 'Z': 0}

// path reads path data up to what cannot be read.
func (r *reader) path(d string) {
	r.at, r.from = point{}, point{}
	var handle point // of the curve before, for those that go on smoothly
	was := byte(0)
	for d = strings.TrimLeft(d, spaces); d != ""; {
		command := d[0]
		upper := command &^ 0x20
		count, known := arguments[upper]
		if !known {
			return
		}
		d = d[1:]
		for first := true; ; first = false {
			n, rest, ok := take(d, count, upper == 'A')
			if !ok {
				if first {
					return
				}
				break
			}
			d = rest
			if upper == 'M' && !first {
				command = command&0x20 | 'L'
			}
			handle = r.step(command, n, handle, was)
			was = command &^ 0x20
			if count == 0 {
				break
			}
		}
		d = strings.TrimLeft(d, spaces)
	}
}

const spaces = " ,\t\r\n"

// step draws one command and gives the handle a smooth curve after it mirrors.
func (r *reader) step(command byte, n []float64, handle point, was byte) point {
	base := point{}
	if command&0x20 != 0 {
		base = r.at
	}
	p := func(i int) point { return point{base.x + n[i], base.y + n[i+1]} }
	line := func(to point) point {
		if to != r.at {
			r.add(false, r.at, to)
		}
		r.at = to
		return to
	}
	mirrored := func(of string) point {
		if was != 0 && strings.IndexByte(of, was) >= 0 {
			return point{2*r.at.x - handle.x, 2*r.at.y - handle.y}
		}
		return r.at
	}
	switch command &^ 0x20 {
	case 'M':
		r.at = p(0)
		r.from = r.at
	case 'L':
		return line(p(0))
	case 'H':
		return line(point{base.x + n[0], r.at.y})
	case 'V':
		return line(point{r.at.x, base.y + n[0]})
	case 'Z':
		return line(r.from)
	case 'C':
		return r.cubic(p(0), p(2), p(4))
	case 'S':
		return r.cubic(mirrored("CS"), p(0), p(2))
	case 'Q':
		return r.quadratic(p(0), p(2))
	case 'T':
		return r.quadratic(mirrored("QT"), p(0))
	case 'A':
		r.arc(n[0], n[1], n[2], n[3] != 0, n[4] != 0, p(5))
	}
	return r.at
}

// curveSteps is in how many lines a curve is measured; one that bends by less than straightBy of
// its length is a line.
const (
	curveSteps = 10
	straightBy = 0.02
)

func (r *reader) quadratic(a, to point) point {
	at := r.at
	third := func(p point) point { return point{p.x + 2*(a.x-p.x)/3, p.y + 2*(a.y-p.y)/3} }
	r.cubic(third(at), third(to), to)
	return a
}

func (r *reader) cubic(a, b, to point) point {
	from := r.at
	points := make([]point, curveSteps+1)
	for i := range points {
		t := float64(i) / curveSteps
		u := 1 - t
		k := [4]float64{u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t}
		points[i] = point{k[0]*from.x + k[1]*a.x + k[2]*b.x + k[3]*to.x, k[0]*from.y + k[1]*a.y + k[2]*b.y + k[3]*to.y}
	}
	r.curve(points)
	return b
}

// curve adds a run of points as what it is: a line where it hardly bends.
func (r *reader) curve(points []point) {
	from, to := points[0], points[len(points)-1]
	long, off := math.Hypot(to.x-from.x, to.y-from.y), 0.0
	for _, p := range points {
		off = math.Max(off, math.Abs((to.x-from.x)*(p.y-from.y)-(to.y-from.y)*(p.x-from.x)))
	}
	r.at = to
	if off <= straightBy*long*long {
		r.add(false, from, to)
		return
	}
	r.add(true, points...)
}

// arc adds an elliptical arc (SVG 2, B.2.4: from endpoints to its centre).
func (r *reader) arc(rx, ry, turn float64, large, sweep bool, to point) {
	from := r.at
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx == 0 || ry == 0 || from == to {
		r.add(false, from, to)
		r.at = to
		return
	}
	sin, cos := math.Sincos(turn * math.Pi / 180)
	dx, dy := (from.x-to.x)/2, (from.y-to.y)/2
	x, y := cos*dx+sin*dy, cos*dy-sin*dx
	if s := x*x/rx/rx + y*y/ry/ry; s > 1 {
		rx, ry = rx*math.Sqrt(s), ry*math.Sqrt(s)
	}
	k := math.Sqrt(math.Max(0, rx*rx*ry*ry-rx*rx*y*y-ry*ry*x*x) / (rx*rx*y*y + ry*ry*x*x))
	if large == sweep {
		k = -k
	}
	cx, cy := k*rx*y/ry, -k*ry*x/rx
	start := math.Atan2((y-cy)/ry, (x-cx)/rx)
	sweepBy := math.Atan2((-y-cy)/ry, (-x-cx)/rx) - start
	if sweep && sweepBy < 0 {
		sweepBy += 2 * math.Pi
	} else if !sweep && sweepBy > 0 {
		sweepBy -= 2 * math.Pi
	}
	points := make([]point, 2*curveSteps+1)
	for i := range points {
		s, c := math.Sincos(start + sweepBy*float64(i)/(2*curveSteps))
		px, py := rx*c+cx, ry*s+cy
		points[i] = point{cos*px - sin*py + (from.x+to.x)/2, sin*px + cos*py + (from.y+to.y)/2}
	}
	points[len(points)-1] = to
	r.curve(points)
}

// take reads so many numbers from the start of path data; the two flags of an arc may stand
// together without a space.
func take(d string, count int, arc bool) (n []float64, rest string, ok bool) {
	for i := range count {
		d = strings.TrimLeft(d, spaces)
		if arc && (i == 3 || i == 4) && d != "" {
			n, d = append(n, float64(d[0]-'0')), d[1:]
			continue
		}
		end := numberEnd(d)
		v, err := strconv.ParseFloat(d[:end], 64)
		if err != nil {
			return nil, d, false
		}
		n, d = append(n, v), d[end:]
	}
	return n, d, true
}

// numberEnd is how many bytes of a text are a number at its start.
func numberEnd(s string) int {
	point, exponent := false, false
	for i := range len(s) {
		switch c := s[i]; {
		case c >= '0' && c <= '9':
		case c == '.' && !point && !exponent:
			point = true
		case (c == 'e' || c == 'E') && i > 0 && !exponent:
			exponent = true
		case (c == '-' || c == '+') && (i == 0 || s[i-1]|0x20 == 'e'):
		default:
			return i
		}
	}
	return len(s)
}

// numbers are all numbers of a list, up to what is none.
func numbers(s string) (out []float64) {
	for {
		n, rest, ok := take(s, 1, false)
		if !ok {
			return out
		}
		out, s = append(out, n...), rest
	}
}
