package raster_test

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// noisy is a drawing of flat kit colours beside a picture that compresses
// badly.
func noisy(t *testing.T) (*scene.Scene, *raster.Studio) {
	t.Helper()
	rng := rand.New(rand.NewPCG(5, 5))
	img := image.NewNRGBA(image.Rect(0, 0, 300, 250))
	for i := range 300 * 250 {
		v := uint8(rng.IntN(60))
		x, y := i%300, i/300
		img.Set(x, y, color.NRGBA{R: uint8(x/2) + v, G: uint8(y/2) + v, B: 90 + v, A: 255})
	}
	var buf bytes.Buffer
	if err := png.Encode(&buf, img); err != nil {
		t.Fatal(err)
	}
	s := &scene.Scene{W: 300, H: 250, Parts: []scene.Part{
		{Slot: "ground", Kind: scene.KindShape, Box: spec.Rect{W: 300, H: 250}, Fill: colour.RGB{R: 0x0f, G: 0x3d, B: 0x4c}},
		{Slot: "picture", Kind: scene.KindPicture, Box: spec.Rect{W: 300, H: 180}, Picture: "x", Crop: spec.Rect{W: 300, H: 180}},
		{Slot: "button", Kind: scene.KindShape, Box: spec.Rect{X: 20, Y: 200, W: 80, H: 30}, Fill: colour.RGB{R: 0xf2, G: 0x69, B: 0x4b}},
	}}
	return s, raster.NewStudio(func(string) ([]byte, error) { return buf.Bytes(), nil })
}

func TestAPaletteKeepsKitColoursExact(t *testing.T) {
	s, studio := noisy(t)
	full, err := studio.Fit(context.Background(), s, raster.Output{Format: "png"}, 0)
	if err != nil {
		t.Fatal(err)
	}
	f, err := studio.Fit(context.Background(), s, raster.Output{Format: "png"}, len(full.Data)-1)
	if err != nil {
		t.Fatal(err)
	}
	if f.TooMuch || f.How == "" || len(f.Data) >= len(full.Data) {
		t.Fatalf("%d bytes of %d, %q", len(f.Data), len(full.Data), f.How)
	}
	img, err := png.Decode(bytes.NewReader(f.Data))
	if err != nil {
		t.Fatal(err)
	}
	if p, ok := img.(*image.Paletted); !ok || len(p.Palette) > 256 {
		t.Fatalf("%T", img)
	}
	for at, want := range map[image.Point]color.NRGBA{{X: 200, Y: 240}: {0x0f, 0x3d, 0x4c, 255}, {X: 50, Y: 215}: {0xf2, 0x69, 0x4b, 255}} {
		if got := color.NRGBAModel.Convert(img.At(at.X, at.Y)); got != want {
			t.Errorf("%v is %v, want %v", at, got, want)
		}
	}
}

// TestTheBestQualityThatFits goes through every quality and finds none better
// that is light enough.
func TestTheBestQualityThatFits(t *testing.T) {
	s, studio := noisy(t)
	ctx := context.Background()
	for _, format := range []string{"jpeg", "webp"} {
		size := func(q int) int {
			data, err := studio.Render(ctx, s, raster.Output{Format: format, Quality: q})
			if err != nil {
				t.Fatal(err)
			}
			return len(data)
		}
		limit := size(71) + 1
		best := 0
		for q := 45; q <= 90; q++ {
			if size(q) <= limit {
				best = q
			}
		}
		f, err := studio.Fit(ctx, s, raster.Output{Format: format}, limit)
		if err != nil || f.TooMuch || len(f.Data) > limit {
			t.Fatalf("%s: %d bytes, limit %d, %v", format, len(f.Data), limit, err)
		}
		if got, least := len(f.Data), size(best-1); got < least {
			t.Errorf("%s: %d bytes; quality %d would be %d and fit as well", format, got, best-1, least)
		}
		if f, err = studio.Fit(ctx, s, raster.Output{Format: format}, 500); err != nil || !f.TooMuch {
			t.Errorf("%s: 500 bytes were met: %d", format, len(f.Data))
		}
	}
}

func TestAnotherFormatWhereTheFirstIsTooHeavy(t *testing.T) {
	s, studio := noisy(t)
	f, err := studio.FitAny(context.Background(), s, raster.Output{}, 25_000, []string{"png", "jpeg"})
	if err != nil || f.Format != "jpeg" || f.TooMuch || len(f.Data) > 25_000 {
		t.Errorf("%s, %d bytes, %q, %v", f.Format, len(f.Data), f.How, err)
	}
}

func TestWithoutGroundOneSeesThrough(t *testing.T) {
	s, studio := noisy(t)
	data, err := studio.Render(context.Background(), s, raster.Output{Format: "png", Transparent: true})
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	if _, _, _, a := img.At(200, 240).RGBA(); a != 0 {
		t.Errorf("the ground is still there, alpha %d", a)
	}
	if _, _, _, a := img.At(50, 215).RGBA(); a != 0xffff {
		t.Errorf("the button is gone, alpha %d", a)
	}
}
