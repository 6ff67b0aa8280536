package layout_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/motif"
	"aspenridge/internal/core/scene"
)

// signs are kits' signs that have nothing in common.
var signs = map[string]string{
	"none":  "",
	"ring":  `<circle cx="50" cy="50" r="46" fill="none" stroke="currentColor" stroke-width="8"/>`,
	"roof":  `<polygon points="0 100 100 100 50 13.4" fill="currentColor"/>`,
	"bars":  `<path d="M0 20h100v22H0zM0 58h100v22H0zM38 0h24v100H38z" fill="currentColor"/>`,
	"tower": `<polygon points="30 100 70 100 50 0" fill="currentColor"/>`,
}

func withSign(t *testing.T, name, id, place string, pictures bool) layout.Result {
	t.Helper()
	in := input(t, byID(t, id), place, map[string]string{"headline": "Quiet water", "subheading": "Six Saturdays from 3 May", "callToAction": "Save a seat"})
	in.Manner = brand.Manner{Ornament: "cut", Corners: "soft"}
	if !pictures {
		in.Pictures = nil
	}
	in.Kit.Name = "A name that is far too long to be repeated"
	if svg := signs[name]; svg != "" {
		in.Kit.Logos = []brand.Logo{{File: "s", Lockup: "symbol", Art: &brand.Art{Hash: name, SVG: svg, View: [4]float64{0, 0, 100, 100}, Cut: &brand.Cut{SVG: svg}, Motif: motif.Of(svg)}}}
	}
	return layout.Solve(in)
}

// TestBrandsShapeTheirLayouts: the edge, the window, the corner and the lines of a layout are drawn
// otherwise for every brand whose sign is of another make, and inside what they were given.
func TestBrandsShapeTheirLayouts(t *testing.T) {
	for what, c := range map[string]struct {
		id       string
		pictures bool
		path     func(scene.Part) string
		apart    []string // the house's own windows and corners are those of a ring
	}{
		"an edge":         {"shoreline", true, func(p scene.Part) string { return p.Path }, []string{"none", "ring", "roof", "bars", "tower"}},
		"a tall window":   {"arch", true, func(p scene.Part) string { return p.Clip }, []string{"ring", "roof", "bars"}},
		"an even window":  {"plinth", true, func(p scene.Part) string { return p.Clip }, []string{"ring", "roof", "bars"}},
		"a corner":        {"bare", false, func(p scene.Part) string { return p.Path }, []string{"ring", "roof", "bars", "tower"}},
		"lines on ground": {"shoreline", false, func(p scene.Part) string { return p.Path }, []string{"none", "ring", "roof", "bars", "tower"}},
	} {
		seen := map[string]string{}
		for _, name := range c.apart {
			r := withSign(t, name, c.id, "feed-square", c.pictures)
			all := ""
			for _, p := range r.Scene.Parts {
				if v := c.path(p); v != "" && p.Kind != scene.KindText {
					all += v + ";"
				}
				if p.Box.X < -0.5 || p.Box.Y < -0.5 || p.Box.Right() > float64(r.Scene.W)+0.5 || p.Box.Bottom() > float64(r.Scene.H)+0.5 {
					t.Errorf("%s of %s: %s lies at %v", what, name, p.Slot, p.Box)
				}
			}
			if other, same := seen[all]; same || all == "" {
				t.Errorf("%s is drawn alike for %s and %s", what, name, other)
			}
			seen[all] = name
		}
	}
}

