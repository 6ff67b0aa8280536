package colour

import (
	"cmp"
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
