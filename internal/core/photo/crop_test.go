package photo_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/spec"
)

// px is a box of fractions of a picture in its px.
func px(b [4]float64, p photo.Picture) spec.Rect {
	w, h := float64(p.W), float64(p.H)
	return spec.Rect{X: b[0] * w, Y: b[1] * h, W: b[2] * w, H: b[3] * h}
}

// TestNoCropKeepsMore tries every place of a crop of the chosen size, to a hundredth of
// the picture: in none more of the main subject is in what is seen of the frame, and
// where all of it has its room, in none it lies nearer to where it should.
func TestNoCropKeepsMore(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 4))
	for n := range 300 {
		p := photo.Picture{W: 800 + rng.IntN(3000), H: 800 + rng.IntN(3000)}
		w, h := 0.05+0.5*rng.Float64(), 0.05+0.5*rng.Float64()
		b := [4]float64{(1 - w) * rng.Float64(), (1 - h) * rng.Float64(), w, h}
		kind := []string{photo.Thing, photo.Face, photo.Said}[n%3]
		turn := 0.0
		if kind == photo.Face {
			turn = []float64{0, -0.3, 0.5, 0.9}[n/3%4]
		}
		p.Subjects = []photo.Subject{{Kind: kind, Box: b, Turn: turn}}
		p.Focus = [2]float64{b[0] + w/2, b[1] + h/2}
		f := photo.Frame{W: 100 + 900*rng.Float64(), H: 100 + 900*rng.Float64(), Seen: [4]float64{0, 0, 1, 1}}
		if n%2 == 0 {
			f.Seen = [4]float64{0.4 * rng.Float64(), 0.4 * rng.Float64(), 0.6, 0.6}
		}
		c := p.CropFor(f)
		if math.Abs(c.W/c.H-f.W/f.H) > 1e-9 || !(spec.Rect{W: float64(p.W), H: float64(p.H)}).Contains(c, 1e-6) {
			t.Fatalf("%+v of %d x %d gave %+v", f, p.W, p.H, c)
		}
		kept := func(x, y float64) float64 {
			return px(b, p).Share(spec.Rect{X: x + f.Seen[0]*c.W, Y: y + f.Seen[1]*c.H, W: f.Seen[2] * c.W, H: f.Seen[3] * c.H})
		}
		// common practice: a third of the head's height above it, a sixth beside; eyes
		// above the middle; free space, up to a third, where somebody looks
		above, beside, middle := 0.08, 0.08, [2]float64{0.5, 0.5}
		if kind == photo.Face {
			above, beside, middle = 0.33, 0.16, [2]float64{0.5 - math.Max(-1, math.Min(1, turn/0.5))/6, 0.42}
		}
		roomy := [4]float64{math.Max(0, b[0]-beside*w), math.Max(0, b[1]-above*h), 0, 0}
		roomy[2], roomy[3] = math.Min(1, b[0]+w+beside*w)-roomy[0], math.Min(1, b[1]+h+beside*h)-roomy[1]
		room := func(x, y float64) float64 {
			return px(roomy, p).Share(spec.Rect{X: x + f.Seen[0]*c.W, Y: y + f.Seen[1]*c.H, W: f.Seen[2] * c.W, H: f.Seen[3] * c.H})
		}
		off := func(x, y float64) float64 {
			return math.Hypot(p.Focus[0]*float64(p.W)-x-(f.Seen[0]+middle[0]*f.Seen[2])*c.W, p.Focus[1]*float64(p.H)-y-(f.Seen[1]+middle[1]*f.Seen[3])*c.H)
		}
		got := kept(c.X, c.Y)
		for i := range 101 {
			for k := range 101 {
				x, y := (float64(p.W)-c.W)*float64(i)/100, (float64(p.H)-c.H)*float64(k)/100
				if v := kept(x, y); v > got+0.001 {
					t.Fatalf("%s %.2f in %+v: %.3f is seen of it at %v, %v, %.3f at the chosen %.0f, %.0f", kind, b, f, v, x, y, got, c.X, c.Y)
				}
				if room(c.X, c.Y) > 0.9999 && room(x, y) > 0.9999 && off(x, y) < off(c.X, c.Y)-1 {
					t.Fatalf("%s %.2f turned %.1f in %+v: at %v, %v it is %.0f px off its place, at the chosen %.0f, %.0f %.0f", kind, b, turn, f, x, y, off(x, y), c.X, c.Y, off(c.X, c.Y))
				}
			}
		}
	}
}

// TestSmallSubjectsComeCloser: a crop comes closer to a small subject, never so close
// that its px are larger than the frame's, and a portrait shows head and shoulders.
func TestSmallSubjectsComeCloser(t *testing.T) {
	f := photo.Frame{W: 1000, H: 1000}
	of := func(kind string, box [4]float64, w, h int) photo.Picture {
		return photo.Picture{W: w, H: h, Focus: [2]float64{box[0] + box[2]/2, box[1] + box[3]/2}, Subjects: []photo.Subject{{Kind: kind, Box: box}}}
	}
	large := of(photo.Thing, [4]float64{0.25, 0.25, 0.5, 0.5}, 4000, 4000)
	if c := large.CropFor(f); c.W != 4000 {
		t.Errorf("a large thing: %+v", c)
	}
	small := of(photo.Thing, [4]float64{0.45, 0.45, 0.1, 0.1}, 4000, 4000)
	if c := small.CropFor(f); c.W > 2001 || c.W < 1000 {
		t.Errorf("a small thing: %+v", c)
	}
	if c := of(photo.Thing, [4]float64{0.45, 0.45, 0.1, 0.1}, 1200, 1200).CropFor(f); c.W < 1000 {
		t.Errorf("few px: %+v", c)
	}
	face := of(photo.Face, [4]float64{0.4, 0.2, 0.1, 0.1}, 4000, 4000)
	wide, head := face.CropFor(f), face.CropFor(photo.Frame{W: 300, H: 300, Shoulders: true})
	if head.W >= wide.W || 400/head.H < 0.3 || 400/head.H > 0.45 {
		t.Errorf("a portrait %+v beside %+v", head, wide)
	}
	two := face
	two.Subjects = append(two.Subjects, photo.Subject{Kind: photo.Face, Box: [4]float64{0.85, 0.2, 0.1, 0.1}})
	if c := two.CropFor(f); !c.Contains(px(two.Subjects[1].Box, two), 1) || !c.Contains(px(two.Subjects[0].Box, two), 1) {
		t.Errorf("two faces are not both in %+v", c)
	}
}
