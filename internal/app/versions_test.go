package app_test

import (
	"bytes"
	"errors"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
)

// TestVersions: kept at quiet moments and not for every key, told apart in
// words, brought back in one step that can be undone.
func TestVersions(t *testing.T) {
	a, m, kit, _ := open(t)
	now := time.Now()
	a.SetClock(func() time.Time { return now })
	colour := func(v string) {
		t.Helper()
		if _, err := a.Brand.SetColour(t.Context(), m, kit, app.Change{Client: "tab", Base: app.Latest}, "main.coral", v); err != nil {
			t.Fatal(err)
		}
	}
	count := func() int {
		t.Helper()
		list, err := a.Kits.Versions(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		return len(list)
	}
	first := count()
	colour("#111199")
	colour("#222299")
	if n := count(); n != first {
		t.Errorf("%d versions after two quick changes, want none more than %d", n, first)
	}
	now = now.Add(time.Hour)
	colour("#333399")
	if n := count(); n != first+1 {
		t.Errorf("%d versions after an hour's quiet, want %d", n, first+1)
	}
	list, err := a.Kits.Versions(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	if d := list[0].Since; len(d) != 1 || d[0].What != "Coral" || !strings.Contains(d[0].Before, "#222299") || !strings.Contains(d[0].After, "#333399") {
		t.Errorf("since then: %+v", d)
	}
	if err := a.Kits.NameVersion(t.Context(), m, kit, list[0].ID, "Before the blue"); err != nil {
		t.Fatal(err)
	}
	if err := a.Kits.Restore(t.Context(), m, kit, "tab", list[0].ID); err != nil {
		t.Fatal(err)
	}
	value := func() string {
		t.Helper()
		k, err := a.Kits.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		c, _ := k.Colour("main.coral")
		return c.Value.Hex()
	}
	if value() != "#222299" {
		t.Errorf("restored to %s", value())
	}
	if _, _, err := a.Documents.Undo(t.Context(), m, kit, "tab", false); err != nil {
		t.Fatal(err)
	}
	if value() != "#333399" {
		t.Errorf("one undo leads to %s", value())
	}
	k, v, err := a.Kits.KitAt(t.Context(), m, kit, list[0].ID)
	if err != nil || v.Name != "Before the blue" || len(brand.Differences(k.Kit, k.Kit)) != 0 || len(k.Logos) != 4 {
		t.Errorf("the version: %v %+v", err, v.Name)
	}
	if _, _, err := a.Kits.KitAt(t.Context(), m, kit, 999999); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("no such version: %v", err)
	}
}

// TestFinishedPiecesKeepTheirKit: what was finished is handed over as it was,
// whatever the kit does, until somebody brings it forward.
func TestFinishedPiecesKeepTheirKit(t *testing.T) {
	a, m, kit, brief := open(t)
	file := func() []byte {
		t.Helper()
		_, data, err := a.Files.Download(t.Context(), m, brief, "ad-300x250", "png")
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	before := file()
	shown, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	look := shown.CurrentLook()
	n, err := a.Sets.Finish(t.Context(), m, brief)
	if err != nil || n != 13 {
		t.Fatalf("%d finished: %v", n, err)
	}
	if _, err := a.Brand.SetColour(t.Context(), m, kit, app.Change{Client: "tab", Base: app.Latest}, "main.coral", "#3355CC"); err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(file(), before) {
		t.Error("a finished piece changed with the kit")
	}
	list, err := a.Sets.FinishedWith(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	moved := 0
	for _, f := range list {
		if f.Moved {
			moved++
		}
	}
	if len(list) != 13 || moved == 0 || moved == 13 { // the profile picture has no button
		t.Errorf("%d of %d would look different", moved, len(list))
	}
	if n, err := a.Sets.BringForward(t.Context(), m, brief, app.PieceKey(look, "ad-300x250")); err != nil || n != 1 {
		t.Fatal(n, err)
	}
	if bytes.Equal(file(), before) {
		t.Error("a piece brought forward is as it was")
	}
	if done, err := a.Sets.Finished(t.Context(), m, brief); err != nil || done[app.PieceKey(look, "ad-300x250")].Moved || !done[app.PieceKey(look, "story")].Moved {
		t.Errorf("one was brought forward: %v", err)
	}
	if err := a.Sets.Reopen(t.Context(), m, brief); err != nil {
		t.Fatal(err)
	}
	if done, err := a.Sets.Finished(t.Context(), m, brief); err != nil || len(done) != 0 {
		t.Errorf("%d are still finished: %v", len(done), err)
	}
}
