package piece_test

import (
	"math"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/typeset"
)

// hbAdvances are the advances of clusters, by their first rune, as HarfBuzz's own
// hb-shape has them.
func hbAdvances(t *testing.T, file, text string) map[int]float64 {
	t.Helper()
	out, err := exec.Command("hb-shape", "--no-glyph-names", filepath.Join("../../../assets/fonts", file), text).Output()
	if err != nil {
		t.Fatalf("hb-shape (scripts/setup installs libharfbuzz-bin): %v", err)
	}
	got := map[int]float64{}
	for _, m := range regexp.MustCompile(`=(\d+)(?:@-?\d+,-?\d+)?\+(\d+)`).FindAllStringSubmatch(string(out), -1) {
		cluster, _ := strconv.Atoi(m[1])
		v, _ := strconv.ParseFloat(m[2], 64)
		got[cluster] += v
	}
	return got
}

// TestCaretStandsAtTheClustersOfHarfBuzz for letters drawn as one, marks over letters,
// words from right to left, and both ways in a line.
func TestCaretStandsAtTheClustersOfHarfBuzz(t *testing.T) {
	const size, left = 100.0, 40.0
	stops := func(family, text string) ([]piece.Stop, *typeset.Face, float64) {
		face, err := assets.Library().Face(family, 400, false)
		if err != nil {
			t.Fatal(err)
		}
		look := typeset.Style{Face: face}
		line := assets.Shaper().Line(text, look)
		part := &scene.Part{Kind: scene.KindText, Text: text, SizePx: size, Style: look, Lines: []scene.TextLine{{Line: line, X: left, Y: 300}}}
		return piece.Stops(part, text), face, line.Advance
	}
	at := func(what string, s piece.Stop, want float64) {
		t.Helper()
		if math.Abs(s.X-want) > 0.02*size {
			t.Errorf("%s: the caret before unit %d stands at %.2f, hb-shape has it at %.2f", what, s.At, s.X, want)
		}
	}

	// left to right: before each cluster all advances before it
	for _, c := range []struct{ what, family, file, text string }{
		{"ligatures", "Fraunces", "fraunces-400.ttf", "office fir waffle"},
		{"marks", "Inter", "inter-400.ttf", "Cafe\u0301 a\u0308b"},
	} {
		s, face, _ := stops(c.family, c.text)
		adv := hbAdvances(t, c.file, c.text)
		x, letters := left, 0
		for i := range []rune(c.text) {
			if a, first := adv[i]; first {
				at(c.what, s[i], x)
				x += a / face.UnitsPerEm * size
			} else if letters++; c.what == "ligatures" && !(s[i].X > s[i-1].X+0.1*size && s[i].X < x) {
				t.Errorf("inside a ligature the caret stands at %.2f, after %.2f and before %.2f", s[i].X, s[i-1].X, x)
			} else if c.what == "marks" && s[i].X != s[i-1].X {
				t.Errorf("between a letter and its mark the caret goes from %.2f to %.2f", s[i-1].X, s[i].X)
			}
		}
		if letters == 0 {
			t.Errorf("%s: no cluster has several runes, so the check proves nothing", c.what)
		}
		at(c.what, s[len(s)-1], x)
	}

	// right to left: the first letter's caret is at the right, each goes on to the left
	for _, c := range []struct{ family, file, text string }{
		{"Noto Sans Hebrew", "noto-sans-hebrew-400.ttf", "שלום"},
		{"Noto Sans Arabic", "noto-sans-arabic-400.ttf", "مياه هادئة"},
	} {
		s, face, wide := stops(c.family, c.text)
		adv := hbAdvances(t, c.file, c.text)
		x := left + wide*size
		for i := range []rune(c.text) {
			if a, first := adv[i]; first {
				at(c.text, s[i], x)
				x -= a / face.UnitsPerEm * size
			}
		}
		at(c.text, s[len(s)-1], left)
	}

	// both in a line: words from left to right, then those from right to left behind them
	s, latin, _ := stops("Inter", "Hi שלום")
	hebrew, err := assets.Library().Face("Noto Sans Hebrew", 400, false)
	if err != nil {
		t.Fatal(err)
	}
	first, second := hbAdvances(t, "inter-400.ttf", "Hi "), hbAdvances(t, "noto-sans-hebrew-400.ttf", "שלום")
	x := left
	for i := range 3 {
		at("mixed", s[i], x)
		x += first[i] / latin.UnitsPerEm * size
	}
	begin := x
	for i := range 4 {
		x += second[i] / hebrew.UnitsPerEm * size
	}
	for i := range 4 {
		at("mixed", s[3+i], x)
		x -= second[i] / hebrew.UnitsPerEm * size
	}
	at("mixed", s[7], begin)
}
