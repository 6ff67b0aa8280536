package colour

import "math"

// CutOut takes the opaque ground out of flat artwork: its pixels become
// transparent, and the mixed ones along the edges get the ink they were mixed
// from with the share of it as their alpha (c = a·ink + (1-a)·ground, solved per
// pixel for the ink that explains it best), so that edges stay soft and no rim
// of the ground is left. Inner parts that are no mixture stay as they are.
func CutOut(p Pixels, ground RGB, inks []Found) Pixels {
	const (
		noise = 10.0 // of 255: how far JPEG moves the ground
		reach = 3    // px an edge is wide, after scaling and compression
		fits  = 26.0 // of 255: a mixture lies this close to its line
	)
	out := Pixels{W: p.W, H: p.H, Pix: make([]uint8, len(p.Pix))}
	copy(out.Pix, p.Pix)
	isGround := make([]bool, p.W*p.H)
	g := [3]float64{float64(ground.R), float64(ground.G), float64(ground.B)}
	for i := range isGround {
		d := 0.0
		for k := range 3 {
			d = math.Max(d, math.Abs(float64(p.Pix[4*i+k])-g[k]))
		}
		isGround[i] = d < noise || p.Pix[4*i+3] < 16
	}
	nearGround := func(x, y int) bool {
		for dy := -reach; dy <= reach; dy++ {
			for dx := -reach; dx <= reach; dx++ {
				nx, ny := x+dx, y+dy
				if nx >= 0 && ny >= 0 && nx < p.W && ny < p.H && isGround[ny*p.W+nx] {
					return true
				}
			}
		}
		return false
	}
	for y := range p.H {
		for x := range p.W {
			i := y*p.W + x
			if isGround[i] {
				copy(out.Pix[4*i:4*i+4], []uint8{0, 0, 0, 0})
				continue
			}
			if !nearGround(x, y) {
				continue
			}
			best, share := fits, -1.0
			var ink RGB
			for _, f := range inks {
				v := [3]float64{float64(f.Colour.R) - g[0], float64(f.Colour.G) - g[1], float64(f.Colour.B) - g[2]}
				dot, length := 0.0, 0.0
				for k := range 3 {
					dot += (float64(p.Pix[4*i+k]) - g[k]) * v[k]
					length += v[k] * v[k]
				}
				if length < 1 {
					continue
				}
				a := math.Max(0, math.Min(1, dot/length))
				off := 0.0
				for k := range 3 {
					e := float64(p.Pix[4*i+k]) - g[k] - a*v[k]
					off += e * e
				}
				if off = math.Sqrt(off); off < best {
					best, share, ink = off, a, f.Colour
				}
			}
			if share >= 0 && share < 0.985 {
				out.Pix[4*i], out.Pix[4*i+1], out.Pix[4*i+2] = ink.R, ink.G, ink.B
				out.Pix[4*i+3] = uint8(math.Round(share * 255))
			}
		}
	}
	return out
}

// Hosts tells for each ink of flat artwork which other ink it is a detail on,
// like a wave inside a disc, as an index into inks; -1 when it stands for itself.
// A detail meets its host far more often than what is around the artwork.
func Hosts(p Pixels, ground *RGB, inks []Found) []int {
	const outside, mixed = -1, -2
	labs := make([]Lab, len(inks))
	for i, f := range inks {
		labs[i] = f.Colour.Lab()
	}
	known := map[RGB]int{}
	class := func(x, y int) int {
		c, a := p.at(x, y)
		if a < 128 {
			return outside
		}
		if v, ok := known[c]; ok {
			return v
		}
		v := mixed
		lab := c.Lab()
		if ground != nil && DeltaE(c, *ground) < flatMerge {
			v = outside
		}
		for i := range inks {
			if v == mixed && labs[i].DeltaE(lab) < flatMerge {
				v = i
			}
		}
		known[c] = v
		return v
	}
	open := make([]int, len(inks))
	touch := make([][]int, len(inks)) // meetings of one ink with another
	for i := range touch {
		touch[i] = make([]int, len(inks))
	}
	meet := func(a, b int) {
		switch {
		case a == b:
		case a == outside:
			open[b]++
		case b == outside:
			open[a]++
		default:
			touch[a][b]++
			touch[b][a]++
		}
	}
	walk := func(n, m int, at func(i, j int) int) {
		for i := range n {
			last := outside
			for j := range m {
				if c := at(i, j); c != mixed {
					meet(last, c)
					last = c
				}
			}
			meet(last, outside)
		}
	}
	walk(p.H, p.W, func(y, x int) int { return class(x, y) })
	walk(p.W, p.H, func(x, y int) int { return class(x, y) })
	out := make([]int, len(inks))
	for i := range inks {
		out[i] = -1
		sum, host := 0, -1
		for j, n := range touch[i] {
			sum += n
			if inks[j].Share > inks[i].Share && n > open[i] && (host < 0 || n > touch[i][host]) {
				host = j
			}
		}
		if sum > 3*open[i] {
			out[i] = host
		}
	}
	return out
}
