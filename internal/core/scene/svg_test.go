package scene_test

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

func drawing(t testing.TB, words string) *scene.Scene {
	t.Helper()
	face, err := assets.Library().Face("Karla", 500, false)
	if err != nil {
		t.Fatal(err)
	}
	line := typeset.NewShaper().Line(words, typeset.Style{Face: face})
	return &scene.Scene{W: 400, H: 300, Alt: `Ada's "best" <one> & only`, Parts: []scene.Part{
		{Slot: "ground", Kind: scene.KindShape, Box: spec.Rect{W: 400, H: 300}, Fill: colour.White},
		{Slot: "picture", Kind: scene.KindPicture, Picture: "abc", Box: spec.Rect{W: 400, H: 100}, Crop: spec.Rect{X: 5, Y: 6, W: 40, H: 10}, Clip: "M0 0h400v90H0z"},
		{Slot: "veil", Kind: scene.KindShape, Box: spec.Rect{W: 400, H: 100}, Fill: colour.Black, Alpha: 0.4},
		{Slot: "fade", Kind: scene.KindShape, Box: spec.Rect{W: 400, H: 100}, Fill: colour.Black, Alpha: 0.4, Fade: &scene.Fade{Y1: 100, Hold: 0.5, Edge: 0.9}},
		{Slot: "fade", Kind: scene.KindShape, Box: spec.Rect{W: 400, H: 100}, Fill: colour.Black, Alpha: 0.4, Fade: &scene.Fade{Radius: 100, Hold: 0.5, Edge: 0.9}},
		{Slot: "headline", Kind: scene.KindText, Text: words, Lines: []scene.TextLine{{Line: line, X: 10, Y: 200}}, SizePx: 40, Fill: colour.Black},
		{Slot: "logo", Kind: scene.KindLogo, Box: spec.Rect{X: 10, Y: 250, W: 60, H: 30}, Art: &brand.Art{SVG: `<circle r="9"/>`, View: [4]float64{-9, -9, 18, 9}}},
	}}
}

// allowed is the short list of what is drawn alike everywhere.
var allowed = map[string]bool{"svg": true, "g": true, "path": true, "rect": true, "circle": true, "image": true, "clipPath": true, "defs": true, "text": true, "linearGradient": true, "radialGradient": true, "stop": true}

func TestOnlyTheShortListOfFeatures(t *testing.T) {
	for _, o := range []scene.Options{{}, {Bare: true}, {Selectable: true}, {Scale: 2, IDs: "x-"}} {
		o.Href = func(scene.PictureRef) string { return "/p?a=1&b=2" }
		svg := drawing(t, "Quiet <water> & \"strokes\"").SVG(o)
		d := xml.NewDecoder(strings.NewReader(svg))
		for {
			tok, err := d.Token()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				t.Fatalf("not well-formed: %v\n%s", err, svg)
			}
			if e, ok := tok.(xml.StartElement); ok {
				if !allowed[e.Name.Local] {
					t.Errorf("<%s> is not on the list", e.Name.Local)
				}
				for _, a := range e.Attr {
					if n := a.Name.Local; n == "style" || n == "class" || strings.HasPrefix(n, "on") {
						t.Errorf("<%s %s>", e.Name.Local, n)
					}
				}
			}
		}
	}
}

func TestBareLeavesOutGlyphsAndNothingElse(t *testing.T) {
	s := drawing(t, "Quiet water")
	href := func(scene.PictureRef) string { return "x" }
	worded, bare := s.Groups(scene.Options{Href: href}), s.Groups(scene.Options{Href: href, Bare: true})
	if len(worded) != len(bare) {
		t.Fatalf("%d and %d groups", len(worded), len(bare))
	}
	for i := range worded {
		if same := worded[i].SVG == bare[i].SVG; same == (worded[i].ID == "headline") {
			t.Errorf("%s: same %v", worded[i].ID, same)
		}
	}
}

// TestOnlyWhatChangedGetsANewHash is what the Mat's small answers rest on.
func TestOnlyWhatChangedGetsANewHash(t *testing.T) {
	o := scene.Options{Href: func(scene.PictureRef) string { return "x" }}
	a, b := drawing(t, "Quiet water").Groups(o), drawing(t, "Quiet waters").Groups(o)
	var changed []string
	for i := range a {
		if a[i].Hash != b[i].Hash {
			changed = append(changed, a[i].ID)
		}
	}
	if fmt.Sprint(changed) != "[headline]" {
		t.Errorf("changed: %v", changed)
	}
	all := drawing(t, "Quiet water")
	joined := all.Open(o)
	for _, g := range all.Groups(o) {
		joined += g.SVG
	}
	if joined+"</svg>" != all.SVG(o) {
		t.Error("the groups are not the drawing")
	}
}

func TestIDsAreKeptApart(t *testing.T) {
	o := scene.Options{Href: func(scene.PictureRef) string { return "x" }, IDs: "story-"}
	svg := drawing(t, "x").SVG(o)
	if !strings.Contains(svg, `id="story-`) || !strings.Contains(svg, `url(#story-`) {
		t.Error("clip paths are not prefixed")
	}
}
