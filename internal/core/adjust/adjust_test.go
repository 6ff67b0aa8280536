package adjust_test

import (
	"cmp"
	"encoding/json"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/adjust"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

var (
	black = colour.RGB{}
	white = colour.RGB{R: 255, G: 255, B: 255}
	grey  = colour.RGB{R: 118, G: 118, B: 118} // 4.54 : 1 on white (WCAG 2.2, by its formula)
)

// words is a part of set type whose ink is exactly a box.
func words(slot string, box spec.Rect, ink colour.RGB) scene.Part {
	return scene.Part{Slot: slot, Kind: scene.KindText, Box: box, Fill: ink, SizePx: 20, Text: slot}
}

func rect(slot string, x, y, w, h float64, fill colour.RGB) scene.Part {
	return scene.Part{Slot: slot, Kind: scene.KindShape, Box: spec.Rect{X: x, Y: y, W: w, H: h}, Fill: fill}
}

// byHand reads adjustments for the square post.
func byHand(t *testing.T, doc string) (map[string]*brief.Hand, []brief.Added) {
	t.Helper()
	var b brief.Brief
	if err := json.Unmarshal([]byte(doc), &b.Adjustments); err != nil {
		t.Fatal(err)
	}
	for _, a := range b.Adjustments {
		if err := a.Check(); err != nil {
			t.Fatal(err)
		}
	}
	p, _ := spec.Find("feed-square")
	return b.Hands(p), b.Added(p)
}

func apply(t *testing.T, s *scene.Scene, doc string) {
	t.Helper()
	hands, added := byHand(t, doc)
	kit := &brand.Kit{Palettes: []brand.Palette{{ID: "main", Colours: []brand.Colour{{Token: "main.ink", Name: "Ink", Value: black}, {Token: "main.snow", Name: "Snow", Value: white}}}}}
	lib := assets.Library()
	adjust.Apply(s, adjust.Input{
		Hands: hands, Added: added, Kit: kit, Types: brand.DefaultTypeSet(), Shaper: typeset.NewShaper(), Icons: assets.Icons(),
		Corner: func(h float64) float64 { return h / 4 },
		Files:  func(string) (photo.Picture, bool) { return photo.Picture{}, false },
		Face: func(st brand.Style) *typeset.Face {
			f, err := lib.Face(st.Family, st.Weight, st.Italic)
			if err != nil {
				t.Fatal(err)
			}
			return f
		},
	})
}

func near(a, b spec.Rect) bool {
	return math.Abs(a.X-b.X) < 0.01 && math.Abs(a.Y-b.Y) < 0.01 && math.Abs(a.W-b.W) < 0.01 && math.Abs(a.H-b.H) < 0.01
}

// A part of 100 x 50 at 200, 300 on a canvas of 1000 x 800: offsets are in its short side.
func TestWhereAPartGoes(t *testing.T) {
	for doc, want := range map[string]spec.Rect{
		`[{"reach":"set","slot":"body","property":"opacity","value":0.5}]`:                                                                                   {X: 200, Y: 300, W: 100, H: 50},
		`[{"reach":"class:square","slot":"body","property":"offset","value":[0.1,-0.05]}]`:                                                                   {X: 280, Y: 260, W: 100, H: 50},
		`[{"reach":"class:square","slot":"body","property":"scale","value":2}]`:                                                                              {X: 150, Y: 275, W: 200, H: 100},
		`[{"reach":"class:square","slot":"body","property":"rotate","value":90}]`:                                                                            {X: 225, Y: 275, W: 50, H: 100},
		`[{"reach":"class:square","slot":"body","property":"rotate","value":90},{"reach":"class:square","slot":"body","property":"offset","value":[0.1,0]}]`: {X: 305, Y: 275, W: 50, H: 100},
		`[{"reach":"class:square","slot":"body","property":"rotate","value":180},{"reach":"set","slot":"body","property":"flip","value":"both"}]`:            {X: 200, Y: 300, W: 100, H: 50},
		`[{"reach":"piece:feed-square","slot":"body","property":"scale","value":0.5},{"reach":"class:square","slot":"body","property":"scale","value":3}]`:   {X: 225, Y: 312.5, W: 50, H: 25},
		`[{"reach":"piece:story","slot":"body","property":"scale","value":3}]`:                                                                               {X: 200, Y: 300, W: 100, H: 50},
	} {
		s := &scene.Scene{W: 1000, H: 800, Parts: []scene.Part{rect("ground", 0, 0, 1000, 800, white), words("body", spec.Rect{X: 200, Y: 300, W: 100, H: 50}, black)}}
		apply(t, s, doc)
		if got := s.Parts[1].Box; !near(got, want) {
			t.Errorf("%s: %+v, want %+v", doc, got, want)
		}
	}
}

// Turned by 30 degrees clockwise about its middle, the upper right corner of a square of
// 100 goes from 50, -50 to 50 cos 30 + 50 sin 30, 50 sin 30 - 50 cos 30.
func TestTurningIsClockwise(t *testing.T) {
	m := scene.Turn(30)
	x, y := m.At(50, -50)
	if math.Abs(x-68.301) > 0.001 || math.Abs(y+18.301) > 0.001 {
		t.Errorf("the corner went to %.3f, %.3f; want 68.301, -18.301", x, y)
	}
	both := scene.Shift(10, 0).Then(scene.Grow(3, 3)).Then(scene.Turn(90))
	if x, y := both.At(0, 1); math.Abs(x+3) > 1e-9 || math.Abs(y-30) > 1e-9 {
		t.Errorf("moved, grown and turned: %v, %v; want -3, 30", x, y)
	}
	if s, d := both.Scale(), both.Degrees(); math.Abs(s-3) > 1e-9 || math.Abs(d-90) > 1e-9 {
		t.Errorf("it is %v times as large and turned by %v", s, d)
	}
}

// Words are measured against the worst of what they stand on now, by WCAG's formula.
func TestWordsAreMeasuredWhereTheyAre(t *testing.T) {
	box := spec.Rect{X: 100, Y: 100, W: 200, H: 40}
	for name, c := range map[string]struct {
		parts []scene.Part
		doc   string
		want  float64
	}{
		"on white":                       {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), words("body", box, black)}, `[{"reach":"set","slot":"body","property":"opacity","value":1}]`, 21},
		"recoloured":                     {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), words("body", box, black)}, `[{"reach":"set","slot":"body","property":"fill","value":"#767676"}]`, 4.54},
		"a colour the kit lost":          {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), words("body", box, black)}, `[{"reach":"set","slot":"body","property":"fill","value":"color.main.gone"}]`, 21},
		"moved onto a black panel":       {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), rect("panel", 0, 500, 1000, 500, black), words("body", box, black)}, `[{"reach":"class:square","slot":"body","property":"offset","value":[0,0.6]}]`, 1},
		"half over its edge":             {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), rect("panel", 0, 500, 1000, 500, grey), words("body", box, black)}, `[{"reach":"class:square","slot":"body","property":"offset","value":[0,0.38]}]`, 4.62},
		"on a block of its own":          {[]scene.Part{rect("ground", 0, 0, 1000, 1000, black), words("body", box, black)}, `[{"reach":"set","slot":"body","property":"highlight","value":"color.main.snow"}]`, 1},
		"a panel recoloured under words": {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), rect("panel", 0, 0, 1000, 500, white), words("body", box, black)}, `[{"reach":"set","slot":"panel","property":"fill","value":"#767676"}]`, 4.62},
		"over a picture nothing is known of": {[]scene.Part{rect("ground", 0, 0, 1000, 1000, white), {Slot: "picture", Kind: scene.KindPicture, Box: spec.Rect{W: 1000, H: 1000}, Crop: spec.Rect{W: 1000, H: 1000}}, words("body", box, black)},
			`[{"reach":"set","slot":"body","property":"opacity","value":1}]`, 1},
	} {
		s := &scene.Scene{W: 1000, H: 1000, Parts: c.parts}
		apply(t, s, c.doc)
		p := s.Parts[slices.IndexFunc(s.Parts, func(p scene.Part) bool { return p.Words() })]
		if math.Abs(p.Contrast-c.want) > 0.01 {
			t.Errorf("%s: %.2f on %s, want %.2f", name, p.Contrast, p.Ground.Hex(), c.want)
		}
	}
}

