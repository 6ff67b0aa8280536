package photo

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// noisy is a picture of slopes, noise and hard edges.
func noisy(rng *rand.Rand, w, h int) colour.Pixels {
	p := colour.Pixels{W: w, H: h, Pix: make([]byte, 4*w*h)}
	edge, level, noise := rng.IntN(w), rng.Float64()*200, 1+rng.IntN(60)
	for i := range w * h {
		x, y := i%w, i/w
		v := level + 50*float64(y)/float64(h)
		if x > edge {
			v = 250 - level
		}
		for k := range 3 {
			p.Pix[4*i+k] = byte(math.Max(0, math.Min(255, v+float64(10*k)+float64(rng.IntN(noise)))))
		}
		p.Pix[4*i+3] = 255
	}
	return p
}

func at(p colour.Pixels, x, y int) colour.RGB {
	i := 4 * (y*p.W + x)
	return colour.RGB{R: p.Pix[i], G: p.Pix[i+1], B: p.Pix[i+2]}
}

func part(rng *rand.Rand, w, h int) spec.Rect {
	x, y := rng.IntN(w), rng.IntN(h)
	return spec.Rect{X: float64(x), Y: float64(y), W: float64(1 + rng.IntN(w-x)), H: float64(1 + rng.IntN(h-y))}
}

// TestBoundsHold: every px of a part lies within what the light map says of it, and
// the veil that is enough for the bounds is enough for every px.
func TestBoundsHold(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 4))
	inks := [][2]colour.RGB{
		{colour.White, {R: 0x0F, G: 0x3D, B: 0x4C}}, {{R: 0x10, G: 0x24, B: 0x2B}, {R: 0xF6, G: 0xEB, B: 0xD6}}, {colour.Black, {R: 0xF2, G: 0x69, B: 0x4B}},
	}
	for range 50 {
		w, h := 1+rng.IntN(300), 1+rng.IntN(300)
		p := noisy(rng, w, h)
		l := LightOf(p)
		for range 4 {
			r := part(rng, w, h)
			b := l.Under(r, w, h, 0)
			pair := inks[rng.IntN(len(inks))]
			alpha, ok := b.Veil(pair[0], pair[1], 4.5)
			if !ok {
				t.Fatalf("%v on plain %v does not read", pair[0], pair[1])
			}
			for y := int(r.Y); y < int(r.Bottom()); y++ {
				for x := int(r.X); x < int(r.Right()); x++ {
					c := at(p, x, y)
					if c.R < b.Lo.R || c.G < b.Lo.G || c.B < b.Lo.B || c.R > b.Hi.R || c.G > b.Hi.G || c.B > b.Hi.B {
						t.Fatalf("%v at %d,%d of %dx%d is not within %v and %v", c, x, y, w, h, b.Lo, b.Hi)
					}
					if v := colour.Contrast(pair[0], pair[1].Over(c, alpha)); v < 4.5 {
						t.Fatalf("%v under a veil of %v at %v: contrast %v", c, pair[1], alpha, v)
					}
				}
			}
		}
	}
}

// TestTheWeakestVeil: the one found is the weakest of all 256 that are enough.
func TestTheWeakestVeil(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 5))
	for range 300 {
		random := func() colour.RGB {
			return colour.RGB{R: byte(rng.IntN(256)), G: byte(rng.IntN(256)), B: byte(rng.IntN(256))}
		}
		a, c := random(), random()
		b := Bounds{
			Lo: colour.RGB{R: min(a.R, c.R), G: min(a.G, c.G), B: min(a.B, c.B)},
			Hi: colour.RGB{R: max(a.R, c.R), G: max(a.G, c.G), B: max(a.B, c.B)},
		}
		ink, veil := random(), random()
		got, ok := b.Veil(ink, veil, 4.5)
		if want := colour.Contrast(ink, veil) >= 4.5; ok != want {
			t.Fatalf("%v on %v: ok %v", ink, veil, ok)
		}
		if !ok {
			continue
		}
		weakest := 255
		for weakest > 0 {
			if v, _ := b.Worst(ink, veil, float64(weakest-1)/255); v < 4.5 {
				break
			}
			weakest--
		}
		if got != float64(weakest)/255 {
			t.Errorf("%v on %v over %v: %v, brute force %v", ink, veil, b, got*255, weakest)
		}
	}
}

func TestNothingIsKnownOfNothing(t *testing.T) {
	b := Light{}.Under(spec.Rect{W: 10, H: 10}, 100, 100, 0)
	if b.Lo != colour.Black || b.Hi != colour.White {
		t.Errorf("%+v", b)
	}
	broken := Light{Cols: 64, Rows: 48, Tiles: make([]byte, 100)}
	if b = broken.Under(spec.Rect{W: 10, H: 10}, 100, 100, 0); b.Hi != colour.White {
		t.Errorf("a broken map knows %+v", b)
	}
	if lo, hi := broken.Points(); lo != 0 || hi != 1 {
		t.Error(lo, hi)
	}
	clear := colour.Pixels{W: 4, H: 4, Pix: make([]byte, 64)}
	for i := range clear.Pix {
		clear.Pix[i] = 128
	}
	if b = LightOf(clear).Under(spec.Rect{W: 4, H: 4}, 4, 4, 0); b.Lo != colour.Black || b.Hi != colour.White {
		t.Errorf("what shows through is known: %+v", b)
	}
	if lo, hi := (Light{}).Points(); lo != 0 || hi != 1 {
		t.Error(lo, hi)
	}
	for i := range clear.Pix { // a white picture: its tone still has two ends
		clear.Pix[i] = 255
	}
	if lo, hi := LightOf(clear).Points(); lo >= hi {
		t.Error(lo, hi)
	}
}
