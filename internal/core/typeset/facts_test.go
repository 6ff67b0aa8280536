package typeset

import (
	"encoding/binary"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// shipped are the files of assets/fonts.
func shipped(t *testing.T) []string {
	t.Helper()
	list, err := filepath.Glob("../../../assets/fonts/*.ttf")
	if err != nil || len(list) < 20 {
		t.Fatalf("%d fonts, %v", len(list), err)
	}
	return list
}

// TestFactsAgreeWithFcQuery compares every shipped file, and OpenType ones of
// the system where there are, with what fontconfig's fc-query reads.
func TestFactsAgreeWithFcQuery(t *testing.T) {
	if _, err := exec.LookPath("fc-query"); err != nil {
		t.Fatal("fc-query is missing: scripts/setup --tests")
	}
	// fontconfig's weights (fontconfig.h) as CSS has them
	weights := map[string]int{"0": 100, "40": 200, "50": 300, "80": 400, "100": 500, "180": 600, "200": 700, "205": 800, "210": 900}
	list := shipped(t)
	otf, _ := filepath.Glob("/usr/share/fonts/opentype/*/*.otf")
	for _, file := range append(list, otf...) {
		out, err := exec.Command("fc-query", "-f", `%{family[0]}|%{weight}|%{slant}|%{variable}`, file).Output()
		if err != nil {
			t.Fatalf("%s: %v", file, err)
		}
		want := strings.Split(string(out), "|")
		data, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		f, err := ReadFacts(data)
		if err != nil {
			t.Errorf("%s: %v", file, err)
			continue
		}
		variable := map[bool]string{true: "True", false: "False"}[f.Variable]
		if f.Family != want[0] || f.Italic != (want[2] != "0") || variable != want[3] {
			t.Errorf("%s: %+v, fc-query says %v", filepath.Base(file), f, want)
		}
		if w, ok := weights[want[1]]; ok && f.Weight != w && strings.Contains(file, "assets") {
			t.Errorf("%s: weight %d, fc-query says %d", filepath.Base(file), f.Weight, w)
		}
		if f.Glyphs < 20 || f.CapHeight <= 0 || f.Embedding == Restricted {
			t.Errorf("%s: %+v", filepath.Base(file), f)
		}
	}
}

// TestEveryWrappingGivesTheSameFace unpacks a shipped face from a collection,
// and a web font from both its wrappings (Karla, SIL Open Font License, as the
// npm package @fontsource/karla has it; only one of the
// two has a name ID 16).
func TestEveryWrappingGivesTheSameFace(t *testing.T) {
	data, err := os.ReadFile("../../../assets/fonts/gabarito-800.ttf")
	if err != nil {
		t.Fatal(err)
	}
	plain, err := ReadFacts(data)
	if err != nil {
		t.Fatal(err)
	}
	// a collection: the header, one offset, then the face with its own moved
	ttc := append([]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x01\x00\x00\x00\x10"), data...)
	for i := range int(binary.BigEndian.Uint16(data[4:6])) {
		at := 16 + 12 + 16*i + 8
		binary.BigEndian.PutUint32(ttc[at:], binary.BigEndian.Uint32(ttc[at:])+16)
	}
	for format, file := range map[string][]byte{"TTF": data, "TTC": ttc} {
		sfnt, got, faces, err := Unpack(file)
		if err != nil || got != format || faces != 1 {
			t.Errorf("%s: %s, %d faces, %v", format, got, faces, err)
			continue
		}
		f, err := ReadFacts(sfnt)
		if err != nil || f.Family != plain.Family || f.Weight != 800 || f.Glyphs != plain.Glyphs || f.CapHeight != plain.CapHeight {
			t.Errorf("%s: %+v (%v)", format, f, err)
		}
	}
}

func TestWebFonts(t *testing.T) {
	var both []Facts
	for _, format := range []string{"WOFF", "WOFF2"} {
		data, err := os.ReadFile("testdata/karla-latin-500-normal." + strings.ToLower(format))
		if err != nil {
			t.Fatal(err)
		}
		sfnt, got, _, err := Unpack(data)
		if err != nil || got != format {
			t.Fatalf("%s: %s %v", format, got, err)
		}
		f, err := ReadFacts(sfnt)
		if err != nil || !strings.HasPrefix(f.Family, "Karla") || f.Weight != 500 || len(f.Scripts) == 0 {
			t.Errorf("%s: %+v (%v)", format, f, err)
		}
		both = append(both, f)
	}
	if both[0].Glyphs != both[1].Glyphs || both[0].CapHeight != both[1].CapHeight {
		t.Errorf("the two differ: %+v", both)
	}
}

// TestEmbeddingPermissions: the bits of fsType (OpenType specification, OS/2).
func TestEmbeddingPermissions(t *testing.T) {
	for bits, want := range map[uint16]Embedding{0: Installable, 2: Restricted, 4: Preview, 8: Editable, 0x100: Installable, 6: Preview, 0x0c: Editable, 0x202: Restricted} {
		if got := embedding(bits); got != want {
			t.Errorf("fsType %#x is %s, want %s", bits, got, want)
		}
	}
}

func TestBrokenFontsAreRefused(t *testing.T) {
	good, err := os.ReadFile("../../../assets/fonts/karla-500.ttf")
	if err != nil {
		t.Fatal(err)
	}
	for what, data := range map[string][]byte{
		"nothing": nil, "a picture": []byte("\x89PNG\r\n\x1a\nxxxxxxxxxxxxxxxx"), "cut": good[:300], "half": good[:len(good)/2],
		"a WOFF of nothing": []byte("wOFF" + strings.Repeat("\x00", 60)), "a WOFF2 of noise": []byte("wOF2" + strings.Repeat("\x7f", 600)),
		"an empty collection": []byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00\x00"),
	} {
		sfnt, _, _, err := Unpack(data)
		if err == nil {
			_, err = ReadFacts(sfnt)
		}
		if !errors.Is(err, ErrFont) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

func FuzzReadFacts(f *testing.F) {
	data, err := os.ReadFile("../../../assets/fonts/karla-500.ttf")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data[:4000])
	f.Add([]byte("wOF2" + strings.Repeat("\x00", 44)))
	f.Fuzz(func(t *testing.T, data []byte) {
		if sfnt, _, _, err := Unpack(data); err == nil {
			_, _ = ReadFacts(sfnt)
		}
	})
}
