package layout_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/spec"
)

const longer = `About me
I grew up on the slow bend and have taught people to paddle for eleven years. I like first strokes best: the moment a boat goes where somebody means it to go.
What I teach:
Beginners' courses on six Saturdays, evening tours with lanterns, and two-day trips down to the mill. Groups are small, boats are stable, and nobody is hurried.

Building boats
In winter I build and mend cedar strip kayaks in the old boathouse. Come by on a Thursday evening; there is tea, and there are always ribs to be planed.
Come on a Friday as well.`

func TestWhatIsSections(t *testing.T) {
	for text, want := range map[string]bool{
		longer:            true,
		"Bring shoes.":    false,
		"One\nTwo\nThree": false, // a list
		"About me\nI grew up on the slow bend, and like first strokes best of all there is to teach.": false, // one heading alone
		"Monday:\n9 to 5\nTuesday:\n10 to 4": true,
		"":                                   false,
		"\n\n":                               false,
	} {
		if got := layout.Sections(text); got != want {
			t.Errorf("%.40q is sections: %v", text, got)
		}
	}
}

// A longer text under headings stands in columns of one height: all of it, in order, nothing on
// anything else, no heading at the foot of a column.
func TestSectionsInColumns(t *testing.T) {
	paper := "1240x1754"
	for _, times := range []int{1, 2} {
		text := strings.Repeat(longer+"\n", times)
		text = text[:len(text)-1]
		in := input(t, byID(t, "folio"), paper, map[string]string{"headline": "Marit Halloran", "body": text, "callToAction": "Write to me"})
		p, ok := partOf(layout.Solve(in), "body")
		if !ok {
			t.Fatal("the text is left out")
		}
		var said []string
		columns := map[int]bool{}
		for i := range p.Lines {
			l := p.Lines[i]
			said = append(said, strings.TrimSuffix(l.Line.Text, "-"))
			columns[int(l.X/100)] = true
			if i == 0 {
				continue
			}
			before := p.Lines[i-1]
			if l.From <= before.From {
				t.Errorf("line %d begins at %d, after one at %d", i, l.From, before.From)
			}
			a, b := inkOf(p, i-1), inkOf(p, i)
			if l.Y > before.Y && b[1] < a[1] {
				t.Errorf("%q lies on %q", l.Line.Text, before.Line.Text)
			}
			if l.Y < before.Y && before.SizePx > 0 {
				t.Errorf("the heading %q ends a column", before.Line.Text)
			}
		}
		squeezed := func(s string) string { return strings.NewReplacer(" ", "", "\n", "", ":", "", "-", "").Replace(s) }
		if got, want := squeezed(strings.Join(said, "")), squeezed(text); got != want {
			t.Errorf("%d times: it says %q, not %q", times, got, want)
		}
		if canvas := (spec.Rect{W: 1240, H: 1754}); !canvas.Contains(p.Box, 0) {
			t.Errorf("it stands at %+v", p.Box)
		}
		if times == 2 && len(columns) != 2 {
			t.Errorf("a long text stands in %d columns", len(columns))
		}
	}
	// lines ended by hand are those of plain text
	in := input(t, byID(t, "folio"), paper, map[string]string{"headline": "Marit", "body": longer})
	in.Hands = map[string]*brief.Hand{"body": {Breaks: []brief.Break{{After: 1, Word: "About"}}}}
	if p, ok := partOf(layout.Solve(in), "body"); ok && p.Lines[0].SizePx > 0 {
		t.Error("a line ended by hand is set as a heading")
	}
}
