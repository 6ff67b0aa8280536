package typeset_test

import (
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
)

func face(t testing.TB, family string, weight int) *typeset.Face {
	t.Helper()
	f, err := assets.Library().Face(family, weight, false)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

const kerned = "AVATAR To Type: Wave, Yonder. Lovely Tea at 7, P. Fyfe’s"

// HarfBuzz's own hb-shape is the reference: every advance must agree.
func TestShapingAgreesWithHarfBuzz(t *testing.T) {
	hb, err := exec.LookPath("hb-shape")
	if err != nil {
		t.Fatal("hb-shape is missing: scripts/setup installs libharfbuzz-bin")
	}
	advance := regexp.MustCompile(`=(\d+)(?:@-?\d+,-?\d+)?\+(\d+)`)
	for _, f := range []struct {
		family string
		weight int
		file   string
	}{
		{"Gabarito", 700, "gabarito-700.ttf"}, {"Inter", 400, "inter-400.ttf"},
		{"Instrument Sans", 600, "instrument-sans-600.ttf"}, {"Fraunces", 600, "fraunces-600.ttf"},
		{"Bitter", 800, "bitter-800.ttf"}, {"Libre Franklin", 900, "libre-franklin-900.ttf"},
		{"Archivo", 600, "archivo-600.ttf"},
	} {
		data, err := assets.Font(f.file)
		if err != nil {
			t.Fatal(err)
		}
		path := filepath.Join(t.TempDir(), f.file)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		shape := func(features string) map[int]float64 {
			out, err := exec.Command(hb, "--no-glyph-names", "--features="+features, path, kerned).Output()
			if err != nil {
				t.Fatal(err)
			}
			got := map[int]float64{}
			for _, m := range advance.FindAllStringSubmatch(string(out), -1) {
				cluster, _ := strconv.Atoi(m[1])
				v, _ := strconv.ParseFloat(m[2], 64)
				got[cluster] += v
			}
			return got
		}
		want, unkerned := shape(""), shape("-kern")
		face := face(t, f.family, f.weight)
		line := typeset.NewShaper().Line(kerned, typeset.Style{Face: face})
		differs := 0
		for _, c := range line.Clusters {
			if got := c.Advance * face.UnitsPerEm; math.Abs(got-want[c.Rune]) > 0.5 {
				t.Errorf("%s: cluster %d advances %.1f, hb-shape says %.0f", f.family, c.Rune, got, want[c.Rune])
			}
			if want[c.Rune] != unkerned[c.Rune] {
				differs++
			}
		}
		if differs == 0 {
			t.Errorf("%s: the sample shows no kerning, so the check proves nothing", f.family)
		}
	}
}

// Unicode's LineBreakTest.txt, as shipped with the segmenter's sources.
func TestLineBreakingPassesUAX14(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/go-text/typesetting").Output()
	if err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "segmenter/test/LineBreakTest.txt"))
	if err != nil {
		t.Fatal(err)
	}
	cases, failed := 0, 0
	for _, row := range strings.Split(string(data), "\n") {
		row, _, _ = strings.Cut(row, "#")
		fields := strings.Fields(row)
		if len(fields) < 3 {
			continue
		}
		var runes []rune
		want := map[int]bool{}
		for _, f := range fields {
			switch f {
			case "÷":
				want[len(runes)] = true
			case "×":
			default:
				v, err := strconv.ParseUint(f, 16, 32)
				if err != nil {
					t.Fatal(err)
				}
				runes = append(runes, rune(v))
			}
		}
		cases++
		got := map[int]bool{}
		for _, o := range typeset.Opportunities(runes) {
			got[o.At] = true
		}
		if fmt.Sprint(got) != fmt.Sprint(want) {
			failed++
			t.Logf("%s: got %v, want %v", row, got, want)
		}
	}
	if cases < 5000 || failed > 0 {
		t.Errorf("%d of %d cases fail", failed, cases)
	}
}

func TestBreakingBalancesLines(t *testing.T) {
	p := typeset.NewShaper().Paragraph("Quiet water, first strokes", typeset.Style{Face: face(t, "Gabarito", 800)})
	set := p.Break(2)
	if set == nil || set.Lines[0].Text != "Quiet water," || set.Lines[1].Text != "first strokes" {
		t.Fatalf("set as %+v", set)
	}
	if p.Break(5) != nil {
		t.Error("four words were set in five lines")
	}
	// brute force: no other split of three lines is shorter at its longest
	words := []string{"Learn", "to", "read", "the", "river", "before", "it", "reads", "you"}
	s := typeset.NewShaper()
	style := typeset.Style{Face: face(t, "Figtree", 500)}
	best := math.Inf(1)
	for i := 1; i < len(words)-1; i++ {
		for j := i + 1; j < len(words); j++ {
			longest := 0.0
			for _, part := range [][]string{words[:i], words[i:j], words[j:]} {
				longest = math.Max(longest, s.Line(strings.Join(part, " "), style).Advance)
			}
			best = math.Min(best, longest)
		}
	}
	if got := s.Paragraph(strings.Join(words, " "), style).Break(3).Widest; got > best+0.02 {
		t.Errorf("longest of three lines is %.3f em, %.3f is possible", got, best)
	}
}

