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
	"aspenridge/internal/core/spec"
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
		Shaper:   assets.Shaper(),
		Pictures: map[string]photo.Picture{b.Cards[0].Pictures[0].File: pic},
	}
}

func TestCaretFollowsTheWords(t *testing.T) {
	job := testJob(t)
	p, _ := spec.Find("feed-square")
	typed := "Quiet  water, first strokes..."
	job.Brief.Cards[0].Headline = &typed
	pc := job.Compose(job.Looks(1)[0], p, 0)
	for i := range pc.Scene.Parts {
		part := &pc.Scene.Parts[i]
		if part.Slot != "headline" {
			continue
		}
		stops := piece.Stops(part, typed)
		if len(stops) != len([]rune(typed))+1 {
			t.Fatalf("%d stops for %d characters", len(stops), len([]rune(typed)))
		}
		for j := 1; j < len(stops); j++ {
			if stops[j].Top == stops[j-1].Top && stops[j].X < stops[j-1].X {
				t.Errorf("the caret runs backwards at %d: %+v after %+v", j, stops[j], stops[j-1])
			}
		}
		first, last := stops[0], stops[len(stops)-1]
		if d := first.X - part.Box.X; d > 0.12*part.SizePx || d < -0.12*part.SizePx {
			t.Errorf("the first stop %v is not at the text's left edge %v", first.X, part.Box.X)
		}
		if last.X < first.X {
			t.Errorf("the last stop %+v", last)
		}
		return
	}
	t.Fatal("no headline")
}
