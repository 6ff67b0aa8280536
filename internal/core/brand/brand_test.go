package brand_test

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
)

func parse(t *testing.T, doc string) (*brand.Kit, error) {
	t.Helper()
	o, err := edit.ParseObject([]byte(doc))
	if err != nil {
		t.Fatal(err)
	}
	return brand.Parse(o)
}

const ext = `"$extensions":{"aspenridge":{"formatVersion":1,"name":"Pellow"}}`

// The Design Tokens Community Group's own examples of values (Format Module
// 2025.10, colour, dimension, font family, font weight and typography types;
// from memory).
func TestReadsDesignTokensAsTheGroupWritesThem(t *testing.T) {
	k, err := parse(t, `{
		"color":{"main":{"$type":"color",
			"pink":{"$value":{"colorSpace":"srgb","components":[1,0,1],"alpha":1,"hex":"#ff00ff"}},
			"only-components":{"$value":{"colorSpace":"srgb","components":[0.2,0.4,0.6]}},
			"older":{"$value":"#0F3D4C"}}},
		"type":{"$type":"typography",
			"headline":{"$value":{"fontFamily":["Fraunces","serif"],"fontWeight":"bold","fontSize":{"value":42,"unit":"px"},"letterSpacing":{"value":-0.42,"unit":"px"},"lineHeight":1.2}},
			"body":{"$value":{"fontFamily":"Karla","fontWeight":"extra-light","fontSize":"16px"}}},
		`+ext+`}`)
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"#FF00FF", "#336699", "#0F3D4C"} {
		if got := k.Palettes[0].Colours[i].Value.Hex(); got != want {
			t.Errorf("colour %d is %s, want %s", i, got, want)
		}
	}
	h, b := k.TypeSets[0].Levels[brand.Headline], k.TypeSets[0].Levels[brand.Body]
	if h.Family != "Fraunces" || h.Weight != 700 || h.SizePx != 42 || h.LineHeight != 1.2 || math.Abs(h.Tracking+0.01) > 1e-9 {
		t.Errorf("headline %+v", h)
	}
	if b.Family != "Karla" || b.Weight != 200 || b.SizePx != 16 {
		t.Errorf("body %+v", b)
	}
	if r := k.TypeSets[0].Ratio(brand.Headline); r != 42.0/16 {
		t.Errorf("ratio %v", r)
	}
	if s := k.TypeSets[0].Levels[brand.Subheading]; s.Family != "Karla" {
		t.Errorf("a level left out is set in %s", s.Family)
	}
}

func TestOrderNamesAndRoles(t *testing.T) {
	k, err := parse(t, `{"color":{"z":{"$extensions":{"aspenridge":{"name":"House"}},"b":{"$value":{"hex":"#111111"},"$extensions":{"aspenridge":{"name":"Night","role":"ink","neverGround":true}}},"a":{"$value":{"hex":"#eeeeee"}}},"a":{"x":{"$value":{"hex":"#EEEEEF"}},"y":{"$value":{"hex":"#aa3311"}}}},`+ext+`}`)
	if err != nil {
		t.Fatal(err)
	}
	if k.Palettes[0].Name != "House" || k.Palettes[1].Name != "a" {
		t.Errorf("palettes %q, %q", k.Palettes[0].Name, k.Palettes[1].Name)
	}
	var tokens []string
	for _, c := range k.Colours() {
		tokens = append(tokens, c.Token)
	}
	// a.x is z.a again (CIEDE2000 below 1)
	if got := strings.Join(tokens, " "); got != "z.b z.a a.y" {
		t.Errorf("colours %s", got)
	}
	if c, ok := k.Colour("z.b"); !ok || c.Name != "Night" || c.Role != brand.Ink || !c.NeverGround {
		t.Errorf("%+v", c)
	}
	if _, ok := k.Colour("z.c"); ok {
		t.Error("found a colour that is not there")
	}
	if c, _ := k.Colour("z.a"); c.Name != "a" || c.Role != brand.Extra {
		t.Errorf("defaults: %+v", c)
	}
}

