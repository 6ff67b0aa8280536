package layout_test

import (
	"math"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

const grid = 16

// seatMap says for each cell of a 16 x 16 grid over a square piece what stands
// there: the topmost part under its centre, by its slot and kind, not its
// colour.
func seatMap(r layout.Result) (out [grid * grid]string) {
	for i := range out {
		x := (float64(i%grid) + 0.5) * float64(r.Scene.W) / grid
		y := (float64(i/grid) + 0.5) * float64(r.Scene.H) / grid
		for _, p := range r.Scene.Parts {
			at := spec.Rect{X: x, Y: y, W: 0.01, H: 0.01}
			if p.Fade != nil && faded(p, x, y) {
				continue // the picture shows
			}
			if p.Box.Contains(at, 0) && p.Stroke == 0 {
				out[i] = p.Slot
				if p.Kind == scene.KindText { // which words is not what makes a layout
					out[i] = "words"
				}
			}
		}
	}
	return out
}

// faded reports whether a fade is on its way to clear at a point.
func faded(p scene.Part, x, y float64) bool {
	f := p.Fade
	if f.Radius > 0 {
		return math.Hypot(x-f.X0, y-f.Y0) > f.Hold*f.Radius
	}
	dx, dy := f.X1-f.X0, f.Y1-f.Y0
	return ((x-f.X0)*dx+(y-f.Y0)*dy)/(dx*dx+dy*dy) > f.Hold
}

// TestLayoutsDifferInWhatStandsWhere compares every two layouts on the same
// copy, with the same pictures: at least a tenth of the grid holds something
// else, so that none is another one recoloured.
func TestLayoutsDifferInWhatStandsWhere(t *testing.T) {
	words := map[string]string{"offer": "20% off · until 31 May", "when": "Saturday 3 May", "lines": "A hat\nA litre of water\nShoes that can get wet", "person": "Ina Brackwater, paddler", "tagline": "Read the river first"}
	for k, v := range fullCopy {
		words[k] = v
	}
	maps := map[string][grid * grid]string{}
	for _, l := range layouts.All() {
		in := input(t, l, "feed-square", words)
		in.Figures = map[string]layout.Figure{
			"offer": {Lead: "20%", Below: []string{"off", "until 31 May"}},
			"when":  {Lead: "3", Above: "Saturday", Below: []string{"May"}},
		}
		in.Pictures = append(in.Pictures, in.Pictures[0], in.Pictures[0], in.Pictures[0])
		in.Kit.Name = "Larkmoor"
		r := layout.Solve(in)
		if r.Plain {
			t.Errorf("%s could not hold the copy", l.ID)
		}
		maps[l.ID] = seatMap(r)
	}
	all := layouts.All()
	for i, a := range all {
		for _, b := range all[i+1:] {
			d := 0
			ma, mb := maps[a.ID], maps[b.ID]
			for k := range ma {
				if ma[k] != mb[k] {
					d++
				}
			}
			if d < grid*grid/10 {
				t.Errorf("%s and %s differ in only %d of %d places", a.ID, b.ID, d, grid*grid)
			}
		}
	}
	if n := len(all); n < 24 {
		t.Errorf("%d layouts, want 24 or more", n)
	}
}

// TestFigures sets a date large: the lead is the largest type of the piece,
// nothing in it is under the floor, and it stays one element.
func TestFigures(t *testing.T) {
	in := input(t, byID(t, "leaf"), "feed-square", map[string]string{"headline": "Eleven lanterns", "when": "Friday 28 May, 20:30–22:00"})
	in.Figures = map[string]layout.Figure{"when": {Above: "Friday", Lead: "28", Below: []string{"May", "20:30–22:00"}}}
	r := layout.Solve(in)
	p, h := part(r, "when"), part(r, "headline")
	if p == nil || h == nil {
		t.Fatalf("no date or no headline: %+v", r.Dropped)
	}
	if len(p.Lines) != 4 || p.Text != "Friday\n28\nMay\n20:30–22:00" {
		t.Fatalf("%d lines, %q", len(p.Lines), p.Text)
	}
	if lead := p.Lines[1].SizePx; lead < 1.2*h.SizePx {
		t.Errorf("the lead is %.0f px, the headline %.0f", lead, h.SizePx)
	}
	for _, l := range p.Lines {
		if l.SizePx < p.SizePx {
			t.Errorf("a line of %.1f px, reported %.1f", l.SizePx, p.SizePx)
		}
	}
	// without a date the layout lives on with what there is
	in = input(t, byID(t, "leaf"), "feed-square", map[string]string{"headline": "Eleven lanterns"})
	if r := layout.Solve(in); r.Plain || part(r, "headline") == nil {
		t.Error("without a date the layout gave up")
	}
}

// TestEmphasis sets words in a second ink of the kit that reads as well.
func TestEmphasis(t *testing.T) {
	in := input(t, byID(t, "bare"), "feed-square", map[string]string{"headline": "Quiet water, first strokes"})
	gold := brand.Colour{Token: "main.gold", Name: "Gold", Role: brand.Accent}
	gold.Value.R, gold.Value.G, gold.Value.B = 0xf3, 0xb2, 0x3e
	in.Kit.Palettes[0].Colours = append(in.Kit.Palettes[0].Colours, gold)
	for _, c := range colourway.Rank(in.Kit.Colours(), in.Layout.Needs(), 100) {
		if c.At(colourway.Ground).Token == "main.river" && c.At(colourway.InkGround).Token == "main.sand" {
			in.Colours = c
			break
		}
	}
	in.Emphasis = []string{"First Strokes"}
	p := part(layout.Solve(in), "headline")
	var marked string
	for _, l := range p.Lines {
		if l.Fill != nil {
			marked += l.Line.Text + " "
			if *l.Fill == p.Fill {
				t.Error("emphasised words have the same ink")
			}
		}
	}
	if marked != "first strokes " {
		t.Errorf("emphasised: %q", marked)
	}
	if p.Contrast < 4.5 {
		t.Errorf("contrast %.2f", p.Contrast)
	}
	in.Emphasis = []string{"strok"} // part of a word is no word
	for _, l := range part(layout.Solve(in), "headline").Lines {
		if l.Fill != nil {
			t.Errorf("%q is emphasised", l.Line.Text)
		}
	}
}

// TestAMarkerWhereNoInkStandsOut: words that are to stand out get a broad stroke behind them where no
// second ink of the kit reads, in lines set to the full measure and from right to left too: its
// colour is told apart from the ground, they read on it, and it reaches around them.
func TestAMarkerWhereNoInkStandsOut(t *testing.T) {
	gold := brand.Colour{Token: "main.gold", Name: "Gold", Role: brand.Accent, Value: colour.RGB{R: 0xf3, G: 0xb2, B: 0x3e}}
	for what, c := range map[string]struct{ layout, headline, phrase string }{
		"a line":             {"bare", "Quiet water, first strokes", "first strokes"},
		"the full measure":   {"measure", "Quiet water, first strokes", "quiet"},
		"from right to left": {"bare", "رحلة هادئة على النهر", "هادئة"},
	} {
		in := input(t, byID(t, c.layout), "feed-square", map[string]string{"headline": c.headline})
		in.Kit.Palettes[0].Colours = append(slices.Clone(in.Kit.Palettes[0].Colours[:2]), gold)
		for _, way := range colourway.Rank(in.Kit.Colours(), in.Layout.Needs(), 100) {
			if way.At(colourway.Ground).Token == "main.sand" && way.At(colourway.InkGround).Token == "main.river" && way.At(colourway.Panel).Token != "main.river" {
				in.Colours = way
				break
			}
		}
		in.Emphasis, in.Pictures = []string{c.phrase}, nil
		p := part(layout.Solve(in), "headline")
		marked := 0
		for _, l := range p.Lines {
			if l.Fill != nil || len(l.Under) > 0 {
				t.Errorf("%s: it stands out otherwise: %+v", what, l)
			}
			if l.Marker == nil {
				continue
			}
			marked++
			if r := colour.Contrast(l.Marker.Fill, p.Fill); r < 4.5 {
				t.Errorf("%s: words read on the marker with %.2f", what, r)
			}
			if d := colour.DeltaE(l.Marker.Fill, p.Ground); d < 10 {
				t.Errorf("%s: the marker is %.1f from its ground", what, d)
			}
			size := p.Size(l)
			for _, b := range l.Marker.Behind {
				if b.W < size/2 || b.H < 0.7*size || !p.Box.Inset(-0.3*size).Contains(b, 0.5) || b.W > 0.99*l.Line.Advance*size && len(strings.Fields(l.Line.Text)) > len(strings.Fields(c.phrase)) {
					t.Errorf("%s: a stroke of %+v in %+v, words of %.0f px", what, b, p.Box, size)
				}
			}
		}
		if marked == 0 {
			t.Errorf("%s: nothing stands out", what)
		}
	}
}

// TestFactsKeepTheirIcons puts an icon beside the first line of each fact.
func TestFactsKeepTheirIcons(t *testing.T) {
	in := input(t, byID(t, "ledger"), "feed-square", map[string]string{"headline": "Before your first stroke", "facts": "Shoes that can get wet and that you do not mind getting wet again on the way home\nA litre of water\nA hat"})
	sun := layout.Icon{View: [4]float64{0, 0, 24, 24}, SVG: `<path d="M4 4h16" stroke="currentColor"/>`}
	in.Icons = []layout.Icon{sun, {}, sun}
	r := layout.Solve(in)
	facts := part(r, "facts")
	if facts == nil {
		t.Fatalf("no facts: dropped %v", r.Dropped)
	}
	var icons []scene.Part
	for _, p := range r.Scene.Parts {
		if p.Kind == scene.KindIcon {
			icons = append(icons, p)
		}
	}
	if len(icons) != 2 {
		t.Fatalf("%d icons, want 2", len(icons))
	}
	for i, line := range []int{0, len(facts.Lines) - 1} {
		b, l := icons[i].Box, facts.Lines[line]
		if y := b.Y + b.H/2; y > l.Y || y < l.Y-facts.SizePx {
			t.Errorf("icon %d stands at %.0f, its line's baseline at %.0f", i, y, l.Y)
		}
		if b.Right() > facts.Box.X {
			t.Errorf("icon %d touches its words", i)
		}
	}
}
