package colour

import (
	"math"
	"sort"
)

// Pixels is a picture as straight (not premultiplied) 8-bit RGBA, rows top
// down, len(Pix) = 4*W*H.
type Pixels struct {
	W, H int
	Pix  []uint8
}

// Empty reports whether every pixel is fully transparent.
func (p Pixels) Empty() bool {
	for i := 3; i < len(p.Pix); i += 4 {
		if p.Pix[i] != 0 {
			return false
		}
	}
	return true
}

func (p Pixels) at(x, y int) (RGB, uint8) {
	i := 4 * (y*p.W + x)
	return RGB{p.Pix[i], p.Pix[i+1], p.Pix[i+2]}, p.Pix[i+3]
}

// Found is a colour of a picture with the share (0-1) of the counted pixels it
// stands for.
type Found struct {
	Colour RGB
	Share  float64
}

// FlatArt is what [ExtractFlat] sees in a logo or drawing.
type FlatArt struct {
	Ink    []Found // the drawing's own colours, most used first
	Ground *RGB    // the opaque ground it stands on, nil when transparent
}

const (
	flatTolerance = 8   // largest step between neighbours inside one flat area, of 255: survives JPEG at quality 80
	flatMerge     = 3.0 // CIEDE2000 below which two areas are one colour: measured on logos at JPEG quality 75-95
	flatMinimum   = 0.002
)

// ExtractFlat finds the true colours of flat artwork. Pixels count only where
// all four neighbours agree, so the mixed pixels along antialiased edges never
// become colours; art too thin for that falls back to its most frequent exact
// values. An opaque colour that fills the border is the ground and told apart.
func ExtractFlat(p Pixels) FlatArt {
	if p.W == 0 || p.H == 0 {
		return FlatArt{}
	}
	ground := borderColour(p)
	counts := map[RGB]int{}
	for y := 0; y < p.H; y++ {
		for x := 0; x < p.W; x++ {
			if c, a := p.at(x, y); a >= 250 && inside(p, x, y, c) {
				counts[c]++
			}
		}
	}
	if len(counts) == 0 || (ground != nil && onlyGround(counts, *ground)) {
		for y := 0; y < p.H; y++ {
			for x := 0; x < p.W; x++ {
				if c, a := p.at(x, y); a >= 250 {
					counts[c]++
				}
			}
		}
	}
	art := FlatArt{Ground: ground}
	total := 0
	clusters := cluster(counts)
	for _, k := range clusters {
		if ground == nil || DeltaE(k.mode, *ground) >= flatMerge {
			total += k.n
		}
	}
	for _, k := range clusters {
		if ground != nil && DeltaE(k.mode, *ground) < flatMerge {
			continue
		}
		if share := float64(k.n) / float64(total); share >= flatMinimum {
			art.Ink = append(art.Ink, Found{k.mode, share})
		}
	}
	return art
}

func inside(p Pixels, x, y int, c RGB) bool {
	for _, d := range [4][2]int{{-1, 0}, {1, 0}, {0, -1}, {0, 1}} {
		nx, ny := x+d[0], y+d[1]
		if nx < 0 || ny < 0 || nx >= p.W || ny >= p.H {
			continue
		}
		n, a := p.at(nx, ny)
		if a < 250 || step(n.R, c.R) > flatTolerance || step(n.G, c.G) > flatTolerance || step(n.B, c.B) > flatTolerance {
			return false
		}
	}
	return true
}

func step(a, b uint8) int {
	if a > b {
		return int(a - b)
	}
	return int(b - a)
}

func onlyGround(counts map[RGB]int, ground RGB) bool {
	for c := range counts {
		if DeltaE(c, ground) >= flatMerge {
			return false
		}
	}
	return true
}

// borderColour is the colour of at least 85% of an opaque border.
func borderColour(p Pixels) *RGB {
	counts, n := map[RGB]int{}, 0
	visit := func(x, y int) {
		n++
		if c, a := p.at(x, y); a >= 250 {
			counts[c]++
		}
	}
	for x := 0; x < p.W; x++ {
		visit(x, 0)
		visit(x, p.H-1)
	}
	for y := 1; y < p.H-1; y++ {
		visit(0, y)
		visit(p.W-1, y)
	}
	if edge := cluster(counts); len(edge) > 0 && float64(edge[0].n) >= 0.85*float64(n) {
		return &edge[0].mode
	}
	return nil
}

