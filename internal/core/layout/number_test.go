package layout_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// TestNumbersAreSetLikePrices: signs and decimals beside a large number are smaller, and
// their heads stand at the number's (common practice); what is no number stays as it is.
func TestNumbersAreSetLikePrices(t *testing.T) {
	for lead, want := range map[string][]string{
		"20%": {"20", "%"}, "€ 84": {"€", "84"}, "€84": {"€", "84"}, "$24.50": {"$", "24", ".50"}, "24,50 €": {"24", ",50", "€"},
		"1 200 kr": {"1 200", "kr"}, "CHF 1’250": {"CHF", "1’250"}, "−15%": {"−15", "%"},
		"28": {"28"}, "3 for 2": {"3 for 2"}, "2-for-1": {"2-for-1"}, "18:00": {"18:00"}, "Free": {"Free"},
	} {
		in := input(t, byID(t, "number"), "feed-square", map[string]string{"headline": "Bring a friend", "offer": lead, "callToAction": "Save a seat"})
		in.Figures = map[string]layout.Figure{"offer": {Lead: lead}}
		p := part(layout.Solve(in), "offer")
		if p == nil {
			t.Errorf("%s is not shown", lead)
			continue
		}
		var got []string
		large, head, right := 0.0, 0.0, math.Inf(-1)
		for _, l := range p.Lines {
			got = append(got, l.Line.Text)
			if l.SizePx > large {
				large, head = l.SizePx, l.Y+l.Line.Ink.Y0*l.SizePx
			}
			if l.From+len([]rune(l.Line.Text)) > len([]rune(p.Text)) {
				t.Errorf("%s: %q from %d is beyond %q", lead, l.Line.Text, l.From, p.Text)
			}
		}
		if !slices.Equal(got, want) {
			t.Errorf("%s is set as %q, want %q", lead, got, want)
		}
		for _, l := range p.Lines {
			if l.X+l.Line.Ink.X0*l.SizePx < right {
				t.Errorf("%s: %q touches what stands before it", lead, l.Line.Text)
			}
			right = l.X + l.Line.Ink.X1*l.SizePx
			if l.SizePx == large {
				continue
			}
			top := l.Y + l.Line.Ink.Y0*l.SizePx
			if l.SizePx > 0.6*large || !strings.HasPrefix(l.Line.Text, ".") && !strings.HasPrefix(l.Line.Text, ",") && math.Abs(top-head) > 0.02*large {
				t.Errorf("%s: %q of %.1f px beside %.1f px, its head at %.1f, want %.1f", lead, l.Line.Text, l.SizePx, large, top, head)
			}
		}
	}
}

// TestFractionsAreFigures: a share written with a stroke is set as one figure, its numbers above
// and below the stroke, neither touching it or the other, as high together as a whole number
// (common practice).
func TestFractionsAreFigures(t *testing.T) {
	for _, lead := range []string{"1/2", "3/4", "2⁄3", "10/12"} {
		in := input(t, byID(t, "number"), "feed-square", map[string]string{"headline": "Second cup", "offer": lead, "callToAction": "Find us"})
		in.Figures = map[string]layout.Figure{"offer": {Lead: lead}}
		p := part(layout.Solve(in), "offer")
		if p == nil || len(p.Lines) != 3 {
			t.Fatalf("%s: %+v", lead, p)
		}
		upper, stroke, lower := ink(p.Lines[0]), ink(p.Lines[1]), ink(p.Lines[2])
		if got := p.Lines[0].Line.Text + p.Lines[1].Line.Text + p.Lines[2].Line.Text; got != lead || p.Text != lead {
			t.Errorf("%s is said as %q and %q", lead, got, p.Text)
		}
		slack := 0.02 * stroke.H
		if upper.Bottom() > lower.Bottom()-0.3*stroke.H || math.Abs(upper.Y-stroke.Y) > slack || math.Abs(lower.Bottom()-stroke.Bottom()) > slack {
			t.Errorf("%s: the upper number at %v, the stroke at %v, the lower one at %v", lead, upper, stroke, lower)
		}
		// the stroke as the line from the foot of its left to the head of its right
		at := func(y float64) float64 { return stroke.X + stroke.W*(stroke.Bottom()-y)/stroke.H }
		if upper.Right() > at(upper.Bottom()) || lower.X < at(lower.Y) {
			t.Errorf("%s: a number stands on the stroke", lead)
		}
	}
}

func ink(l scene.TextLine) spec.Rect {
	b := l.Line.Ink.Scale(l.SizePx)
	return spec.Rect{X: l.X + b.X0, Y: l.Y + b.Y0, W: b.X1 - b.X0, H: b.Y1 - b.Y0}
}
