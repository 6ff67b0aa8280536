package layout_test

import (
	"math"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/layouts"
)

func inManner(t *testing.T, id, place string, m brand.Manner, pictures bool) layout.Result {
	t.Helper()
	in := input(t, byID(t, id), place, map[string]string{"headline": "Quiet water, first strokes", "subheading": "Six Saturdays from 3 May", "callToAction": "Save a seat"})
	in.Manner = m
	if !pictures {
		in.Pictures = nil
	}
	r := layout.Solve(in)
	if r.Plain {
		t.Fatalf("%s on %s is plain", id, place)
	}
	return r
}

// TestTheMannerShows: each step changes what it is for, whatever the layout.
func TestTheMannerShows(t *testing.T) {
	button := func(m brand.Manner) scene.Part {
		p, ok := partOf(inManner(t, "halves", "feed-square", m, true), "button")
		if !ok {
			t.Fatal("no button")
		}
		return p
	}
	if r := button(brand.Manner{Corners: "sharp"}).Radius; r != 0 {
		t.Errorf("a sharp button has a radius of %v", r)
	}
	if p := button(brand.Manner{Corners: "round"}); p.Radius != p.Box.H/2 {
		t.Errorf("a round button of %v has a radius of %v", p.Box.H, p.Radius)
	}
	if p := button(brand.Manner{Corners: "soft"}); p.Radius <= 0 || p.Radius >= p.Box.H/2 {
		t.Errorf("a soft button of %v has a radius of %v", p.Box.H, p.Radius)
	}
	left := func(density string) float64 {
		p, _ := partOf(inManner(t, "bare", "feed-square", brand.Manner{Density: density}, false), "headline")
		return p.Box.X
	}
	if a, e, p := left("airy"), left("even"), left("packed"); a <= e || e <= p {
		t.Errorf("margins: airy %v, even %v, packed %v", a, e, p)
	}
	size := func(contrast string) float64 {
		r := inManner(t, "bare", "feed-square", brand.Manner{Contrast: contrast}, false)
		h, _ := partOf(r, "headline")
		s, _ := partOf(r, "subheading")
		return h.SizePx / s.SizePx
	}
	if q, l := size("quiet"), size("loud"); q >= l {
		t.Errorf("a quiet headline is %v times the next size, a loud one %v", q, l)
	}
	rule := func(lines string) float64 {
		p, _ := partOf(inManner(t, "poster", "feed-square", brand.Manner{Lines: lines}, false), "rule")
		return p.Box.H
	}
	if n, f, b := rule("none"), rule("fine"), rule("bold"); n != 0 || f <= 0 || b <= f {
		t.Errorf("lines: none %v, fine %v, bold %v", n, f, b)
	}
	pic, _ := partOf(inManner(t, "halves", "feed-square", brand.Manner{Pictures: "framed"}, true), "picture")
	if pic.Box.X <= 0 && pic.Box.Y <= 0 {
		t.Errorf("a framed picture is at %v", pic.Box)
	}
	if pic, _ = partOf(inManner(t, "halves", "feed-square", brand.Manner{Pictures: "toned"}, true), "picture"); !pic.Tone.On() {
		t.Error("a toned picture has no tone")
	}
}

// TestOrnamentsKeepOffWords: with words alone a piece has an ornament where there is
// room, under nothing that has to read; with a picture it has none.
func TestOrnamentsKeepOffWords(t *testing.T) {
	some := map[string]int{}
	for _, l := range layouts.All() {
		for _, place := range []string{"feed-square", "story", "feed-wide"} {
			for _, corners := range []string{"sharp", "round"} {
				for _, kind := range []string{"cut", "pattern", "none"} {
					in := input(t, l, place, map[string]string{"headline": "Quiet water", "subheading": "Six Saturdays from 3 May", "callToAction": "Save a seat"})
					in.Pictures, in.Manner = nil, brand.Manner{Corners: corners, Ornament: kind}
					r := layout.Solve(in)
					for i, o := range r.Scene.Parts {
						if o.Slot != "ornament" {
							continue
						}
						some[kind]++
						for _, p := range r.Scene.Parts[i+1:] {
							if p.Words() && p.Contrast < colourway.InkContrast {
								t.Errorf("%s on %s: %s reads with %.2f over an ornament", l.ID, place, p.Slot, p.Contrast)
							}
						}
					}
				}
			}
		}
	}
	if some["none"] > 0 || some["cut"] < 60 || some["pattern"] < 60 {
		t.Errorf("ornaments: %v", some)
	}
	r := inManner(t, "frame", "feed-square", brand.Manner{Ornament: "cut"}, true)
	if _, ok := partOf(r, "ornament"); ok {
		t.Error("an ornament beside a picture")
	}
}

// TestTheSymbolStandsBehindWords: a layout with a motif shows the kit's symbol inside its flat,
// cropped in proportion, and what stands on it reads; not where its owner wants it in its own
// colours alone or wants no ornament.
func TestTheSymbolStandsBehindWords(t *testing.T) {
	symbol := func(own bool) []brand.Logo {
		return []brand.Logo{{File: "s", Lockup: "symbol", OwnColours: own, Art: &brand.Art{
			Hash: "s", SVG: `<circle r="50"/>`, View: [4]float64{-50, -40, 100, 80}, Cut: &brand.Cut{SVG: `<circle r="50" fill="currentColor"/>`},
		}}}
	}
	solve := func(l *layout.Layout, place, ornament string, own bool) layout.Result {
		in := input(t, l, place, shortCopy)
		in.Kit.Logos, in.Manner = symbol(own), brand.Manner{Ornament: ornament}
		return layout.Solve(in)
	}
	n := 0
	for _, l := range layouts.All() {
		if !l.Motif {
			continue
		}
		for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
			r := solve(l, place, "cut", false)
			o, ok := partOf(r, "ornament")
			if !ok {
				continue
			}
			n++
			if v := o.Art.View; math.Abs(v[2]/v[3]-o.Box.W/o.Box.H) > 0.01 || v[0] < -50.01 || v[1] < -40.01 || v[0]+v[2] > 50.01 || v[1]+v[3] > 40.01 {
				t.Errorf("%s on %s: %v of the symbol in %v", l.ID, place, v, o.Box)
			}
			if !r.Scene.Parts[0].Box.Contains(o.Box, 0.5) {
				t.Errorf("%s on %s: the symbol is at %v", l.ID, place, o.Box)
			}
			for _, p := range r.Scene.Parts {
				if p.Words() && p.Contrast < colourway.InkContrast {
					t.Errorf("%s on %s: %s reads with %.2f", l.ID, place, p.Slot, p.Contrast)
				}
			}
		}
		if o, ok := partOf(solve(l, "feed-square", "none", false), "ornament"); ok && o.Art != nil {
			t.Errorf("%s: a symbol nobody wants", l.ID)
		}
		if o, ok := partOf(solve(l, "feed-square", "cut", true), "ornament"); ok && o.Art != nil && strings.Contains(o.Art.SVG, "circle") {
			t.Errorf("%s: a symbol whose owner wants it in its own colours", l.ID)
		}
	}
	if n < 12 {
		t.Errorf("%d pieces with a symbol", n)
	}
}
