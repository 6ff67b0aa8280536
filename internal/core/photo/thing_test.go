package photo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
)

// drawn is a picture of a ground and, in a box (0-1), something with sharp stripes.
func drawn(w, h int, ground func(x, y float64) float64, box [4]float64) colour.Pixels {
	p := colour.Pixels{W: w, H: h, Pix: make([]uint8, 4*w*h)}
	for i := range w * h {
		x, y := (float64(i%w)+0.5)/float64(w), (float64(i/w)+0.5)/float64(h)
		v := ground(x, y)
		if dx, dy := (x-box[0])/box[2], (y-box[1])/box[3]; dx >= 0 && dx < 1 && dy >= 0 && dy < 1 {
			v = 60 + 150*float64((i%w/5+i/w/4)%2)
		}
		for k := range 3 {
			p.Pix[4*i+k] = uint8(max(0, min(255, v)))
		}
		p.Pix[4*i+3] = 255
	}
	return p
}

// TestTheThingIsFound: what is sharp before something plain, graded or out of focus is
// found to two thirds of its box (intersection over union); textures and empty pictures
// show no one thing.
func TestTheThingIsFound(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 5))
	plain := func(_, _ float64) float64 { return 205 }
	graded := func(_, y float64) float64 { return 80 + 140*y }
	soft := func(x, y float64) float64 { return 130 + 60*math.Sin(9*x)*math.Cos(7*y) }
	for what, ground := range map[string]func(x, y float64) float64{"plain": plain, "graded": graded, "out of focus": soft} {
		for _, box := range [][4]float64{{0.35, 0.3, 0.3, 0.4}, {0.55, 0.4, 0.25, 0.35}, {0.1, 0.2, 0.3, 0.5}} {
			for _, size := range [][2]int{{448, 300}, {300, 448}, {256, 256}} {
				got, ok := photo.FindThing(drawn(size[0], size[1], ground, box))
				if !ok {
					t.Errorf("%s, %v in %v: nothing is found", what, box, size)
					continue
				}
				b := got.Box
				w := math.Min(b[0]+b[2], box[0]+box[2]) - math.Max(b[0], box[0])
				h := math.Min(b[1]+b[3], box[1]+box[3]) - math.Max(b[1], box[1])
				if v := w * h / (b[2]*b[3] + box[2]*box[3] - w*h); w < 0 || h < 0 || v < 2.0/3 {
					t.Errorf("%s, %v in %v: %.2f is %.2f of it", what, box, size, b, v)
				}
			}
		}
	}
	for what, ground := range map[string]func(x, y float64) float64{
		"nothing": plain, "a sky": graded, "noise": func(_, _ float64) float64 { return 255 * rng.Float64() },
		"a fence": func(x, _ float64) float64 { return 90 + 90*math.Sin(180*x) },
	} {
		if got, ok := photo.FindThing(drawn(400, 300, ground, [4]float64{})); ok {
			t.Errorf("%s: %+v is a thing", what, got)
		}
	}
	for _, p := range []colour.Pixels{{}, {W: 1, H: 1, Pix: make([]byte, 4)}, {W: 400, H: 3, Pix: make([]byte, 4800)}} {
		if got, ok := photo.FindThing(p); ok {
			t.Errorf("%d x %d: %+v", p.W, p.H, got)
		}
	}
}
