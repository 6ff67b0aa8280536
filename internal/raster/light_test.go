package raster_test

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"

	"aspenridge/test/sweep"
)

// blocky draws hard edges and noise, which scaling and JPEG are unkind to.
func blocky(rng *rand.Rand, w, h int) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	size := 5 + rng.IntN(90)
	shade := map[image.Point]color.NRGBA{}
	noise := rng.IntN(40)
	for y := range h {
		for x := range w {
			at := image.Pt(x/size, y/size)
			c, ok := shade[at]
			if !ok {
				c = color.NRGBA{uint8(rng.IntN(216)), uint8(rng.IntN(216)), uint8(rng.IntN(216)), 255}
				shade[at] = c
			}
			n := uint8(rng.IntN(noise + 1))
			img.SetNRGBA(x, y, color.NRGBA{c.R + n, c.G + n, c.B + n, 255})
		}
	}
	var b bytes.Buffer
	_ = png.Encode(&b, img)
	return b.Bytes()
}

// TestLightHoldsThroughScaling: what a picture is drawn as, cut, scaled and packed,
// lies within what its light map said, but for one px in a thousand.
func TestLightHoldsThroughScaling(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 2))
	outside, all := 0, 0
	for i := range 50 {
		if !sweep.Turn(i, 3) {
			continue
		}
		w, h := 120+rng.IntN(240), 120+rng.IntN(240)
		in, err := raster.Import(t.Context(), blocky(rng, w, h))
		if err != nil {
			t.Fatal(err)
		}
		studio := raster.NewStudio(func(string) ([]byte, error) { return in.Data, nil })
		cw, ch := 60+rng.IntN(w-60), 60+rng.IntN(h-60)
		crop := spec.Rect{X: float64(rng.IntN(w - cw)), Y: float64(rng.IntN(h - ch)), W: float64(cw), H: float64(ch)}
		k := 0.2 + 1.6*rng.Float64() // from a fifth to nearly twice the size
		ow, oh := max(1, int(k*crop.W)), max(1, int(k*crop.H))
		data, _, err := studio.Crop(t.Context(), scene.PictureRef{Hash: in.Hash, Crop: crop}, ow, oh)
		if err != nil {
			t.Fatal(err)
		}
		img, err := jpeg.Decode(bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		// a part of it, where words may stand
		x0, y0 := rng.IntN(ow), rng.IntN(oh)
		x1, y1 := x0+1+rng.IntN(ow-x0), y0+1+rng.IntN(oh-y0)
		kx, ky := crop.W/float64(ow), crop.H/float64(oh)
		part := spec.Rect{X: crop.X + float64(x0)*kx, Y: crop.Y + float64(y0)*ky, W: float64(x1-x0) * kx, H: float64(y1-y0) * ky}
		b := in.Light.Under(part, in.W, in.H, 6*max(1, kx, ky))
		for y := y0; y < y1; y++ {
			for x := x0; x < x1; x++ {
				r, g, bl, _ := img.At(x, y).RGBA()
				c := colour.RGB{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(bl >> 8)}
				all++
				if v := c.Luminance(); v < b.Lo.Luminance() || v > b.Hi.Luminance() {
					outside++
				}
			}
		}
	}
	if outside*1000 > all || all < 10_000 {
		t.Errorf("%d of %d px lie outside their bounds", outside, all)
	}
}

// TestTonedPicturesLieBetweenTheirColours: a picture drawn in two colours is nowhere
// anything else, keeps the order of light and dark, and stays seen through.
func TestTonedPicturesLieBetweenTheirColours(t *testing.T) {
	ramp := image.NewNRGBA(image.Rect(0, 0, 256, 40))
	for y := range 40 {
		for x := range 256 {
			a := uint8(255)
			if y < 10 {
				a = 0
			}
			ramp.SetNRGBA(x, y, color.NRGBA{uint8(x), uint8(x), uint8(x), a})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, ramp); err != nil {
		t.Fatal(err)
	}
	in, err := raster.Import(t.Context(), b.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	studio := raster.NewStudio(func(string) ([]byte, error) { return in.Data, nil })
	tone := scene.Tone{Dark: colour.RGB{R: 0x0F, G: 0x3D, B: 0x4C}, Light: colour.RGB{R: 0xF6, G: 0xEB, B: 0xD6}, Black: 0.1, White: 0.9}
	data, kind, err := studio.Crop(t.Context(), scene.PictureRef{Hash: in.Hash, Crop: spec.Rect{W: 256, H: 40}, Tone: tone}, 256, 40)
	if err != nil || kind != "image/png" {
		t.Fatal(kind, err)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	for x := range 256 {
		if _, _, _, a := img.At(x, 4).RGBA(); a != 0 {
			t.Fatalf("at %d it is no longer seen through", x)
		}
		c := color.NRGBAModel.Convert(img.At(x, 30)).(color.NRGBA)
		want := tone.At(float64(x) / 255)
		if d := colour.DeltaE(want, colour.RGB{R: c.R, G: c.G, B: c.B}); d > 1.5 {
			t.Fatalf("grey %d is drawn %v, want %v", x, c, want)
		}
	}
}
