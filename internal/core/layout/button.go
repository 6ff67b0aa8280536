package layout

import (
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// buttonSize sets the call to action on one line (two where it must) and gives
// its padding by cap height.
func (t *trial) buttonSize(w float64) (s setting, padX, padY float64, ok bool) {
	style := t.in.Types.Levels[brand.Button]
	size := t.body * t.in.Types.Ratio(brand.Button)
	padX = 1.15 * size
	capH := t.face(style).CapHeight * size
	padY = 1.12 * capH
	if t.class == spec.Ribbon || t.in.Placement.Tiny() {
		padX, padY = 0.95*size, 0.9*capH
	}
	s, ok = t.set(&Node{Lines: 1}, "callToAction", w-2*padX)
	return s, padX, padY, ok
}

func (t *trial) placeButton(r spec.Rect, seat colourway.Seat) bool {
	s, padX, padY, ok := t.buttonSize(r.W)
	if !ok {
		return false
	}
	capH := s.face.CapHeight * s.size
	w, h := math.Round(s.w+2*padX), math.Round(capH+2*padY)
	x := t.startX(r, w)
	shape := spec.Rect{X: math.Round(x), Y: math.Round(r.Y), W: math.Min(w, math.Floor(r.W+1)), H: h}
	t.content = append(t.content, scene.Part{
		Slot: "button", Kind: scene.KindShape, Box: shape, Fill: t.colour(colourway.Button), Radius: t.radius(h),
	})
	// centred by cap height, so the word looks in the middle whatever hangs below
	s.top = (shape.H + capH) / 2
	t.drawText("callToAction", scene.KindButton, s, shape, "center", colourway.Button)
	return true
}
