package typeset_test

import (
	"bytes"
	"encoding/binary"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"aspenridge/assets"
	"aspenridge/internal/core/typeset"
)

// cpu is the processor's time this process has taken: what others do on the machine
// meanwhile says nothing about a font.
func cpu() time.Duration {
	var u syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_SELF, &u); err != nil {
		panic(err)
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

func shippedFont(t *testing.T, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("../../../assets/fonts", name))
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func TestEveryShippedFaceIsProvenWhole(t *testing.T) {
	for _, f := range assets.Families() {
		for _, face := range f.Faces {
			data := shippedFont(t, face.File)
			clean, notes, err := typeset.Prove(data, cpu)
			if err != nil || len(notes) > 0 {
				t.Errorf("%s: %v %v", face.File, notes, err)
				continue
			}
			again, _, err := typeset.Prove(clean, cpu)
			if err != nil || !bytes.Equal(clean, again) {
				t.Errorf("%s: proving what was proven changes it (%v)", face.File, err)
			}
			before, err := typeset.ParseFace(data)
			if err != nil {
				t.Fatal(err)
			}
			after, err := typeset.ParseFace(clean)
			if err != nil {
				t.Fatal(err)
			}
			s := typeset.NewShaper()
			a, b := s.Line("AVATAR office “To” 1", typeset.Style{Face: before}), s.Line("AVATAR office “To” 1", typeset.Style{Face: after})
			if a.Advance != b.Advance || a.Ink != b.Ink {
				t.Errorf("%s: set %g wide before and %g after", face.File, a.Advance, b.Advance)
			}
		}
	}
}

// table finds a table of a face: where its entry, and its bytes, begin.
func table(t *testing.T, data []byte, tag string) (entry, from, length int) {
	t.Helper()
	for i := range int(binary.BigEndian.Uint16(data[4:])) {
		e := 12 + 16*i
		if string(data[e:e+4]) == tag {
			return e, int(binary.BigEndian.Uint32(data[e+8:])), int(binary.BigEndian.Uint32(data[e+12:]))
		}
	}
	t.Fatalf("no table %q", tag)
	return 0, 0, 0
}

// compose makes the glyph of a letter a composite of parts, and returns the
// changed face.
func compose(t *testing.T, data []byte, gid int, parts ...int) []byte {
	t.Helper()
	out := bytes.Clone(data)
	_, head, _ := table(t, out, "head")
	_, loca, _ := table(t, out, "loca")
	_, glyf, _ := table(t, out, "glyf")
	at := func(n int) int {
		if binary.BigEndian.Uint16(out[head+50:]) == 1 {
			return int(binary.BigEndian.Uint32(out[loca+4*n:]))
		}
		return 2 * int(binary.BigEndian.Uint16(out[loca+2*n:]))
	}
	g := out[glyf+at(gid) : glyf+at(gid+1)]
	if len(g) < 10+6*len(parts) {
		t.Fatalf("glyph %d has %d bytes, too few for %d parts", gid, len(g), len(parts))
	}
	binary.BigEndian.PutUint16(g, 0xFFFF)
	for i, p := range parts {
		flags := uint16(0x0002) // arguments are offsets
		if i+1 < len(parts) {
			flags |= 0x0020
		}
		binary.BigEndian.PutUint16(g[10+6*i:], flags)
		binary.BigEndian.PutUint16(g[12+6*i:], uint16(p))
		g[14+6*i], g[15+6*i] = 0, 0
	}
	return out
}

func TestComponentsThatHoldThemselvesAreRefused(t *testing.T) {
	data := shippedFont(t, "libre-franklin-700.ttf")
	face, err := typeset.ParseFace(data)
	if err != nil {
		t.Fatal(err)
	}
	gid := func(r rune) int { g, _ := face.Glyph(r); return g }
	for name, bad := range map[string][]byte{
		"itself":    compose(t, data, gid('B'), gid('B')),
		"in a ring": compose(t, compose(t, data, gid('B'), gid('R')), gid('R'), gid('B')),
		"a fan":     compose(t, compose(t, compose(t, data, gid('B'), gid('R'), gid('R'), gid('R'), gid('R'), gid('R'), gid('R'), gid('R')), gid('R'), gid('S'), gid('S'), gid('S'), gid('S'), gid('S'), gid('S'), gid('S')), gid('S'), gid('8'), gid('8'), gid('8'), gid('8'), gid('8'), gid('8'), gid('8'), gid('8')),
	} {
		if _, _, err := typeset.Prove(bad, cpu); !errors.Is(err, typeset.ErrFont) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, _, err := typeset.Prove(compose(t, data, gid('B'), gid('I'), gid('o')), cpu); err != nil {
		t.Errorf("an honest composite is refused: %v", err)
	}
}

func TestTablesOutsideTheFileAreRefused(t *testing.T) {
	data := shippedFont(t, "libre-franklin-700.ttf")
	entry, _, length := table(t, data, "glyf")
	out := bytes.Clone(data)
	binary.BigEndian.PutUint32(out[entry+8:], uint32(len(data)-length/2))
	if _, _, err := typeset.Prove(out, cpu); err == nil || !strings.Contains(err.Error(), "out of the file") {
		t.Errorf("a table past the end: %v", err)
	}
}

// A face whose tables fail while it is used is the end of that face alone.
func TestABrokenFaceStandsAside(t *testing.T) {
	data := bytes.Clone(shippedFont(t, "libre-franklin-700.ttf"))
	face, err := typeset.ParseFace(data)
	if err != nil {
		t.Fatal(err)
	}
	gid := func(r rune) int { g, _ := face.Glyph(r); return g }
	bad, err := typeset.ParseFace(compose(t, data, gid('B'), gid('B')))
	if err != nil {
		t.Fatal(err)
	}
	bad.Watched()
	good, err := typeset.ParseFace(shippedFont(t, "libre-franklin-500.ttf"))
	if err != nil {
		t.Fatal(err)
	}
	s := typeset.NewShaper(good)
	want := s.Line("A Boat", typeset.Style{Face: good})
	done := make(chan *typeset.Line)
	go func() { done <- s.Line("A Boat", typeset.Style{Face: bad}) }()
	if got := <-done; !bad.Broken() || got.Advance != want.Advance {
		t.Errorf("broken: %v; set %g wide, the stand-in is %g", bad.Broken(), got.Advance, want.Advance)
	}
	if p := s.Paragraph("Another Boat", typeset.Style{Face: bad}); p.Break(1).Widest == 0 {
		t.Error("a paragraph in a broken face is empty")
	}
	if l := s.Line("Other words", typeset.Style{Face: good}); l.Advance == 0 {
		t.Error("the other face fails too")
	}
}
