package layout_test

import (
	"math"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
)

// TestTurnedWords: an address along the side of a picture or on a spine reads upwards, stands on
// the piece, off everything else, and nowhere a second time; without the picture it lies with the
// sign-off again.
func TestTurnedWords(t *testing.T) {
	for _, id := range []string{"frame", "margin"} {
		for _, place := range []string{"feed-square", "feed-tall", "story"} {
			for _, headline := range []string{"Second cup, half price", "كوب ثان بنصف السعر"} {
				in := input(t, byID(t, id), place, map[string]string{"headline": headline, "website": "emberoat.example", "callToAction": "Find us"})
				in.Signature = "both"
				in.Pictures = []photo.Picture{{Hash: "x", W: 1600, H: 1200, Focus: [2]float64{0.5, 0.5}}}
				r := layout.Solve(in)
				var found []scene.Part
				for _, p := range r.Scene.Parts {
					if p.Slot == "website" {
						found = append(found, p)
					}
				}
				if len(found) != 1 {
					t.Errorf("%s %s %q: the address is there %d times, left out %v", id, place, headline, len(found), r.Dropped)
					continue
				}
				p := found[0]
				if d := p.Moved.Degrees(); math.Abs(d+90) > 0.01 || p.Box.H < 3*p.Box.W {
					t.Errorf("%s %s: turned by %v, in %v", id, place, d, p.Box)
				}
				if !in.Placement.SafeBox().Contains(p.Box, 0.5) {
					t.Errorf("%s %s: %v is not on the piece", id, place, p.Box)
				}
				for _, q := range r.Scene.Parts {
					if (q.Words() && q.Slot != p.Slot || q.Kind == scene.KindPicture || q.Kind == scene.KindLogo) && q.Box.Overlaps(p.Box, 0) {
						t.Errorf("%s %s: the address at %v stands on %s at %v", id, place, p.Box, q.Slot, q.Box)
					}
				}
			}
		}
	}
	in := input(t, byID(t, "frame"), "feed-square", map[string]string{"headline": "Second cup", "website": "emberoat.example"})
	in.Signature, in.Pictures = "both", nil
	if p := part(layout.Solve(in), "website"); p == nil || p.Moved != nil {
		t.Errorf("without a picture the address is %+v", p)
	}
}
