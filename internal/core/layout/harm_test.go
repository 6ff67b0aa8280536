package layout_test

import (
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

// TestSubjectsAreSpared: of the pieces of all layouts that show a picture of somebody, in
// four shapes, hardly one cuts or covers the face.
func TestSubjectsAreSpared(t *testing.T) {
	all, harmed := 0, 0
	for _, face := range [][4]float64{{0.4, 0.25, 0.14, 0.2}, {0.1, 0.5, 0.2, 0.3}, {0.75, 0.1, 0.12, 0.18}} {
		p := photo.Picture{Hash: "x", W: 2400, H: 1600, Focus: [2]float64{face[0] + face[2]/2, face[1] + face[3]/2}, Subjects: []photo.Subject{{Kind: photo.Face, Box: face}}}
		for _, l := range layouts.All() {
			for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
				in := input(t, l, place, map[string]string{"headline": "Quiet water, first strokes", "subheading": "Six Saturdays from 3 May", "callToAction": "Save a seat", "website": "larkmoor.example"})
				in.Pictures = []photo.Picture{p}
				r := layout.Solve(in)
				if _, shown := partOf(r, "picture"); !shown {
					continue
				}
				all++
				if layout.Harm(r.Scene.Parts, func(string) photo.Picture { return p }) > 0.03 {
					harmed++
					t.Logf("%s on %s harms the face at %v", l.ID, place, face)
				}
			}
		}
	}
	t.Logf("%d of %d pieces harm a face", harmed, all)
	if all < 200 || harmed*10 > all {
		t.Errorf("%d of %d pieces harm a face", harmed, all)
	}
}

// TestHarm: what is lost of a subject counts, by the edge, by what is solid over it and by
// a strong fade, more of a face than of a thing; what lies beside it does not.
func TestHarm(t *testing.T) {
	frame := spec.Rect{W: 100, H: 100}
	of := func(kind string, crop spec.Rect, over ...scene.Part) float64 {
		p := photo.Picture{W: 100, H: 100, Subjects: []photo.Subject{{Kind: kind, Box: [4]float64{0.4, 0.4, 0.2, 0.2}}}}
		parts := append([]scene.Part{{Slot: "picture", Kind: scene.KindPicture, Picture: "x", Box: frame, Crop: crop}}, over...)
		return layout.Harm(parts, func(string) photo.Picture { return p })
	}
	all := spec.Rect{W: 100, H: 100}
	card := func(b spec.Rect) scene.Part { return scene.Part{Slot: "card", Kind: scene.KindShape, Box: b} }
	fade := func(alpha float64) scene.Part {
		return scene.Part{Slot: "fade", Kind: scene.KindShape, Box: frame, Alpha: alpha}
	}
	over := card(spec.Rect{X: 40, Y: 40, W: 20, H: 10})
	for what, c := range map[string]struct{ got, least, most float64 }{
		"nothing in the way":          {of(photo.Face, all), 0, 0},
		"a card beside it":            {of(photo.Face, all, card(spec.Rect{W: 100, H: 30})), 0, 0},
		"a card over half":            {of(photo.Face, all, over), 0.6, 0.8},
		"a card over half of a thing": {of(photo.Thing, all, over), 0.2, 0.4},
		"half beyond the edge":        {of(photo.Face, spec.Rect{X: 50, Y: 30, W: 50, H: 50}), 0.6, 0.8},
		"a light fade":                {of(photo.Face, all, fade(0.25)), 0, 0},
		"a strong fade":               {of(photo.Face, all, fade(0.9)), 0.9, 1},
	} {
		if c.got < c.least || c.got > c.most {
			t.Errorf("%s: %.3f, want %.2f to %.2f", what, c.got, c.least, c.most)
		}
	}
}

// TestPicturesAreShown: a layout that lives on pictures shows the brief's in every
// placement but ribbons and tiny ones, and the whole copy fits beside it or gives way.
func TestPicturesAreShown(t *testing.T) {
	for _, l := range layouts.All() {
		if l.Pictures < 0.5 {
			continue
		}
		for _, body := range []string{"", "Boats, dry bags and patience provided. Bring shoes that can get wet, a hat and something warm for afterwards."} {
			for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide", "video-thumbnail", "ad-300x250", "ad-300x600"} {
				r := layout.Solve(input(t, l, place, map[string]string{"headline": "Quiet water, first strokes", "subheading": "Six Saturdays from 3 May", "body": body, "callToAction": "Save a seat", "website": "larkmoor.example"}))
				if _, shown := partOf(r, "picture"); !shown || r.Plain {
					t.Errorf("%s on %s: no picture (plain %v)", l.ID, place, r.Plain)
				}
			}
		}
	}
}

// TestOddPictures: whatever a picture shows and however small or long it is, what is cut
// from it lies in it, has its frame's proportions, and the piece keeps its headline.
func TestOddPictures(t *testing.T) {
	var crowd []photo.Subject
	for i := range 40 {
		crowd = append(crowd, photo.Subject{Kind: photo.Face, Box: [4]float64{float64(i%8) / 8, float64(i/8) / 5, 0.05, 0.07}})
	}
	face := func(b [4]float64) []photo.Subject { return []photo.Subject{{Kind: photo.Face, Box: b}} }
	for what, p := range map[string]photo.Picture{
		"a crowd":                   {W: 3000, H: 2000, Subjects: crowd},
		"a face at the very edge":   {W: 2000, H: 3000, Subjects: face([4]float64{0.92, 0, 0.08, 0.08})},
		"a face as large as it":     {W: 2000, H: 2000, Subjects: face([4]float64{0.02, 0, 0.96, 1})},
		"one px":                    {W: 1, H: 1},
		"a face in one px":          {W: 1, H: 1, Subjects: face([4]float64{0, 0, 1, 1})},
		"a panorama":                {W: 10000, H: 1000, Subjects: []photo.Subject{{Kind: photo.Thing, Box: [4]float64{0.9, 0.3, 0.03, 0.4}}}},
		"a strip":                   {W: 300, H: 9000},
		"nothing known of it":       {W: 1600, H: 1200},
		"somebody's part, the rest": photo.Picture{W: 1600, H: 1200}.FocusedOnBox([4]float64{0, 0.98, 1, 0.02}),
	} {
		p.Hash = "x"
		for _, l := range layouts.All() {
			for _, place := range []string{"feed-square", "feed-wide", "ad-160x600"} {
				in := input(t, l, place, map[string]string{"headline": "Quiet water, first strokes", "callToAction": "Save a seat"})
				in.Pictures = []photo.Picture{p}
				r := layout.Solve(in)
				if _, ok := partOf(r, "headline"); !ok {
					t.Errorf("%s in %s on %s: no headline", what, l.ID, place)
				}
				for _, q := range r.Scene.Parts {
					if q.Kind != scene.KindPicture {
						continue
					}
					whole := spec.Rect{W: float64(p.W), H: float64(p.H)}
					if k := q.Crop.W / q.Crop.H / (q.Box.W / q.Box.H); !whole.Contains(q.Crop, 1e-6) || !(k > 0.99 && k < 1.01) {
						t.Errorf("%s in %s on %s: %+v of %d x %d in %+v", what, l.ID, place, q.Crop, p.W, p.H, q.Box)
					}
				}
			}
		}
	}
}
