package layout

import (
	"fmt"
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// buttonPart is the call to action on its button.
type buttonPart struct{}

func (buttonPart) name() string { return "button" }
func (buttonPart) words() bool  { return true }
func (buttonPart) lint(c *checker, _ *Node, at string, seat colourway.Seat, _ bool) error {
	if seat != c.layout.ButtonOn {
		return fmt.Errorf("%s: the button stands on %s, the layout says %s", at, seat, c.layout.ButtonOn)
	}
	return nil
}
func (buttonPart) present(t *trial, _ *Node) bool { return t.words("callToAction") != "" }
func (buttonPart) measure(t *trial, _ *Node, w float64) (box, bool) {
	s, padX, padY, ok := t.buttonSize(w)
	if !ok {
		return box{}, false
	}
	return box{s.w + 2*padX, s.face.CapHeight*s.size + 2*padY}, ok
}
func (buttonPart) place(t *trial, _ *Node, r spec.Rect, seat colourway.Seat) bool {
	return t.placeButton(r, seat)
}

// buttonSize sets the call to action on one line (two where it must) and gives
// its padding by cap height.
func (t *trial) buttonSize(w float64) (s setting, padX, padY float64, ok bool) {
	style := t.in.Types.Levels[brand.Button]
	size := t.body * t.in.Types.Ratio(brand.Button)
	padX = 1.15 * size
	capH := t.face(style).CapHeight * size
	padY = 1.12 * capH
	if t.class == spec.Ribbon || t.tiny {
		padX, padY = 0.95*size, 0.9*capH
	}
	s, ok = t.setText(&Node{Lines: 1}, "callToAction", w-2*padX)
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
