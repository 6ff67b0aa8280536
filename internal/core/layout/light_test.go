package layout_test

import (
	"math"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

func only(p photo.Picture) func(string) photo.Picture {
	return func(string) photo.Picture { return p }
}

// TestLightOf: what lies over a picture is told apart where it lies over what the picture shows,
// and a tone's range by its lightness (CIE 15:2004: L* of 18.4% is 50).
func TestLightOf(t *testing.T) {
	p := photo.Picture{Hash: "p", W: 100, H: 100, Subjects: []photo.Subject{{Box: [4]float64{0.5, 0, 0.5, 1}, Kind: photo.Face, Weight: 9}}}
	all := spec.Rect{W: 100, H: 100}
	pic := scene.Part{Slot: "picture", Kind: scene.KindPicture, Box: all, Crop: all, Picture: "p"}
	veil := func(b spec.Rect, alpha float64) scene.Part {
		return scene.Part{Slot: "fade", Kind: scene.KindShape, Box: b, Alpha: alpha}
	}
	left, right := spec.Rect{W: 50, H: 100}, spec.Rect{X: 50, W: 50, H: 100}
	toned := pic
	toned.Tone = scene.Tone{Dark: colour.RGB{}, Light: colour.RGB{R: 119, G: 119, B: 119}, White: 1}
	for _, c := range []struct {
		name  string
		parts []scene.Part
		want  layout.Light
	}{
		{"nothing over it", []scene.Part{pic}, layout.Light{Range: 1}},
		{"a veil beside the face", []scene.Part{pic, veil(left, 0.6)}, layout.Light{Rest: 0.6, Range: 1}},
		{"a veil over the face", []scene.Part{pic, veil(right, 0.4)}, layout.Light{Subject: 0.4, Range: 1}},
		{"two veils", []scene.Part{pic, veil(all, 0.5), veil(all, 0.5)}, layout.Light{Subject: 0.75, Rest: 0.75, Range: 1}},
		{"under a card", []scene.Part{pic, veil(left, 0.6), {Slot: "card", Kind: scene.KindShape, Box: left}}, layout.Light{Range: 1}},
		{"toned to the middle grey", []scene.Part{toned}, layout.Light{Range: 0.5}},
	} {
		got := layout.LightOf(c.parts, only(p))
		if math.Abs(got.Subject-c.want.Subject) > 0.01 || math.Abs(got.Rest-c.want.Rest) > 0.01 || math.Abs(got.Range-c.want.Range) > 0.01 {
			t.Errorf("%s: %+v, want %+v", c.name, got, c.want)
		}
	}
}

// TestPhotographsKeepTheirLight: whatever stands on a picture, it is not under a fog: words hang
// beside it where they would need too strong a veil, and a toned one has its shadows and lights.
func TestPhotographsKeepTheirLight(t *testing.T) {
	face := func(box [4]float64) photo.Picture {
		p := shaded(1080, 1080, checkered(func(_, _ float64) bool { return true }))
		p.Subjects = []photo.Subject{{Box: box, Kind: photo.Face, Weight: 9}}
		return p
	}
	pictures := map[string]photo.Picture{
		"busy":            shaded(1080, 1080, checkered(func(_, _ float64) bool { return true })),
		"slope":           shaded(1600, 1000, func(x, y float64) byte { return byte(255 * (x + y) / 2) }),
		"a face above":    face([4]float64{0.35, 0.1, 0.3, 0.3}),
		"a face below":    face([4]float64{0.35, 0.6, 0.3, 0.3}),
		"a face at right": face([4]float64{0.65, 0.35, 0.3, 0.3}),
	}
	veiled, n := 0, 0
	for _, l := range layouts.All() {
		if !l.OnPicture() {
			continue
		}
		for name, p := range pictures {
			for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
				in := input(t, l, place, shortCopy)
				in.Pictures = []photo.Picture{p}
				light := layout.LightOf(layout.Solve(in).Scene.Parts, only(p))
				n++
				if light.Subject > 0.15 || light.Rest > 0.45 {
					veiled++
					t.Logf("%s, %s on %s: a veil of %.2f over what it shows, %.2f over the rest", name, l.ID, place, light.Subject, light.Rest)
				}
				if light.Range < 0.6 {
					t.Errorf("%s, %s on %s: toned to %.2f of its range", name, l.ID, place, light.Range)
				}
			}
		}
	}
	if n < 100 || veiled > n/25 {
		t.Errorf("%d of %d pieces veil their picture", veiled, n)
	}
}
