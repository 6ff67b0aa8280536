package raster_test

import (
	"bytes"
	"context"
	"math"
	"os"
	"testing"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
)

func TestMain(m *testing.M) {
	raster.Shipped = func() (*typeset.Library, *typeset.Shaper) { return assets.Library(), assets.Shaper() }
	raster.ChildMain()
	os.Exit(m.Run())
}

func BenchmarkCrop(b *testing.B) {
	in, err := raster.Import(context.Background(), []byte(demo.Pictures()["dawn-on-the-bend.svg"]))
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		s := raster.NewStudio(func(string) ([]byte, error) { return in.Data, nil })
		if _, _, err := s.Crop(b.Context(), scene.PictureRef{Hash: "x", Crop: spec.Rect{X: 100, Y: 100, W: 1600, H: 1200}, W: 1080, H: 810}, 1080, 810); err != nil {
			b.Fatal(err)
		}
	}
}

// A picture that comes in knows the faces it shows; the two in it are drawn.
func TestImportFindsFaces(t *testing.T) {
	data, err := os.ReadFile("testdata/faces.png")
	if err != nil {
		t.Fatal(err)
	}
	in, err := raster.Import(t.Context(), data)
	if err != nil {
		t.Fatal(err)
	}
	if len(in.Subjects) != 2 {
		t.Fatalf("%d subjects: %+v", len(in.Subjects), in.Subjects)
	}
	// their middles, as they were drawn
	for i, at := range [][2]float64{{100.0 / 400, 125.0 / 300}, {290.0 / 400, 143.0 / 300}} {
		b := in.Subjects[i].Box
		if dx, dy := b[0]+b[2]/2-at[0], b[1]+b[3]/2-at[1]; math.Hypot(dx, dy) > 0.06 {
			t.Errorf("face %d at %v, drawn around %v", i, b, at)
		}
	}
}

// The same file again is the same picture, and a kept one that comes in again is known
// as it was: what is found is found in what is kept.
func TestAPictureComesInAgain(t *testing.T) {
	data := []byte(demo.Pictures()["lanterns-after-dark.svg"])
	a, err := raster.Import(t.Context(), data)
	if err != nil {
		t.Fatal(err)
	}
	b, err := raster.Import(t.Context(), data)
	if err != nil || b.Hash != a.Hash {
		t.Fatal(b.Hash, a.Hash, err)
	}
	kept, err := raster.Import(t.Context(), a.Data)
	if err != nil || kept.Hash != a.Hash {
		t.Fatal(kept.Hash, a.Hash, err)
	}
	if !bytes.Equal(kept.Light.Tiles, a.Light.Tiles) || !bytes.Equal(kept.Thumb.Pix, a.Thumb.Pix) || len(kept.Subjects) != len(a.Subjects) {
		t.Error("what is kept is known otherwise than what came in")
	}
}
