package layout_test

import (
	"bytes"
	"math"
	"os"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/layouts"
)

// Emphasised words stand out among facts side by side and in sections as they do in a list.
func TestEmphasisInColumns(t *testing.T) {
	emphasised := func(p *scene.Part) string {
		out := ""
		for _, l := range p.Lines {
			if l.Fill != nil || len(l.Under) > 0 {
				out += " " + l.Line.Text
			}
		}
		return strings.Join(strings.Fields(out), " ")
	}
	text := "About me\nI paddle the slow bend in all weathers and like first strokes best.\nBuilding boats\nIn winter I build cedar strip kayaks in the old boathouse."
	for _, c := range []struct{ layout, place, slot, words, emphasis string }{
		{"canopy", "feed-square", "facts", "3 bedrooms\nfree parking\n2 baths", "free parking"},
		{"folio", "1240x1754", "body", text, "first strokes"},
	} {
		in := input(t, byID(t, c.layout), c.place, map[string]string{"headline": "Quiet water", c.slot: c.words})
		in.Hands = map[string]*brief.Hand{"facts": {FactsAs: "row"}}
		in.Emphasis = []string{c.emphasis}
		p, ok := partOf(layout.Solve(in), c.slot)
		if got := emphasised(&p); !ok || !strings.Contains(got, c.emphasis) {
			t.Errorf("%s: %q stands out, want %q (drawn: %v)", c.layout, got, c.emphasis, ok)
		}
		if got := strings.Join(strings.Fields(allText(p)), " "); !strings.Contains(got, c.emphasis) || len(strings.Fields(got)) != len(strings.Fields(c.words)) {
			t.Errorf("%s: it says %q", c.layout, got)
		}
	}
}

// Facts stand in a list, in a row or as figures, as the layout has it or as a hand said: in a row
// each in a column of its own under its icon, as figures with the number larger than its words.
func TestFactsSideBySide(t *testing.T) {
	drop := layout.Icon{View: [4]float64{0, 0, 24, 24}, SVG: `<path d="M0 0h24v24z" stroke="currentColor"/>`}
	facts := []string{"3 bedrooms", "2 baths", "120 m²"}
	rows, figures := 0, 0
	for _, l := range layouts.All() {
		for _, as := range layout.FactsAs {
			for _, icons := range [][]layout.Icon{nil, {drop, drop, drop}} {
				in := input(t, l, "feed-square", map[string]string{"headline": "Quiet water", "facts": strings.Join(facts, "\n")})
				in.Icons = icons
				in.Hands = map[string]*brief.Hand{"facts": {FactsAs: as}}
				r := layout.Solve(in)
				p, ok := partOf(r, "facts")
				if !ok || p.Lines[0].Line == nil {
					continue // it was left out
				}
				for i := range p.Lines {
					for j := range i {
						a, b := inkOf(p, i), inkOf(p, j)
						if a[0] < b[2]-0.5 && b[0] < a[2]-0.5 && a[1] < b[3]-0.5 && b[1] < a[3]-0.5 {
							t.Errorf("%s, %s: %q lies on %q", l.ID, as, p.Lines[i].Line.Text, p.Lines[j].Line.Text)
						}
					}
				}
				if got := strings.Join(strings.Fields(allText(p)), " "); as != "figures" && got != strings.Join(facts, " ") {
					t.Errorf("%s, %s: they say %q", l.ID, as, got)
				}
				beside := p.Lines[0].Y == p.Lines[len(p.Lines)-1].Y || p.Lines[len(p.Lines)-1].X > p.Lines[0].X+2*p.SizePx
				switch {
				case as == "list" && beside:
					t.Errorf("%s: a list stands side by side", l.ID)
				case as == "row" && beside:
					rows++
				case as == "figures" && beside:
					for i, l := range p.Lines {
						if l.SizePx > 1.5*p.SizePx {
							figures++
							if at := string([]rune(p.Text)[l.From:]); !strings.HasPrefix(at, l.Line.Text) {
								t.Errorf("line %d says %q and stands for %q", i, l.Line.Text, at)
							}
						}
					}
				}
			}
		}
	}
	if rows < 40 || figures < 100 {
		t.Errorf("%d rows and %d figures of %d layouts", rows, figures, len(layouts.All()))
	}

	// one that has no number is no figure, one word too long for its column no row
	in := input(t, byID(t, "plinth"), "feed-square", map[string]string{"headline": "Quiet water", "facts": "3 bedrooms\nA view of the lake"})
	in.Hands = map[string]*brief.Hand{"facts": {FactsAs: "figures"}}
	if p, _ := partOf(layout.Solve(in), "facts"); p.Lines[0].SizePx > p.SizePx {
		t.Error("facts without numbers are figures")
	}
	in.Words["facts"] = "Donaudampfschifffahrtsgesellschaftskapitänsmütze\nZwei\nDrei"
	if p, _ := partOf(layout.Solve(in), "facts"); len(p.Lines) > 1 && p.Lines[0].Y == p.Lines[len(p.Lines)-1].Y {
		t.Error("a word too long for its column stands in one")
	}

	data, err := os.ReadFile("../../../layouts/plinth.json")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := layout.Parse(bytes.Replace(data, []byte(`"facts": "row"`), []byte(`"facts": "pile"`), 1)); err == nil || !strings.Contains(err.Error(), "pile") {
		t.Errorf("a layout whose facts are a pile: %v", err)
	}
}

// inkOf is the ink of a line: left, top, right, bottom.
func inkOf(p scene.Part, line int) [4]float64 {
	l := p.Lines[line]
	size := p.Size(l)
	return [4]float64{l.X + l.Line.Ink.X0*size, l.Y + l.Line.Ink.Y0*size, l.X + l.Line.Ink.X1*size, math.Max(l.Y, l.Y+l.Line.Ink.Y1*size)}
}

func allText(p scene.Part) string {
	var out []string
	for _, l := range p.Lines {
		out = append(out, l.Line.Text)
	}
	return strings.Join(out, " ")
}
