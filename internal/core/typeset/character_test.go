package typeset_test

import (
	"bytes"
	"encoding/binary"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
)

// TestStructureIsMeasured: what the outlines say agrees with how the trade
// files the shipped families (the index carries their published kind).
func TestStructureIsMeasured(t *testing.T) {
	for _, f := range assets.Families() {
		if f.Kind == "fallback" {
			continue
		}
		for _, w := range f.Faces {
			face, err := assets.Library().Face(f.Family, w.Weight, false)
			if err != nil {
				t.Fatal(err)
			}
			c := face.Character()
			t.Logf("%s %d: %s x %.3f stem %.3f hair %.3f width %.2f small %.0f", f.Family, w.Weight, c.Structure, c.XHeight, c.Stem, c.Hairline, c.Width, c.SmallestPx())
			if string(c.Structure) != f.Kind {
				t.Errorf("%s %d is filed as %s and measured as %s", f.Family, w.Weight, f.Kind, c.Structure)
			}
		}
	}
}

// TestThinFacesDoNotSurviveSmall: display serifs break up long before text
// faces do (common practice: they are cut for 24 pt and more).
func TestThinFacesDoNotSurviveSmall(t *testing.T) {
	size := func(family string, weight int) float64 {
		face, err := assets.Library().Face(family, weight, false)
		if err != nil {
			t.Fatal(err)
		}
		return face.Character().SmallestPx()
	}
	if s := size("DM Serif Display", 400); s < 16 {
		t.Errorf("a display serif holds down to %.0f px, want it marked", s)
	}
	for _, family := range []string{"Figtree", "Source Sans 3", "Karla", "Inter", "Zilla Slab"} {
		if s := size(family, 400); s > 12 {
			t.Errorf("%s, a text face, holds down to %.0f px only", family, s)
		}
	}
}

// TestAnUnreadableGPOSIsTold: a positioning table without a lookup that can be
// read is said to be so; the shipped faces all kern.
func TestAnUnreadableGPOSIsTold(t *testing.T) {
	data, err := assets.Font("gabarito-700.ttf")
	if err != nil {
		t.Fatal(err)
	}
	if f, err := typeset.ReadFacts(data); err != nil || f.Unkerned {
		t.Fatalf("a sound face: %+v %v", f.Unkerned, err)
	}
	broken := bytes.Clone(data)
	for i := 12; i < 12+16*int(binary.BigEndian.Uint16(data[4:6])); i += 16 {
		if string(data[i:i+4]) == "GPOS" { // its lookup list (OpenType specification, GPOS header) becomes empty
			at := binary.BigEndian.Uint32(data[i+8 : i+12])
			list := at + uint32(binary.BigEndian.Uint16(data[at+8:at+10]))
			binary.BigEndian.PutUint16(broken[list:], 0)
		}
	}
	if f, err := typeset.ReadFacts(broken); err != nil || !f.Unkerned {
		t.Errorf("an empty lookup list: %v %v", f.Unkerned, err)
	}
}
