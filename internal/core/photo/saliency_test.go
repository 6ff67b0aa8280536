package photo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
)

// scenery draws a picture 160 x 120: a ground, and a subject at a known place.
func scenery(ground func(x, y float64) [3]float64, subject func(x, y float64) (c [3]float64, inside bool)) colour.Pixels {
	p := colour.Pixels{W: 160, H: 120, Pix: make([]uint8, 4*160*120)}
	rng := rand.New(rand.NewPCG(3, 3))
	for i := range 160 * 120 {
		x, y := (float64(i%160)+0.5)/160, (float64(i/160)+0.5)/120
		c := ground(x, y)
		if s, in := subject(x, y); in {
			c = s
		}
		for k := range 3 {
			p.Pix[4*i+k] = uint8(max(0, min(255, c[k]+8*(rng.Float64()-0.5))))
		}
		p.Pix[4*i+3] = 255
	}
	return p
}

// TestTheSubjectIsFound labels fifteen drawn pictures: a subject of a tenth to a
// quarter of the width on skies, fields, floors. Nine in ten are found to a
// seventh of the picture.
func TestTheSubjectIsFound(t *testing.T) {
	grounds := map[string]func(x, y float64) [3]float64{
		"a plain wall": func(_, _ float64) [3]float64 { return [3]float64{200, 196, 188} },
		"an evening sky": func(_, y float64) [3]float64 {
			return [3]float64{250 - 90*y, 200 - 110*y, 150 - 30*y}
		},
		"sea below sky": func(_, y float64) [3]float64 {
			if y > 0.55 {
				return [3]float64{40, 90, 110}
			}
			return [3]float64{190, 215, 230}
		},
		"checked floor": func(x, y float64) [3]float64 {
			if (int(x*16)+int(y*12))%2 == 0 {
				return [3]float64{150, 140, 120}
			}
			return [3]float64{175, 165, 145}
		},
		"night": func(_, y float64) [3]float64 { return [3]float64{18 + 10*y, 20 + 16*y, 40 + 30*y} },
	}
	places := [][2]float64{{0.3, 0.6}, {0.68, 0.4}, {0.5, 0.7}}
	colours := [][3]float64{{230, 90, 50}, {250, 220, 90}, {220, 60, 90}}
	hits, all := 0, 0
	for name, g := range grounds {
		for i, at := range places {
			p := scenery(g, func(x, y float64) ([3]float64, bool) {
				dx, dy := (x-at[0])/0.09, (y-at[1])/0.11
				return colours[i], dx*dx+dy*dy < 1
			})
			all++
			got := photo.FindFocus(p)
			if d := math.Hypot(got[0]-at[0], got[1]-at[1]); d < 1.0/7 {
				hits++
			} else {
				t.Logf("%s: %.2f, want %.2f", name, got, at)
			}
		}
	}
	if hits*10 < all*9 {
		t.Errorf("%d of %d subjects found", hits, all)
	}
}

func TestNothingToSeeIsTheMiddle(t *testing.T) {
	if got := photo.FindFocus(colour.Pixels{}); got != [2]float64{0.5, 0.5} {
		t.Error(got)
	}
	clear := colour.Pixels{W: 10, H: 10, Pix: make([]uint8, 400)}
	if got := photo.FindFocus(clear); got != [2]float64{0.5, 0.5} {
		t.Error(got)
	}
	flat := scenery(func(_, _ float64) [3]float64 { return [3]float64{120, 120, 120} }, func(_, _ float64) ([3]float64, bool) { return [3]float64{}, false })
	if got := photo.FindFocus(flat); math.Hypot(got[0]-0.5, got[1]-0.5) > 0.3 {
		t.Errorf("an even picture has its subject at %.2f", got)
	}
}
