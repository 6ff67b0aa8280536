package layout_test

import (
	"math"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/spec"
)

// TestFittedLinesFillTheMeasure: every line of the headline is as wide as the widest,
// they do not touch, and none is under the floor of a headline.
func TestFittedLinesFillTheMeasure(t *testing.T) {
	fitted := 0
	for _, id := range []string{"measure", "masthead", "stave"} {
		for _, place := range []string{"feed-square", "feed-tall", "story", "ad-160x600"} {
			for _, headline := range []string{"Lift heavier by spring", "Quiet water, first strokes", "Three knots worth knowing before you go"} {
				in := input(t, byID(t, id), place, map[string]string{"headline": headline, "callToAction": "Save a seat"})
				r := layout.Solve(in)
				h, _ := partOf(r, "headline")
				if len(h.Lines) < 2 || h.Lines[0].SizePx == 0 {
					continue
				}
				fitted++
				before := math.Inf(-1)
				for _, l := range h.Lines {
					ink := l.Line.Ink.Scale(l.SizePx).Shift(l.X, l.Y)
					if d := h.Box.W - (ink.X1 - ink.X0); math.Abs(d) > 0.02*h.Box.W {
						t.Errorf("%s on %s: %q is %.0f px short of the measure", id, place, l.Line.Text, d)
					}
					if ink.Y0 < before {
						t.Errorf("%s on %s: %q touches the line above", id, place, l.Line.Text)
					}
					before = ink.Y1
				}
			}
		}
	}
	if fitted < 15 {
		t.Errorf("%d headlines of 36 are fitted", fitted)
	}
}

// TestOneShortWordIsNotBlownUp: fitted, it would be as high as the piece.
func TestOneShortWordIsNotBlownUp(t *testing.T) {
	for _, place := range []string{"feed-square", "feed-wide", "story"} {
		p, _ := spec.Find(place)
		h, ok := partOf(layout.Solve(input(t, byID(t, "measure"), place, map[string]string{"headline": "Up"})), "headline")
		if !ok || h.Box.H > 0.6*float64(p.Height) {
			t.Errorf("on %s it is %v", place, h.Box)
		}
	}
}
