package app_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

// TestArchivesGoRound: out, in and out again gives the same bytes, members of
// somebody else and all; the command line reads the archive too.
func TestArchivesGoRound(t *testing.T) {
	a, m, kit, _ := open(t)
	for path, value := range map[string]string{"/somebody": `{"else":[1,2.50,{"z":1,"a":2}]}`, "/$extensions/aspenridge/motion": `{"later":{"x":1.50},"mark":{"place":"bottom-left"}}`} {
		if _, err := a.Documents.Edit(t.Context(), m, kit, app.Change{Client: "tab", Base: app.Latest, Op: edit.Op{Path: path, Value: json.RawMessage(value)}}); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Brand.AddBrandPicture(t.Context(), m, kit, "tab", "dawn.svg", []byte(demo.Pictures()["dawn-on-the-bend.svg"])); err != nil {
		t.Fatal(err)
	}
	name, one, err := a.Kits.ExportKit(t.Context(), m, kit)
	if err != nil || name != "larkmoor-paddle-school.zip" {
		t.Fatalf("%s %v", name, err)
	}
	again, err := a.Kits.ImportArchive(t.Context(), m, one)
	if err != nil {
		t.Fatal(err)
	}
	if again == kit {
		t.Fatal("the archive came in as the kit it was made of")
	}
	_, two, err := a.Kits.ExportKit(t.Context(), m, again)
	if err != nil || !bytes.Equal(one, two) {
		t.Errorf("the second archive differs: %d and %d bytes (%v)", len(one), len(two), err)
	}
	k, err := a.Kits.Kit(t.Context(), m, again)
	if err != nil || len(k.Logos) != 4 || k.Logos[0].Art == nil || len(k.Pictures) != 1 || k.Motion.Mark.Place != "bottom-left" || len(k.Warnings) != 0 {
		t.Errorf("%d logos, warnings %v (%v)", len(k.Logos), k.Warnings, err)
	}
	fsys, err := kitfile.OpenZip(one)
	if err != nil {
		t.Fatal(err)
	}
	if fromFile, err := kitfile.LoadKit(t.Context(), fsys, false); err != nil || fromFile.Name != "Larkmoor Paddle School" || len(fromFile.Logos) != 4 {
		t.Errorf("as a file: %v", err)
	}
}

func archive(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, data := range files {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write([]byte(data))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestBadArchivesLeaveNothing: each is refused with what is wrong, and there is
// no kit and no file of it.
func TestBadArchivesLeaveNothing(t *testing.T) {
	a, m, _, _ := open(t)
	count := func() (kits, files int) {
		t.Helper()
		if err := a.Store().Pool.QueryRow(t.Context(), `select (select count(*) from documents where kind = 'kit'), (select count(*) from files)`).Scan(&kits, &files); err != nil {
			t.Fatal(err)
		}
		return kits, files
	}
	kits, files := count()
	const doc = `{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":"logos/a.svg"},{"file":"logos/b.svg"}]}}}`
	const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><circle cx="4" cy="4" r="3" fill="#123"/></svg>`
	for what, c := range map[string]struct {
		data []byte
		says string
	}{
		"no archive":          {[]byte("hello"), "ZIP"},
		"an empty one":        {archive(t, nil), "kit.json"},
		"path traversal":      {archive(t, map[string]string{"kit.json": doc, "../../etc/passwd": "x"}), "leads out"},
		"a path in the kit":   {archive(t, map[string]string{"kit.json": strings.Replace(doc, "logos/a.svg", "../a.svg", 1), "logos/b.svg": logo}), "../a.svg"},
		"a missing file":      {archive(t, map[string]string{"kit.json": doc, "logos/a.svg": logo}), "logos/b.svg"},
		"a bad second logo":   {archive(t, map[string]string{"kit.json": doc, "logos/a.svg": logo, "logos/b.svg": "no logo"}), "logos/b.svg"},
		"wrong hex":           {archive(t, map[string]string{"kit.json": `{"color":{"m":{"c":{"$value":{"hex":"#xyz"}}}},"$extensions":{"aspenridge":{"formatVersion":1,"name":"x"}}}`}), "#xyz"},
		"a zip bomb":          {bomb(t), "MB"},
		"cut in the middle":   {archive(t, map[string]string{"kit.json": doc})[:80], "ZIP"},
		"a kit of the future": {archive(t, map[string]string{"kit.json": `{"$extensions":{"aspenridge":{"formatVersion":9,"name":"x"}}}`}), "formatVersion 9"},
	} {
		_, err := a.Kits.ImportArchive(t.Context(), m, c.data)
		if !errors.Is(err, app.ErrInvalid) && !errors.Is(err, raster.ErrFile) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", what, err, c.says)
		}
		if k, f := count(); k != kits || f != files {
			t.Errorf("%s left %d kits and %d files", what, k-kits, f-files)
		}
	}
}

// bomb is a small archive whose logo unpacks to 300 MB.
func bomb(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create("logos/a.svg")
	if err != nil {
		t.Fatal(err)
	}
	zeros := make([]byte, 1<<20)
	for range 300 {
		if _, err := w.Write(zeros); err != nil {
			t.Fatal(err)
		}
	}
	if w, err = z.Create("kit.json"); err == nil {
		_, err = w.Write([]byte(`{"$extensions":{"aspenridge":{"formatVersion":1,"name":"x","logos":[{"file":"logos/a.svg"}]}}}`))
	}
	if err != nil {
		t.Fatal(err)
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestDuplicatesStandAlone(t *testing.T) {
	a, m, kit, _ := open(t)
	twin, err := a.Kits.DuplicateKit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Brand.SetColour(t.Context(), m, twin, app.Change{Client: "tab", Base: app.Latest}, "main.river", "#5b1f4a"); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	c, _ := k.Colour("main.river")
	if c.Value.Hex() != "#0F3D4C" {
		t.Errorf("changing the copy changed the original: %s", c.Value.Hex())
	}
	if two, _ := a.Kits.Kit(t.Context(), m, twin); two.Name != "Larkmoor Paddle School (copy)" || len(two.Logos) != 4 {
		t.Errorf("%q with %d logos", two.Name, len(two.Logos))
	}
}