func TestOrderAndWhatGoesTogether(t *testing.T) {
	s := &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{
		rect("ground", 0, 0, 1000, 1000, white), rect("card", 0, 0, 10, 10, grey), rect("panel", 0, 0, 10, 10, grey), rect("card", 20, 0, 10, 10, grey),
		rect("button", 100, 100, 80, 30, black), {Slot: "callToAction", Kind: scene.KindButton, Box: spec.Rect{X: 110, Y: 110, W: 60, H: 10}, Fill: white},
	}}
	if got := adjust.Units(s.Parts); !slices.Equal(got, []string{"ground", "card", "panel", "card2", "callToAction", "callToAction"}) {
		t.Fatalf("taken hold of together: %v", got)
	}
	apply(t, s, `[{"reach":"set","slot":"card2","property":"order","value":-9},{"reach":"set","slot":"ground","property":"order","value":3},{"reach":"set","slot":"ground","property":"hidden","value":true},
		{"reach":"set","slot":"panel","property":"hidden","value":true},{"reach":"class:square","slot":"callToAction","property":"offset","value":[0.01,0]},{"reach":"class:square","slot":"ground","property":"offset","value":[0.5,0.5]}]`)
	var order []string
	for _, p := range s.Parts {
		order = append(order, p.Slot)
	}
	if !slices.Equal(order, []string{"ground", "card", "card", "button", "callToAction"}) || s.Parts[1].Box.X != 20 {
		t.Errorf("drawn in this order: %v, %v first", order, s.Parts[1].Box)
	}
	if s.Parts[0].Box.X != 0 || s.Parts[3].Box.X != 110 || s.Parts[4].Box.X != 120 {
		t.Errorf("ground, button and its words stand at %v, %v, %v", s.Parts[0].Box.X, s.Parts[3].Box.X, s.Parts[4].Box.X)
	}
}

