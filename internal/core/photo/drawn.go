package photo

import (
	"math"
	"slices"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// What makes a logo or a page (set by eye: of eleven logos, some of which fill their square, seven are
// found, two pages of two, and none of twenty-two photographs is taken for one).
const (
	drawnSide   = 320  // px of the longer side it is looked at in
	drawnGround = 0.8  // of the px along the edges have the ground's colour, at least
	drawnPlain  = 0.18 // of all, at least
	drawnHalf   = 0.45 // from this much on a few greys of letters are forgiven
	drawnFew    = 6    // colours beside the ground
	drawnFlat   = 0.6  // of what is not ground has one of those, at least, on a ground of drawnHalf
	drawnSolid  = 0.85 // and on a smaller one
	drawnNear   = 12   // of 255 in each channel: the same colour
	drawnLeast  = 0.01 // of the area is not ground, at least
	drawnMany   = 40   // pieces apart from each other: letters of a page, whatever their greys
	drawnPiece  = 4    // px one has at least: less is noise
	drawnMost   = 0.3  // of what is not ground the largest is, at most
)

// FindDrawn is what stands on the plain ground of a picture that is no photograph: a logo, a
// page of words, a chart. It is worth nothing with a part cut off. A picture whose ground is clear is
// judged by the rest.
func FindDrawn(p colour.Pixels) (drawn Subject, ok bool) {
	if p.Empty() || min(p.W, p.H) < 24 {
		return Subject{}, false
	}
	p = scaledTo(p, drawnSide)
	w, h := p.W, p.H
	at := func(x, y int) [4]uint8 { return [4]uint8(p.Pix[4*(y*w+x):]) }
	same := func(a, b [4]uint8) bool {
		if a[3] < 128 && b[3] < 128 {
			return true
		}
		for i := range a {
			if d := int(a[i]) - int(b[i]); d > drawnNear || d < -drawnNear {
				return false
			}
		}
		return true
	}
	ground, edges, plain := at(0, 0), 0, 0
	marked := make([]float64, w*h) // 1 where it is not ground
	x0, y0, x1, y1 := w, h, 0, 0
	counts := map[[3]uint8]int{}
	for y := range h {
		for x := range w {
			c := at(x, y)
			isGround, isEdge := same(c, ground), x == 0 || y == 0 || x == w-1 || y == h-1
			switch {
			case isGround:
				plain++
				if isEdge {
					edges++
				}
			default:
				marked[y*w+x] = 1
				x0, y0, x1, y1 = min(x0, x), min(y0, y), max(x1, x+1), max(y1, y+1)
				counts[[3]uint8{c[0] / drawnNear, c[1] / drawnNear, c[2] / drawnNear}]++
			}
		}
	}
	rest := w*h - plain
	if float64(edges) < drawnGround*float64(2*(w+h)-4) || float64(plain) < drawnPlain*float64(w*h) || float64(rest) < drawnLeast*float64(w*h) {
		return Subject{}, false
	}
	sizes := make([]int, 0, len(counts))
	for _, n := range counts {
		sizes = append(sizes, n)
	}
	slices.SortFunc(sizes, func(a, b int) int { return b - a })
	few := 0
	for _, n := range sizes[:min(drawnFew, len(sizes))] {
		few += n
	}
	share, least := float64(few)/float64(rest), drawnFlat
	large := float64(plain) >= drawnHalf*float64(w*h)
	if !large {
		least = drawnSolid
	}
	drawn = Subject{Kind: Drawn, Weight: share, Box: [4]float64{
		float64(x0) / float64(w), float64(y0) / float64(h), float64(x1-x0) / float64(w), float64(y1-y0) / float64(h),
	}}
	if ground[3] >= 128 {
		drawn.Ground = colour.RGB{R: ground[0], G: ground[1], B: ground[2]}.Hex()
	}
	return drawn, share >= least || large && scattered(marked, w, h)
}

// drawnAround is how much of the ground is kept around what is drawn, of the picture's short side.
const drawnAround = 0.04

// Whole is the part of a picture of something drawn that shows all of it, px, where a crop of it would
// cut it; false where that shows it, and for photographs.
func (p Picture) Whole(crop spec.Rect) (part spec.Rect, ok bool) {
	if !p.shows(Drawn) {
		return spec.Rect{}, false
	}
	b, w, h := p.Subjects[0].Box, float64(p.W), float64(p.H)
	around := drawnAround * math.Min(w, h)
	drawn := spec.Rect{X: b[0] * w, Y: b[1] * h, W: b[2] * w, H: b[3] * h}
	part = spec.Rect{X: drawn.X - around, Y: drawn.Y - around, W: drawn.W + 2*around, H: drawn.H + 2*around}.Intersect(spec.Rect{W: w, H: h})
	return part, !crop.Contains(drawn, 0.5)
}

// scattered reports whether what is marked is at least [drawnMany] small pieces that do not meet, and
// none of them most of it.
func scattered(marked []float64, w, h int) bool {
	left, pieces, all, most := slices.Clone(marked), 0, 0, 0
	var next []int
	for i := range left {
		if left[i] == 0 {
			continue
		}
		size := 0
		for left[i], next = 0, append(next[:0], i); len(next) > 0; size++ {
			at := next[len(next)-1]
			next = next[:len(next)-1]
			for y := max(0, at/w-1); y <= min(h-1, at/w+1); y++ {
				for x := max(0, at%w-1); x <= min(w-1, at%w+1); x++ {
					if k := y*w + x; left[k] != 0 {
						left[k], next = 0, append(next, k)
					}
				}
			}
		}
		all, most = all+size, max(most, size)
		if size >= drawnPiece {
			pieces++
		}
	}
	return pieces >= drawnMany && float64(most) < drawnMost*float64(all)
}
