package guide_test

import (
	"fmt"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/guide"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/typeset"
)

// TestPagesHoldWhatTheySay: with few and with very many colours and words, all
// words stay on their page, and every colour and every word of the voice is on
// one.
func TestPagesHoldWhatTheySay(t *testing.T) {
	for _, n := range []int{0, 1, 9, 40} {
		k := &brand.Kit{Name: "Pellow & Finch Mushroom Farm and Market Stall", Tagline: "Grown in the dark", TypeSets: []brand.TypeSet{brand.DefaultTypeSet()}, Palettes: []brand.Palette{{ID: "main"}},
			Voice: brand.Voice{Sounds: strings.Repeat("slow and exact ", 20), NeverSays: []string{"extreme"}, Text: strings.Repeat("One thought each. ", 40)}}
		for i := range n {
			k.Palettes[0].Colours = append(k.Palettes[0].Colours, brand.Colour{Token: fmt.Sprintf("main.c%d", i), Name: fmt.Sprintf("Colour %d", i), Value: colour.OKLCh{L: 0.2 + 0.7*float64(i)/40, C: 0.1, H: float64(i * 37)}.RGB(), Role: brand.Extra})
		}
		said := ""
		for i, p := range guide.Pages(guide.Input{Kit: k, Library: assets.Library(), Shaper: typeset.NewShaper()}) {
			for _, part := range p.Scene.Parts {
				said += part.Text + "\n"
				if part.Kind != scene.KindText {
					continue
				}
				for _, l := range part.Lines {
					if l.X < 0 || l.X+l.Line.Advance*part.SizePx > guide.PageW || l.Y < 0 || l.Y > guide.PageH {
						t.Errorf("%d colours, page %d: %q leaves the page", n, i+1, l.Line.Text)
					}
				}
			}
		}
		want := []string{k.Name, "extreme", "One thought each."}
		for _, c := range k.Colours() {
			want = append(want, c.Name, c.Value.Hex())
		}
		for _, w := range want {
			if !strings.Contains(said, w) {
				t.Errorf("%d colours: %q is on no page", n, w)
			}
		}
	}
}
