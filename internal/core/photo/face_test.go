package photo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/spec"
)

// drawnFace draws a face of shaded ellipses: a head with brows, eyes, a nose's shadow
// and a mouth, x, y and size px from the upper left.
func drawnFace(p colour.Pixels, x, y, size float64) {
	blob := func(cx, cy, rx, ry, soft float64, tone [3]float64) {
		for py := max(0, int(y+(cy-ry-0.1)*size)); py < min(p.H, int(y+(cy+ry+0.1)*size)); py++ {
			for px := max(0, int(x+(cx-rx-0.1)*size)); px < min(p.W, int(x+(cx+rx+0.1)*size)); px++ {
				d := math.Hypot(((float64(px)-x)/size-cx)/rx, ((float64(py)-y)/size-cy)/ry)
				a := math.Max(0, math.Min(1, (1-d)/soft))
				for c := range 3 {
					i := 4*(py*p.W+px) + c
					p.Pix[i] = byte(float64(p.Pix[i])*(1-a) + tone[c]*a + 0.5)
				}
			}
		}
	}
	grey := func(v float64) [3]float64 { return [3]float64{v, v, v} }
	blob(0.5, 0.42, 0.52, 0.60, 0.1, grey(60))                   // hair
	blob(0.5, 0.52, 0.42, 0.56, 0.25, [3]float64{215, 175, 150}) // head
	blob(0.5, 0.40, 0.06, 0.24, 0.8, [3]float64{228, 190, 165})  // bridge of the nose
	for _, ex := range []float64{0.31, 0.69} {
		blob(ex, 0.34, 0.13, 0.035, 0.5, grey(80))                  // brow
		blob(ex, 0.43, 0.12, 0.055, 0.6, [3]float64{150, 115, 100}) // socket
		blob(ex, 0.43, 0.05, 0.04, 0.3, grey(30))                   // eye
		blob(ex, 0.62, 0.10, 0.08, 0.9, [3]float64{228, 185, 165})  // cheek
	}
	blob(0.5, 0.63, 0.10, 0.03, 0.8, [3]float64{150, 110, 95})  // under the nose
	blob(0.5, 0.78, 0.17, 0.045, 0.5, [3]float64{150, 70, 70})  // mouth
	blob(0.5, 0.90, 0.20, 0.05, 0.9, [3]float64{195, 155, 135}) // chin
}

func ground(w, h int, tone byte) colour.Pixels {
	p := colour.Pixels{W: w, H: h, Pix: make([]byte, 4*w*h)}
	for i := range p.Pix {
		p.Pix[i] = tone
		if i%4 == 3 {
			p.Pix[i] = 255
		}
	}
	return p
}

func twoFaces() colour.Pixels {
	p := ground(352, 264, 140)
	drawnFace(p, 40, 60, 110)
	drawnFace(p, 230, 90, 80)
	return p
}

// TestFacesAgainstTheOriginal: the boxes are those the network's own implementation
// finds in the same picture with the same weights (face-api 1.7.15, TinyFaceDetector,
// inputSize 352, scoreThreshold 0.52, in Chromium), recorded once.
func TestFacesAgainstTheOriginal(t *testing.T) {
	want := []photo.Subject{{Weight: 0.8764, Box: [4]float64{0.631695, 0.376363, 0.255777, 0.317693}}} // the other one is too plainly drawn for it
	got := photo.FindFaces(twoFaces())
	if len(got) != len(want) {
		t.Fatalf("%d faces: %+v", len(got), got)
	}
	for i, s := range got {
		if math.Abs(s.Weight-want[i].Weight) > 0.001 || s.Kind != photo.Face {
			t.Errorf("face %d: %+v, want %+v", i, s, want[i])
		}
		for k, v := range s.Box {
			if math.Abs(v-want[i].Box[k]) > 0.001 {
				t.Errorf("face %d: %+v, want %+v", i, s, want[i])
			}
		}
	}
}

