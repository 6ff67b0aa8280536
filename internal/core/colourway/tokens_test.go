package colourway_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
)

// TestTokensAsDocumentsWriteThem: seats name colours as docs/formats.md says,
// and a look that leaves "color." out is understood all the same.
func TestTokensAsDocumentsWriteThem(t *testing.T) {
	k := &brand.Kit{Palettes: []brand.Palette{{ID: "main", Colours: []brand.Colour{
		{Token: "main.river", Value: colour.RGB{R: 15, G: 61, B: 76}, Role: brand.Lead},
		{Token: "main.coral", Value: colour.RGB{R: 242, G: 105, B: 75}, Role: brand.Accent},
		{Token: "main.mist", Value: colour.RGB{R: 230, G: 240, B: 236}, Role: brand.Ground},
	}}}}
	needs := (&layout.Layout{ButtonOn: colourway.Panel}).Needs()
	c := colourway.Rank(k.Colours(), needs, 1)[0]
	tokens := c.Tokens()
	bare := map[string]string{}
	for seat, token := range tokens {
		if !strings.HasPrefix(token, "color.main.") && !strings.HasPrefix(token, "neutral.") {
			t.Errorf("%s is %q", seat, token)
		}
		bare[seat] = strings.TrimPrefix(token, "color.")
	}
	for _, m := range []map[string]string{tokens, bare} {
		if got, ok := colourway.Resolve(k, m, needs); !ok || got.Matches(tokens) != len(colourway.Seats) {
			t.Errorf("%v does not resolve to itself", m)
		}
	}
}
