package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
)

// TestAKitThatFollowsAnother: a change of the parent reaches the child, what the
// child says stays, items are handed back and left out, a circle is refused.
func TestAKitThatFollowsAnother(t *testing.T) {
	a, m, parent, _ := open(t)
	child, err := demo.LoadAfterDark(t.Context(), a, m, parent)
	if err != nil {
		t.Fatal(err)
	}
	brief, err := a.Briefs.NewBrief(t.Context(), m, child)
	if err != nil {
		t.Fatal(err)
	}
	kit := func() *app.Kit {
		t.Helper()
		k, err := a.Kits.Kit(t.Context(), m, child)
		if err != nil {
			t.Fatal(err)
		}
		return k
	}
	value := func(token string) string { c, _ := kit().Colour(token); return c.Value.Hex() }
	if _, err := a.Sets.Set(t.Context(), m, brief); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Brand.SetColour(t.Context(), m, parent, app.Change{Client: "tab", Base: app.Latest}, "main.river", "#123456"); err != nil {
		t.Fatal(err)
	}
	set, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	if c, _ := set.Kit.Colour("main.river"); value("main.river") != "#123456" || c.Value.Hex() != "#123456" {
		t.Errorf("the parent's change did not arrive: %s, in the brief %s", value("main.river"), c.Value.Hex())
	}
	if n, pieces, err := a.Store().Following(t.Context(), m.Workspace, parent, 0); err != nil || n != 2 || pieces != 13+len(app.DefaultPlacements) {
		t.Errorf("%d briefs with %d pieces follow the parent, want its own and the child's: %v", n, pieces, err)
	}
	// overriding, handing back, leaving out
	c := app.Change{Client: "tab", Base: app.Latest}
	if _, err := a.Brand.SetColour(t.Context(), m, child, c, "main.reed", "#445566"); err != nil {
		t.Fatal(err)
	}
	if s := kit().Origin("/color/main/reed"); s != brand.Overrides || value("main.reed") != "#445566" {
		t.Errorf("reed %s %q", value("main.reed"), s)
	}
	for range 2 { // back to the parent's, then out
		if _, err := a.Kits.LeaveOut(t.Context(), m, child, c, "/color/main/reed"); err != nil {
			t.Fatal(err)
		}
	}
	if _, ok := kit().Colour("main.reed"); ok {
		t.Error("reed is still there")
	}
	logo := kit().Logos[0].File
	if _, err := a.Kits.LeaveOut(t.Context(), m, child, c, brand.FilePath("logos", logo)); err != nil {
		t.Fatal(err)
	}
	if kit().Logos[0].File == logo {
		t.Error("the logo is still there")
	}
	if err := a.Brand.LeadLogo(t.Context(), m, child, "tab", kit().Logos[0].ID); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("changing the parent's logo from the child: %v", err)
	}
	// a level set in the child leaves the others to the parent
	if err := a.Brand.SetLevel(t.Context(), m, child, "tab", "main", brand.Headline, "family", "Outfit"); err != nil {
		t.Fatal(err)
	}
	if kit().Origin("/type/headline") != brand.Overrides || kit().Origin("/type/body") != brand.Inherited {
		t.Error("the levels' standing is wrong")
	}
	if err := a.Kits.Follow(t.Context(), m, parent, "tab", child.String()); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a circle: %v", err)
	}
	if err := a.Kits.Follow(t.Context(), m, child, "tab", child.String()); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("following itself: %v", err)
	}
	// an archive of the child stands by itself
	_, data, err := a.Kits.ExportKit(t.Context(), m, child)
	if err != nil {
		t.Fatal(err)
	}
	alone, err := a.Kits.ImportArchive(t.Context(), m, data)
	if err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(t.Context(), m, alone)
	if err != nil || len(k.Colours()) != len(kit().Colours()) || len(k.Logos) != len(kit().Logos) {
		t.Errorf("the archive: %v", err)
	}
}

