package typeset_test

import (
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
)

// TestEverySignHasColours: whatever the font paints its signs with, each comes out in
// layers that lie where the sign is.
func TestEverySignHasColours(t *testing.T) {
	s, brand, signs := assets.Shaper(), face(t, "Gabarito", 700), assets.Emoji()
	seen := 0
	for r := rune(0x1F000); r < 0x1FB00; r++ {
		if !signs.Covers(r) || r >= 0x1F3FB && r <= 0x1F3FF || r >= 0x1F1E6 && r <= 0x1F1FF {
			continue // tones and letters of flags are halves of signs
		}
		seen++
		l := s.Line(string(r), typeset.Style{Face: brand})
		painted := 0
		for i := range l.Paths() {
			if p, ok := l.Paint(i); ok && p.Opacity > 0 && p.Opacity <= 1 {
				painted++
			}
		}
		if painted == 0 || painted != l.Paths() {
			t.Errorf("%c (%U): %d of %d paths have a colour", r, r, painted, l.Paths())
		}
		if l.Ink.X0 < -0.1 || l.Ink.X1 > l.Advance+0.1 || l.Ink.Y0 < -1.1 || l.Ink.Y1 > 0.4 {
			t.Errorf("%c (%U): ink at %v, %.2f wide", r, r, l.Ink, l.Advance)
		}
	}
	if seen < 1000 {
		t.Errorf("only %d signs", seen)
	}
}

// TestSignsAmongWords: letters stay the brand's, with its spaces between them and signs;
// what is a digit in a key is a letter elsewhere.
func TestSignsAmongWords(t *testing.T) {
	s, brand := assets.Shaper(), typeset.Style{Face: face(t, "Gabarito", 700)}
	space := s.Line("a b", brand).Advance - s.Line("a", brand).Advance - s.Line("b", brand).Advance
	for _, c := range []struct {
		text             string
		coloured, letter bool
	}{
		{"🔥", true, false}, {"a 🔥 b", true, true}, {"1️⃣", true, false}, {"1️⃣ of 1", true, true},
		{"1", false, true}, {"❤️", true, false}, {"❤", false, true}, {"☕", true, false}, {"☕\ufe0e", false, true}, {"👨‍👩‍👧", true, false},
	} {
		l := s.Line(c.text, brand)
		coloured, letter := false, false
		for i := range l.Paths() {
			_, ok := l.Paint(i)
			coloured, letter = coloured || ok, letter || !ok
		}
		if coloured != c.coloured || letter != c.letter {
			t.Errorf("%q: in colour %v, in ink %v", c.text, coloured, letter)
		}
		if len(l.Missing) > 0 {
			t.Errorf("%q: %q is missing", c.text, l.Missing)
		}
	}
	got := s.Line("a 🔥 b", brand).Advance - s.Line("a", brand).Advance - s.Line("🔥", brand).Advance - s.Line("b", brand).Advance
	if got < 1.9*space || got > 2.1*space {
		t.Errorf("the spaces around a sign are %.2f em, two are %.2f", got, 2*space)
	}
}

// TestFontsOfPeopleStayInInk: a face is in colour only where it is asked to be.
func TestFontsOfPeopleStayInInk(t *testing.T) {
	data, err := assets.Font("noto-color-emoji-400.ttf")
	if err != nil {
		t.Fatal(err)
	}
	own, err := typeset.ParseFace(data)
	if err != nil {
		t.Fatal(err)
	}
	l := typeset.NewShaper().Line("🔥", typeset.Style{Face: own})
	for i := range l.Paths() {
		if _, ok := l.Paint(i); ok {
			t.Error("a brand's own font has colours of its own")
		}
	}
}

// TestSignsStayWithTheirWord: a sign never starts a line, but where its text does.
func TestSignsStayWithTheirWord(t *testing.T) {
	s := assets.Shaper()
	p := s.Paragraph("Lift heavier 🔥 by spring 💪🏽 with us ☀️ again", typeset.Style{Face: face(t, "Gabarito", 700)})
	for lines := 2; lines <= 5; lines++ {
		set := p.Break(lines)
		if set == nil {
			t.Fatalf("not in %d lines", lines)
		}
		for _, l := range set.Lines {
			if r := []rune(l.Text); r[0] > 0x2000 {
				t.Errorf("in %d lines one is %q", lines, l.Text)
			}
		}
	}
}

// TestGlueKeepsWhatIsReadTogether: amounts, ranges, days and marks stay on one line (the spaces
// the CLDR writes inside them, DIN 5008, and common practice); whole words break where they did.
func TestGlueKeepsWhatIsReadTogether(t *testing.T) {
	for with, want := range map[string]string{
		"🔥 Sale on\n1️⃣ Book":      "🔥~Sale on\n1️⃣~Book",
		"Kurs ab 2.390 € im Jahr":  "Kurs ab 2.390~€ im Jahr",
		"by J. S. Bach and others": "by J.~S.~Bach and others",
		"1 250 000 strokes":        "1~250~000 strokes",
		"noch 1 250 Plätze":        "noch 1~250 Plätze",
		"Am 12. Mai ab 19 Uhr":     "Am 12.~Mai ab 19~Uhr",
		"le 3 février à Nîmes":     "le 3~février à Nîmes",
		"9 – 17 Uhr":               "9~–~17~Uhr",
		"z. B. im Boot":            "z.~B. im Boot",
		"Quoi de neuf ?":           "Quoi de neuf~?",
		"2 hours on 40 kg":         "2 hours on 40~kg",
		"3 Maiglöckchen, 5 Gäste":  "3 Maiglöckchen, 5 Gäste",
	} {
		if got := strings.ReplaceAll(typeset.Glue(with), "\u00a0", "~"); got != want {
			t.Errorf("%q: %q, want %q", with, got, want)
		}
	}
}