// A card moved up by a step lies over what was above it, one moved down below what was
// under it, wherever others went; and steps taken are steps back.
func TestOrderOfDrawing(t *testing.T) {
	for doc, want := range map[string]string{
		`[]`: "ground a b c d",
		`[{"reach":"set","slot":"a","property":"order","value":1}]`:                                                              "ground b a c d",
		`[{"reach":"set","slot":"a","property":"order","value":100}]`:                                                            "ground b c d a",
		`[{"reach":"set","slot":"d","property":"order","value":-2}]`:                                                             "ground a d b c",
		`[{"reach":"set","slot":"d","property":"order","value":-100}]`:                                                           "ground d a b c",
		`[{"reach":"set","slot":"a","property":"order","value":2},{"reach":"set","slot":"d","property":"order","value":-2}]`:     "ground d b c a",
		`[{"reach":"set","slot":"ground","property":"order","value":4},{"reach":"set","slot":"b","property":"order","value":0}]`: "ground a b c d",
	} {
		s := &scene.Scene{W: 1000, H: 1000}
		for _, slot := range []string{"ground", "a", "b", "c", "d"} {
			s.Parts = append(s.Parts, rect(slot, 0, 0, 1000, 1000, white))
		}
		apply(t, s, doc)
		var order []string
		for _, p := range s.Parts {
			order = append(order, p.Slot)
		}
		if got := strings.Join(order, " "); got != want {
			t.Errorf("%s: %s, want %s", doc, got, want)
		}
	}
}

// A band reaches over both edges of the canvas behind all lines, turned with its words,
// which are measured on it.
func TestABandBehindWords(t *testing.T) {
	for _, deg := range []string{"0", "30", "-90"} {
		s := &scene.Scene{W: 1000, H: 800, Parts: []scene.Part{rect("ground", 0, 0, 1000, 800, white), words("body", spec.Rect{X: 400, Y: 300, W: 200, H: 50}, white), words("note", spec.Rect{X: 490, Y: 315, W: 20, H: 20}, black)}}
		s.Parts[1], s.Parts[2] = s.Parts[2], s.Parts[1] // the note is drawn first, and stays over the band
		s.Parts[2].SizePx, s.Parts[2].Lines = 50, []scene.TextLine{{Line: &typeset.Line{Text: "a"}, X: 400, Y: 340}}
		apply(t, s, `[{"reach":"set","slot":"body","property":"band","value":"#000000"},{"reach":"class:square","slot":"body","property":"rotate","value":`+deg+`}]`)
		band, note, set := s.Parts[1], s.Parts[2], s.Parts[3]
		if note.Slot != "note" || note.Contrast != 1 {
			t.Errorf("turned by %s: %s has %.1f : 1 on the band", deg, note.Slot, note.Contrast)
		}
		if band.Slot != adjust.Strip || set.Contrast != 21 {
			t.Fatalf("turned by %s: %s, the words have %.1f : 1", deg, band.Slot, set.Contrast)
		}
		outside := 0
		for _, p := range [][2]float64{{band.Solved().X, band.Solved().Y}, {band.Solved().Right(), band.Solved().Bottom()}} {
			if x, y := band.Moved.At(p[0], p[1]); x < 0 || x > 1000 || y < 0 || y > 800 {
				outside++
			}
		}
		if outside != 2 || !band.Solved().Contains(set.Solved(), 0) {
			t.Errorf("turned by %s the band is %+v behind %+v", deg, band.Box, set.Box)
		}
	}
}

