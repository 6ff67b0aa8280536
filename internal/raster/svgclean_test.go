package raster_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
)

func TestStylesBecomeAttributes(t *testing.T) {
	for what, c := range map[string]struct{ in, want string }{
		"a class":               {`<style>.a{fill:#123456}</style><path class="a" d="M0 0h9v9z"/>`, `fill="#123456"`},
		"an element rule":       {`<style>rect{fill:red}</style><rect width="9" height="9"/>`, `fill="red"`},
		"an id rule":            {`<style>#one{stroke:#00f}</style><path id="one" d="M0 0h9"/>`, `stroke="#00f"`},
		"a style attribute":     {`<path style="fill:#0a0; stroke-width: 2" d="M0 0h9v9z"/>`, `stroke-width="2"`},
		"style before class":    {`<style>.a{fill:#111}</style><path class="a" style="fill:#222" d="M0 0h9v9z"/>`, `fill="#222"`},
		"class before a plain":  {`<style>.a{fill:#111}</style><path class="a" fill="#333" d="M0 0h9v9z"/>`, `fill="#111"`},
		"a gradient by id":      {`<linearGradient id="g"><stop offset="0" stop-color="#111"/></linearGradient><rect width="9" height="9" fill="url(#g)"/>`, `fill="url(#p-g)"`},
		"a use by either name":  {`<defs><path id="q" d="M0 0h9v9z"/></defs><use xlink:href="#q"/>`, `href="#p-q"`},
		"a group's inheritance": {`<g fill="#444"><path d="M0 0h9v9z"/></g>`, `<g fill="#444">`},
	} {
		out, err := raster.CleanSVG([]byte(`<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 10 10">`+c.in+`</svg>`), "p-")
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		if !strings.Contains(out.Markup, c.want) {
			t.Errorf("%s: %s, want %s in it", what, out.Markup, c.want)
		}
		if strings.Contains(out.Markup, "style") || strings.Contains(out.Markup, "class") {
			t.Errorf("%s leaves CSS behind: %s", what, out.Markup)
		}
	}
}

func TestViewBoxOfManyKinds(t *testing.T) {
	for head, want := range map[string][4]float64{
		`viewBox="1 2 30 40"`:                      {1, 2, 30, 40},
		`viewBox="1,2,30,40" width="9" height="9"`: {1, 2, 30, 40},
		`width="120" height="80"`:                  {0, 0, 120, 80},
		`width="120px" height="80px"`:              {0, 0, 120, 80},
		`width="1in" height="10mm"`:                {0, 0, 96, 37.795},
	} {
		out, err := raster.CleanSVG([]byte(`<svg xmlns="http://www.w3.org/2000/svg" `+head+`><rect width="1" height="1"/></svg>`), "")
		if err != nil {
			t.Errorf("%s: %v", head, err)
			continue
		}
		for i := range want {
			if d := out.View[i] - want[i]; d > 0.01 || d < -0.01 {
				t.Errorf("%s: %v, want %v", head, out.View, want)
				break
			}
		}
	}
}

func TestNotesSayWhatWasLeftOut(t *testing.T) {
	out, err := raster.CleanSVG([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><text>Hi</text><image href="x.png"/><filter id="f"/><rect width="9" height="9"/></svg>`), "")
	if err != nil {
		t.Fatal(err)
	}
	if len(out.Notes) < 3 {
		t.Errorf("notes: %q", out.Notes)
	}
	if out, _ := raster.CleanSVG([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><title>A</title><rect width="9" height="9"/></svg>`), ""); len(out.Notes) != 0 {
		t.Errorf("a plain file has notes: %q", out.Notes)
	}
}

func FuzzCleanSVG(f *testing.F) {
	f.Add([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><style>.a{fill:red}</style><g class="a"><use href="#x"/><path id="x" d="M0 0"/></g></svg>`))
	f.Add([]byte(`<svg><script>1</script></svg>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		out, err := raster.CleanSVG(data, "p-")
		if err != nil {
			return
		}
		for _, bad := range []string{"<script", "<style", " on", "javascript:", "http", "<image", "<foreign", "<!"} {
			if strings.Contains(strings.ToLower(out.Markup), bad+"=") || (bad[0] == '<' && strings.Contains(strings.ToLower(out.Markup), bad)) {
				t.Errorf("%q is left in %s", bad, out.Markup)
			}
		}
	})
}

