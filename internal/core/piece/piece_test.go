package piece_test

import (
	"testing"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/typeset"
	"aspenridge/layouts"
)

// testJob is the demo's first brief with a picture of plausible size and no
// logos (their art needs the raster package).
func testJob(t testing.TB) *piece.Job {
	t.Helper()
	doc, err := edit.ParseObject(demo.KitDocument())
	if err != nil {
		t.Fatal(err)
	}
	k, err := brand.Parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	bdoc, err := edit.ParseObject([]byte(demo.Briefs()["beginners.json"]))
	if err != nil {
		t.Fatal(err)
	}
	b, err := brief.Parse(bdoc)
	if err != nil {
		t.Fatal(err)
	}
	pic := photo.Picture{Hash: "x", W: 2000, H: 1600}
	return &piece.Job{
		Kit: k, Brief: b, Layouts: layouts.All(), Library: assets.Library(),
		Shaper:   typeset.NewShaper(assets.Fallback()...),
		Pictures: map[string]photo.Picture{b.Cards[0].Pictures[0].File: pic},
	}
}
