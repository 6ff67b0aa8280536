package motif

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

// TestFamilies reads marks whose shapes anybody sees.
func TestFamilies(t *testing.T) {
	for _, c := range []struct {
		what, svg string
		family    Family
		angle     float64
		weight    float64 // of their strokes over their height, worked out by hand; 0 for any
	}{
		{"nothing", ``, Unknown, 0, 0},
		{"words that were left out", `<text>Aspen</text>`, Unknown, 0, 0},
		{"a ring", `<circle cx="50" cy="50" r="40" fill="none" stroke="#000" stroke-width="8"/>`, Curved, 0, 0.1},
		{"a disc of four arcs", `<path d="M0 50A50 50 0 0150 0A50 50 0 01100 50A50 50 0 0150 100A50 50 0 010 50Z"/>`, Curved, 0, 0},
		{"bars that stand and lie", `<path d="M0 20h100v22H0zM0 58h100v22H0zM38 0h24v100H38z"/>`, Upright, 0, 0},
		{"a square", `<rect width="10" height="10"/>`, Upright, 0, 0},
		{"a bar", `<path d="M0 0h100v10H0z"/>`, Upright, 0, 0},
		{"a square, turned", `<rect width="10" height="10" transform="rotate(45)"/>`, Slanted, 45, 0},
		{"a roof", `<polygon points="0 100 100 100 50 13.4"/>`, Slanted, 60, 0},
		{"a chevron in strokes", `<g stroke="red" stroke-width="10"><path fill="none" d="m0,0 50,50-50,50"/></g>`, Slanted, 45, 0.1},
		{"a square squeezed into a roof", `<g transform="translate(3 4) scale(2,1)"><polyline points="0,0 10,10 20,0"/></g>`, Slanted, 25, 0},
		{"curves that hardly bend", `<path d="M0 0C30 0.1 60 -0.1 90 0S90 60 90 90Z"/>`, Slanted, 45, 0},
		{"a mask nobody sees", `<mask id="m"><circle r="50"/></mask><rect width="10" height="40"/>`, Upright, 0, 0},
		{"smooth curves", `<path d="M0 0c0-20 20-20 20 0s20 20 20 0q10-30 20 0t20 0"/>`, Curved, 0, 0},
		{"a pill", `<rect width="60" height="20" rx="10"/>`, Curved, 0, 0},
		{"broken data", `<path d="M0 0L10 10 nonsense"/><path d="Q"/>`, Slanted, 45, 0},
	} {
		s := Of(c.svg)
		if s.Family() != c.family || s.Angle != c.angle || c.weight > 0 && math.Abs(s.Weight-c.weight) > 0.02 {
			t.Errorf("%s: %q at %g degrees, %.2f heavy: %+v", c.what, s.Family(), s.Angle, s.Weight, s)
		}
	}
}

// TestArcsEndWhereTheySay: an arc of the specification's own form is a part of its ellipse, and
// all four arcs between two points are as long as two ways around it (SVG 2, 9.3.8).
func TestArcsEndWhereTheySay(t *testing.T) {
	long := func(flags string) float64 {
		r := reader{in: state{matrix: identity}}
		r.path("M275 125a100,100 0 " + flags + " 100,50")
		p := r.strokes[0].points
		if last := p[len(p)-1]; math.Hypot(last.x-375, last.y-175) > 1e-9 {
			t.Errorf("%s ends at %v", flags, last)
		}
		sum := 0.0
		for i := 1; i < len(p); i++ {
			sum += math.Hypot(p[i].x-p[i-1].x, p[i].y-p[i-1].y)
		}
		return sum
	}
	chord := math.Hypot(100, 50)
	short := 200 * math.Asin(chord/200)
	for flags, want := range map[string]float64{"0 0": short, "0,1": short, "1 0": 200*math.Pi - short, "11": 200*math.Pi - short} {
		if got := long(flags); math.Abs(got-want)/want > 0.01 {
			t.Errorf("%s: %.1f px long, want %.1f", flags, got, want)
		}
	}
}

// TestNothingBreaksTheReader feeds it path data and transforms of random pieces.
func TestNothingBreaksTheReader(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 7))
	parts := strings.Fields(`M m L l H h V v C c S s Q q T t A a Z z 0 1 -5 .5 1e3 1e 1e-400 -. 3.4.5 NaN Inf , matrix( rotate( ) scale(0)`)
	for range 3000 {
		var b strings.Builder
		for range rng.IntN(30) {
			b.WriteString(parts[rng.IntN(len(parts))] + " "[:rng.IntN(2)])
		}
		s := Of(`<g transform="` + b.String() + `"><path d="M0 0` + b.String() + `"/></g>`)
		if math.IsNaN(s.Curved+s.Slant+s.Weight) || s.Curved < 0 || s.Curved > 1 || s.Weight < 0 || s.Weight > 1 {
			t.Fatalf("%q gave %+v", b.String(), s)
		}
	}
}
