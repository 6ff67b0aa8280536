package scene_test

import (
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Seats nobody sees do not tell drawings apart; a button's colour does.
func TestApart(t *testing.T) {
	red, blue := colour.RGB{R: 200}, colour.RGB{B: 200}
	draw := func(ground, button colour.RGB) *scene.Scene {
		return &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{
			{Kind: scene.KindShape, Box: spec.Rect{W: 1000, H: 1000}, Fill: ground, Alpha: 0},
			{Kind: scene.KindPicture, Box: spec.Rect{W: 1000, H: 1000}},
			{Kind: scene.KindShape, Box: spec.Rect{X: 100, Y: 800, W: 300, H: 80}, Fill: button},
		}}
	}
	if d := scene.Apart(draw(red, red), draw(blue, red)); d != 0 {
		t.Errorf("under the picture: %v", d)
	}
	if d := scene.Apart(draw(red, red), draw(red, blue)); d < 0.25 {
		t.Errorf("the button: %v", d)
	}
}
