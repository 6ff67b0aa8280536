package layout_test

import (
	"math"
	"regexp"
	"strconv"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

// TestRatings stand in every layout that shows a quote, five stars over what is said of
// them, full as far as the voices say and no further.
func TestRatings(t *testing.T) {
	words := map[string]string{"headline": "The water taught me patience", "quote": "“Nobody falls in twice for the same reason”", "rating": "4.3 of 5 · 127 voices", "callToAction": "Save a seat"}
	shown := 0
	for _, l := range layouts.All() {
		for _, place := range []string{"feed-square", "story"} {
			in := input(t, l, place, words)
			in.Purpose, in.Stars = "testimonial", 4.3
			r := layout.Solve(in)
			said, ground, stars := part(r, "rating"), part(r, "rating-ground"), part(r, "rating-stars")
			if said == nil {
				continue
			}
			shown++
			if ground == nil || stars == nil {
				t.Errorf("%s on %s: words of a rating without its stars", l.ID, place)
				continue
			}
			// five stars and four gaps of g; the fifth is full to three tenths
			const g = 0.14
			if got, want := stars.Box.W/ground.Box.W, (4*(1+g)+0.3)/(5+4*g); math.Abs(got-want) > 1e-9 {
				t.Errorf("%s on %s: %.3f of the stars are full, want %.3f", l.ID, place, got, want)
			}
			if ground.Box.Bottom() > said.Box.Y+0.5 {
				t.Errorf("%s on %s: the stars reach into what is said of them", l.ID, place)
			}
			safe := in.Placement.SafeBox()
			if ground.Box.X < safe.X-0.5 || ground.Box.Right() > safe.Right()+0.5 {
				t.Errorf("%s on %s: the stars leave the safe area: %v", l.ID, place, ground.Box)
			}
			if head := part(r, "headline"); head != nil && overlap(head.Box, ground.Box) {
				t.Errorf("%s on %s: the stars stand on the headline", l.ID, place)
			}
		}
	}
	if shown < 60 {
		t.Errorf("%d pieces show a rating", shown)
	}
	in := input(t, byID(t, "halves"), "feed-square", words) // words alone
	if r := layout.Solve(in); part(r, "rating-ground") != nil {
		t.Error("there are stars nobody gave")
	}
}

func overlap(a, b spec.Rect) bool {
	return a.X < b.Right()-0.5 && b.X < a.Right()-0.5 && a.Y < b.Bottom()-0.5 && b.Y < a.Bottom()-0.5
}

// TestAStarIsAPentagram: its inner corners lie where the chords between its outer ones
// cross (Euclid's pentagon; Coxeter, Regular Polytopes, 2.8).
func TestAStarIsAPentagram(t *testing.T) {
	in := input(t, byID(t, "halves"), "feed-square", map[string]string{"headline": "One", "rating": "5 of 5"})
	in.Stars = 5
	p := part(layout.Solve(in), "rating-ground")
	if p == nil {
		t.Fatal("no stars")
	}
	var xy []float64
	for _, n := range regexp.MustCompile(`-?[0-9.]+`).FindAllString(p.Path, 20) {
		v, err := strconv.ParseFloat(n, 64)
		if err != nil {
			t.Fatal(err)
		}
		xy = append(xy, v)
	}
	at := func(i int) (x, y float64) { i = (i + 10) % 10; return xy[2*i], xy[2*i+1] }
	for i := 1; i < 10; i += 2 { // an inner corner lies on both lines it should
		x, y := at(i)
		for _, line := range [][2]int{{i - 1, i + 3}, {i + 1, i - 3}} {
			ax, ay := at(line[0])
			bx, by := at(line[1])
			off := math.Abs((bx-ax)*(ay-y)-(ax-x)*(by-ay)) / math.Hypot(bx-ax, by-ay)
			if off > 0.02*math.Hypot(bx-ax, by-ay) {
				t.Errorf("corner %d lies %.2f px off the line", i, off)
			}
		}
	}
}
