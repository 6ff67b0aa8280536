package scene_test

import (
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
)

func TestToneInAnAddress(t *testing.T) {
	tone := scene.Tone{Dark: colour.RGB{R: 0x0F, G: 0x3D, B: 0x4C}, Light: colour.RGB{R: 0xF6, G: 0xEB, B: 0xD6}, Black: 0.125, White: 0.75}
	if got, err := scene.ParseTone(tone.String()); err != nil || got != tone {
		t.Errorf("%+v %v", got, err)
	}
	if got, err := scene.ParseTone(""); err != nil || got.On() {
		t.Errorf("%+v %v", got, err)
	}
	for _, bad := range []string{"x", "0F3D4C", "0F3D4C-F6EBD6-0.9-0.1", "0F3D4C-F6EBD6-0.1-7", "GGGGGG-F6EBD6-0.1-0.9", "0F3D4C-F6EBD6-NaN-NaN"} {
		if got, err := scene.ParseTone(bad); err == nil {
			t.Errorf("%q was taken as %+v", bad, got)
		}
	}
	if tone.At(0) != tone.Dark || tone.At(0.125) != tone.Dark || tone.At(0.75) != tone.Light || tone.At(1) != tone.Light {
		t.Error("black and white points do not give the two colours")
	}
}