// TestWhatStandsLargeBehindWords: a brand without a sign has the first letter of its name there,
// and a piece with a figure that figure, where its layout asks for it; all in the face of headlines,
// and seen at its own proportions.
func TestWhatStandsLargeBehindWords(t *testing.T) {
	behind := func(id, sign, name string, figure *layout.Figure) *scene.Part {
		t.Helper()
		in := input(t, byID(t, id), "feed-square", map[string]string{"headline": "Quiet water", "offer": "20% off", "callToAction": "Save a seat"})
		in.Manner, in.Kit.Name, in.Pictures = brand.Manner{Ornament: "cut"}, name, nil
		if svg := signs[sign]; svg != "" {
			in.Kit.Logos = []brand.Logo{{File: "s", Lockup: "symbol", Art: &brand.Art{Hash: sign, SVG: svg, View: [4]float64{0, 0, 100, 100}, Cut: &brand.Cut{SVG: svg}}}}
		}
		if figure != nil {
			in.Figures = map[string]layout.Figure{"offer": *figure}
		} else {
			delete(in.Words, "offer")
		}
		for _, p := range layout.Solve(in).Scene.Parts {
			if p.Slot == "ornament" && p.Art != nil && p.Tiles == nil {
				return &p
			}
		}
		return nil
	}
	twenty := &layout.Figure{Lead: "20%", Below: []string{"off"}}
	drawn := map[string]string{}
	for what, p := range map[string]*scene.Part{
		"the sign":                      behind("poster", "ring", "Ratchet", nil),
		"the first letter":              behind("poster", "none", "Ratchet", nil),
		"another first letter":          behind("poster", "none", "«élan»", nil),
		"the figure before the sign":    behind("poster", "ring", "Ratchet", twenty),
		"another figure":                behind("poster", "ring", "Ratchet", &layout.Figure{Lead: "3 for 2 today"}),
		"the sign, where none is asked": behind("sash", "bars", "Ratchet", twenty),
	} {
		switch {
		case what == "another figure": // too long to stand behind words
			if p == nil || !strings.Contains(p.Art.SVG, "circle") {
				t.Errorf("%s: %+v", what, p)
			}
			continue
		case p == nil:
			t.Errorf("%s does not stand behind the words", what)
			continue
		case drawn[p.Art.SVG] != "":
			t.Errorf("%s is drawn as %s", what, drawn[p.Art.SVG])
		}
		drawn[p.Art.SVG] = what
		if v := p.Art.View; v[2] <= 0 || p.Box.W <= 0 || v[2]/v[3]-p.Box.W/p.Box.H > 0.01 || p.Box.W/p.Box.H-v[2]/v[3] > 0.01 {
			t.Errorf("%s: %v in %v", what, v, p.Box)
		}
	}
	if p := behind("poster", "none", "1847", nil); p != nil {
		t.Errorf("a name without letters: %v", p.Art.SVG)
	}
}

// TestASignIsRepeated: a patterned ground repeats the sign in its proportions, apart from each
// other, all over; without one it has the pattern its layout names.
func TestASignIsRepeated(t *testing.T) {
	for _, place := range []string{"feed-square", "story", "feed-wide", "ad-160x600"} {
		r := withSign(t, "roof", "basket", place, true)
		var tiles *scene.Part
		for i := range r.Scene.Parts {
			if r.Scene.Parts[i].Tiles != nil {
				tiles = &r.Scene.Parts[i]
			}
		}
		if tiles == nil {
			t.Fatalf("%s: no sign is repeated", place)
		}
		quarters := map[[2]bool]bool{}
		for i, a := range tiles.Tiles {
			if a.W <= 0 || a.W != a.H {
				t.Fatalf("%s: a sign as wide as high is drawn in %v", place, a)
			}
			x, y := a.X+a.W/2, a.Y+a.H/2
			if tiles.Box.Holds(x, y) {
				quarters[[2]bool{x > tiles.Box.X+tiles.Box.W/2, y > tiles.Box.Y+tiles.Box.H/2}] = true
			}
			for _, b := range tiles.Tiles[i+1:] {
				if a.Overlaps(b, 0) {
					t.Fatalf("%s: %v lies over %v", place, a, b)
				}
			}
		}
		if len(quarters) < 4 || len(tiles.Tiles) > 200 {
			t.Errorf("%s: %d signs in %d quarters", place, len(tiles.Tiles), len(quarters))
		}
	}
	for _, p := range withSign(t, "none", "basket", "feed-square", true).Scene.Parts {
		if p.Tiles != nil {
			t.Error("a sign where there is none")
		}
	}
}
