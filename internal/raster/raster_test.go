package raster_test

import (
	"context"
	"os"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

func TestMain(m *testing.M) {
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
