package raster_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/raster"

	"aspenridge/test/sweep"
)

// A logo is told from a picture, whatever file it comes in: drawn, on white as a
// JPEG, on a colour.
func TestLogosAreToldFromPictures(t *testing.T) {
	studio := raster.NewStudio(func(string) ([]byte, error) { return nil, fmt.Errorf("no pictures in it") })
	drawn := func(name string, data []byte) bool {
		in, err := raster.Import(t.Context(), data)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		return colour.LooksDrawn(in.Thumb)
	}
	turn := 0
	logos := demo.Logos()
	for _, name := range slices.Sorted(maps.Keys(logos)) {
		svg := logos[name]
		if !drawn(name, []byte(svg)) {
			t.Errorf("%s is taken for a picture", name)
		}
		for _, ground := range []string{"#FFFFFF", "#0F3D4C", "#F6EBD6"} {
			if turn++; !sweep.Turn(turn, 2) {
				continue
			}
			open := strings.Index(svg, ">") + 1
			box := strings.Split(svg[strings.Index(svg, `viewBox="`)+9:], `"`)[0]
			var x, y, w, h float64
			if _, err := fmt.Sscan(box, &x, &y, &w, &h); err != nil {
				t.Fatal(err)
			}
			boxed := fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%.0f" height="%.0f" viewBox="%g %g %g %g"><rect x="%g" y="%g" width="%g" height="%g" fill="%s"/>%s`,
				3*(w+40), 3*(h+40), x-20, y-20, w+40, h+40, x-20, y-20, w+40, h+40, ground, svg[open:])
			data, err := studio.Draw(t.Context(), boxed, raster.Output{Format: "jpeg", Quality: 75})
			if err != nil {
				t.Fatal(err)
			}
			if !drawn(name, data) {
				t.Errorf("%s on %s as a JPEG is taken for a picture", name, ground)
			}
		}
	}
	for name, svg := range demo.Pictures() {
		if drawn(name, []byte(svg)) && !strings.Contains(name, "silhouette") {
			t.Errorf("%s is taken for a logo", name)
		}
	}
}
