package piece

import (
	"math"
	"testing"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// TestASignOffIsOneBlock: logo, address and button beside each other or below each other are one; a
// logo at the other end of the piece is not, and a button may stand with the words it acts on.
func TestASignOffIsOneBlock(t *testing.T) {
	place, err := spec.Parse("feed-square")
	if err != nil {
		t.Fatal(err)
	}
	at := func(slot string, kind scene.Kind, x, y float64) scene.Part {
		return scene.Part{Slot: slot, Kind: kind, Box: spec.Rect{X: x, Y: y, W: 200, H: 60}}
	}
	headline := at("headline", scene.KindText, 60, 300)
	for name, c := range map[string]struct {
		parts []scene.Part
		want  float64
	}{
		"nothing":            {[]scene.Part{headline}, 1},
		"a logo alone":       {[]scene.Part{headline, at("logo", scene.KindLogo, 60, 960)}, 1},
		"a row":              {[]scene.Part{headline, at("logo", scene.KindLogo, 60, 960), at("website", scene.KindText, 300, 970), at("callToAction", scene.KindButton, 820, 960)}, 1},
		"one below another":  {[]scene.Part{headline, at("callToAction", scene.KindButton, 60, 800), at("logo", scene.KindLogo, 60, 900)}, 1},
		"opposite ends":      {[]scene.Part{at("logo", scene.KindLogo, 60, 60), at("website", scene.KindText, 60, 960)}, 0},
		"a button by words":  {[]scene.Part{headline, at("callToAction", scene.KindButton, 60, 400), at("logo", scene.KindLogo, 60, 1010)}, 0.5},
		"a button by nobody": {[]scene.Part{headline, at("callToAction", scene.KindButton, 820, 960)}, 0},
	} {
		if got := (judged{placement: place, scene: &scene.Scene{W: 1080, H: 1080, Parts: c.parts}}).signed(); math.Abs(got-c.want) > 0.01 {
			t.Errorf("%s: %.2f, want %.2f", name, got, c.want)
		}
	}
}
