package film

import "math"

// Flashes watches a film for flashes that may make people ill: more than three in a second
// (WCAG 2.2, 2.3.1: a flash is a pair of opposing changes of relative luminance of a tenth
// or more, the darker below 0.80), where they cover more than a small area of it.
type Flashes struct {
	fps   int
	frame int
	cells [FlashGrid * FlashGrid]flashCell
	found []float64
}

// FlashGrid is in how many parts a frame is watched, each way.
const FlashGrid = 16

const (
	flashChange = 0.1  // of relative luminance
	flashDark   = 0.80 // the darker is below
	mostFlashes = 3    // in a second
	// a quarter of any ten degrees of what is seen: 341 x 256 px of 1024 x 768 hold it, a
	// quarter of that is 2.8 % of a frame that fills the screen
	flashArea = 8 // cells of 256
)

type flashCell struct {
	begun  bool
	low    float64 // since the last turn
	high   float64
	up     int   // 1 while it grows lighter, -1 while darker, 0 before it is known
	turned []int // frames of the last second at which it turned
}

// NewFlashes watches a film of so many frames a second.
func NewFlashes(fps int) *Flashes { return &Flashes{fps: max(1, fps)} }

// See takes the next frame: the relative luminance (0-1) of each part, row by row.
func (f *Flashes) See(light *[FlashGrid * FlashGrid]float64) {
	n := 0
	for i := range f.cells {
		c := &f.cells[i]
		c.see(light[i], f.frame)
		for len(c.turned) > 0 && c.turned[0] <= f.frame-f.fps {
			c.turned = c.turned[1:]
		}
		if len(c.turned) > 2*mostFlashes {
			n++
		}
	}
	at := float64(f.frame) / float64(f.fps)
	if n >= flashArea && (len(f.found) == 0 || at-f.found[len(f.found)-1] >= 1) {
		f.found = append(f.found, at)
	}
	f.frame++
}

// Found is when there was too much, s; a second is said once.
func (f *Flashes) Found() []float64 { return f.found }

// see notes a turn where the light went a tenth the other way.
func (c *flashCell) see(v float64, frame int) {
	if !c.begun {
		*c = flashCell{begun: true, low: v, high: v}
		return
	}
	c.low, c.high = math.Min(c.low, v), math.Max(c.high, v)
	switch {
	case c.up <= 0 && v-c.low >= flashChange && c.low < flashDark:
		c.up, c.low, c.high = 1, v, v
	case c.up >= 0 && c.high-v >= flashChange && v < flashDark:
		c.up, c.low, c.high = -1, v, v
	default:
		return
	}
	c.turned = append(c.turned, frame)
}
