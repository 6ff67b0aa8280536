package photo

import (
	"math"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// Light says how light a picture is, tile by tile, from every one of its px: what
// is needed to know, before anything is drawn, that words read on it. The zero
// value knows nothing, and every colour counts as possible.
type Light struct {
	Cols, Rows int
	Tiles      []byte // tileBytes each, row by row
}

// lightSide is how many tiles the long side has; a tile is the least and the
// greatest red, green and blue in it, the mean luma and how busy it is (the mean
// step of luma from px to px, at most 255).
const (
	lightSide = 64
	tileBytes = 8
)

// LightOf is the light map of a picture.
func LightOf(p colour.Pixels) Light {
	if p.Empty() {
		return Light{}
	}
	k := math.Min(1, lightSide/float64(max(p.W, p.H)))
	l := Light{Cols: max(1, int(math.Round(k*float64(p.W)))), Rows: max(1, int(math.Round(k*float64(p.H))))}
	l.Tiles = make([]byte, tileBytes*l.Cols*l.Rows)
	for row := range l.Rows {
		y0, y1 := row*p.H/l.Rows, (row+1)*p.H/l.Rows
		for col := range l.Cols {
			x0, x1 := col*p.W/l.Cols, (col+1)*p.W/l.Cols
			l.tile(p, l.Tiles[tileBytes*(row*l.Cols+col):], x0, y0, x1, y1)
		}
	}
	return l
}

func (l Light) tile(p colour.Pixels, t []byte, x0, y0, x1, y1 int) {
	lo, hi := [3]byte{255, 255, 255}, [3]byte{}
	sum, steps := 0, 0
	for y := y0; y < y1; y++ {
		row := p.Pix[4*(y*p.W+x0) : 4*(y*p.W+x1)]
		before := -1
		for i := 0; i < len(row); i += 4 {
			if row[i+3] < 255 { // what shows through can be anything
				lo, hi = [3]byte{}, [3]byte{255, 255, 255}
			}
			r, g, b := row[i], row[i+1], row[i+2]
			lo[0], hi[0] = min(lo[0], r), max(hi[0], r)
			lo[1], hi[1] = min(lo[1], g), max(hi[1], g)
			lo[2], hi[2] = min(lo[2], b), max(hi[2], b)
			luma := (299*int(r) + 587*int(g) + 114*int(b)) / 1000
			sum += luma
			if before >= 0 {
				steps += max(luma-before, before-luma)
			}
			before = luma
		}
	}
	n := max(1, (x1-x0)*(y1-y0))
	copy(t, lo[:])
	copy(t[3:], hi[:])
	t[6], t[7] = byte(sum/n), byte(min(255, 4*steps/n))
}

// Bounds are what a part of a picture lies between, channel by channel, with what
// scaling and JPEG may add to it.
type Bounds struct {
	Lo, Hi colour.RGB
	Busy   float64 // 0-1
}

// ringing is how far scaling with Lanczos windows overshoots at an edge, as a
// share of its step (at most 9% for a single edge: the Gibbs overshoot), and noise
// what JPEG adds, in steps of 255 (measured at quality 90).
const (
	ringing = 0.09
	noise   = 4
)

// known reports whether there is a map, and a whole one.
func (l Light) known() bool {
	return l.Cols > 0 && l.Rows > 0 && len(l.Tiles) == tileBytes*l.Cols*l.Rows
}

// everything is what is known of a picture nothing is known of.
var everything = Bounds{Hi: colour.White, Busy: 1}

// Under are the bounds of a part of a picture of w x h px, given in px. Px that
// scaling mixes in from around the part count: reach px more on each side.
func (l Light) Under(part spec.Rect, w, h int, reach float64) Bounds {
	if !l.known() || w <= 0 || h <= 0 {
		return everything
	}
	span := func(from, to float64, size, n int) (int, int) {
		k := float64(n) / float64(size)
		// a tile begins on a whole px: the one before may reach into the part
		return max(0, min(n-1, int(math.Floor((from-reach-1)*k)))), max(0, min(n-1, int(math.Floor((to+reach+1)*k))))
	}
	x0, x1 := span(part.X, part.Right(), w, l.Cols)
	y0, y1 := span(part.Y, part.Bottom(), h, l.Rows)
	lo, hi := [3]byte{255, 255, 255}, [3]byte{}
	busy := 0
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			t := l.Tiles[tileBytes*(y*l.Cols+x):][:tileBytes]
			for c := range 3 {
				lo[c], hi[c] = min(lo[c], t[c]), max(hi[c], t[3+c])
			}
			busy += int(t[7])
		}
	}
	for c := range 3 {
		m := noise + ringing*float64(hi[c]-lo[c])
		lo[c], hi[c] = byte(math.Max(0, float64(lo[c])-m)), byte(math.Min(255, float64(hi[c])+m))
	}
	return Bounds{
		Lo: colour.RGB{R: lo[0], G: lo[1], B: lo[2]}, Hi: colour.RGB{R: hi[0], G: hi[1], B: hi[2]},
		Busy: float64(busy) / 255 / float64((x1-x0+1)*(y1-y0+1)),
	}
}

