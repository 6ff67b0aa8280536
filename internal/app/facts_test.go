package app_test

import (
	"encoding/json"
	"math"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/photo"
)

// TestOlderPicturesAreLookedAtAnew: a picture of which an older version knew its size
// alone is known like a new one after a refresh, once.
func TestOlderPicturesAreLookedAtAnew(t *testing.T) {
	a, m, _, id := open(t)
	picture := func() (file string, p photo.Picture) {
		t.Helper()
		s, err := a.Sets.Set(t.Context(), m, id)
		if err != nil {
			t.Fatal(err)
		}
		file = s.Brief.Cards[0].Pictures[0].File
		return file, s.Job.Pictures[file]
	}
	file, fresh := picture()
	if fresh.Light.Cols == 0 {
		t.Fatal("a new picture has no light map")
	}
	f, err := a.Store().File(t.Context(), m.Workspace, "picture", app.HashOf(file))
	if err != nil {
		t.Fatal(err)
	}
	f.Facts, _ = json.Marshal(map[string]any{"W": fresh.W, "H": fresh.H, "Notes": []string{"reduced"}})
	if err := a.Store().PutFile(t.Context(), m.ID, f); err != nil {
		t.Fatal(err)
	}
	a.Forget()
	if s, err := a.Sets.Set(t.Context(), m, id); err != nil || s.Job.Pictures[file].Light.Cols != 0 {
		t.Fatal("the light map is there before anybody looked anew", err)
	}
	if err := a.RefreshPictures(t.Context()); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(t.Context(), m, id)
	if err != nil {
		t.Fatal(err)
	}
	// what is stored was packed once more than what came in
	got := s.Job.Pictures[file]
	if got.W != fresh.W || got.Light.Cols != fresh.Light.Cols || len(got.Light.Tiles) != len(fresh.Light.Tiles) || math.Abs(got.Focus[0]-fresh.Focus[0]) > 0.05 || math.Abs(got.Focus[1]-fresh.Focus[1]) > 0.05 {
		t.Errorf("known now: %d px, %d tiles across, focus %v; of the new one: %d, %d, %v", got.W, got.Light.Cols, got.Focus, fresh.W, fresh.Light.Cols, fresh.Focus)
	}
	if f, err = a.Store().File(t.Context(), m.Workspace, "picture", app.HashOf(file)); err != nil {
		t.Fatal(err)
	}
	var facts struct{ Notes []string }
	if err := json.Unmarshal(f.Facts, &facts); err != nil || len(facts.Notes) != 1 {
		t.Errorf("what was noted when it came in is gone: %s", f.Facts)
	}
}
