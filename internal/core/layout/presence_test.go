package layout_test

import (
	"slices"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/layouts"
)

// presenceCopy are headlines of at most 30 characters with what stands beside
// them.
var presenceCopy = []map[string]string{
	{"headline": "Quiet water, first strokes", "subheading": "Six Saturdays from 3 May", "callToAction": "Save a seat", "website": "larkmoor.example"},
	{"headline": "Eleven lanterns", "subheading": "Friday 28 May, 20:30", "body": "Boats and lanterns provided.", "website": "larkmoor.example"},
	{"headline": "Lift heavy things", "callToAction": "Book a trial"},
	{"headline": "A case for the long table", "subheading": "Six bottles, one price", "body": "84 until Sunday, brought to your door.", "callToAction": "Order a case", "website": "pellow.example"},
}

// presence is how a piece's headline stands in it.
type presence struct {
	at    string
	size  float64 // font size over the short side, or the height on ribbons
	times float64 // the next size
	ink   float64 // share of the canvas all words' ink boxes cover
}

func presences(t testing.TB, place string) (out []presence) {
	for _, l := range layouts.All() {
		for _, words := range presenceCopy {
			in := input(t, l, place, words)
			r := layout.Solve(in)
			p := presence{at: l.ID + " on " + place + ": " + words["headline"]}
			next, head := 0.0, 0.0
			for _, part := range r.Scene.Parts {
				if part.Kind != scene.KindText && part.Kind != scene.KindButton {
					continue
				}
				p.ink += part.Box.W * part.Box.H / float64(r.Scene.W*r.Scene.H)
				if part.Slot == "headline" {
					head = part.SizePx
				} else {
					next = max(next, part.SizePx)
				}
			}
			p.size = head / float64(min(r.Scene.W, r.Scene.H))
			if next > 0 {
				p.times = head / next
			}
			out = append(out, p)
		}
	}
	return out
}

func median(v []float64) float64 {
	v = slices.Clone(v)
	slices.Sort(v)
	return v[len(v)/2]
}

// TestPresence: in a feed a piece has a second, so the headline is seen first. The
// numbers are medians over all layouts (common practice; set by eye on the contact
// sheets), and no headline of a feed post is small.
func TestPresence(t *testing.T) {
	for _, c := range []struct {
		places           []string
		size, ink, least float64
	}{
		{[]string{"feed-square"}, 0.10, 0.15, 0.07},
		{[]string{"feed-tall"}, 0.10, 0.15, 0.07},
		{[]string{"story"}, 0.12, 0.15, 0.07},
		{[]string{"feed-wide"}, 0.14, 0, 0},
		{[]string{"shop-banner", "ad-728x90"}, 0.32, 0, 0},
	} {
		var size, times, ink []float64
		for _, place := range c.places {
			for _, p := range presences(t, place) {
				size, ink = append(size, p.size), append(ink, p.ink)
				if p.times > 0 {
					times = append(times, p.times)
				}
				if p.size < c.least {
					t.Errorf("%s: the headline is %.3f of the short side, want %.2f", p.at, p.size, c.least)
				}
			}
		}
		if m := median(size); m < c.size {
			t.Errorf("%v: headlines of %.3f of the short side, want %.2f", c.places, m, c.size)
		}
		if m := median(times); m < 2.2 {
			t.Errorf("%v: headlines of %.2f times the next size, want 2.2", c.places, m)
		}
		if m := median(ink); m < c.ink || m > 0.3 {
			t.Errorf("%v: words ink %.4f of the canvas, want %.2f to 0.3", c.places, m, c.ink)
		}
	}
}