// What was changed elsewhere on a piece says nothing of the words here.
func TestOnlyWhatStandsOnSomethingElseIsMeasuredAnew(t *testing.T) {
	s := &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{
		rect("ground", 0, 0, 1000, 1000, white), rect("panel", 0, 0, 1000, 300, white), rect("card", 0, 600, 1000, 300, white),
		words("body", spec.Rect{X: 100, Y: 100, W: 200, H: 40}, black), words("note", spec.Rect{X: 100, Y: 700, W: 200, H: 40}, black),
	}}
	apply(t, s, `[{"reach":"set","slot":"card","property":"hidden","value":true},{"reach":"set","slot":"panel","property":"locked","value":true}]`)
	if body, note := s.Parts[2], s.Parts[3]; body.GroundByHand || !note.GroundByHand {
		t.Errorf("the card under the note is gone: body %v, note %v", body.GroundByHand, note.GroundByHand)
	}
}

// What is added lands by fractions of the canvas and of its short side, in a colour that
// reads there.
func TestAddedParts(t *testing.T) {
	s := &scene.Scene{W: 1000, H: 500, Parts: []scene.Part{rect("ground", 0, 0, 1000, 500, black)}}
	apply(t, s, `[{"reach":"set","slot":"added-a","property":"part","value":{"kind":"shape","name":"panel","at":[0.5,0.5],"size":[0.4,0.2]}},
		{"reach":"set","slot":"added-b","property":"part","value":{"kind":"words","text":"New today","level":"body","at":[0.5,0.5],"size":[0.3,0.1]}},
		{"reach":"set","slot":"added-c","property":"part","value":{"kind":"icon","name":"heart","at":[0.1,0.1],"size":[0.1,0.1]}},
		{"reach":"set","slot":"added-c","property":"fill","value":"#123456"},
		{"reach":"set","slot":"added-d","property":"part","value":{"kind":"picture","file":"gone.png","at":[0.5,0.5],"size":[0.3,0.1]}},
		{"reach":"piece:story","slot":"added-e","property":"part","value":{"kind":"shape","name":"band","at":[0.5,0.5],"size":[0.3,0.1]}}]`)
	if len(s.Parts) != 4 {
		t.Fatalf("%d parts are drawn", len(s.Parts))
	}
	panel, set, icon := s.Parts[1], s.Parts[2], s.Parts[3]
	if !near(panel.Box, spec.Rect{X: 400, Y: 200, W: 200, H: 100}) || colour.Contrast(panel.Fill, black) < 1.5 {
		t.Errorf("the panel stands at %+v in %s", panel.Box, panel.Fill.Hex())
	}
	within := spec.Rect{X: 425, Y: 225, W: 150, H: 50}
	if !within.Contains(set.Box, 0.5) || set.Contrast < 4.5 || math.Max(set.Box.W/150, set.Box.H/50) < 0.6 {
		t.Errorf("the words are %+v within %+v, %.1f : 1", set.Box, within, set.Contrast)
	}
	if icon.Kind != scene.KindIcon || icon.Fill.Hex() != "#123456" {
		t.Errorf("the icon is %s in %s", icon.Kind, icon.Fill.Hex())
	}
}