func TestRefusals(t *testing.T) {
	many := make([]string, 65)
	for i := range many {
		many[i] = fmt.Sprintf(`"c%d":{"$value":{"hex":"#0000%02x"}}`, i, i)
	}
	for doc, says := range map[string]string{
		`{}`: "$extensions.aspenridge is missing",
		`{"$extensions":{"aspenridge":{"formatVersion":1}}}`:                                                    "name is missing",
		`{"$extensions":{"aspenridge":{"formatVersion":7,"name":"x"}}}`:                                         "formatVersion 7",
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":["x"]}}}`:                                       "aspenridge",
		`{"color":{"a":7},` + ext + `}`:                                                                         "color.a",
		`{"color":{"a":{"b":{"$value":{"colorSpace":"oklch","components":[1,2,3]}}}},` + ext + `}`:              `colorSpace "oklch"`,
		`{"color":{"a":{"b":{"$value":{"colorSpace":"srgb","components":[1,2,0]}}}},` + ext + `}`:               "component 2",
		`{"color":{"a":{` + strings.Join(many, ",") + `}},` + ext + `}`:                                         "at most 64",
		`{"type":{"headline":{"$value":{"fontWeight":"enormous"}}},` + ext + `}`:                                "enormous",
		`{"type":{"headline":{"$value":{"fontSize":"12em"}}},` + ext + `}`:                                      "fontSize",
		`{"type":{"headline":{"$value":{"fontSize":"10px","letterSpacing":"9px"}}},` + ext + `}`:                "letterSpacing",
		`{"type":{"headline":7},` + ext + `}`:                                                                   "type.headline",
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{}]}}}`:                            "logos[0]: file",
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","fonts":[{}]}}}`:                            "fonts[0]: file",
		`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":"a","lockup":"round"}]}}}`: `lockup "round"`,
	} {
		if _, err := parse(t, doc); !errors.Is(err, brand.ErrKit) || !strings.Contains(err.Error(), says) {
			t.Errorf("%s\n%v, want %q", doc, err, says)
		}
	}
}

func art(w float64, inks ...colour.RGB) *brand.Art {
	a := &brand.Art{View: [4]float64{0, 0, w, 100}}
	for _, c := range inks {
		a.Inks = append(a.Inks, colour.Found{Colour: c, Share: 1 / float64(len(inks))})
	}
	return a
}

// TestLogoForTheGround: dark art on light grounds, light art on dark ones, a
// plate where neither reads, symbols for corners and horizontal ones for lines.
func TestLogoForTheGround(t *testing.T) {
	dark, light := colour.RGB{R: 15, G: 61, B: 76}, colour.RGB{R: 246, G: 235, B: 214}
	middle := colour.RGB{R: 120, G: 120, B: 120}
	k := &brand.Kit{Logos: []brand.Logo{
		{File: "dark", Lockup: "horizontal", Tone: "for-light", Lead: true, Art: art(320, dark)},
		{File: "light", Lockup: "horizontal", Tone: "for-dark", Art: art(320, light)},
		{File: "mark", Lockup: "symbol", Tone: "one-colour", Art: art(100, dark)},
	}}
	for _, c := range []struct {
		ground colour.RGB
		room   brand.Shape
		only   string
		want   string
		plate  bool
	}{
		{colour.White, brand.WideRoom, "", "dark", false},
		{colour.Black, brand.WideRoom, "", "light", false},
		{light, brand.CompactRoom, "", "mark", false},
		{dark, brand.WideRoom, "dark", "dark", true},
		{dark, brand.WideRoom, "", "light", false},
	} {
		fit, ok := k.PickLogo(c.ground, c.room, c.only)
		if !ok || fit.Logo.File != c.want || fit.Plate != c.plate {
			t.Errorf("on %s in a %s room: %+v, want %s, plate %v", c.ground.Hex(), c.room, fit, c.want, c.plate)
		}
	}
	if _, ok := (&brand.Kit{}).PickLogo(colour.White, brand.WideRoom, ""); ok {
		t.Error("a kit without logos picked one")
	}
	boxed := brand.Logo{Tone: "full-colour", Art: art(100, dark)}
	boxed.Art.Box = &middle
	if boxed.Fits(colour.White) || !boxed.Fits(middle) {
		t.Error("a boxed logo fits only the colour of its box")
	}
}

