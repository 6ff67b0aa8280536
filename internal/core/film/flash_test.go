package film_test

import (
	"testing"

	"aspenridge/internal/core/film"
)

// TestFlashes: more than three flashes in a second are found, when they are large enough,
// strong enough and dark enough (WCAG 2.2, 2.3.1).
func TestFlashes(t *testing.T) {
	for name, k := range map[string]struct {
		hertz      float64
		dark, pale float64
		cells      int
		found      bool
	}{
		"five a second":             {5, 0, 1, 256, true},
		"fifteen a second":          {15, 0, 1, 256, true},
		"two a second":              {2, 0, 1, 256, false},
		"three a second":            {3, 0, 1, 256, false},
		"five, over a small area":   {5, 0, 1, 6, false},
		"five, over a larger one":   {5, 0, 1, 12, true},
		"five, hardly to be seen":   {5, 0.5, 0.55, 256, false},
		"five, a little more":       {5, 0.5, 0.62, 256, true},
		"five, of white and nearly": {5, 0.85, 1, 256, false},
	} {
		f := film.NewFlashes(30)
		for n := range 90 {
			var light [film.FlashGrid * film.FlashGrid]float64
			for i := range light {
				light[i] = 0.3
				if i < k.cells {
					light[i] = k.dark
					if int(float64(n)*k.hertz*2/30)%2 == 1 {
						light[i] = k.pale
					}
				}
			}
			f.See(&light)
		}
		if got := f.Found(); (len(got) > 0) != k.found {
			t.Errorf("%s: found at %v", name, got)
		}
	}
	// what grows lighter evenly does not flash
	f := film.NewFlashes(30)
	for n := range 60 {
		var light [film.FlashGrid * film.FlashGrid]float64
		for i := range light {
			light[i] = float64(n) / 60
		}
		f.See(&light)
	}
	if len(f.Found()) > 0 {
		t.Error("a fade flashes")
	}
}
