package starter_test

import (
	"bytes"
	"encoding/xml"
	"io"
	"slices"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/starter"
	"aspenridge/internal/core/typeset"
	"aspenridge/layouts"
)

// TestDirectionsNameWhatShips: palettes, families and layouts are there, no two
// stand in the same place.
func TestDirectionsNameWhatShips(t *testing.T) {
	palettes, families, shown := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for _, p := range assets.Palettes() {
		palettes[p.Name] = true
	}
	for _, f := range assets.Families() {
		families[f.Family] = true
	}
	for _, l := range layouts.All() {
		shown[l.ID] = true
	}
	list := starter.Directions()
	for i, d := range list {
		if !palettes[d.Palette] || !families[d.Head] || !families[d.Text] || !shown[d.Layout] {
			t.Errorf("%s names something that does not ship", d.ID)
		}
		for _, s := range brand.MannerSteps {
			v, left := s.Of(d.Manner), s.Name == "pictures" || strings.HasPrefix(s.Name, "edge")
			if left != (v == "") || v != "" && !slices.Contains(s.Choices, v) {
				t.Errorf("%s: %s is %q", d.ID, s.Name, v)
			}
		}
		for _, o := range list[:i] {
			if d.Warm == o.Warm && d.Loud == o.Loud && d.New == o.New && d.Soft == o.Soft || d.Palette == o.Palette {
				t.Errorf("%s and %s are the same", d.ID, o.ID)
			}
		}
	}
}

// TestSomebodyWhoKnowsGetsThere: a person who always picks the sample nearer to
// one direction is offered it among the first three, whichever it is.
func TestSomebodyWhoKnowsGetsThere(t *testing.T) {
	far := func(a, b starter.Direction) float64 {
		sq := func(v float64) float64 { return v * v }
		return sq(a.Warm-b.Warm) + sq(a.Loud-b.Loud) + sq(a.New-b.New) + sq(a.Soft-b.Soft)
	}
	for _, goal := range starter.Directions() {
		var picks []starter.Pick
		for {
			a, b, ok := starter.Next(picks, "")
			if !ok {
				break
			}
			if far(b, goal) < far(a, goal) {
				a, b = b, a
			}
			picks = append(picks, starter.Pick{More: a.ID, Less: b.ID})
		}
		place := -1
		for i, d := range starter.Ranked(picks, "") {
			if d.ID == goal.ID {
				place = i
			}
		}
		if len(picks) != starter.Rounds || place > 2 {
			t.Errorf("%s comes out at place %d after %d answers", goal.ID, place+1, len(picks))
		}
	}
}

// Whoever likes neither is shown another pair, none of it seen, as long as there
// is one; and what comes out is unlike what was refused.
func TestNeitherShowsAnotherPair(t *testing.T) {
	var picks []starter.Pick
	seen := map[string]bool{}
	for n := range 5 {
		a, b, ok := starter.Next(picks, "")
		if !ok || seen[a.ID] || seen[b.ID] {
			t.Fatalf("after %d refusals: %s and %s, %v", n, a.ID, b.ID, ok)
		}
		seen[a.ID], seen[b.ID] = true, true
		picks = append(picks, starter.Pick{More: a.ID, Less: b.ID, Neither: true})
	}
	if first := starter.Ranked(picks[:2], "")[0]; first.ID == picks[0].More || first.ID == picks[0].Less || first.ID == picks[1].More || first.ID == picks[1].Less {
		t.Errorf("%s was refused and comes out first", first.ID)
	}
	for range 20 {
		a, b, ok := starter.Next(picks, "")
		if !ok {
			return
		}
		picks = append(picks, starter.Pick{More: a.ID, Less: b.ID, Neither: true})
	}
	t.Error("pairs never end")
}

// TestWordsCount: what a business says of itself moves the ranking.
func TestWordsCount(t *testing.T) {
	if d := starter.Ranked(nil, "software and data, exact and modern")[0]; d.New < 0.5 || d.Warm > 0 {
		t.Errorf("software leads to %s", d.ID)
	}
	if d := starter.Ranked(nil, "A bakery: bread, craft, tradition")[0]; d.Warm < 0.3 || d.New > 0 {
		t.Errorf("a bakery leads to %s", d.ID)
	}
}

// TestWordmark: well-formed, nothing but outlines, long names on two lines.
func TestWordmark(t *testing.T) {
	face, err := assets.Library().Face("Fraunces", 800, false)
	if err != nil {
		t.Fatal(err)
	}
	s := typeset.NewShaper()
	accent := colour.RGB{R: 200}
	aspect := func(name string) float64 {
		svg := starter.Wordmark(s, face, name, colour.Black, &accent)
		dec := xml.NewDecoder(bytes.NewReader(svg))
		for {
			if _, err := dec.Token(); err == io.EOF {
				break
			} else if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
		}
		if strings.Contains(string(svg), "<text") || !strings.Contains(string(svg), accent.Hex()) {
			t.Errorf("%s: %.120s", name, svg)
		}
		var v [4]float64
		var root struct {
			ViewBox string `xml:"viewBox,attr"`
		}
		if err := xml.Unmarshal(svg, &root); err != nil {
			t.Fatal(err)
		}
		for i, f := range strings.Fields(root.ViewBox) {
			n := 0.0
			if err := xml.Unmarshal([]byte("<n>"+f+"</n>"), &n); err != nil {
				t.Fatal(err)
			}
			v[i] = n
		}
		return v[2] / v[3]
	}
	if one, two := aspect("Pellow & Finch"), aspect("Pellow and Finch Mushroom Farm"); one < 4 || two > one {
		t.Errorf("aspects %.1f and %.1f", one, two)
	}
}
