package raster_test

import (
	"bytes"
	"image"
	"image/color"
	_ "image/jpeg"
	"image/png"
	"math"
	"testing"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// Dials do to pixels what their matrix says; a picture without colour is grey, by the luma
// of Rec. 709.
func TestDials(t *testing.T) {
	colours := []color.NRGBA{{200, 60, 40, 255}, {20, 90, 160, 255}, {128, 128, 128, 255}, {245, 235, 220, 255}}
	img := image.NewNRGBA(image.Rect(0, 0, 160, 40))
	for i, c := range colours {
		for x := range 40 {
			for y := range 40 {
				img.SetNRGBA(40*i+x, y, c)
			}
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	studio := raster.NewStudio(func(string) ([]byte, error) { return b.Bytes(), nil })
	for _, d := range []scene.Dials{{}, {Brightness: 0.3}, {Contrast: -0.5}, {Saturation: -1}, {Saturation: 0.4, Warmth: -0.8}, {Brightness: -1, Contrast: 1, Saturation: 1, Warmth: 1}} {
		data, _, err := studio.Crop(t.Context(), scene.PictureRef{Hash: "x", Crop: spec.Rect{W: 160, H: 40}, W: 160, H: 40, Dials: d}, 160, 40)
		if err != nil {
			t.Fatal(err)
		}
		got, _, err := image.Decode(bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		m, off := d.Matrix()
		for i, c := range colours {
			in := [3]float64{float64(c.R), float64(c.G), float64(c.B)}
			r, g, bl, _ := got.At(40*i+20, 20).RGBA()
			for ch, have := range []uint32{r >> 8, g >> 8, bl >> 8} {
				want := 255 * off[ch]
				for j := range 3 {
					want += m[ch][j] * in[j]
				}
				if want = math.Max(0, math.Min(255, want)); math.Abs(float64(have)-want) > 4 { // JPEG
					t.Errorf("%+v: channel %d of %v is %d, want %.1f", d, ch, c, have, want)
				}
			}
			if grey := 0.2126*in[0] + 0.7152*in[1] + 0.0722*in[2]; d == (scene.Dials{Saturation: -1}) && math.Abs(float64(g>>8)-grey) > 4 {
				t.Errorf("%v without colour is %d, want %.1f", c, g>>8, grey)
			}
		}
	}
}