// A button, a badge and a row of icons: words read on their shape whatever colour it has,
// icons are equal and evenly spaced.
func TestAddedPartsOfSeveral(t *testing.T) {
	for _, fill := range []string{"", "#FFFFFF", "#101010", "#767676"} {
		s := &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{rect("ground", 0, 0, 1000, 1000, black)}}
		apply(t, s, `[{"reach":"set","slot":"added-a","property":"part","value":{"kind":"button","text":"Save a seat","level":"button","at":[0.5,0.5],"size":[0.4,0.1]`+fillOf(fill)+`}},
			{"reach":"set","slot":"added-b","property":"part","value":{"kind":"badge","text":"New","level":"headline","at":[0.5,0.2],"size":[0.3,0.3]`+fillOf(fill)+`}},
			{"reach":"set","slot":"added-c","property":"part","value":{"kind":"row","name":"heart","count":5,"at":[0.5,0.8],"size":[0.5,0.1]}}]`)
		if len(s.Parts) != 6 {
			t.Fatalf("%d parts are drawn", len(s.Parts))
		}
		for i := 1; i < 5; i += 2 {
			shape, words := s.Parts[i], s.Parts[i+1]
			if fill != "" && shape.Fill.Hex() != fill {
				t.Errorf("%s is %s, not %s", shape.Slot, shape.Fill.Hex(), fill)
			}
			if !shape.Box.Contains(words.Box, 0) || words.Contrast < 4.5 {
				t.Errorf("on %s in %s: %+v, %.2f : 1", shape.Slot, shape.Fill.Hex(), words.Box, words.Contrast)
			}
		}
		// five icons of 24 with gaps of 12 are 168 wide: 500 x 71.4 px
		if row := s.Parts[5]; math.Abs(row.Box.W/row.Box.H-168.0/24) > 0.01 || math.Abs(row.Box.W-500) > 0.01 || strings.Count(row.Art.SVG, "translate(") != 5 {
			t.Errorf("the row is %+v", row.Box)
		}
	}
}

func fillOf(hex string) string {
	if hex == "" {
		return ""
	}
	return `,"fill":"` + hex + `"`
}

// Frames keep within their box: their path, whose curves keep within their handles.
func TestFramesKeepWithinTheirBox(t *testing.T) {
	box := spec.Rect{X: 30, Y: 40, W: 300, H: 120}
	for _, name := range brief.Frames {
		for i, v := range numbers(t, adjust.FramePath(name, box, 200)) {
			low, high := box.X, box.Right()
			if i%2 == 1 {
				low, high = box.Y, box.Bottom()
			}
			if v < low-0.01 || v > high+0.01 {
				t.Errorf("%s goes to %v", name, v)
			}
		}
	}
	if adjust.FramePath("star", box, 200) != "" {
		t.Error("there is no star")
	}
	icons := assets.Icons()
	names := adjust.FrameIcons(icons)
	if !slices.Contains(names, "heart") || slices.Contains(names, "wifi") || len(names) < 20 {
		t.Errorf("pictures are cut to %v", names)
	}
	for _, name := range names {
		path := adjust.IconPath(icons[name], box)
		x0, x1, y0, y1 := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
		for i, v := range numbers(t, path) {
			if i%2 == 0 {
				x0, x1 = math.Min(x0, v), math.Max(x1, v)
			} else {
				y0, y1 = math.Min(y0, v), math.Max(y1, v)
			}
		}
		// as large as fits: it touches two sides that face each other
		if x0 < 29.9 || y0 < 39.9 || x1 > 330.1 || y1 > 160.1 || (y1-y0 < 119.9 && x1-x0 < 299.9) {
			t.Errorf("%s goes from %.1f, %.1f to %.1f, %.1f", name, x0, y0, x1, y1)
		}
		if !scene.Covers(path, spec.Rect{X: 178, Y: 98, W: 4, H: 4}) && !scene.Covers(path, spec.Rect{X: 178, Y: 80, W: 4, H: 4}) {
			t.Errorf("%s has a hole in its middle", name)
		}
	}
}

func numbers(t *testing.T, path string) []float64 {
	t.Helper()
	fields := strings.FieldsFunc(path, func(r rune) bool { return strings.ContainsRune("MLCZ ", r) })
	out := make([]float64, len(fields))
	for i, f := range fields {
		v, err := strconv.ParseFloat(f, 64)
		if err != nil {
			t.Fatal(err)
		}
		out[i] = v
	}
	if len(out) < 6 {
		t.Fatalf("%q is no frame", path)
	}
	return out
}

