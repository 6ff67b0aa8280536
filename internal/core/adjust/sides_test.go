package adjust_test

import (
	"math"
	"testing"

	"aspenridge/internal/core/adjust"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// A picture or a shape takes a width and a height of its own about its middle, or reaches to
// edges of the piece; what shows of a picture is never distorted and lies inside of it.
func TestSidesOfTheLayoutsParts(t *testing.T) {
	picture := photo.Picture{Hash: "p", W: 1600, H: 1000}
	solved := func() *scene.Scene {
		return &scene.Scene{W: 1000, H: 800, Parts: []scene.Part{
			{Slot: "ground", Kind: scene.KindShape, Box: spec.Rect{W: 1000, H: 800}},
			{Slot: "picture", Kind: scene.KindPicture, Picture: "p", Box: spec.Rect{X: 200, Y: 200, W: 400, H: 200}, Crop: spec.Rect{X: 300, Y: 300, W: 800, H: 400}, Clip: "M200 200h400v200h-400z"},
			{Slot: "panel", Kind: scene.KindShape, Box: spec.Rect{X: 100, Y: 500, W: 300, H: 100}, Path: "M100 550A50 50 0 0 1 150 500H350A50 50 0 0 1 400 550V600H100Z"},
			{Slot: "logo", Kind: scene.KindLogo, Box: spec.Rect{X: 20, Y: 20, W: 100, H: 50}},
		}}
	}
	apply := func(hands map[string]*brief.Hand) []scene.Part {
		s := solved()
		adjust.Apply(s, adjust.Input{Kit: &brand.Kit{}, Hands: hands, Pictures: map[string]photo.Picture{"p": picture}})
		return s.Parts
	}
	for _, c := range []struct {
		hand brief.Hand
		want spec.Rect
	}{
		{brief.Hand{Sides: [2]float64{1.5, 1}}, spec.Rect{X: 100, Y: 200, W: 600, H: 200}},
		{brief.Hand{Sides: [2]float64{0.5, 2}}, spec.Rect{X: 300, Y: 100, W: 200, H: 400}},
		{brief.Hand{Sides: [2]float64{2, 3}, Fit: "wide"}, spec.Rect{X: 0, Y: 0, W: 1000, H: 600}},
		{brief.Hand{Fit: "whole"}, spec.Rect{W: 1000, H: 800}},
		{brief.Hand{Sides: [2]float64{2, 1}, Crop: [4]float64{0.1, 0.1, 0.2, 0.2}}, spec.Rect{X: 0, Y: 200, W: 800, H: 200}},
	} {
		p := apply(map[string]*brief.Hand{"picture": &c.hand})[1]
		if p.Box != c.want {
			t.Errorf("%+v: the picture lies in %v, want %v", c.hand, p.Box, c.want)
		}
		if off := (p.Crop.W / p.Crop.H) / (p.Box.W / p.Box.H); math.Abs(off-1) > 0.01 {
			t.Errorf("%+v: %v of it shows in %v, distorted %.2f times", c.hand, p.Crop, p.Box, off)
		}
		if !(spec.Rect{W: 1600, H: 1000}).Contains(p.Crop, 0.01) {
			t.Errorf("%+v: %v shows of a picture of 1600 x 1000", c.hand, p.Crop)
		}
		if !scene.Covers(p.Clip, p.Box.Inset(1)) || scene.Covers(p.Clip, p.Box.Inset(-3)) {
			t.Errorf("%+v: %v is cut to %s", c.hand, p.Box, p.Clip)
		}
	}
	// sized and turned afterwards, about the same middle
	p := apply(map[string]*brief.Hand{"picture": {Sides: [2]float64{2, 1}, Scale: 0.5}})[1]
	if want := (spec.Rect{X: 200, Y: 250, W: 400, H: 100}); p.Box != want || p.Laid() != (spec.Rect{X: 200, Y: 200, W: 400, H: 200}) {
		t.Errorf("twice as wide at half the size: %v, laid at %v, want %v", p.Box, p.Laid(), want)
	}
	panel := apply(map[string]*brief.Hand{"panel": {Sides: [2]float64{2, 0.5}}})[2]
	if want := (spec.Rect{X: -50, Y: 525, W: 600, H: 50}); panel.Box != want || !scene.Covers(panel.Path, spec.Rect{X: 60, Y: 530, W: 380, H: 40}) {
		t.Errorf("a panel twice as wide and half as high: %v, %s", panel.Box, panel.Path)
	}
	// turned, a picture that covers the piece still covers it, and no picture is distorted
	for _, angle := range []float64{-90, -30, 5, 45, 171} {
		s := &scene.Scene{W: 1000, H: 800, Parts: []scene.Part{{Slot: "picture", Kind: scene.KindPicture, Picture: "p", Box: spec.Rect{W: 1000, H: 800}, Crop: spec.Rect{X: 175, W: 1250, H: 1000}}}}
		adjust.Apply(s, adjust.Input{Kit: &brand.Kit{}, Hands: map[string]*brief.Hand{"picture": {Rotate: angle}}, Pictures: map[string]photo.Picture{"p": picture}})
		p := &s.Parts[0]
		for _, corner := range [][2]float64{{0, 0}, {1000, 0}, {0, 800}, {1000, 800}} {
			x, y := p.Moved.Undo().At(corner[0], corner[1])
			if r := p.Solved(); x < r.X-0.1 || x > r.Right()+0.1 || y < r.Y-0.1 || y > r.Bottom()+0.1 {
				t.Errorf("turned by %v its corner %v is bare", angle, corner)
			}
		}
		if off := (p.Crop.W / p.Crop.H) / (p.Solved().W / p.Solved().H); math.Abs(off-1) > 0.01 {
			t.Errorf("turned by %v it is distorted %.2f times", angle, off)
		}
	}
	// a logo keeps its proportions
	if logo := apply(map[string]*brief.Hand{"logo": {Sides: [2]float64{3, 1}}})[3]; logo.Box.W != 100 {
		t.Errorf("a logo was stretched: %v", logo.Box)
	}
	for slot, want := range map[string]string{"picture": "both", "panel": "both", "logo": "", "ground": ""} {
		for _, p := range solved().Parts {
			if got := adjust.Sides([]scene.Part{p}); p.Slot == slot && got != want {
				t.Errorf("%s takes sides %q, want %q", slot, got, want)
			}
		}
	}
}
