package raster_test

import (
	"math"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
)

// TestWordsOfALogoBecomeOutlines: words set in a face that ships are drawn as its outlines, as large
// and where the file has them (SVG 2, 11: text-anchor, tspan, inherited and styled fonts); those in a
// face nobody has are left out with a note.
func TestWordsOfALogoBecomeOutlines(t *testing.T) {
	face, err := assets.Library().Face("Figtree", 700, false)
	if err != nil {
		t.Fatal(err)
	}
	ink := assets.Shaper().Line("Harbour", typeset.Style{Face: face}).Ink.Scale(40)
	wide := assets.Shaper().Line("Harbour", typeset.Style{Face: face}).Advance * 40
	for what, c := range map[string]struct {
		svg string
		at  float64 // where the words begin
	}{
		"attributes":        {`<text x="100" y="60" font-family="Figtree" font-size="40" font-weight="700" fill="#c2185b">Harbour</text>`, 100},
		"a style attribute": {`<text x="100" y="60" style="font:x;font-family:'Figtree', sans-serif;font-size:40px;font-weight:bold;fill:#c2185b">Harbour</text>`, 100},
		"a class":           {`<style>.w{font-family:Nowhere,Figtree;font-size:40px;font-weight:700}</style><text class="w" x="100" y="60" fill="#c2185b">Harbour</text>`, 100},
		"a group around":    {`<g font-family="Figtree" font-size="40" font-weight="700" fill="#c2185b"><text x="100" y="60">Harbour</text></g>`, 100},
		"anchored":          {`<text x="300" y="60" text-anchor="middle" font-family="Figtree" font-size="40" font-weight="700" fill="#c2185b">Harbour</text>`, 300 - wide/2},
		"anchored at its end, in spans": {`<text font-family="Figtree" font-size="40" font-weight="700" fill="#000">
			<tspan x="400" y="60" text-anchor="end" fill="#c2185b">Harbour</tspan> </text>`, 400 - wide},
	} {
		in, err := raster.ImportLogo(t.Context(), []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 600 100">`+c.svg+`</svg>`))
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		if len(in.Notes) > 0 || strings.Contains(in.Art.SVG, "<text") || strings.Contains(in.Art.SVG, "font-") {
			t.Errorf("%s: %v %.300s", what, in.Notes, in.Art.SVG)
		}
		want := [4]float64{c.at + ink.X0, 60 + ink.Y0, ink.X1 - ink.X0, ink.Y1 - ink.Y0}
		for i, v := range in.Art.View {
			if math.Abs(v-want[i]) > 3 { // ink is found on pixels, with air for soft edges
				t.Errorf("%s stands at %.1f, want %.1f", what, in.Art.View, want)
				break
			}
		}
		if len(in.Art.Inks) != 1 || in.Art.Inks[0].Colour.Hex() != "#C2185B" {
			t.Errorf("%s has the inks %v", what, in.Art.Inks)
		}
	}
	for what, svg := range map[string]string{
		"a face nobody has":   `<text x="10" y="60" font-family="Nowhere Sans" font-size="40">Harbour</text>`,
		"letter by letter":    `<text x="10 30 50 70 90 110 130" y="60" font-family="Figtree" font-size="40">Harbour</text>`,
		"too many letters":    `<text x="10" y="60" font-family="Figtree" font-size="40">` + strings.Repeat("Harbour ", 80) + `</text>`,
		"without a size":      `<text x="10" y="60" font-family="Figtree" font-size="0">Harbour</text>`,
		"along a path":        `<text font-family="Figtree" font-size="40"><textPath href="#p">Harbour</textPath></text>`,
		"a size of some 10^9": `<text x="10" y="60" font-family="Figtree" font-size="1e9">Harbour</text>`,
	} {
		in, err := raster.ImportLogo(t.Context(), []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 600 100"><path id="p" d="M0 0h90v90H0z"/>`+svg+`</svg>`))
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		if len(in.Notes) != 1 || !strings.Contains(in.Notes[0], "outlines") || strings.Contains(in.Art.SVG, "<text") {
			t.Errorf("%s: noted %q, drawn as %.200s", what, in.Notes, in.Art.SVG)
		}
	}
}

// TestWordsOfALogoInAFaceOfOnesOwn: words in a face the kit brings are drawn as its outlines too.
func TestWordsOfALogoInAFaceOfOnesOwn(t *testing.T) {
	var own []typeset.Entry
	for _, e := range assets.Library().Own() {
		if e.Family == "Figtree" && !e.Italic {
			e.Family = "Harbour Sans"
			own = append(own, e)
		}
	}
	if len(own) == 0 {
		t.Fatal("no face to bring")
	}
	drawing := func(family string) []byte {
		return []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 600 100"><text x="100" y="60" font-family="` + family + `" font-size="40" font-weight="700" fill="#c2185b">Harbour</text></svg>`)
	}
	want, err := raster.ImportLogo(t.Context(), drawing("Figtree"))
	if err != nil {
		t.Fatal(err)
	}
	in, err := raster.ImportLogo(t.Context(), drawing("harbour sans"), own...)
	if err != nil || len(in.Notes) > 0 || in.Art.SVG == "" || in.Art.View != want.Art.View {
		t.Errorf("%v, noted %q, drawn at %v, in the face that ships at %v", err, in.Notes, in.Art.View, want.Art.View)
	}
	// one that is not named, or cannot be read, changes nothing
	if in, err := raster.ImportLogo(t.Context(), drawing("Figtree"), own...); err != nil || in.Art.View != want.Art.View {
		t.Errorf("%v, %v", err, in.Art.View)
	}
	bad := typeset.Entry{Family: "Harbour Sans", Weight: 700, Read: func() ([]byte, error) { return []byte("no face"), nil }}
	if in, err := raster.ImportLogo(t.Context(), drawing("Harbour Sans"), bad); err == nil && len(in.Notes) != 1 {
		t.Errorf("a damaged face: noted %q", in.Notes)
	}
}