// TestAllOfALogoReads: every part that stands on the ground has 3:1 to it (WCAG 2.2,
// 1.4.11), whatever tone the logo is declared for; a detail that stands on another ink
// does not count.
func TestAllOfALogoReads(t *testing.T) {
	navy, teal, cream := colour.RGB{R: 20, G: 30, B: 70}, colour.RGB{R: 40, G: 105, B: 118}, colour.RGB{R: 246, G: 235, B: 214}
	if r := colour.Contrast(teal, navy); r < 2.2 || r >= 3 {
		t.Fatalf("teal on navy has %.2f:1, the case wants something between 2.2 and 3", r)
	}
	on := func(ground colour.RGB, tone string, shares []float64, hosts []int, inks ...colour.RGB) bool {
		a := art(100, inks...)
		a.Hosts = hosts
		for i, s := range shares {
			a.Inks[i].Share = s
		}
		l := brand.Logo{Tone: tone, Art: a}
		return l.Fits(ground)
	}
	if on(navy, "for-dark", []float64{1}, nil, teal) {
		t.Error("a teal wordmark at under 3:1 is said to read on navy")
	}
	if on(navy, "for-dark", []float64{0.65, 0.35}, []int{-1, -1}, cream, navy) {
		t.Error("a third of the logo has the colour of the ground, and it is said to read")
	}
	if !on(cream, "for-light", []float64{0.65, 0.35}, []int{-1, 0}, navy, cream) {
		t.Error("a light detail on a dark mark keeps it off light grounds")
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(`{"color":{"a":{"b":{"$value":{"hex":"#123"}}}},` + ext + `}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		o, err := edit.ParseObject(data)
		if err != nil {
			return
		}
		k, err := brand.Parse(o)
		if err == nil && (len(k.TypeSets) == 0 || k.TypeSet("").Levels[brand.Body].SizePx <= 0) {
			t.Errorf("a kit without type: %+v", k.TypeSets)
		}
	})
}

// TestALogoInOneColour: where no tone reads, a logo that can be cut is drawn in the colour of the
// kit that reads best, unless its owner wants its own colours alone.
func TestALogoInOneColour(t *testing.T) {
	dark, light, middle := colour.RGB{R: 15, G: 61, B: 76}, colour.RGB{R: 246, G: 235, B: 214}, colour.RGB{R: 128, G: 128, B: 128}
	a := art(100, dark)
	a.Cut = &brand.Cut{SVG: `<path fill="currentColor"/>`}
	k := &brand.Kit{
		Palettes: []brand.Palette{{Colours: []brand.Colour{{Token: "a", Value: dark, Role: brand.Ink}, {Token: "b", Value: light, Role: brand.Ground}, {Token: "c", Value: middle, Role: brand.Accent}}}},
		Logos:    []brand.Logo{{File: "l", Lockup: "symbol", Tone: "full-colour", Lead: true, Art: a}},
	}
	fit, _ := k.PickLogo(dark, brand.CompactRoom, "")
	if !fit.Cut || fit.Plate || fit.Ink != light {
		t.Fatalf("on its own colour: %+v, want it cut in %s", fit, light.Hex())
	}
	if got := fit.Art(); got.SVG != `<path fill="`+light.Hex()+`"/>` || got != fit.Art() || got.Hash == a.Hash {
		t.Errorf("drawn as %+v", got)
	}
	if fit, _ := k.PickLogo(colour.White, brand.CompactRoom, ""); fit.Cut || fit.Plate {
		t.Errorf("on white, where it reads: %+v", fit)
	}
	if fit, _ := k.PickLogoBetween(colour.Black, colour.White, brand.CompactRoom, ""); !fit.Plate {
		t.Errorf("on anything from black to white: %+v, want a plate", fit)
	}
	k.Logos[0].OwnColours = true
	if fit, _ := k.PickLogo(dark, brand.CompactRoom, ""); fit.Cut || !fit.Plate {
		t.Errorf("in its own colours alone: %+v, want a plate", fit)
	}
}
