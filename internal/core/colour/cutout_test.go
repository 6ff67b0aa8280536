package colour_test

import (
	"math"
	"testing"

	"aspenridge/internal/core/colour"
)

// disc draws a disc of ink with a soft edge over a ground and a detail in the
// middle of it, by the definition of alpha compositing (Porter and Duff, 1984).
func disc(n int, ground *colour.RGB, ink, detail colour.RGB) colour.Pixels {
	p := colour.Pixels{W: n, H: n, Pix: make([]uint8, 4*n*n)}
	mix := func(a, b uint8, t float64) uint8 { return uint8(math.Round(float64(a)*t + float64(b)*(1-t))) }
	for y := range n {
		for x := range n {
			d := math.Hypot(float64(x)-float64(n)/2+0.5, float64(y)-float64(n)/2+0.5)
			cover := func(r float64) float64 { return math.Max(0, math.Min(1, r-d+0.5)) }
			a, in := cover(float64(n)*0.4), cover(float64(n)*0.15)
			c := colour.RGB{R: mix(detail.R, ink.R, in), G: mix(detail.G, ink.G, in), B: mix(detail.B, ink.B, in)}
			alpha := uint8(math.Round(255 * a))
			if ground != nil {
				c, alpha = colour.RGB{R: mix(c.R, ground.R, a), G: mix(c.G, ground.G, a), B: mix(c.B, ground.B, a)}, 255
			}
			copy(p.Pix[4*(y*n+x):], []uint8{c.R, c.G, c.B, alpha})
		}
	}
	return p
}

// over composes pixels on a ground.
func over(p colour.Pixels, g colour.RGB) []float64 {
	var out []float64
	for i := 0; i < len(p.Pix); i += 4 {
		a := float64(p.Pix[i+3]) / 255
		for k, v := range [3]uint8{g.R, g.G, g.B} {
			out = append(out, float64(p.Pix[i+k])*a+float64(v)*(1-a))
		}
	}
	return out
}

// TestCutOutIsWhatWasDrawn: a drawing cut off its white box and put on a dark
// ground looks as if it had been drawn there.
func TestCutOutIsWhatWasDrawn(t *testing.T) {
	ink, detail := colour.RGB{R: 15, G: 61, B: 76}, colour.RGB{R: 242, G: 105, B: 75}
	white, dark := colour.White, colour.RGB{R: 20, G: 20, B: 24}
	boxed := disc(120, &white, ink, detail)
	art := colour.ExtractFlat(boxed)
	if art.Ground == nil || *art.Ground != white {
		t.Fatal("the box was not noticed")
	}
	got, want := over(colour.CutOut(boxed, white, art.Ink), dark), over(disc(120, nil, ink, detail), dark)
	worst, sum := 0.0, 0.0
	for i := range got {
		d := math.Abs(got[i] - want[i])
		worst, sum = math.Max(worst, d), sum+d
	}
	if worst > 12 || sum/float64(len(got)) > 0.2 {
		t.Errorf("off by %.0f of 255 at worst, %.2f on average", worst, sum/float64(len(got)))
	}
}

func TestHostsTellDetailsFromParts(t *testing.T) {
	ink, detail := colour.RGB{R: 15, G: 61, B: 76}, colour.RGB{R: 246, G: 235, B: 214}
	p := disc(120, nil, ink, detail)
	art := colour.ExtractFlat(p)
	hosts := colour.Hosts(p, nil, art.Ink)
	for i, f := range art.Ink {
		if want := colour.DeltaE(f.Colour, detail) < 2; (hosts[i] >= 0) != want {
			t.Errorf("%s lies on %d", f.Colour.Hex(), hosts[i])
		}
	}
}
