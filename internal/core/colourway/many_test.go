package colourway

import (
	"math/rand/v2"
	"testing"
)

// A kit of as many colours as it may hold is ranked like any other.
func TestAsManyColoursAsAKitMayHold(t *testing.T) {
	colours := random(rand.New(rand.NewPCG(9, 9)), 256)
	if n := len(Rank(colours, Needs{GroundArea: 0.6, PanelArea: 0.3, ButtonOn: Panel}, 24)); n == 0 {
		t.Error("nothing is ranked")
	}
}
