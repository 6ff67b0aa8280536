package colour_test

import (
	"testing"

	"aspenridge/internal/core/colour"
)

// A half of one colour, a quarter of a second with a compressor's rounding in
// it, and a quarter of noise, which has no flat areas.
func TestFlatsAreToldFromPictures(t *testing.T) {
	p := colour.Pixels{W: 64, H: 64, Pix: make([]uint8, 4*64*64)}
	noise := uint32(7)
	for y := range 64 {
		for x := range 64 {
			c := [3]uint8{0x0f, 0x3d, 0x4c}
			switch {
			case x >= 32 && y < 32:
				c = [3]uint8{0xf2, 0x69, 0x4b}
				if y > 16 {
					c[2]++ // under what anybody sees
				}
			case x >= 32:
				noise = noise*1664525 + 1013904223
				c = [3]uint8{uint8(noise >> 24), uint8(noise >> 16), uint8(noise >> 8)}
			}
			copy(p.Pix[4*(64*y+x):], append(c[:], 255))
		}
	}
	got := colour.Flats(p, 0.01)
	if len(got) != 2 || got[0].Colour.Hex() != "#0F3D4C" || got[1].Colour.Hex() != "#F2694B" {
		t.Fatalf("%+v", got)
	}
	if got[0].Share < 0.45 || got[0].Share > 0.5 || got[1].Share < 0.2 || got[1].Share > 0.25 {
		t.Errorf("shares %+v", got)
	}
}
