package photo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/spec"
)

// drawnFace is a face of shaded ellipses in a grey picture: a head with brows,
// eyes, a nose's shadow and a mouth, x, y and size px from the upper left.
func drawnFace(g photo.Grey, x, y, size float64) {
	blob := func(cx, cy, rx, ry, tone, soft float64) {
		for py := max(0, int(y+(cy-ry-0.1)*size)); py < min(g.H, int(y+(cy+ry+0.1)*size)); py++ {
			for px := max(0, int(x+(cx-rx-0.1)*size)); px < min(g.W, int(x+(cx+rx+0.1)*size)); px++ {
				d := math.Hypot(((float64(px)-x)/size-cx)/rx, ((float64(py)-y)/size-cy)/ry)
				a := math.Max(0, math.Min(1, (1-d)/soft))
				i := py*g.W + px
				g.Pix[i] = byte(float64(g.Pix[i])*(1-a) + tone*a + 0.5)
			}
		}
	}
	blob(0.5, 0.42, 0.52, 0.60, 60, 0.1)   // hair
	blob(0.5, 0.52, 0.42, 0.56, 190, 0.25) // head
	blob(0.5, 0.40, 0.06, 0.24, 205, 0.8)  // bridge of the nose
	for _, ex := range []float64{0.31, 0.69} {
		blob(ex, 0.34, 0.13, 0.035, 80, 0.5)  // brow
		blob(ex, 0.43, 0.12, 0.055, 110, 0.6) // socket
		blob(ex, 0.43, 0.05, 0.04, 30, 0.3)   // eye
		blob(ex, 0.62, 0.10, 0.08, 205, 0.9)  // cheek
	}
	blob(0.5, 0.63, 0.10, 0.03, 120, 0.8) // under the nose
	blob(0.5, 0.78, 0.17, 0.045, 95, 0.5) // mouth
	blob(0.5, 0.90, 0.20, 0.05, 170, 0.9) // chin
}

func ground(w, h int, tone byte) photo.Grey {
	g := photo.Grey{W: w, H: h, Pix: make([]byte, w*h)}
	for i := range g.Pix {
		g.Pix[i] = tone
	}
	return g
}

// TestFacesAgainstOpenCV: the rectangles are those cv2.CascadeClassifier of OpenCV
// 4.6.0 finds in the same picture with the same data (scaleFactor 1.1, minNeighbors
// 5), recorded once; between px it scales in fixed point, so a px or two differ.
func TestFacesAgainstOpenCV(t *testing.T) {
	g := ground(400, 300, 140)
	drawnFace(g, 40, 60, 120)
	drawnFace(g, 250, 100, 80)
	want := [][4]float64{{61, 92, 80, 80}, {265, 122, 52, 52}}
	got := photo.FindFaces(g)
	if len(got) != len(want) {
		t.Fatalf("%d faces: %+v", len(got), got)
	}
	for i, s := range got {
		for k, v := range [4]float64{s.Box[0] * 400, s.Box[1] * 300, s.Box[2] * 400, s.Box[3] * 300} {
			if math.Abs(v-want[i][k]) > 2 || s.Kind != photo.Face {
				t.Errorf("face %d: %+v, want %v", i, s, want[i])
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
	for what, g := range map[string]photo.Grey{"nothing": {}, "white": ground(200, 200, 255), "1x1": ground(1, 1, 9), "a line": ground(700, 1, 9), "noise": noise, "cut off": {W: 90, H: 90, Pix: []byte{1}}} {
		if got := photo.FindFaces(g); len(got) > 0 {
			t.Errorf("%s: %+v", what, got)
		}
	}
}

// TestFacesStayWhole: whatever the frame, a face that fits is wholly in what is
// seen of it, with its headroom where the picture has any; of many faces the
// largest is.
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
				c := p.CropSeen(aspect, seen)
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
				if fits(box.X, box.W, 3000, c.W, seen[0], seen[2]) && fits(box.Y, box.H, 2000, c.H, seen[1], seen[3]) && !clear.Contains(box, 0.01) {
					t.Errorf("%s at %v, seen %v: the face %+v is not in %+v", what, aspect, seen, box, clear)
				}
			}
		}
	}
}

func BenchmarkFindFaces(b *testing.B) {
	g := ground(720, 480, 140)
	r := rand.New(rand.NewPCG(1, 2))
	for i := range g.Pix {
		g.Pix[i] += byte(r.Uint32() % 60)
	}
	drawnFace(g, 40, 60, 120)
	for b.Loop() {
		photo.FindFaces(g)
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
