package photo_test

import (
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/spec"
)

// TestNobodyIsCutWhoNeedNotBe tries every place of crops of groups, to a fiftieth of the picture:
// where some crop of the chosen size shows everybody whole, or all but one and that one not at
// all, the chosen one cuts nobody either.
func TestNobodyIsCutWhoNeedNotBe(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 32))
	tried, mended := 0, 0
	for range 400 {
		p := photo.Picture{W: 1200 + rng.IntN(2000), H: 1000 + rng.IntN(2000)}
		for n := range 2 + rng.IntN(3) {
			size := 0.1 + 0.08*rng.Float64()
			box := [4]float64{(0.2*float64(n) + 0.2*rng.Float64()) * 0.95, 0.5 * rng.Float64(), size, size * 1.2}
			p.Subjects = append(p.Subjects, photo.Subject{Kind: photo.Face, Box: box})
		}
		p.Focus = [2]float64{p.Subjects[0].Box[0], p.Subjects[0].Box[1]}
		f := photo.Frame{W: 400, H: 100 + 600*rng.Float64()}
		c := p.CropFor(f)
		if c.X < 0 || c.Y < 0 || c.Right() > float64(p.W)+1e-6 || c.Bottom() > float64(p.H)+1e-6 {
			t.Fatalf("%+v lies beyond a picture of %d x %d", c, p.W, p.H)
		}
		cut, gone := heads(p, c, 0.02)
		if cut+gone == 0 {
			continue
		}
		tried++
		if cut == 0 {
			mended++
			continue
		}
		for i := range 51 {
			for k := range 51 {
				o := spec.Rect{X: (float64(p.W) - c.W) * float64(i) / 50, Y: (float64(p.H) - c.H) * float64(k) / 50, W: c.W, H: c.H}
				if n, left := heads(p, o, 0.005); n == 0 && left < min(2, len(p.Subjects)) {
					t.Fatalf("%+v of %+v cuts %d heads, %+v none", c, p.Subjects, cut, o)
				}
			}
		}
	}
	if tried < 50 || mended < tried/2 {
		t.Errorf("of %d groups that do not fit their frame %d are shown with nobody cut", tried, mended)
	}
}

// heads counts whose face, with a third of its height above it for the hair (common practice), is
// cut by more than a share (0-1) of it at the edge of a crop, or missing from a body under it; and
// who is not to be seen.
func heads(p photo.Picture, crop spec.Rect, share float64) (cut, gone int) {
	for _, s := range p.Subjects {
		f := px(s.Box, p)
		head := spec.Rect{X: f.X, Y: max(0, f.Y-f.H*0.33), W: f.W, H: f.H + min(f.Y, f.H*0.33)}
		switch lost := 1 - head.Share(crop); {
		case lost > 0.97 && !photo.Headless(f, crop):
			gone++
		case lost > share:
			cut++
		}
	}
	return cut, gone
}
