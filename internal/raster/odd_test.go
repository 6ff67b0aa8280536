package raster_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/raster"
)

// TestOddPicturesBecomeOrdinary: 16 bits a channel, CMYK, animation, a palette
// with transparency all become upright 8-bit sRGB of the same size and colour.
func TestOddPicturesBecomeOrdinary(t *testing.T) {
	const w, h = 60, 40
	want := color.NRGBA{R: 200, G: 80, B: 40, A: 255}
	deep := image.NewNRGBA64(image.Rect(0, 0, w, h))
	flat := image.NewPaletted(image.Rect(0, 0, w, h), color.Palette{want, color.NRGBA{B: 255, A: 255}})
	for y := range h {
		for x := range w {
			deep.Set(x, y, color.NRGBA64{R: 200 * 257, G: 80 * 257, B: 40 * 257, A: 65535})
		}
	}
	var deepPNG, anim, plain bytes.Buffer
	if err := png.Encode(&deepPNG, deep); err != nil {
		t.Fatal(err)
	}
	second := image.NewPaletted(flat.Rect, flat.Palette)
	for i := range second.Pix {
		second.Pix[i] = 1
	}
	if err := gif.EncodeAll(&anim, &gif.GIF{Image: []*image.Paletted{flat, second}, Delay: []int{10, 10}}); err != nil {
		t.Fatal(err)
	}
	if err := png.Encode(&plain, flat); err != nil {
		t.Fatal(err)
	}
	if _, err := raster.Import(t.Context(), plain.Bytes()); err != nil { // starts the library
		t.Fatal(err)
	}
	studio := raster.NewStudio(nil)
	if _, err := studio.Draw(context.Background(), `<svg xmlns="http://www.w3.org/2000/svg" width="1" height="1"/>`, raster.Output{Format: "png"}); err != nil {
		t.Fatal(err)
	}
	img, err := vips.NewImageFromBuffer(plain.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	if err := img.ToColorSpace(vips.InterpretationCMYK); err != nil {
		t.Fatal(err)
	}
	cmyk, _, err := img.ExportJpeg(&vips.JpegExportParams{Quality: 95})
	if err != nil {
		t.Fatal(err)
	}
	if cfg, err := jpeg.DecodeConfig(bytes.NewReader(cmyk)); err != nil || cfg.ColorModel != color.CMYKModel {
		t.Fatalf("the test's own picture is no CMYK: %v %v", cfg.ColorModel, err)
	}
	for name, c := range map[string]struct {
		data []byte
		off  float64 // how far colours may be, of 255: CMYK has no exact way back
	}{"16 bits": {deepPNG.Bytes(), 3}, "animated": {anim.Bytes(), 3}, "palette": {plain.Bytes(), 3}, "CMYK": {cmyk, 30}} {
		in, err := raster.Import(t.Context(), c.data)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if in.W != w || in.H != h {
			t.Errorf("%s: %d × %d", name, in.W, in.H)
		}
		got, _, err := image.Decode(bytes.NewReader(in.Data))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		p := color.NRGBAModel.Convert(got.At(w/2, h/2)).(color.NRGBA)
		for i, d := range []float64{float64(p.R) - 200, float64(p.G) - 80, float64(p.B) - 40} {
			if d > c.off || d < -c.off {
				t.Errorf("%s: channel %d is off by %.0f: %v", name, i, d, p)
			}
		}
	}
}

// TestTooLargeIsSaidFromTheHeader refuses 200 megapixels before anything is
// decoded, and says how many are taken.
func TestTooLargeIsSaidFromTheHeader(t *testing.T) {
	chunk := []byte("IHDR\x00\x00\x4e\x20\x00\x00\x27\x10\x08\x02\x00\x00\x00") // 20,000 × 10,000
	data := append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d"), chunk...)
	data = binary.BigEndian.AppendUint32(data, crc32.ChecksumIEEE(chunk))
	_, err := raster.Import(t.Context(), data)
	if !errors.Is(err, raster.ErrFile) || !strings.Contains(err.Error(), "megapixel") {
		t.Errorf("%v", err)
	}
}
