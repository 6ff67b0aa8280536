package brand_test

import (
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/typeset"
)

// shipped measures the families that ship.
func shipped(t *testing.T) []brand.Candidate {
	t.Helper()
	var out []brand.Candidate
	for _, f := range assets.Families() {
		if f.Kind == "fallback" {
			continue
		}
		c := brand.Candidate{Family: f.Family}
		for weight, at := range map[int]*typeset.Character{800: &c.Heavy, 400: &c.Text} {
			face, err := assets.Library().Face(f.Family, weight, false)
			if err != nil {
				t.Fatal(err)
			}
			*at = face.Character()
		}
		out = append(out, c)
	}
	return out
}

// TestPairings: reasons with each, no body that breaks up small, no two faces
// that are almost the same, and a kit's own font first.
func TestPairings(t *testing.T) {
	list := shipped(t)
	by := map[string]brand.Candidate{}
	for _, c := range list {
		by[c.Family] = c
	}
	pairs := brand.Pairings(list, 12)
	if len(pairs) != 12 {
		t.Fatalf("%d pairs, want 12", len(pairs))
	}
	for _, p := range pairs {
		t.Log(p.Head, "+", p.Text, p.Reasons)
		if len(p.Reasons) == 0 {
			t.Errorf("%s with %s has no reason", p.Head, p.Text)
		}
		h, b := by[p.Head], by[p.Text]
		if b.Text.SmallestPx() > brand.MinTextPx || b.Text.Structure == typeset.ScriptStructure {
			t.Errorf("%s is no body face", p.Text)
		}
		if p.Head != p.Text && h.Heavy.Structure == b.Text.Structure && h.Heavy.Width == b.Text.Width {
			t.Errorf("%s and %s are almost the same", p.Head, p.Text)
		}
	}
	own := by["Bitter"]
	own.Own, own.Family = true, "Ours"
	if got := brand.Pairings(append(list, own), 1)[0]; got.Head != "Ours" && got.Text != "Ours" {
		t.Errorf("the kit's own font is not in the first pair: %+v", got)
	}
}
