package adjust_test

import (
	"testing"

	"aspenridge/internal/core/adjust"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// What is bound to edges of the piece reaches them in every shape.
func TestBoundToEdges(t *testing.T) {
	for _, size := range [][2]int{{1080, 1080}, {1080, 1920}, {1600, 400}} {
		w, h := float64(size[0]), float64(size[1])
		short := min(w, h)
		for fit, want := range map[string]spec.Rect{
			"":      {X: w/2 - short/4, Y: h/2 - short/8, W: short / 2, H: short / 4},
			"wide":  {X: 0, Y: h/2 - short/8, W: w, H: short / 4},
			"high":  {X: w/2 - short/4, Y: 0, W: short / 2, H: h},
			"whole": {W: w, H: h},
		} {
			sc := &scene.Scene{W: size[0], H: size[1]}
			adjust.Apply(sc, adjust.Input{Kit: &brand.Kit{}, Added: []brief.Added{{Slot: "added-x", Kind: "shape", Name: "panel", Fill: "#112233", At: [2]float64{0.5, 0.5}, Size: [2]float64{0.5, 0.25}, Fit: fit}}})
			if len(sc.Parts) != 1 || sc.Parts[0].Box != want {
				t.Errorf("%v %q: %+v, want %+v", size, fit, sc.Parts, want)
			}
		}
	}
}