// TestCopyingBetweenKits: a palette, a logo and a type set join another kit and
// stay as they are when the first one changes.
func TestCopyingBetweenKits(t *testing.T) {
	a, m, from, _ := open(t)
	to, err := a.Kits.NewKit(t.Context(), m, "Pellow & Finch")
	if err != nil {
		t.Fatal(err)
	}
	source, err := a.Kits.Kit(t.Context(), m, from)
	if err != nil {
		t.Fatal(err)
	}
	for _, what := range []string{"color/main", "color/main", "logo/" + source.Logos[1].ID, "type/main"} {
		if err := a.Kits.CopyTo(t.Context(), m, from, to, "tab", what); err != nil {
			t.Fatalf("%s: %v", what, err)
		}
	}
	k, err := a.Kits.Kit(t.Context(), m, to)
	if err != nil {
		t.Fatal(err)
	}
	if len(k.Palettes) != 2 || len(k.Palettes[1].Colours) != 7 || len(k.Logos) != 1 || len(k.TypeSets) != 2 || k.TypeSets[1].Levels[brand.Headline].Family != "Gabarito" {
		t.Errorf("%d palettes, %d logos, %d type sets", len(k.Palettes), len(k.Logos), len(k.TypeSets))
	}
	for _, what := range []string{"color/none", "logo/9", "logo/1", "voice/x"} {
		if err := a.Kits.CopyTo(t.Context(), m, from, to, "tab", what); err == nil {
			t.Errorf("%s was copied", what)
		}
	}
}

// TestManyKits: found by words, ordered, a page at a time, deleted and brought
// back, and one that new briefs start with.
func TestManyKits(t *testing.T) {
	a, m, first, _ := open(t)
	var last app.ID
	for i := range 70 {
		id, err := a.Kits.NewKit(t.Context(), m, fmt.Sprintf("Client %02d North", i))
		if err != nil {
			t.Fatal(err)
		}
		last = id
	}
	page, total, err := a.Kits.FindKits(t.Context(), m, store.KitQuery{Find: "north client", Sort: "name", Limit: 60})
	if err != nil || total != 70 || len(page) != 60 || page[0].Name != "Client 00 North" {
		t.Fatalf("%d of %d, %v", len(page), total, err)
	}
	if d, err := a.Kits.DefaultKit(t.Context(), m); err != nil || d != first {
		t.Errorf("without a choice the first kit is the default, whatever came after: %v", err)
	}
	if err := a.Kits.SetDefaultKit(t.Context(), m, last); err != nil {
		t.Fatal(err)
	}
	if d, _ := a.Kits.DefaultKit(t.Context(), m); d != last {
		t.Error("the chosen kit is not the default")
	}
	if err := a.Kits.SetDefaultKit(t.Context(), m, first); err != nil {
		t.Fatal(err)
	}
	if d, _ := a.Kits.DefaultKit(t.Context(), m); d != first {
		t.Error("the chosen kit is not the default")
	}
	if err := a.Documents.Delete(t.Context(), m, first, true); err != nil {
		t.Fatal(err)
	}
	if d, _ := a.Kits.DefaultKit(t.Context(), m); d == first {
		t.Error("a deleted kit is the default")
	}
	if _, total, _ = a.Kits.FindKits(t.Context(), m, store.KitQuery{Find: "larkmoor", Limit: 5}); total != 0 {
		t.Error("a deleted kit is found")
	}
	if err := a.Documents.Delete(t.Context(), m, first, false); err != nil {
		t.Fatal(err)
	}
	if _, total, _ = a.Kits.FindKits(t.Context(), m, store.KitQuery{Find: "larkmoor", Limit: 5}); total != 1 {
		t.Error("a kit brought back is not found")
	}
	viewer := m
	viewer.Role = "viewer"
	if err := a.Documents.Delete(t.Context(), viewer, first, true); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("a viewer deletes: %v", err)
	}
	if _, err := a.Documents.Edit(t.Context(), m, first, app.Change{Client: "tab", Base: app.Latest, Op: edit.Op{Path: "/$extensions/aspenridge/parent", Value: []byte(`"elsewhere/kit"`)}}); err != nil {
		t.Fatal(err)
	}
	if k, err := a.Kits.Kit(t.Context(), m, first); err != nil || !strings.HasPrefix(k.Name, "Larkmoor") {
		t.Errorf("a parent named in somebody else's way: %v", err)
	}
}