type group struct {
	mode RGB // the most frequent exact value
	n    int
}

// cluster joins exact values to the more frequent ones they hardly differ from.
func cluster(counts map[RGB]int) []group {
	keys := make([]RGB, 0, len(counts))
	for c := range counts {
		keys = append(keys, c)
	}
	sort.Slice(keys, func(i, j int) bool {
		a, b := keys[i], keys[j]
		if counts[a] != counts[b] {
			return counts[a] > counts[b]
		}
		return a.Hex() < b.Hex()
	})
	if len(keys) > 20000 {
		keys = keys[:20000] // a photograph; its tail adds nothing to a flat palette
	}
	var groups []group
	var labs []Lab
next:
	for _, c := range keys {
		lab := c.Lab()
		for i := range groups {
			if math.Abs(labs[i].L-lab.L) < 12 && labs[i].DeltaE(lab) < flatMerge {
				groups[i].n += counts[c]
				continue next
			}
		}
		if len(groups) < 64 {
			groups = append(groups, group{c, counts[c]})
			labs = append(labs, lab)
		}
	}
	sort.SliceStable(groups, func(i, j int) bool { return groups[i].n > groups[j].n })
	return groups
}

// ExtractPhoto finds up to k colours of a photograph by k-means in OKLab over
// a fixed grid of samples, started from the mean and then always the sample
// farthest from every centre, so the same picture at another size or quality
// gives nearly the same answer. Most used first.
func ExtractPhoto(p Pixels, k int) []Found {
	const grid = 96
	var samples []OKLab
	for gy := 0; gy < grid; gy++ {
		for gx := 0; gx < grid; gx++ {
			if c, ok := cell(p, gx, gy, grid); ok {
				samples = append(samples, c)
			}
		}
	}
	if len(samples) == 0 || k <= 0 {
		return nil
	}
	centres := seedCentres(samples, k)
	counts := make([]int, len(centres))
	for range 24 {
		sums := make([]OKLab, len(centres))
		clear(counts)
		for _, s := range samples {
			i := nearest(centres, s)
			counts[i]++
			sums[i].L += s.L
			sums[i].A += s.A
			sums[i].B += s.B
		}
		for i, n := range counts {
			if n > 0 {
				f := 1 / float64(n)
				centres[i] = OKLab{sums[i].L * f, sums[i].A * f, sums[i].B * f}
			}
		}
	}
	var out []Found
	for i, n := range counts {
		if n > 0 {
			out = append(out, Found{centres[i].LCh().RGB(), float64(n) / float64(len(samples))})
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Share > out[j].Share })
	return out
}

// cell averages the pixels of one cell of the grid.
func cell(p Pixels, gx, gy, grid int) (OKLab, bool) {
	x0, x1 := gx*p.W/grid, max((gx+1)*p.W/grid, gx*p.W/grid+1)
	y0, y1 := gy*p.H/grid, max((gy+1)*p.H/grid, gy*p.H/grid+1)
	var sum Linear
	n := 0.0
	for y := y0; y < min(y1, p.H); y++ {
		for x := x0; x < min(x1, p.W); x++ {
			if c, a := p.at(x, y); a >= 250 {
				l := c.Linear()
				sum.R += l.R
				sum.G += l.G
				sum.B += l.B
				n++
			}
		}
	}
	if n == 0 {
		return OKLab{}, false
	}
	return Linear{sum.R / n, sum.G / n, sum.B / n}.OKLab(), true
}

func seedCentres(samples []OKLab, k int) []OKLab {
	var mean OKLab
	for _, s := range samples {
		mean.L += s.L / float64(len(samples))
		mean.A += s.A / float64(len(samples))
		mean.B += s.B / float64(len(samples))
	}
	centres := []OKLab{samples[nearest(samples, mean)]}
	for len(centres) < k {
		far, farthest := 0.03, OKLab{}
		for _, s := range samples {
			if d := s.Distance(centres[nearest(centres, s)]); d > far {
				far, farthest = d, s
			}
		}
		if far == 0.03 {
			break
		}
		centres = append(centres, farthest)
	}
	return centres
}

func nearest(centres []OKLab, s OKLab) int {
	best, at := math.Inf(1), 0
	for i, c := range centres {
		if d := sq(c.L-s.L) + sq(c.A-s.A) + sq(c.B-s.B); d < best {
			best, at = d, i
		}
	}
	return at
}
