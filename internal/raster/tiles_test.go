package raster_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

// TestTilesAreDrawnWhereTheyAre: a sign that is repeated looks as if each were drawn by itself, cut
// off at the edge of its box, also one with holes.
func TestTilesAreDrawnWhereTheyAre(t *testing.T) {
	sign := []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="10 20 60 60"><circle cx="40" cy="50" r="30" fill="#2B4A6F"/><path d="M40 30l10 30H30z" fill="#fff"/></svg>`)
	in, err := raster.ImportLogo(t.Context(), sign)
	if err != nil || in.Art.Cut == nil {
		t.Fatalf("%v %v", in.Art.Cut, err)
	}
	ground, ink := colour.RGB{R: 250, G: 240, B: 220}, colour.RGB{R: 180, G: 30, B: 60}
	box := spec.Rect{X: 20, Y: 10, W: 150, H: 80}
	tiles := []spec.Rect{{X: 30, Y: 20, W: 30, H: 30}, {X: 100, Y: 45, W: 30, H: 30}, {X: 60, Y: 55, W: 20, H: 20}, {X: 150, Y: 20, W: 40, H: 40}}
	draw := func(parts ...scene.Part) image.Image {
		t.Helper()
		s := &scene.Scene{W: 200, H: 100, Parts: append([]scene.Part{{Slot: "ground", Kind: scene.KindShape, Box: spec.Rect{W: 200, H: 100}, Fill: ground}}, parts...)}
		data, err := raster.NewStudio(nil).Draw(t.Context(), s.SVG(scene.Options{IDs: "x-"}), raster.Output{Format: "png"})
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		return img
	}
	part := func(box spec.Rect, art *brand.Art, tiles []spec.Rect) scene.Part {
		return scene.Part{Slot: "ornament", Kind: scene.KindShape, Box: box, Art: art, Tiles: tiles, Fill: ink, Alpha: 1}
	}
	var single []scene.Part
	for _, at := range tiles {
		single = append(single, part(at, &in.Art, nil))
	}
	whole, apart := draw(part(box, &in.Art, tiles)), draw(single...)
	seen := 0
	for y := range 100 {
		for x := range 200 {
			want := fmt.Sprint(ground.R, ground.G, ground.B)
			if box.Holds(float64(x)+0.5, float64(y)+0.5) {
				r, g, b, _ := apart.At(x, y).RGBA()
				want = fmt.Sprint(r>>8, g>>8, b>>8)
				if want == fmt.Sprint(ink.R, ink.G, ink.B) {
					seen++
				}
			}
			r, g, b, _ := whole.At(x, y).RGBA()
			if got := fmt.Sprint(r>>8, g>>8, b>>8); got != want {
				var a, c [3]int
				_, _ = fmt.Sscan(got, &a[0], &a[1], &a[2])
				_, _ = fmt.Sscan(want, &c[0], &c[1], &c[2])
				if max(abs(a[0]-c[0]), abs(a[1]-c[1]), abs(a[2]-c[2])) > 24 { // edges are drawn at other parts of a px
					t.Fatalf("at %d, %d: %s, want %s", x, y, got, want)
				}
			}
		}
	}
	if seen < 1000 {
		t.Errorf("%d px of the sign", seen)
	}
}

func abs(v int) int { return max(v, -v) }
