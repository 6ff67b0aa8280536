package typeset_test

import (
	"errors"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
	"aspenridge/test/hostile"
)

// FuzzProve proves anything as a font: it is refused, or what comes of it can be
// set without a fault.
func FuzzProve(f *testing.F) {
	good, err := assets.Font("oleo-script-700.ttf")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(good)
	for n := range 40 {
		f.Add(hostile.Damaged(good, uint64(n)))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		sfnt, _, _, err := typeset.Unpack(data)
		if err != nil {
			return
		}
		clean, _, err := typeset.Prove(sfnt, cpu)
		if err != nil {
			if !errors.Is(err, typeset.ErrFont) {
				t.Error(err)
			}
			return
		}
		face, err := typeset.ParseFace(clean)
		if err != nil {
			t.Fatal(err)
		}
		face.Watched()
		typeset.NewShaper().Line("Quiet water “first” strokes 12:30 — ffi", typeset.Style{Face: face})
		if face.Character(); face.Broken() {
			t.Error("it was proven and fails")
		}
	})
}
