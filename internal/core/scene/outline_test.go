package scene_test

import (
	"testing"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// A box is covered where it lies within the outline: reckoned by hand.
func TestWhatAnOutlineCovers(t *testing.T) {
	box := func(x, y, w, h float64) spec.Rect { return spec.Rect{X: x, Y: y, W: w, H: h} }
	for _, c := range []struct {
		path string
		box  spec.Rect
		want bool
	}{
		{"M0 0H100V50H0Z", box(10, 10, 80, 30), true},
		{"M0 0H100V50H0Z", box(10, 10, 80, 45), false},
		{"M0 0h100v50h-100z", box(1, 1, 98, 48), true},
		{"M0 0L100 0 100 100Z", box(60, 10, 30, 40), true}, // a triangle: under its diagonal y < x
		{"M0 0L100 0 100 100Z", box(30, 10, 40, 40), false},
		{"M50 0a50 50 0 1 1-.01 0Z", box(15, 15, 70, 70), true}, // in a circle of 50 a square of 70.7
		{"M50 0a50 50 0 1 1-.01 0Z", box(13, 13, 74, 74), false},
		{"M0 100Q50 0 100 100Z", box(45, 60, 10, 35), true}, // its top is at 50
		{"M0 100Q50 0 100 100Z", box(45, 40, 10, 35), false},
		{"M0 0H100V100H0ZM40 40V60H60V40Z", box(10, 10, 20, 20), true}, // a hole, wound the other way
		{"M0 0H100V100H0ZM40 40V60H60V40Z", box(30, 30, 40, 40), false},
		{"M0 0 L 1e2 0 L 100 1.0e2 L 0 100 Z", box(5, 5, 90, 90), true},
		{"M0 100C0 50 25 25 50 25S100 50 100 100Z", box(40, 35, 20, 60), true}, // even: the second half mirrors the first
		{"M0 100C0 50 25 25 50 25S100 50 100 100Z", box(70, 30, 20, 60), false},
		{"m0 0 .5.5-.5.5z", box(0.05, 0.3, 0.1, 0.4), true}, // 0.5 0.5 -0.5 0.5
		{"m0 0 .5.5-.5.5z", box(0.3, 0.1, 0.1, 0.4), false},
		{"M0 0T1 1 2 2Z", box(0, 0, 1, 1), false}, // not read
		{"M0 0Lx1 1", box(0, 0, 1, 1), false},
		{"L0 0", box(0, 0, 1, 1), false},
		{"M0 0L5", box(0, 0, 1, 1), false},
		{"", box(0, 0, 1, 1), false},
	} {
		if got := scene.Covers(c.path, c.box); got != c.want {
			t.Errorf("%q covers %+v: %v", c.path, c.box, got)
		}
	}
}
