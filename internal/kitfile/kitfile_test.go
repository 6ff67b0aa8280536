package kitfile_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	os.Exit(m.Run())
}

const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><path fill="#0f3d4c" d="M0 0h20v20H0z"/></svg>`

// kitDoc is a kit whose headline is in a family, with a font file, a logo and a
// pattern.
func kitDoc(family string) string {
	return fmt.Sprintf(`{
  "color": {"river": {"$type": "color", "$value": "#0f3d4c"}},
  "type": {"headline": {"$type": "typography", "$value": {"fontFamily": %q, "fontWeight": 800}}},
  "$extensions": {"aspenridge": {"formatVersion": 1, "name": "House",
    "fonts": [{"file": "fonts/own.ttf"}],
    "logos": [{"file": "logos/mark.svg", "lockup": "horizontal", "tone": "for-light"}],
    "pictures": [{"file": "pictures/dots.png", "kind": "pattern", "alt": ""}]}}}`, family)
}

func pngOf(t *testing.T, w, h int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, w, h))); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func folder(t *testing.T, doc string) fstest.MapFS {
	t.Helper()
	font, err := assets.Font("bitter-800.ttf")
	if err != nil {
		t.Fatal(err)
	}
	return fstest.MapFS{
		"kit.json": {Data: []byte(doc)}, "fonts/own.ttf": {Data: font}, "logos/mark.svg": {Data: []byte(logo)},
		"pictures/dots.png": {Data: pngOf(t, 12, 12)}, "one.png": {Data: pngOf(t, 40, 30)}, "two.png": {Data: pngOf(t, 30, 40)}, "face.png": {Data: pngOf(t, 20, 20)},
	}
}

func TestAKitIsReadWithAllItNames(t *testing.T) {
	k, err := kitfile.LoadKit(t.Context(), folder(t, kitDoc("Bitter")), false)
	if err != nil {
		t.Fatal(err)
	}
	if k.Fonts[0].Family != "Bitter" || k.Fonts[0].Facts.Weight != 800 || !k.Library.Has("bitter") {
		t.Errorf("the font is %+v", k.Fonts[0])
	}
	if art := k.Logos[0].Art; art == nil || art.View[2] < 20 || art.View[2] > 21 || len(art.Inks) == 0 {
		t.Errorf("the logo is %+v", art)
	}

	brief, err := kitfile.LoadBrief([]byte(`{"formatVersion": 1, "name": "", "cards": [
		{"headline": "One", "pictures": [{"file": "one.png"}, {"file": "two.png"}], "person": {"name": "A", "picture": "face.png"}}],
		"adjustments": [{"reach": "piece:story", "slot": "picture", "property": "file", "value": "pictures/dots.png"}]}`))
	if err != nil {
		t.Fatal(err)
	}
	files := folder(t, kitDoc("Bitter"))
	pics, err := kitfile.LoadPictures(t.Context(), brief, files, k.Kit, files)
	if err != nil {
		t.Fatal(err)
	}
	for file, size := range map[string][2]int{"one.png": {40, 30}, "two.png": {30, 40}, "face.png": {20, 20}, "pictures/dots.png": {12, 12}} {
		p, ok := pics.Brief[file]
		if !ok || [2]int{p.W, p.H} != size {
			t.Errorf("%s is %d × %d, %v", file, p.W, p.H, ok)
			continue
		}
		if data, err := pics.Source(p.Hash); err != nil || raster.Kind(data) == "" {
			t.Errorf("%s: %d bytes, %v", file, len(data), err)
		}
	}
	if _, ok := pics.Kit["pictures/dots.png"]; !ok {
		t.Error("the kit's pattern is not there")
	}
	if _, err := pics.Source("no such"); err == nil {
		t.Error("a picture that is not there is")
	}
	if job := kitfile.Job(k, brief, pics); len(job.Looks(1)) != 1 {
		t.Error("no look for it")
	}
}

func TestWhatIsMissingIsNamed(t *testing.T) {
	if _, err := kitfile.LoadKit(t.Context(), folder(t, kitDoc("Nowhere Grotesk")), false); !errors.Is(err, kitfile.ErrFont) || !strings.Contains(err.Error(), "Nowhere Grotesk") {
		t.Errorf("a family nobody has: %v", err)
	}
	k, err := kitfile.LoadKit(t.Context(), folder(t, kitDoc("Nowhere Grotesk")), true)
	if err != nil || k.TypeSets[0].Levels[brand.Headline].Family != brand.DefaultFamily || !strings.Contains(strings.Join(k.Warnings, " "), "Nowhere Grotesk") {
		t.Errorf("replaced: %v, %v", k.Warnings, err)
	}
	for _, file := range []string{"kit.json", "fonts/own.ttf", "logos/mark.svg"} {
		files := folder(t, kitDoc("Bitter"))
		delete(files, file)
		if _, err := kitfile.LoadKit(t.Context(), files, true); err == nil || !strings.Contains(err.Error(), file) {
			t.Errorf("without %s: %v", file, err)
		}
		files[file] = &fstest.MapFile{Data: []byte("\x00 nothing of the kind")}
		if _, err := kitfile.LoadKit(t.Context(), files, true); err == nil || !strings.Contains(err.Error(), file) {
			t.Errorf("with a broken %s: %v", file, err)
		}
	}
	for _, file := range []string{"none.png", "../outside.png", "/etc/hostname"} {
		b, err := kitfile.LoadBrief([]byte(fmt.Sprintf(`{"formatVersion": 1, "cards": [{"headline": "One", "pictures": [{"file": %q}]}]}`, file)))
		if err != nil {
			continue // refused even earlier
		}
		if _, err := kitfile.LoadPictures(t.Context(), b, folder(t, kitDoc("Bitter")), k.Kit, folder(t, kitDoc("Bitter"))); err == nil || !strings.Contains(err.Error(), filepath.Base(file)) {
			t.Errorf("%s: %v", file, err)
		}
	}
}

func archive(t *testing.T, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, data := range files {
		f, err := z.Create(name)
		if err == nil {
			_, err = f.Write([]byte(data))
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

func TestArchivesKeepToTheirFolderAndSize(t *testing.T) {
	good := archive(t, map[string]string{"kit.json": "{}"})
	if _, err := kitfile.OpenZip(good); err != nil {
		t.Error(err)
	}
	many := map[string]string{}
	for n := range 2001 {
		many[fmt.Sprint(n)] = ""
	}
	// the size an entry says it unpacks to stands 24 bytes into its record in the
	// central directory (APPNOTE.TXT, 4.3.12)
	huge := archive(t, map[string]string{"kit.json": "{}"})
	at := bytes.Index(huge, []byte("PK\x01\x02"))
	binary.LittleEndian.PutUint32(huge[at+24:], 300<<20)
	for what, data := range map[string][]byte{
		"no archive": []byte("PK\x03\x04 and no more"), "a way out": archive(t, map[string]string{"../kit.json": "{}"}),
		"from the root": archive(t, map[string]string{"/etc/kit.json": "{}"}), "too many files": archive(t, many), "too much to unpack": huge,
	} {
		if _, err := kitfile.OpenZip(data); err == nil {
			t.Errorf("%s: it opens", what)
		}
	}
}

// A folder is left neither by its names nor by its links.
func TestAFolderIsNotLeft(t *testing.T) {
	outside, dir := t.TempDir(), t.TempDir()
	if err := os.WriteFile(filepath.Join(outside, "kit.json"), []byte(kitDoc("Bitter")), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(filepath.Join(outside, "kit.json"), filepath.Join(dir, "kit.json")); err != nil {
		t.Fatal(err)
	}
	fsys, err := kitfile.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := fsys.Open("kit.json"); err == nil {
		t.Error("a link out of the folder is followed")
	}
	file := filepath.Join(outside, "kit.zip")
	if err := os.WriteFile(file, archive(t, map[string]string{"kit.json": "{}"}), 0o600); err != nil {
		t.Fatal(err)
	}
	if fsys, err = kitfile.Open(file); err != nil {
		t.Fatal(err)
	}
	if _, err := fsys.Open("kit.json"); err != nil {
		t.Error(err)
	}
	if _, err := kitfile.Open(filepath.Join(dir, "nowhere")); err == nil {
		t.Error("a folder that is not there opens")
	}
}

// FuzzOpenZip opens archives of anything: every name in one stays inside, and what
// it holds can be asked for.
func FuzzOpenZip(f *testing.F) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, name := range []string{"kit.json", "logos/mark.svg"} {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write([]byte(logo))
		}
		if err != nil {
			f.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		f.Fatal(err)
	}
	f.Add(b.Bytes())
	f.Add(bytes.Replace(b.Bytes(), []byte("logos/mark.svg"), []byte("../../mark.svg"), -1))
	f.Add(b.Bytes()[:b.Len()/2])
	f.Fuzz(func(t *testing.T, data []byte) {
		fsys, err := kitfile.OpenZip(data)
		if err != nil {
			return
		}
		_ = fs.WalkDir(fsys, ".", func(name string, d fs.DirEntry, err error) error {
			if !fs.ValidPath(name) {
				t.Errorf("%q is in it", name)
			}
			return nil
		})
		_, _ = kitfile.LoadBrief(data)
	})
}
