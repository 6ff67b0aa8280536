package photo

import (
	"math"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

func picture() Picture {
	p := Picture{W: 1000, H: 500, Focus: [2]float64{0.8, 0.5}, Thumb: colour.Pixels{W: 100, H: 50, Pix: make([]uint8, 4*100*50)}}
	for y := range 50 {
		for x := range 100 {
			copy(p.Thumb.Pix[4*(y*100+x):], []uint8{uint8(x * 2), uint8(x*2 + y), uint8(255 - y*4), 255})
		}
	}
	return p
}

func TestCropKeepsTheFocusInView(t *testing.T) {
	p := picture()
	for _, aspect := range []float64{0.2, 0.5, 1, 2, 4, 9} {
		c := p.Crop(aspect, [2]float64{0.5, 0.5})
		if math.Abs(c.W/c.H-aspect) > 1e-9 || !(spec.Rect{W: 1000, H: 500}).Contains(c, 1e-9) {
			t.Errorf("aspect %v gave %+v", aspect, c)
		}
		if fx := p.Focus[0] * 1000; fx < c.X || fx > c.Right() {
			t.Errorf("aspect %v cuts the subject off: %+v", aspect, c)
		}
	}
}

func TestVeilStrengthAgainstBruteForce(t *testing.T) {
	p := picture()
	part := spec.Rect{X: 100, Y: 100, W: 600, H: 300}
	for _, c := range []struct{ ink, veil colour.RGB }{
		{colour.White, colour.Black}, {colour.RGB{R: 0x10, G: 0x24, B: 0x2B}, colour.RGB{R: 0xF6, G: 0xEB, B: 0xD6}},
		{colour.RGB{R: 0xF6, G: 0xEB, B: 0xD6}, colour.RGB{R: 0x0F, G: 0x3D, B: 0x4C}},
	} {
		got, ok := p.VeilStrength(part, c.ink, c.veil, 4.5)
		if !ok {
			t.Fatalf("%v on %v: no veil is enough", c.ink, c.veil)
		}
		want := 1.0
		for a := 256; a >= 0; a-- {
			if r, _ := p.WorstContrast(part, c.ink, c.veil, float64(a)/256); r < 4.5 {
				break
			}
			want = float64(a) / 256
		}
		if got != want {
			t.Errorf("%v on %v: %v, brute force says %v", c.ink, c.veil, got, want)
		}
	}
	if _, ok := p.VeilStrength(part, colour.White, colour.White, 4.5); ok {
		t.Error("white words on a white veil were called readable")
	}
}
