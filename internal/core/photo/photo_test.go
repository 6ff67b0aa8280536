package photo

import (
	"math"
	"testing"

	"aspenridge/internal/core/spec"
)

func picture() Picture { return Picture{W: 1000, H: 500, Focus: [2]float64{0.8, 0.5}} }

func TestCropKeepsTheFocusInView(t *testing.T) {
	p := picture()
	for _, aspect := range []float64{0.2, 0.5, 1, 2, 4, 9} {
		c := p.Crop(aspect, [2]float64{0.5, 0.5})
		if math.Abs(c.W/c.H-aspect) > 1e-9 || !(spec.Rect{W: 1000, H: 500}).Contains(c, 1e-9) {
			t.Errorf("aspect %v gave %+v", aspect, c)
		}
		if fx := p.Focus[0] * 1000; fx < c.X || fx > c.Right() {
			t.Errorf("aspect %v cuts the subject off: %+v", aspect, c)
		}
	}
}