// drawn is a PNG of a plain logo: a disc of ink on a ground, opaque or not.
func drawn(t *testing.T, ground, ink color.RGBA) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 240, 160))
	for y := range 160 {
		for x := range 240 {
			c := ground
			if dx, dy := x-120, y-80; dx*dx+dy*dy < 60*60 {
				c = ink
			}
			img.SetRGBA(x, y, c)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestLogoColoursAreTheTrueOnes: within CIEDE2000 1 of what was drawn, the
// ground told apart, no in-between colours of edges.
func TestLogoColoursAreTheTrueOnes(t *testing.T) {
	ink := color.RGBA{0xd4, 0x5a, 0x2a, 255}
	for what, c := range map[string]struct {
		ground color.RGBA
		boxed  bool
	}{"transparent": {color.RGBA{}, false}, "white box": {color.RGBA{255, 255, 255, 255}, true}, "dark box": {color.RGBA{20, 30, 40, 255}, true}} {
		in, err := raster.ImportLogo(context.Background(), drawn(t, c.ground, ink))
		if err != nil {
			t.Fatal(err)
		}
		if len(in.Art.Inks) != 1 || colour.DeltaE(in.Art.Inks[0].Colour, colour.RGB{R: ink.R, G: ink.G, B: ink.B}) > 1 {
			t.Errorf("%s: inks %v", what, in.Art.Inks)
		}
		if (in.Art.Box != nil) != c.boxed {
			t.Errorf("%s: box %v", what, in.Art.Box)
		}
		if c.boxed && colour.DeltaE(*in.Art.Box, colour.RGB{R: c.ground.R, G: c.ground.G, B: c.ground.B}) > 1 {
			t.Errorf("%s: box %v", what, in.Art.Box)
		}
		if !c.boxed && (in.Art.Aspect() < 0.97 || in.Art.Aspect() > 1.03 || in.Lockup != "symbol") {
			t.Errorf("%s: margins kept: aspect %.2f, %s", what, in.Art.Aspect(), in.Lockup)
		}
	}
}

func TestRenderRefusesWhatIsTooLarge(t *testing.T) {
	studio := raster.NewStudio(func(string) ([]byte, error) { return nil, errors.New("no pictures") })
	sc := &scene.Scene{W: 4000, H: 3000, Parts: []scene.Part{{Kind: scene.KindShape, Slot: "ground", Box: spec.Rect{W: 4000, H: 3000}, Fill: colour.White}}}
	if _, err := studio.Render(t.Context(), sc, raster.Output{Format: "png", Scale: 8}); err == nil || !strings.Contains(err.Error(), fmt.Sprint(raster.MaxOutput)) {
		t.Errorf("32,000 px: %v", err)
	}
	if _, err := studio.Render(t.Context(), sc, raster.Output{Format: "bmp"}); err == nil || !strings.Contains(err.Error(), "webp") {
		t.Errorf("bmp: %v", err)
	}
	sc.Parts = append(sc.Parts, scene.Part{Kind: scene.KindPicture, Slot: "picture", Picture: "gone", Box: spec.Rect{W: 10, H: 10}, Crop: spec.Rect{W: 10, H: 10}})
	if _, err := studio.Render(t.Context(), sc, raster.Output{Format: "png"}); err == nil {
		t.Error("a missing picture is drawn over")
	}
}

// TestKindsByTheirFirstBytes: the media types' signatures (IANA registrations
// and the formats' own standards; from memory).
func TestKindsByTheirFirstBytes(t *testing.T) {
	for head, want := range map[string]string{
		"\x89PNG\r\n\x1a\nxxxx": "png", "\xff\xd8\xff\xe0xxxx": "jpeg", "GIF89a": "gif", "RIFF\x00\x00\x00\x00WEBPVP8 ": "webp",
		"<svg xmlns=''>": "svg", "\xef\xbb\xbf<?xml version='1.0'?>\n<svg>": "svg", "  \n<!-- hi --><svg>": "svg",
		"%PDF-1.7": "", "<html>": "", "PK\x03\x04": "", "": "", "BM": "",
	} {
		if got := raster.Kind([]byte(head)); got != want {
			t.Errorf("%q is told as %q, want %q", head, got, want)
		}
	}
	if !slices.Contains(raster.Formats, "pdf") {
		t.Error("PDF is gone")
	}
}