// Words in a style of their own: the line keeps its side, its parts follow each other
// without gap or overlap, and the ink is measured again.
func TestWordsInTheirOwnStyle(t *testing.T) {
	face, err := assets.Library().Face("Figtree", 400, false)
	if err != nil {
		t.Fatal(err)
	}
	sh := typeset.NewShaper()
	line := func(align string) *scene.Scene {
		l := sh.Line("Quiet water, first", typeset.Style{Face: face})
		p := scene.Part{Slot: "headline", Kind: scene.KindText, Text: "Quiet water, first", Family: "Figtree", Weight: 400, SizePx: 50, Style: typeset.Style{Face: face}, Align: align,
			Lines: []scene.TextLine{{Line: l, X: 300, Y: 500}}, Fill: black, Box: spec.Rect{X: 300, Y: 460, W: l.Advance * 50, H: 50}}
		return &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{rect("ground", 0, 0, 1000, 1000, white), p}}
	}
	width := sh.Line("Quiet water, first", typeset.Style{Face: face}).Advance * 50
	for align, keeps := range map[string]func(from, to float64) float64{
		"start":  func(from, _ float64) float64 { return from - 300 },
		"middle": func(from, to float64) float64 { return (from+to)/2 - 300 - width/2 },
		"end":    func(_, to float64) float64 { return to - 300 - width },
	} {
		s := line(align)
		apply(t, s, `[{"reach":"set","slot":"headline","property":"runs","value":[{"from":1,"to":2,"words":"water,","bold":true,"scale":2,"underline":true,"strike":true,"fill":"#767676"}]}]`)
		p := s.Parts[1]
		if len(p.Lines) != 3 || p.Lines[1].Line.Text != "water," || p.Size(p.Lines[1]) != 100 || p.Lines[1].Fill == nil || len(p.Lines[1].Under) != 2 {
			t.Fatalf("%s: %d runs, %+v", align, len(p.Lines), p.Lines)
		}
		last := p.Lines[2]
		if d := keeps(p.Lines[0].X, last.X+last.Line.Advance*p.Size(last)); math.Abs(d) > 0.05 {
			t.Errorf("%s: the line is off its side by %.2f px", align, d)
		}
		for i := 1; i < 3; i++ {
			a, b := p.Lines[i-1], p.Lines[i]
			if gap := b.X - a.X - a.Line.Advance*p.Size(a); gap < -1 || gap > 0.6*p.SizePx {
				t.Errorf("%s: %.1f px between %q and %q", align, gap, a.Line.Text, b.Line.Text)
			}
		}
		if p.Box.H < 100*0.6 || math.Abs(p.Contrast-4.54) > 0.01 {
			t.Errorf("%s: the ink is %+v, %.2f : 1", align, p.Box, p.Contrast)
		}
	}
	// as large as it fits: beside a part, and within the margin
	narrow := line("start")
	narrow.Parts = append(narrow.Parts, rect("picture", 740, 0, 260, 1000, grey))
	apply(t, narrow, `[{"reach":"set","slot":"headline","property":"runs","value":[{"from":1,"to":2,"words":"water,","scale":3}]}]`)
	for _, p := range narrow.Parts {
		if p.Slot != "headline" {
			continue
		}
		last := p.Lines[len(p.Lines)-1]
		if right := last.X + last.Line.Ink.X1*p.Size(last); right > 740 || p.Box.Right() > 740 {
			t.Errorf("a word three times as large goes to %.0f px, over what begins at 740", right)
		}
		if k := p.Size(p.Lines[1]) / p.SizePx; math.Abs(k-3) > 0.02 {
			t.Errorf("the larger word is %.2f times the others", k)
		}
	}
	s := line("start")
	apply(t, s, `[{"reach":"set","slot":"headline","property":"fill","value":"#123456"},{"reach":"set","slot":"headline","property":"runs","value":[{"from":1,"to":2,"words":"water,","fill":"#767676"}]}]`)
	if p := s.Parts[1]; p.Fill.Hex() != "#123456" || len(p.Lines) != 3 || p.Lines[1].Fill == nil || p.Lines[1].Fill.Hex() != "#767676" {
		t.Error("words recoloured as a whole lost the colour one of them has of its own")
	}
	s = line("start")
	apply(t, s, `[{"reach":"set","slot":"headline","property":"runs","value":[{"from":0,"to":1,"words":"Loud","bold":true}]}]`)
	if len(s.Parts[1].Lines) != 1 {
		t.Error("words that are not there were set")
	}
}

