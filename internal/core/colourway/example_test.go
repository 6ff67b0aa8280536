package colourway_test

import (
	"fmt"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
)

func ExampleRank() {
	kit := []brand.Colour{
		{Token: "main.river", Name: "River", Value: colour.RGB{R: 15, G: 61, B: 76}, Role: brand.Lead},
		{Token: "main.coral", Name: "Coral", Value: colour.RGB{R: 242, G: 105, B: 75}, Role: brand.Accent},
		{Token: "main.sand", Name: "Sand", Value: colour.RGB{R: 246, G: 235, B: 214}, Role: brand.Ground},
		{Token: "main.ink", Name: "Ink", Value: colour.RGB{R: 16, G: 36, B: 43}, Role: brand.Ink},
	}
	best := colourway.Rank(kit, colourway.Needs{GroundArea: 0.7, PanelArea: 0.2, ButtonOn: colourway.Ground}, 1)[0]
	ground, ink := best.At(colourway.Ground), best.At(colourway.InkOn(colourway.Ground))
	fmt.Printf("%s on %s, %.1f to 1; button %s\n", ink.Name, ground.Name, colour.Contrast(ink.Value, ground.Value), best.At(colourway.Button).Name)
	// Output:
	// Sand on River, 9.9 to 1; button Coral
}
