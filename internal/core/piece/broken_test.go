package piece_test

import (
	"slices"
	"testing"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
	"aspenridge/layouts"
	"aspenridge/test/hostile"
)

// A face that fails while it is set costs its family, not the piece: the words
// stand there in a shipped face, and a finding says why.
func TestABrokenFontIsAFinding(t *testing.T) {
	good, err := assets.Font("libre-franklin-700.ttf")
	if err != nil {
		t.Fatal(err)
	}
	face, err := typeset.ParseFace(good)
	if err != nil {
		t.Fatal(err)
	}
	gid := func(r rune) int { g, _ := face.Glyph(r); return g }
	doc, err := edit.ParseObject(demo.KitDocument())
	if err != nil {
		t.Fatal(err)
	}
	k, err := brand.Parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	for l, s := range k.TypeSets[0].Levels {
		s.Family = "Trouble"
		k.TypeSets[0].Levels[l] = s
	}
	headline := "a sail and a bay"
	for _, f := range hostile.Fonts(good, gid) {
		if f.Name != "itself.ttf" { // what no import lets through
			continue
		}
		lib := typeset.NewLibrary(assets.Library(), typeset.Entry{Family: "Trouble", Weight: 700, Read: func() ([]byte, error) { return f.Data, nil }})
		j := &piece.Job{
			Kit: k, Brief: &brief.Brief{FormatVersion: 1, Purpose: "hello", Signature: "both", Cards: []brief.Card{{Headline: &headline}}},
			Layouts: layouts.All(), Library: lib, Shaper: assets.Shaper(), Pictures: map[string]photo.Picture{}, KitPictures: map[string]photo.Picture{},
		}
		p, _ := spec.Find("feed-square")
		j.Compose(j.Looks(1)[0], p, 0) // the one in which it fails
		pc := j.Compose(j.Looks(1)[0], p, 0)
		if !slices.ContainsFunc(pc.Findings, func(f preflight.Finding) bool { return f.Code == "font-broken" }) {
			t.Errorf("%s: no finding says so", f.Harm)
		}
		if !slices.ContainsFunc(pc.Scene.Parts, func(p scene.Part) bool { return p.Slot == "headline" && p.Text != "" && !p.Box.Empty() }) {
			t.Errorf("%s: the headline is gone", f.Harm)
		}
		if preflight.Why("font-broken") == "" {
			t.Error("nobody is told why")
		}
	}
}
