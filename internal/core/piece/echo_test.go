package piece_test

import (
	"math"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/typeset"
)

// Letters put one beside the other by an echo end about where the real line does:
// all that is missing is kerning.
func TestAnEchoIsAsWideAsTheLine(t *testing.T) {
	s := assets.Shaper()
	for _, family := range []string{"Gabarito", "Fraunces", "DM Mono", "Oleo Script", "Noto Sans Arabic"} {
		weights := assets.Library().Weights(family)
		face, err := assets.Library().Face(family, weights[len(weights)-1], false)
		if err != nil {
			t.Fatal(err)
		}
		const text = "Quiet water, first strokes: 3 May"
		style := typeset.Style{Face: face, Tracking: -0.01}
		line := s.Line(text, style)
		part := &scene.Part{Kind: scene.KindText, Text: text, Family: family, Weight: face.Weight, SizePx: 80, Style: style, Align: "start", Lines: []scene.TextLine{{Line: line}}}
		e := piece.EchoOf(s, part, text, "")
		if e == nil || len(e.Glyphs) < 120 {
			t.Fatalf("%s has no echo, or too few letters", family)
		}
		sum := 0.0
		for _, r := range text {
			g, ok := e.Glyphs[string(r)]
			if !ok || g.Advance <= 0 || g.Path == "" && r != ' ' {
				t.Errorf("%s lacks %q", family, r)
			}
			sum += g.Advance + e.Tracking
		}
		if sum -= e.Tracking; math.Abs(sum-line.Advance) > 0.02*line.Advance {
			t.Errorf("%s: letters one by one are %.3f em, the line %.3f", family, sum, line.Advance)
		}
		if again := piece.EchoOf(s, part, text, e.Key); again == nil || again.Glyphs != nil {
			t.Errorf("%s: glyphs the page has are sent again", family)
		}
	}
	if piece.EchoOf(s, &scene.Part{Kind: scene.KindText}, "x", "") != nil {
		t.Error("a part without type has an echo")
	}
	face, err := assets.Library().Face("Noto Sans Arabic", 400, false)
	if err != nil {
		t.Fatal(err)
	}
	part := &scene.Part{Kind: scene.KindText, Style: typeset.Style{Face: face}, Lines: []scene.TextLine{{Line: s.Line("x", typeset.Style{Face: face})}}}
	if piece.EchoOf(s, part, "مزرعة", "") != nil {
		t.Error("Arabic has an echo, though its letters join")
	}
}
