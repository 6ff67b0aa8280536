package layout_test

import (
	"fmt"
	"testing"

	"aspenridge/internal/core/layout"
)

func ExampleSolve() {
	t := new(testing.T) // the helpers of this package want one
	in := input(t, byID(t, "poster"), "ad-320x50", map[string]string{
		"headline": "Quiet water and the first strokes of the year on the slow bend below the old boathouse", "shortHeadline": "First strokes", "callToAction": "Save a seat",
	})
	r := layout.Solve(in)
	for _, slot := range []string{"headline", "callToAction"} {
		fmt.Printf("%s: %s\n", slot, part(r, slot).Text)
	}
	// Output:
	// headline: First strokes
	// callToAction: Save a seat
}
