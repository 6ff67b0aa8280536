package app_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// works does jobs until stop is called or the test ends.
func works(t *testing.T, a *app.App) (stop func()) {
	ctx, cancel := context.WithCancel(t.Context())
	var running sync.WaitGroup
	running.Go(func() {
		if err := a.Work.Run(ctx, 2); err != nil {
			t.Error(err)
		}
	})
	stop = sync.OnceFunc(func() { cancel(); running.Wait() })
	t.Cleanup(stop)
	return stop
}

// isOver waits for a job to be over.
func isOver(t *testing.T, a *app.App, m app.Member, id app.ID) app.Job {
	t.Helper()
	for end := time.Now().Add(60 * time.Second); ; time.Sleep(10 * time.Millisecond) {
		j, err := a.Work.Job(t.Context(), m, id)
		if err != nil {
			t.Fatal(err)
		}
		if j.State.Over() {
			return j
		}
		if time.Now().After(end) {
			t.Fatalf("a job stays %+v", j)
		}
	}
}

// TestAParcel is the same archive as the one that is streamed, and is gone with its file
// a day later.
func TestAParcel(t *testing.T) {
	a, m, _, brief := open(t)
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	story := app.HandOver{Format: "png"}
	for _, p := range s.Placements() {
		if p.ID != "story" && p.ID != "feed-square" {
			story.Skip = append(story.Skip, app.PieceKey(s.CurrentLook(), p.ID))
		}
	}
	id, err := a.Files.Pack(t.Context(), m, s, story)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := a.Files.Pack(t.Context(), m, s, story); err != nil || again != id {
		t.Errorf("packed twice: %v", err)
	}
	if _, _, err := a.Files.Parcel(t.Context(), m, id); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("before it is packed: %v", err)
	}
	works(t, a)
	if j := isOver(t, a, m, id); j.State != "done" || j.Of != 2 {
		t.Fatalf("%+v", j)
	}
	p, r, err := a.Files.Parcel(t.Context(), m, id)
	if err != nil {
		t.Fatal(err)
	}
	data, err := io.ReadAll(r)
	r.Close()
	if err != nil || int64(len(data)) != p.Bytes || p.Files != 2 {
		t.Fatalf("%d bytes, %+v, %v", len(data), p, err)
	}
	if z, err := zip.NewReader(bytes.NewReader(data), p.Bytes); err != nil || len(z.File) != 3 {
		t.Errorf("the archive: %v", err)
	}
	var streamed bytes.Buffer
	if err := a.Files.DownloadAll(t.Context(), m, s, &streamed, story, nil); err != nil || !bytes.Equal(streamed.Bytes(), data) {
		t.Errorf("the parcel is another archive than the one that is streamed: %v", err)
	}
	if j, err := a.Files.LastParcel(t.Context(), m, s); err != nil || j.ID != id {
		t.Errorf("the last one: %+v %v", j, err)
	}
	if _, err := a.Documents.Edit(t.Context(), m, brief, app.Change{Base: app.Latest, Op: edit.Op{Path: "/name", Value: []byte(`"Other words"`)}}); err != nil {
		t.Fatal(err)
	}
	after, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	if j, err := a.Files.LastParcel(t.Context(), m, after); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("of a set that has changed since it is still offered: %+v %v", j, err)
	}
	other, err := a.People.SignUp(t.Context(), "Ada", "ada@one.example", "ten or more letters")
	if err != nil {
		t.Fatal(err)
	}
	if _, _, err := a.Files.Parcel(t.Context(), other, id); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("for somebody else: %v", err)
	}
	if err := a.Work.Stop(t.Context(), other, id); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("stopped by somebody else: %v", err)
	}

	if err := a.Tidy(t.Context()); err != nil {
		t.Fatal(err)
	}
	if _, r, err = a.Files.Parcel(t.Context(), m, id); err != nil {
		t.Errorf("the same day: %v", err)
	} else {
		r.Close()
	}
	a.SetClock(func() time.Time { return time.Now().Add(app.ParcelTime + time.Minute) })
	if err := a.Tidy(t.Context()); err != nil {
		t.Fatal(err)
	}
	if _, _, err := a.Files.Parcel(t.Context(), m, id); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("the day after: %v", err)
	}
	if _, err := a.Blobs().Get(t.Context(), p.File); err == nil {
		t.Error("its file stays for ever")
	}
}

// TestAParcelOfWhatIsGone says so, and is not tried again.
func TestAParcelOfWhatIsGone(t *testing.T) {
	a, m, _, brief := open(t)
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	id, err := a.Files.Pack(t.Context(), m, s, app.HandOver{})
	if err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{`delete from edits where document_id = $1`, `delete from documents where id = $1`} {
		if _, err := a.Store().Pool.Exec(t.Context(), sql, brief); err != nil {
			t.Fatal(err)
		}
	}
	works(t, a)
	if j := isOver(t, a, m, id); j.State != "failed" || j.Attempt != 1 || j.Said == "" {
		t.Errorf("%+v", j)
	}
	if _, err := a.Files.Pack(t.Context(), m, s, app.HandOver{Format: "gif"}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("a format nobody writes: %v", err)
	}
	var all []string
	for _, p := range s.Placements() {
		all = append(all, app.PieceKey(s.CurrentLook(), p.ID))
	}
	if _, err := a.Files.Pack(t.Context(), m, s, app.HandOver{Skip: all}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("nothing is chosen: %v", err)
	}
}

// TestWhatWasLeftBehind: what a process left that was ended in the middle goes after a day.
func TestWhatWasLeftBehind(t *testing.T) {
	a, _, _, _ := open(t)
	t.Setenv("TMPDIR", t.TempDir())
	old, young := filepath.Join(os.TempDir(), "aspenridge-video-1"), filepath.Join(os.TempDir(), "aspenridge-video-2")
	other := filepath.Join(os.TempDir(), "somebody-elses")
	for _, dir := range []string{old, young, other} {
		if err := os.Mkdir(dir, 0o700); err != nil {
			t.Fatal(err)
		}
	}
	past := time.Now().Add(-2 * app.ParcelTime)
	for _, dir := range []string{old, other} {
		if err := os.Chtimes(dir, past, past); err != nil {
			t.Fatal(err)
		}
	}
	if err := a.Tidy(t.Context()); err != nil {
		t.Fatal(err)
	}
	for dir, stays := range map[string]bool{old: false, young: true, other: true} {
		if _, err := os.Stat(dir); (err == nil) != stays {
			t.Errorf("%s: %v", dir, err)
		}
	}
}
