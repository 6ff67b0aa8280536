package colour

import (
	"cmp"
	"maps"
	"slices"
)

// Flats finds the colours of a picture's flat areas, most used first: pixels
// that have the colour of their right and lower neighbours, with their share of
// all pixels (0-1). Colours under CIEDE2000 0.4 of a more used one join it, as a
// compressor may have rounded them; those under a share of least are left out.
func Flats(p Pixels, least float64) []Found {
	counts := map[RGB]int{}
	at := func(x, y int) (RGB, bool) {
		i := 4 * (y*p.W + x)
		return RGB{R: p.Pix[i], G: p.Pix[i+1], B: p.Pix[i+2]}, p.Pix[i+3] == 255
	}
	for y := 0; y+1 < p.H; y++ {
		for x := 0; x+1 < p.W; x++ {
			c, solid := at(x, y)
			r, _ := at(x+1, y)
			d, _ := at(x, y+1)
			if solid && c == r && c == d {
				counts[c]++
			}
		}
	}
	type counted struct {
		c RGB
		n int
	}
	var list []counted
	for c, n := range counts {
		list = append(list, counted{c, n})
	}
	slices.SortFunc(list, func(a, b counted) int {
		return cmp.Or(cmp.Compare(b.n, a.n), cmp.Compare(a.c.Hex(), b.c.Hex()))
	})
	var out []Found
	all := float64(p.W * p.H)
	for _, l := range list[:min(len(list), 2000)] {
		share := float64(l.n) / all
		i := slices.IndexFunc(out, func(f Found) bool { return DeltaE(f.Colour, l.c) < 0.4 })
		switch {
		case i >= 0:
			out[i].Share += share
		case share >= least:
			out = append(out, Found{Colour: l.c, Share: share})
		}
	}
	return out
}

// LooksDrawn reports whether a picture looks like a logo rather than a
// photograph: seen through, or on a ground of one colour to its edges, and nine
// tenths of its even areas (without the ground, and the mixed pixels along edges)
// in at most six tones of 4 bits a channel. Tuned on the demo's logos as JPEGs on
// four grounds, and on some 30 photographs, none of which was taken for a logo.
func LooksDrawn(p Pixels) bool {
	const tones, share = 6, 0.9
	clear, counts, even := 0, map[RGB]int{}, 0
	border := borderColour(p)
	for y := range p.H {
		for x := range p.W {
			c, a := p.at(x, y)
			switch {
			case a < 128:
				clear++
			case border != nil && DeltaE(c, *border) < 5:
			case alike(p, x, y, c):
				counts[RGB{c.R >> 4, c.G >> 4, c.B >> 4}]++
				even++
			}
		}
	}
	if even == 0 || border == nil && clear*20 < p.W*p.H {
		return false
	}
	most := slices.Sorted(maps.Values(counts))
	slices.Reverse(most)
	held := 0
	for _, n := range most[:min(tones, len(most))] {
		held += n
	}
	return float64(held) >= share*float64(even)
}

// alike reports whether the four neighbours of a pixel are within 10 of 255 of it.
func alike(p Pixels, x, y int, c RGB) bool {
	for _, d := range [][2]int{{-1, 0}, {1, 0}, {0, -1}, {0, 1}} {
		nx, ny := x+d[0], y+d[1]
		if nx < 0 || ny < 0 || nx >= p.W || ny >= p.H {
			continue
		}
		n, a := p.at(nx, ny)
		if a < 128 || step(n.R, c.R) > 10 || step(n.G, c.G) > 10 || step(n.B, c.B) > 10 {
			return false
		}
	}
	return true
}
