package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/test/stage"
)

// The command line and the Mat make the same of a brief: a post of several cards,
// two looks, changes by hand of every reach; byte for byte.
func TestTheCommandLineIsTheMat(t *testing.T) {
	s, err := stage.Open(t.Context(), stage.Options{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	ctx, a := t.Context(), s.App
	m, err := a.People.SignUp(ctx, "Ada", "a@one.example", "ten or more letters")
	if err != nil {
		t.Fatal(err)
	}
	kit, err := demo.LoadKit(ctx, a, m)
	if err != nil {
		t.Fatal(err)
	}
	id, err := demo.LoadBrief(ctx, a, m, kit, "beginners.json", "shoreline")
	if err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	change := func(path string, v any) {
		t.Helper()
		data, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Documents.Edit(ctx, m, id, app.Change{Base: app.Latest, Op: edit.Op{Path: path, Value: data}}); err != nil {
			t.Fatal(err)
		}
	}
	change("/cards/-", map[string]any{"headline": "A second card, of its own", "callToAction": "Save a seat"})
	change("/placements", []string{"feed-square", "card-tall", "story", "ad-320x50", "shop-banner"})
	write := func(field, reach, text string) {
		t.Helper()
		if _, err := a.Briefs.Write(ctx, m, id, app.Change{Base: app.Latest}, "", field, reach, text); err != nil {
			t.Fatal(err)
		}
	}
	write("headline", "set", "For the whole set")
	write("headline", "channel:stories", "For the stories")
	write("subheading", "class:tall", "For what is tall")
	write("headline", "piece:card-tall", "For the first card")
	write("headline", "piece:card-tall+2", "For the second card")
	write("shortHeadline", "piece:ad-320x50", "For one ad")
	if _, err := a.Sets.SetLogo(ctx, m, id, "", "piece:story", k.Logos[1].File); err != nil {
		t.Fatal(err)
	}
	set, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Sets.KeepLook(ctx, m, id, "", set.Job.Looks(5)[4], false); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Sets.Turn(ctx, m, id, "", app.Step{What: "layout", By: 1, Reach: "piece:shop-banner", Placement: "shop-banner"}); err != nil {
		t.Fatal(err)
	}
	var edits []app.HandEdit // every property of how a piece is drawn
	for _, h := range stage.ByHand("color.main.coral", set.Brief.Cards[0].Pictures[0].File, k.Logos[0].File) {
		edits = append(edits, app.HandEdit{Reach: h.Reach, Slot: h.Slot, Property: h.Property, Value: h.Value})
	}
	if _, err := a.Sets.ByHand(ctx, m, id, app.Change{Base: app.Latest}, "feed-square", edits); err != nil {
		t.Fatal(err)
	}
	if set, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}

	// the same as files
	dir := t.TempDir()
	_, archive, err := a.Kits.ExportKit(ctx, m, kit)
	if err != nil {
		t.Fatal(err)
	}
	names := map[string]string{} // how the kit's files are called in the archive
	for _, l := range k.Logos {
		_, base, _ := strings.Cut(l.File, "/")
		names[l.File] = "logos/" + base
	}
	doc := string(set.Doc.Doc)
	for ref, name := range names {
		doc = strings.ReplaceAll(doc, ref, name)
	}
	for _, p := range set.Brief.Cards[0].Pictures {
		data, err := s.Blobs.Get(ctx, app.HashOf(p.File))
		if err != nil {
			t.Fatal(err)
		}
		if err := os.MkdirAll(filepath.Dir(filepath.Join(dir, p.File)), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(dir, p.File), data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	for name, data := range map[string][]byte{"kit.zip": archive, "brief.json": []byte(doc)} {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	out := filepath.Join(dir, "out")
	if status, stderr := do(t, "render", "-kit", filepath.Join(dir, "kit.zip"), "-brief", filepath.Join(dir, "brief.json"), "-out", out); status > 1 {
		t.Fatalf("status %d: %s", status, stderr)
	}
	r := report(t, out)
	plans, err := set.Plans(app.HandOver{Look: "all", Format: "png"})
	if err != nil {
		t.Fatal(err)
	}
	if len(r.Pieces) != len(plans) {
		t.Fatalf("the command line makes %d pieces, the Mat %d", len(r.Pieces), len(plans))
	}
	for i, pl := range plans {
		if r.Pieces[i].Placement != pl.Piece.Placement.ID {
			t.Fatalf("piece %d is %s here and %s there", i, r.Pieces[i].Placement, pl.Piece.Placement.ID)
		}
		want, err := a.Files.Draw(ctx, nil, pl, false)
		if err != nil {
			t.Fatal(err)
		}
		got, err := os.ReadFile(filepath.Join(out, r.Pieces[i].Files[0].File))
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(got, want.Data) {
			t.Errorf("%s differs", pl.Key)
		}
	}
	said := func(placement string) string {
		for _, p := range r.Pieces {
			for _, e := range p.Elements {
				if p.Placement == placement && e.Slot == "headline" {
					return e.Text
				}
			}
		}
		return ""
	}
	for placement, want := range map[string]string{"feed-square": "For the whole set", "story": "For the stories", "card-tall": "For the first card", "card-tall+2": "For the second card"} {
		if got := said(placement); !strings.EqualFold(got, want) { // set in capitals by hand
			t.Errorf("%s says %q, want %q", placement, got, want)
		}
	}
}