// Points are the darkest and the lightest grey of a picture (0-1), but for the
// twentieth of its tiles that is darkest and lightest: what is drawn as black and
// as white where it is toned.
func (l Light) Points() (black, white float64) {
	n := l.Cols * l.Rows
	if !l.known() {
		return 0, 1
	}
	var lows, highs [256]int
	for i := range n {
		t := l.Tiles[tileBytes*i:]
		luma := func(c []byte) int { return (299*int(c[0]) + 587*int(c[1]) + 114*int(c[2])) / 1000 }
		lows[luma(t[0:3])]++
		highs[luma(t[3:6])]++
	}
	lo, hi := 0, 255
	for seen := lows[0]; seen*20 < n && lo < 255; seen += lows[lo] {
		lo++
	}
	for seen := highs[255]; seen*20 < n && hi > 0; seen += highs[hi] {
		hi--
	}
	if hi-lo < 48 { // an even picture stays even
		return math.Max(0, float64(lo-48)/255), math.Min(1, float64(hi+48)/255)
	}
	return float64(lo) / 255, float64(hi) / 255
}

// Worst is the least contrast of ink with anything within the bounds under a veil
// of a colour with opacity alpha (0-1), and a colour that has it. Each channel of a
// blend grows with the picture's, and luminance with each channel: the extremes
// are at the bounds.
func (b Bounds) Worst(ink, veil colour.RGB, alpha float64) (contrast float64, ground colour.RGB) {
	lo, hi := veil.Over(b.Lo, alpha), veil.Over(b.Hi, alpha)
	own, dark, light := ink.Luminance(), lo.Luminance(), hi.Luminance()
	if own >= dark && own <= light { // something in between is as light as the ink
		return 1, ink
	}
	a, z := colour.ContrastLuminance(own, dark), colour.ContrastLuminance(own, light)
	if a < z {
		return a, lo
	}
	return z, hi
}

// Veil is the weakest opacity of a veil (0-1, in steps of 1/255) with which ink
// reaches a contrast on everything within the bounds; ok is false where even the
// plain colour is not enough. Both bounds go to the veil's colour as it grows
// stronger, and the worse of them decides, so the crossing is bisected.
func (b Bounds) Veil(ink, veil colour.RGB, want float64) (alpha float64, ok bool) {
	if colour.Contrast(ink, veil) < want {
		return 1, false
	}
	reach := func(step int) bool {
		c, _ := b.Worst(ink, veil, float64(step)/255)
		return c >= want
	}
	if reach(0) {
		return 0, true
	}
	lo, hi := 0, 255
	for hi-lo > 1 {
		if mid := (lo + hi) / 2; reach(mid) {
			hi = mid
		} else {
			lo = mid
		}
	}
	return float64(hi) / 255, true
}