// Words that run from right to left keep their order when one of them has a style of its
// own, and so do words the other way within them (UAX 9, rule L2).
func TestStyledWordsFromRightToLeft(t *testing.T) {
	face, err := assets.Library().Face("Noto Sans Arabic", 400, false)
	if err != nil {
		t.Fatal(err)
	}
	sh := assets.Shaper()
	look := typeset.Style{Face: face}
	for _, c := range []struct {
		text, runs string
		order      []string // from left to right
	}{
		{"رحلة هادئة على النهر", `[{"from":1,"to":2,"words":"هادئة","scale":1.5,"underline":true}]`, []string{"على النهر", "هادئة", "رحلة"}},
		{"رحلة Go now هادئة", `[{"from":2,"to":3,"words":"now","fill":"#767676"}]`, []string{"هادئة", "Go", "now", "رحلة"}},
		{"Go هادئة رحلة now", `[{"from":2,"to":3,"words":"رحلة","fill":"#767676"},{"from":1,"to":2,"words":"هادئة","fill":"#111111"}]`, []string{"Go", "رحلة", "هادئة", "now"}},
	} {
		l := sh.Line(c.text, look)
		end := 100 + l.Advance*50
		p := scene.Part{Slot: "headline", Kind: scene.KindText, Text: c.text, Family: face.Family, Weight: 400, SizePx: 50, Style: look, Align: "end", Lines: []scene.TextLine{{Line: l, X: 100, Y: 200}}, Box: spec.Rect{X: 100, Y: 160, W: l.Advance * 50, H: 50}}
		s := &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{rect("ground", 0, 0, 1000, 1000, white), p}}
		apply(t, s, `[{"reach":"set","slot":"headline","property":"runs","value":`+c.runs+`}]`)
		got := s.Parts[1]
		// every word by where its ink begins
		type seen struct {
			text     string
			from, to float64
		}
		var list []seen
		for _, l := range got.Lines {
			size := got.Size(l)
			if strings.TrimSpace(l.Line.Text) == "" {
				continue
			}
			list = append(list, seen{strings.TrimSpace(l.Line.Text), l.X + l.Line.Ink.X0*size, l.X + l.Line.Ink.X1*size})
		}
		slices.SortFunc(list, func(a, b seen) int { return cmp.Compare(a.from, b.from) })
		var order []string
		for i, w := range list {
			order = append(order, w.text)
			if i > 0 && (w.from < list[i-1].to+4 || w.from > list[i-1].to+40) {
				t.Errorf("%s: %q from %.0f after %q to %.0f", c.text, w.text, w.from, list[i-1].text, list[i-1].to)
			}
		}
		if !slices.Equal(strings.Fields(strings.Join(order, " ")), strings.Fields(strings.Join(c.order, " "))) {
			t.Errorf("%s is seen as %q, want %q", c.text, order, c.order)
		}
		if last := list[len(list)-1]; math.Abs(last.to-end) > 5 {
			t.Errorf("%s ends at %.0f, it ended at %.0f", c.text, last.to, end)
		}
		for i := 1; i < len(got.Lines); i++ {
			if got.Lines[i].From <= got.Lines[i-1].From {
				t.Errorf("%s: the caret needs its runs in the order of the text", c.text)
			}
		}
	}
}

// Facts stand in columns of one width, icons of one size over words of one size.
func TestFactsInARow(t *testing.T) {
	s := &scene.Scene{W: 1000, H: 1000, Parts: []scene.Part{rect("ground", 0, 0, 1000, 1000, black)}}
	apply(t, s, `[{"reach":"set","slot":"added-a","property":"part","value":{"kind":"facts","name":"clock","text":"Six Saturdays\nAll the gear you need is included\nSmall groups","level":"body","at":[0.5,0.5],"size":[0.9,0.2]}}]`)
	if len(s.Parts) != 7 {
		t.Fatalf("%d parts are drawn", len(s.Parts))
	}
	for i := range 3 {
		icon, words := s.Parts[1+2*i], s.Parts[2+2*i]
		middle := 50 + 900*(float64(i)+0.5)/3
		if math.Abs(icon.Box.X+icon.Box.W/2-middle) > 0.01 || math.Abs(words.Box.X+words.Box.W/2-middle) > 1.5 {
			t.Errorf("fact %d stands at %.1f and %.1f, its column at %.1f", i, icon.Box.X+icon.Box.W/2, words.Box.X+words.Box.W/2, middle)
		}
		if words.SizePx != s.Parts[2].SizePx || words.Box.Y < icon.Box.Bottom() || words.Box.W > 300 || words.Contrast < 4.5 || colour.Contrast(icon.Fill, black) < 3 {
			t.Errorf("fact %d: %.1f px like %.1f px, %+v under %+v, %.1f : 1", i, words.SizePx, s.Parts[2].SizePx, words.Box, icon.Box, words.Contrast)
		}
	}
}