// With larger words lines are chosen anew: by brute force no other split is shorter at its longest.
func TestBreakingWithLargerWords(t *testing.T) {
	words := []string{"Learn", "to", "read", "the", "river", "before", "it", "reads", "you"}
	s := typeset.NewShaper()
	style := typeset.Style{Face: face(t, "Figtree", 500)}
	text := strings.Join(words, " ")
	for large := range words {
		times, at := make([]float64, len(text)), 0
		for i, w := range words {
			for range len(w) {
				times[at] = 1
				if i == large {
					times[at] = 2.5
				}
				at++
			}
			if at < len(text) {
				times[at] = 1
				at++
			}
		}
		width := func(from, to int) (w float64) {
			for i := from; i < to; i++ {
				advance := s.Line(words[i], style).Advance
				if i == large {
					advance *= 2.5
				}
				if w += advance; i > from {
					w += s.Line("n n", style).Advance - 2*s.Line("n", style).Advance
				}
			}
			return w
		}
		best := math.Inf(1)
		for i := 1; i < len(words)-1; i++ {
			for j := i + 1; j < len(words); j++ {
				best = math.Min(best, max(width(0, i), width(i, j), width(j, len(words))))
			}
		}
		set := s.Paragraph(text, style).Sized(times).Break(3)
		if set.Widest > best+0.05 {
			t.Errorf("%q larger: the longest of %q is %.3f em, %.3f is possible", words[large], lineTexts(set), set.Widest, best)
		}
		for i, l := range set.Lines {
			want := 1.0
			if strings.Contains(" "+l.Text+" ", " "+words[large]+" ") {
				want = 2.5
			}
			if set.Grown[i] != want {
				t.Errorf("%q larger: line %q counts as %.1f times as large", words[large], l.Text, set.Grown[i])
			}
		}
	}
}

func lineTexts(s *typeset.Setting) (out []string) {
	for _, l := range s.Lines {
		out = append(out, l.Text)
	}
	return out
}

func TestPhrasesStayTogether(t *testing.T) {
	s := typeset.NewShaper()
	p := s.Paragraph("Six Saturdays from 3 May at 6 pm", typeset.Style{Face: face(t, "Figtree", 500)})
	for k := 1; k <= 7; k++ {
		set := p.Break(k)
		if set == nil {
			continue
		}
		for _, l := range set.Lines {
			for _, bad := range []string{"3", "6"} {
				if strings.HasSuffix(l.Text, " "+bad) || l.Text == bad {
					t.Errorf("%d lines: %q ends on a glued number", k, l.Text)
				}
			}
		}
	}
}

func TestCorrections(t *testing.T) {
	for in, want := range map[string]string{
		`"Quiet"  water's edge`: `“Quiet” water’s edge`,
		"wait... what":          "wait… what",
		"9-17 h":                "9–17 h",
		"Boats - and patience":  "Boats – and patience",
		"3x4 boats":             "3×4 boats",
		"the '90s":              "the ’90s",
		"say 'now'":             "say ‘now’",
	} {
		if got := typeset.Correct(in); got != want {
			t.Errorf("%q became %q, want %q", in, got, want)
		}
	}
}

func TestInkIsTighterThanAdvance(t *testing.T) {
	l := typeset.NewShaper().Line("HH", typeset.Style{Face: face(t, "Figtree", 700)})
	if l.Ink.X0 <= 0 || l.Ink.X1 >= l.Advance || math.Abs(l.Ink.Y1) > 0.001 {
		t.Errorf("ink %+v in an advance of %.3f", l.Ink, l.Advance)
	}
	tracked := typeset.NewShaper().Line("HH", typeset.Style{Face: face(t, "Figtree", 700), Tracking: 0.1})
	if d := tracked.Advance - l.Advance; math.Abs(d-0.1) > 1e-6 {
		t.Errorf("tracking of 0.1 em between two letters added %.3f", d)
	}
}

func TestForeignScriptsBorrowGlyphs(t *testing.T) {
	s := typeset.NewShaper(assets.Fallback()...)
	for _, text := range []string{"Привет", "Γειά", "שלום עולם", "مرحبا", "Go 🛶 now"} {
		l := s.Line(text, typeset.Style{Face: face(t, "Young Serif", 400)})
		if len(l.Missing) > 0 || l.Paths() == 0 || l.Ink.Empty() {
			t.Errorf("%q: missing %q, %d paths", text, string(l.Missing), l.Paths())
		}
	}
	if l := s.Line("ꦲ", typeset.Style{Face: face(t, "Figtree", 400)}); len(l.Missing) != 1 {
		t.Error("an uncovered sign was not reported")
	}
}

