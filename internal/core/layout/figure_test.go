package layout_test

import (
	"cmp"
	"math"
	"slices"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/layouts"
)

var offered = map[string]string{
	"headline": "Second cup, half price", "subheading": "Every weekday before nine", "offer": "50% off · until Sunday 31 January",
	"terms": "One a person and day.", "callToAction": "Find us",
}

func offerIn(t *testing.T, id, place string) layout.Input {
	in := input(t, byID(t, id), place, offered)
	in.Purpose = "offer"
	in.Figures = map[string]layout.Figure{"offer": {Lead: "50%", Below: []string{"off", "until Sunday 31 January"}}}
	in.Pictures = []photo.Picture{{
		Hash: "x", W: 1600, H: 1200, Focus: [2]float64{0.5, 0.3}, Subjects: []photo.Subject{{Kind: photo.Face, Box: [4]float64{0.42, 0.2, 0.14, 0.2}}},
	}}
	return in
}

// TestOffersHaveAFigure: whatever the layout, the percentage of an offer is clearly larger than
// what is said around it (craft.md: it shares the first place).
func TestOffersHaveAFigure(t *testing.T) {
	for _, l := range layouts.All() {
		for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
			if l.ID == "measure" && place == "feed-wide" { // its column has no room for one
				continue
			}
			r := layout.Solve(offerIn(t, l.ID, place))
			p := part(r, "offer")
			if r.Plain || p == nil || len(p.Lines) == 0 {
				continue
			}
			sizes := make([]float64, len(p.Lines))
			for i, line := range p.Lines {
				sizes[i] = cmp.Or(line.SizePx, p.SizePx)
			}
			if slices.Max(sizes) < 1.4*slices.Min(sizes) {
				t.Errorf("%s %s: the offer is set at %v px", l.ID, place, sizes)
			}
		}
	}
}

// TestSealsHoldTheirLines: all that stands in a seal is inside its printed circle, and an offer is
// not given up for less of the picture covered.
func TestSealsHoldTheirLines(t *testing.T) {
	for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide", "video-thumbnail"} {
		r := layout.Solve(offerIn(t, "seal", place))
		p := part(r, "offer")
		if p == nil {
			t.Errorf("%s: left out %v", place, r.Dropped)
			continue
		}
		i := slices.IndexFunc(r.Scene.Parts, func(p scene.Part) bool { return p.Slot == "card" })
		seal := r.Scene.Parts[i].Box
		for _, line := range p.Lines {
			b := ink(line)
			for _, x := range []float64{b.X, b.Right()} {
				for _, y := range []float64{b.Y, b.Bottom()} {
					if d := math.Hypot(x-seal.X-seal.W/2, y-seal.Y-seal.H/2); d > 0.93*seal.W/2 {
						t.Errorf("%s: %q reaches %.0f px from the middle of a seal of %.0f", place, line.Line.Text, d, seal.W)
					}
				}
			}
		}
	}
}
