package app_test

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"os"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/store"
)

// TestAnythingMakesAKit: whatever there is to begin with becomes a kit, and what
// cannot be read leaves none.
func TestAnythingMakesAKit(t *testing.T) {
	a, m, _, _ := open(t)
	img := image.NewRGBA(image.Rect(0, 0, 80, 60))
	for i := range 80 * 60 {
		img.Set(i%80, i/80, color.RGBA{uint8(i / 80 * 4), 90, 140, 255})
	}
	var photo bytes.Buffer
	if err := jpeg.Encode(&photo, img, nil); err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string]string{
		"kit.json":    `{"color":{"main":{"river":{"$value":"#0F3D4C"}}},"$extensions":{"aspenridge":{"formatVersion":1,"name":"Somebody's"}}}`,
		"tokens.json": `{"brand":{"$type":"color","river":{"$value":"#0F3D4C"},"coral":{"$value":"#F2694B"}}}`,
		"style.css":   `:root { --river: #0F3D4C; --coral: #F2694B }`,
		"list.txt":    "River #0F3D4C\nSand 246 235 214",
		"mark.svg":    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" fill="#0F3D4C"/></svg>`,
		"photo.jpg":   photo.String(),
	} {
		id, err := a.Kits.BringKit(t.Context(), m, name, []byte(data))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		k, err := a.Kits.Kit(t.Context(), m, id)
		if err != nil || len(k.Colours()) == 0 {
			t.Errorf("%s: %d colours, %v", name, len(k.Colours()), err)
		}
		if name == "photo.jpg" && (len(k.Pictures) != 1 || k.BestContrast() < brand.SmallText) {
			t.Errorf("the photograph: %d pictures, contrast %.1f", len(k.Pictures), k.BestContrast())
		}
	}
	_, before, err := a.Kits.FindKits(t.Context(), m, store.KitQuery{Limit: 1})
	if err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string]string{"nonsense.txt": "no colour here", "broken.svg": "<svg", "empty.json": "{}", "cut.jpg": photo.String()[:200]} {
		if _, err := a.Kits.BringKit(t.Context(), m, name, []byte(data)); err == nil {
			t.Errorf("%s made a kit", name)
		}
	}
	if _, after, _ := a.Kits.FindKits(t.Context(), m, store.KitQuery{Limit: 1}); after != before {
		t.Errorf("%d kits were left behind", after-before)
	}
}

// TestAFontIsReplaced: levels set in it follow, the right is asked for anew, and
// one undo takes it all back.
func TestAFontIsReplaced(t *testing.T) {
	a, m, kit, _ := open(t)
	karla, err := os.ReadFile("../core/typeset/testdata/karla-latin-500-normal.woff2")
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.AddFont(t.Context(), m, kit, "tab", "karla.woff2", karla); err != nil {
		t.Fatal(err)
	}
	read := func() *app.Kit {
		t.Helper()
		k, err := a.Kits.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		return k
	}
	family := read().Fonts[0].Family
	if err := a.Brand.SetFamilies(t.Context(), m, kit, "tab", "", family, ""); err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.ConfirmFont(t.Context(), m, kit, "tab", read().Fonts[0].ID, true); err != nil {
		t.Fatal(err)
	}
	bitter, err := assets.Font("bitter-800.ttf")
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.ReplaceFont(t.Context(), m, kit, "tab", read().Fonts[0].ID, "bitter.ttf", bitter); err != nil {
		t.Fatal(err)
	}
	k := read()
	if head := k.TypeSets[0].Levels[brand.Headline]; len(k.Fonts) != 1 || k.Fonts[0].Family == family || head.Family != k.Fonts[0].Family || k.Fonts[0].ConfirmedBy != "" {
		t.Errorf("%+v, headline in %s", k.Fonts, head.Family)
	}
	if _, _, err := a.Documents.Undo(t.Context(), m, kit, "tab", false); err != nil {
		t.Fatal(err)
	}
	if k := read(); k.Fonts[0].Family != family || k.TypeSets[0].Levels[brand.Headline].Family != family {
		t.Error("one undo does not take it back")
	}
	if err := a.Brand.ReplaceFont(t.Context(), m, kit, "tab", "gone", "bitter.ttf", bitter); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("no such font: %v", err)
	}
}
