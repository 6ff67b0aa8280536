package photo

import (
	"math"
	"testing"

	"aspenridge/internal/core/colour"
)

// TestPointsAgainstTheOriginal: the points are those the network's own implementation
// sees in the same px with the same weights (face-api 1.7.15, faceLandmark68TinyNet, in
// Chromium), recorded once.
func TestPointsAgainstTheOriginal(t *testing.T) {
	p := colour.Pixels{W: pointSide, H: pointSide, Pix: make([]byte, 4*pointSide*pointSide)}
	for i := range p.Pix {
		x, y, c := (i/4)%pointSide, (i/4)/pointSide, i%4
		if p.Pix[i] = byte((x*x/40 + y*(c+1) + (x*y)/(30+10*c)) % 256); c == 3 {
			p.Pix[i] = 255
		}
	}
	got := pointer().points(faceIn(p, [4]float64{0, 0, 1, 1}))
	for i, want := range map[int][2]float64{
		0: {0.10664061, 0.31885192}, 8: {0.47792038, 0.88462681}, 16: {0.78450960, 0.28538221},
		30: {0.44645953, 0.55150557}, 36: {0.29615945, 0.39245066}, 45: {0.64367253, 0.35535306},
	} {
		if math.Abs(got[i][0]-want[0]) > 1e-5 || math.Abs(got[i][1]-want[1]) > 1e-5 {
			t.Errorf("point %d is at %v, want %v", i, got[i], want)
		}
	}
}
