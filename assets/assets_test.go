package assets_test

import (
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// TestStarterPalettesWork: at least forty, each with a pair that carries any
// text (WCAG 2.2, 7:1), a ground, an ink and a lead, and no two alike.
func TestStarterPalettesWork(t *testing.T) {
	names := map[string]bool{}
	list := assets.Palettes()
	if len(list) < 40 {
		t.Errorf("%d palettes, want 40", len(list))
	}
	var leads []colour.RGB
	for _, p := range list {
		if names[p.Name] || p.Name == "" || p.Mood == "" {
			t.Errorf("name %q, mood %q", p.Name, p.Mood)
		}
		names[p.Name] = true
		byRole := map[brand.Role]colour.RGB{}
		best := 0.0
		for i, c := range p.Colours {
			v, err := colour.Parse(c.Hex)
			if err != nil {
				t.Fatalf("%s: %v", p.Name, err)
			}
			byRole[brand.Role(c.Role)] = v
			for _, o := range p.Colours[:i] {
				w, _ := colour.Parse(o.Hex)
				best = max(best, colour.Contrast(v, w))
				if d := colour.DeltaE(v, w); d < 5 {
					t.Errorf("%s: %s and %s are %.1f apart", p.Name, c.Hex, o.Hex, d)
				}
			}
		}
		if best < 7 {
			t.Errorf("%s: the best contrast is %.1f", p.Name, best)
		}
		for _, r := range []brand.Role{brand.Lead, brand.Ground, brand.Ink} {
			if _, ok := byRole[r]; !ok {
				t.Errorf("%s has no %s", p.Name, r)
			}
		}
		if c := colour.Contrast(byRole[brand.Lead], byRole[brand.Ground]); c < 3 {
			t.Errorf("%s: lead on ground is %.1f", p.Name, c)
		}
		for _, o := range leads {
			if colour.DeltaE(o, byRole[brand.Lead]) < 1 {
				t.Errorf("%s leads with a colour another palette leads with", p.Name)
			}
		}
		leads = append(leads, byRole[brand.Lead])
	}
}