func TestEmergencyBreaksInsideWords(t *testing.T) {
	p := typeset.NewShaper().Paragraph("Donaudampfschifffahrtsgesellschaft", typeset.Style{Face: face(t, "Figtree", 400)})
	set := p.Emergency(5, 8)
	if set == nil || len(set.Lines) < 2 || set.Widest > 5 {
		t.Fatalf("set %+v", set)
	}
	joined := ""
	for _, l := range set.Lines {
		joined += l.Text
	}
	if joined != "Donaudampfschifffahrtsgesellschaft" {
		t.Errorf("letters were lost: %q", joined)
	}
}

func TestBadFontsAreNamedErrors(t *testing.T) {
	good, err := assets.Font("figtree-400.ttf")
	if err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string][]byte{"empty": {}, "text": []byte("hello, this is no font at all"), "cut": good[:200], "half": good[:len(good)/2]} {
		if _, err := typeset.ParseFace(data); err == nil {
			t.Errorf("%s was taken as a font", name)
		}
	}
}

func TestWeightsFollowTheCSSRule(t *testing.T) {
	// Gabarito ships 500, 700, 800. CSS Fonts 4, 5.2.
	for want, have := range map[int]int{400: 500, 500: 500, 600: 700, 750: 800, 900: 800, 100: 500} {
		if got := face(t, "Gabarito", want).Weight; got != have {
			t.Errorf("weight %d gave %d, want %d", want, got, have)
		}
	}
}

// A dot between two phrases neither begins a line nor ends one.
func TestDotsBetweenPhrasesVanishAtTheBreak(t *testing.T) {
	p := typeset.NewShaper().Paragraph("€ 84 instead of € 102 · until 28 February", typeset.Style{Face: face(t, "Karla", 500)})
	set := p.Break(2)
	if set == nil {
		t.Fatal("no setting in two lines")
	}
	for _, l := range set.Lines {
		if strings.HasPrefix(l.Text, "·") || strings.HasSuffix(strings.TrimRight(l.Text, "\u00a0 "), "·") {
			t.Errorf("a line %q", l.Text)
		}
	}
	if one := p.Break(1); one == nil || !strings.Contains(one.Lines[0].Text, "·") {
		t.Error("on one line the dot is gone")
	}
}

// TestFigures: tabular digits are all as wide, lining ones as high as each other; the
// face's own need be neither.
func TestFigures(t *testing.T) {
	s := typeset.NewShaper()
	line := func(f *typeset.Face, text string, as typeset.Figures) *typeset.Line {
		return s.Line(text, typeset.Style{Face: f, Figures: as})
	}
	proportional := 0
	for _, name := range []string{"Gabarito", "Inter", "Figtree", "Bitter", "Young Serif", "Archivo"} {
		f := face(t, name, 400)
		one := line(f, "1111", typeset.Tabular).Advance
		for _, d := range "0234567895" {
			if w := line(f, strings.Repeat(string(d), 4), typeset.Tabular).Advance; math.Abs(w-one) > 0.002 {
				t.Errorf("%s: four of %c are %.3f em wide, of 1 %.3f", name, d, w, one)
			}
			if ink := line(f, string(d), typeset.Lining).Ink; ink.Y1 > 0.03 || -ink.Y0 < f.XHeight*1.15 {
				t.Errorf("%s: a lining %c stands from %.2f to %.2f", name, d, ink.Y0, ink.Y1)
			}
			if math.Abs(line(f, strings.Repeat(string(d), 4), typeset.OwnFigures).Advance-line(f, "1111", typeset.OwnFigures).Advance) > 0.01 {
				proportional++
			}
		}
	}
	if proportional == 0 {
		t.Error("no face's own figures differ in width: the test shows nothing")
	}
}

// Longer text is filled line after line: each takes all words that fit, but for one that would have
// to be divided.
func TestFilledLines(t *testing.T) {
	s := typeset.NewShaper()
	style := typeset.Style{Face: face(t, "Figtree", 400)}
	text := strings.Repeat("Learn to read the river before it reads you, one slow bend at a time. ", 20)
	for _, width := range []float64{8, 14, 30} {
		set := s.Paragraph(strings.TrimSpace(text), style).Filled(width)
		for i, l := range set.Lines {
			if l.Advance > width+0.05 {
				t.Errorf("%q is %.2f em wide in %v", l.Text, l.Advance, width)
			}
			if i+1 == len(set.Lines) {
				break
			}
			next, _, _ := strings.Cut(set.Lines[i+1].Text, " ")
			if more := s.Line(l.Text+" "+next, style).Advance; more <= width-0.05 {
				t.Errorf("%q has room for %q in %v em", l.Text, next, width)
			}
		}
		if len(set.Lines) < 20 && width == 8 {
			t.Errorf("%d lines", len(set.Lines))
		}
	}
	if s.Paragraph("Donaudampfschifffahrt", style).Filled(3) != nil {
		t.Error("a word wider than the line was set")
	}
}
