package test

import (
	"crypto/sha256"
	"fmt"
	"os"
	"runtime"
	"strings"
	"testing"

	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/scene"
)

// TestPiecesStayAsTheyAre compares the drawing and the report of 200 pieces with what
// they were: to the byte, for whatever rebuilds the house is to leave its furniture where
// it stands. Where pieces are meant to change, GOLDEN=write writes the list anew.
func TestPiecesStayAsTheyAre(t *testing.T) {
	const list = "testdata/pieces.txt"
	if runtime.GOARCH != "amd64" {
		t.Skip("other processors round otherwise in the last digit")
	}
	kits := testKits()
	options := scene.Options{Href: func(p scene.PictureRef) string {
		return fmt.Sprintf("{%s %v %v %v %v}", p.Hash, p.Crop, p.W, p.H, p.Tone) + p.Dials.String()
	}}
	var b strings.Builder
	for _, c := range sample(200, 5) {
		job := c.job(kits)
		looks := job.Looks(5)
		pc := job.Compose(looks[c.look%len(looks)], c.place, 0)
		report, err := edit.Marshal(pc.Report())
		if err != nil {
			t.Fatal(err)
		}
		sum := sha256.Sum256(append([]byte(pc.Scene.SVG(options)), report...))
		fmt.Fprintf(&b, "%x %s\n", sum[:8], c)
	}
	if os.Getenv("GOLDEN") == "write" {
		if err := os.WriteFile(list, []byte(b.String()), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	want, err := os.ReadFile(list)
	if err != nil {
		t.Fatal(err)
	}
	was, is := strings.Split(string(want), "\n"), strings.Split(b.String(), "\n")
	if len(was) != len(is) {
		t.Fatalf("%d pieces, there were %d", len(is)-1, len(was)-1)
	}
	changed := 0
	for i := range is {
		if is[i] != was[i] {
			if changed++; changed <= 5 {
				t.Errorf("%s, it was %s", is[i], was[i])
			}
		}
	}
	if changed > 0 {
		t.Errorf("%d of %d pieces are not as they were", changed, len(is)-1)
	}
}
