package raster_test

import (
	"bytes"
	"context"
	"math"
	"testing"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// TestEveryFormat writes a piece in each format of px there is and reads it with another
// decoder: as large, in the same colours but for what the format loses, the same bytes
// twice, and without its ground where it can be.
func TestEveryFormat(t *testing.T) {
	s, studio := noisy(t)
	mean := func(data []byte) (w, h int, rgb [3]float64, alpha bool) {
		img, err := vips.NewImageFromBuffer(data)
		if err != nil {
			t.Fatal(err)
		}
		defer img.Close()
		alpha = img.HasAlpha()
		for band := range rgb {
			one, err := img.ExtractBandToImage(band, 1)
			if err != nil {
				t.Fatal(err)
			}
			if rgb[band], err = one.Average(); err != nil {
				t.Fatal(err)
			}
			one.Close()
		}
		return img.Width(), img.Height(), rgb, alpha
	}
	render := func(format string, clear bool) []byte {
		data, err := studio.Render(context.Background(), s, raster.Output{Format: format, Transparent: clear})
		if err != nil {
			t.Fatalf("%s: %v", format, err)
		}
		return data
	}
	_, _, want, _ := mean(render("png", false))
	for _, f := range spec.Formats {
		if !f.Pixels {
			continue
		}
		data := render(f.Name, false)
		w, h, rgb, alpha := mean(data)
		if w != s.W || h != s.H || alpha {
			t.Errorf("%s is %d x %d, seen through: %v", f.Name, w, h, alpha)
		}
		for i := range rgb {
			if math.Abs(rgb[i]-want[i]) > 3 {
				t.Errorf("%s: mean colours %v, want about %v", f.Name, rgb, want)
				break
			}
		}
		if !bytes.Equal(data, render(f.Name, false)) {
			t.Errorf("%s: other bytes the second time", f.Name)
		}
		if _, _, _, alpha := mean(render(f.Name, true)); alpha != f.Clear {
			t.Errorf("%s without its ground is seen through: %v", f.Name, alpha)
		}
	}
}
