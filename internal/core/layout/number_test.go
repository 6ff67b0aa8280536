package layout_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/layout"
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
