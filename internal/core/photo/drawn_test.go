package photo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
)

// painted is a picture of what ink says for each point (0-1), with so much noise on each channel.
func painted(w, h int, noise float64, ink func(x, y float64) colour.RGB) colour.Pixels {
	rng := rand.New(rand.NewPCG(7, 7))
	p := colour.Pixels{W: w, H: h, Pix: make([]uint8, 4*w*h)}
	for i := range w * h {
		c := ink((float64(i%w)+0.5)/float64(w), (float64(i/w)+0.5)/float64(h))
		for k, v := range []uint8{c.R, c.G, c.B} {
			p.Pix[4*i+k] = uint8(max(0, min(255, float64(v)+noise*(rng.Float64()-0.5))))
		}
		p.Pix[4*i+3] = 255
	}
	return p
}

// TestLogosAndPagesAreTold: a mark on a plain ground, a disc that fills its square and a page of small
// words are told from photographs of a thing on white, from scenes and from flat drawings up to the
// edges; all that is drawn lies in the box.
func TestLogosAndPagesAreTold(t *testing.T) {
	white, black, red := colour.RGB{R: 255, G: 255, B: 255}, colour.RGB{R: 20, G: 20, B: 24}, colour.RGB{R: 200, G: 40, B: 40}
	disc := func(r float64) func(x, y float64) colour.RGB {
		return func(x, y float64) colour.RGB {
			switch d := math.Hypot(x-0.5, y-0.5); {
			case d < r/2:
				return red
			case d < r:
				return black
			}
			return white
		}
	}
	page := func(x, y float64) colour.RGB {
		if x < 0.1 || x > 0.9 || y < 0.1 || y > 0.9 || math.Mod(y*24, 1) > 0.4 || math.Mod(x*40+math.Floor(y*24)*0.3, 1) > 0.6 {
			return white
		}
		return black
	}
	shaded := func(x, y float64) colour.RGB { // a ball in the light, its shadow under it
		dx, dy := x-0.5, y-0.45
		if d := math.Hypot(dx, dy); d < 0.3 {
			l := 0.35 + 0.6*math.Max(0, (-dx-dy+0.3)/0.9)
			return colour.RGB{R: uint8(210 * l), G: uint8(150*l + 40*d), B: uint8(90*l + 90*d)}
		}
		v := uint8(250 - 60*math.Exp(-80*(dy-0.32)*(dy-0.32)-8*dx*dx))
		return colour.RGB{R: v, G: v, B: v}
	}
	scene := func(x, y float64) colour.RGB {
		if y > 0.6+0.05*math.Sin(9*x) {
			return colour.RGB{R: 40, G: 70, B: 80}
		}
		return colour.RGB{R: uint8(240 - 60*y), G: uint8(180 - 90*y), B: 120}
	}
	for name, c := range map[string]struct {
		p    colour.Pixels
		want bool
		box  [4]float64
	}{
		"a mark":             {painted(400, 300, 0, disc(0.25)), true, [4]float64{0.25, 0.25, 0.5, 0.5}},
		"a mark as a JPEG":   {painted(400, 300, 8, disc(0.25)), true, [4]float64{0.25, 0.25, 0.5, 0.5}},
		"a disc to the edge": {painted(300, 300, 0, disc(0.5)), true, [4]float64{0, 0, 1, 1}},
		"a page":             {painted(900, 1200, 6, page), true, [4]float64{0.1, 0.1, 0.8, 0.8}},
		"a ball on white":    {painted(400, 300, 8, shaded), false, [4]float64{}},
		"a scene":            {painted(400, 300, 0, scene), false, [4]float64{}},
		"nothing":            {painted(400, 300, 0, func(_, _ float64) colour.RGB { return white }), false, [4]float64{}},
		"no picture":         {colour.Pixels{}, false, [4]float64{}},
	} {
		got, ok := photo.FindDrawn(c.p)
		if ok != c.want {
			t.Errorf("%s: %v %+v", name, ok, got)
			continue
		}
		for i, v := range c.box {
			if ok && math.Abs(got.Box[i]-v) > 0.04 {
				t.Errorf("%s lies in %.2f, want %.2f", name, got.Box, c.box)
				break
			}
		}
		if list := photo.FindSubjects(c.p); c.want && (len(list) != 1 || list[0].Kind != photo.Drawn) {
			t.Errorf("%s shows %+v", name, list)
		}
	}
}
