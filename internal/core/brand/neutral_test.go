package brand_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// TestAnyPaletteCarriesText: with what is offered, every palette has a pair of
// 7:1 (WCAG 2.2, 1.4.6); a palette that has one is offered nothing.
func TestAnyPaletteCarriesText(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 1))
	offered := 0
	for n := range 2000 {
		k := &brand.Kit{Palettes: []brand.Palette{{ID: "main"}}}
		p := &k.Palettes[0]
		for i := range 1 + rng.IntN(5) {
			c := colour.RGB{R: uint8(rng.IntN(256)), G: uint8(rng.IntN(256)), B: uint8(rng.IntN(256))}
			if n%2 == 0 { // all of middling lightness
				c = colour.OKLCh{L: 0.5 + 0.15*rng.Float64(), C: 0.1 * rng.Float64(), H: 360 * rng.Float64()}.RGB()
			}
			p.Colours = append(p.Colours, brand.Colour{Token: fmt.Sprintf("main.c%d", i), Value: c, NeverGround: rng.IntN(6) == 0})
		}
		more := k.Neutrals()
		if k.BestContrast() >= brand.SmallText && len(more) > 0 {
			t.Fatalf("%v needs nothing and is offered %v", p.Colours, more)
		}
		if len(more) > 0 {
			offered++
		}
		for i, c := range more {
			p.Colours = append(p.Colours, brand.Colour{Token: fmt.Sprintf("main.n%d", i), Value: c})
		}
		if best := k.BestContrast(); best < brand.SmallText {
			t.Fatalf("%v reaches %.2f with %v", p.Colours, best, more)
		}
	}
	if offered < 500 {
		t.Errorf("only %d palettes needed a neutral: the sample is too easy", offered)
	}
}