// What has no faces has none: nothing at all, white, noise, too small.
func TestNoFaces(t *testing.T) {
	noise := ground(300, 200, 0)
	r := rand.New(rand.NewPCG(1, 2))
	for i := range noise.Pix {
		noise.Pix[i] = byte(r.Uint32())
	}
	for what, p := range map[string]colour.Pixels{"nothing": {}, "white": ground(200, 200, 255), "1x1": ground(1, 1, 9), "a line": ground(700, 1, 9), "noise": noise, "a tall line": ground(2, 300, 90)} {
		if got := photo.FindFaces(p); len(got) > 0 {
			t.Errorf("%s: %+v", what, got)
		}
	}
}

// TestFacesStayWhole: whatever the frame, a face that fits is wholly in what is
// seen of it, with its headroom where the picture has any; of many faces one is.
func TestFacesStayWhole(t *testing.T) {
	face := func(x, y, size float64) photo.Subject {
		return photo.Subject{Kind: photo.Face, Box: [4]float64{x, y, size, size * 3 / 2}}
	}
	for what, subjects := range map[string][]photo.Subject{
		"in the corner": {face(0.02, 0.04, 0.1)}, "low": {face(0.6, 0.7, 0.12)}, "two": {face(0.3, 0.3, 0.1), face(0.55, 0.35, 0.08)},
		"far apart": {face(0.05, 0.3, 0.12), face(0.85, 0.3, 0.08)}, "at the very edge": {face(0.9, 0.8, 0.1)},
	} {
		p := photo.Picture{W: 3000, H: 2000, Subjects: subjects}
		p.Focus = photo.FocusOf(colour.Pixels{}, subjects)
		for _, aspect := range []float64{0.3, 0.5, 0.8, 1, 1.5, 2, 3, 5} {
			for _, seen := range [][4]float64{{0, 0, 1, 1}, {0, 0, 1, 0.55}, {0.5, 0, 0.5, 1}, {0, 0.4, 1, 0.6}} {
				c := p.CropFor(photo.Frame{W: 100 * aspect, H: 100, Seen: seen})
				if math.Abs(c.W/c.H-aspect) > 1e-9 || !(spec.Rect{W: 3000, H: 2000}).Contains(c, 1e-6) {
					t.Fatalf("%s at %v gave %+v", what, aspect, c)
				}
				b := subjects[0].Box
				box := spec.Rect{X: b[0] * 3000, Y: b[1] * 2000, W: b[2] * 3000, H: b[3] * 2000}
				clear := spec.Rect{X: c.X + seen[0]*c.W, Y: c.Y + seen[1]*c.H, W: seen[2] * c.W, H: seen[3] * c.H}
				// it can be had when some place of the crop has it inside
				fits := func(from, size, long, crop, off, part float64) bool {
					lo, hi := math.Max(0, from+size-(off+part)*crop), math.Min(long-crop, from-off*crop)
					return lo <= hi
				}
				if len(subjects) > 1 && clear.Contains(px(subjects[1].Box, p), 0.01) {
					continue
				}
				if fits(box.X, box.W, 3000, c.W, seen[0], seen[2]) && fits(box.Y, box.H, 2000, c.H, seen[1], seen[3]) && !clear.Contains(box, 0.01) {
					t.Errorf("%s at %v, seen %v: the face %+v is not in %+v", what, aspect, seen, box, clear)
				}
			}
		}
	}
}

func BenchmarkFindFaces(b *testing.B) {
	p := ground(photo.FaceSide, photo.FaceSide*2/3, 140)
	drawnFace(p, 40, 60, 120)
	for b.Loop() {
		photo.FindFaces(p)
	}
}

// What somebody says matters most counts more than what was found.
func TestAFocusByHandOutranksFaces(t *testing.T) {
	p := photo.Picture{W: 3000, H: 1000, Subjects: []photo.Subject{{Kind: photo.Face, Box: [4]float64{0.9, 0.2, 0.06, 0.3}}}}
	if c := p.Crop(1, [2]float64{0.5, 0.5}); c.Right() < 0.96*3000 {
		t.Fatalf("the face is cut: %+v", c)
	}
	if c := p.FocusedOn([2]float64{0.1, 0.5}).Crop(1, [2]float64{0.5, 0.5}); c.X != 0 {
		t.Errorf("the face still counts: %+v", c)
	}
}
