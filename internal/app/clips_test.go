package app_test

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/jobs"
	"aspenridge/test/stage"
)

// A film becomes a picture of the brief that runs in its video; another frame stands for it,
// in the shots that show it too; recordings are as long as they are and are heard.
func TestFilmsAndSounds(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	works(t, a)
	film := stage.Film(t, "river.mp4", "-f", "lavfi", "-i", "testsrc2=size=640x360:rate=30:duration=3", "-pix_fmt", "yuv420p")
	job, err := a.Files.BringClip(ctx, m, id, "", "../river.mp4", film)
	if err != nil {
		t.Fatal(err)
	}
	if j := isOver(t, a, m, job); j.State != jobs.Done {
		t.Fatalf("%+v", j)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	pics := s.Brief.Cards[0].Pictures
	pic := pics[len(pics)-1]
	clip := s.Job.Pictures[pic.File].Clip
	if pic.Clip == "" || clip == nil || math.Abs(clip.Seconds-3) > 0.05 || clip.Sound || pic.At <= 0 {
		t.Fatalf("%+v, %+v", pic, clip)
	}
	r, kind, err := a.Files.Clip(ctx, m, clip.Hash)
	if err != nil || kind != "video/mp4" {
		t.Fatal(kind, err)
	}
	head := make([]byte, 12)
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		t.Fatal(err)
	}
	if _, err := io.ReadFull(r, head); err != nil || string(head[4:8]) != "ftyp" || r.Close() != nil {
		t.Errorf("%q, %v", head, err)
	}

	if known := s.Job.Pictures[pic.File].Clip; known == nil || known.Light.Cols == 0 || known.Focus == [2]float64{} {
		t.Errorf("of the clip it is known %+v", known)
	}

	ref, seconds, err := a.Files.BringSound(ctx, m, "me.mp3", stage.Film(t, "me.mp3", "-f", "lavfi", "-i", "sine=frequency=600:duration=5"))
	if err != nil || math.Abs(seconds-5) > 0.1 || !strings.HasSuffix(ref, "/me.flac") {
		t.Fatal(ref, seconds, err)
	}
	v := brief.Video{NoOpening: true, NoClosing: true, Music: "none", Shots: []brief.Shot{
		{Role: "hook", Headline: "Go", Picture: pic.File, From: 1},
		{Role: "point", Headline: "Listen", Say: "Listen to the river before you step into the boat", Recording: ref},
	}}
	if _, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, v); err != nil {
		t.Fatal(err)
	}
	if err := a.Briefs.ShowFrame(ctx, m, id, "", pic.ID, 2); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	now := s.Brief.Cards[0].Pictures[len(pics)-1]
	if now.File == pic.File || now.At != 2 || s.Shots()[0].Picture != now.File {
		t.Errorf("another frame: %+v, the shot shows %s", now, s.Shots()[0].Picture)
	}
	p := s.VideoPlaces()[0]
	f := s.Film(p)
	if got := f.Takes[1].To - f.Takes[1].From; got < 5.5 {
		t.Errorf("the shot with five seconds of speech runs %.2f s", got)
	}
	if len(f.Cues) == 0 || !strings.HasPrefix(f.Cues[0].Text, "Listen to the river") {
		t.Errorf("its captions: %+v", f.Cues)
	}
	wav, err := a.Files.Sound(ctx, m, s, p.ID)
	if err != nil || math.Abs(float64(len(wav)-44)/4/48000-f.Seconds()) > 0.01 {
		t.Errorf("%d bytes of sound for %.2f s, %v", len(wav), f.Seconds(), err)
	}
	vtt, name, err := a.Files.Captions(ctx, m, s, p.ID, "vtt")
	if err != nil || !strings.HasPrefix(string(vtt), "WEBVTT") || !strings.HasSuffix(name, ".vtt") {
		t.Errorf("%s: %v", name, err)
	}

	// what cannot be
	text := filepath.Join(t.TempDir(), "x.mp4")
	if err := os.WriteFile(text, []byte("no film"), 0o600); err != nil {
		t.Fatal(err)
	}
	viewer := m
	viewer.Role = "viewer"
	for what, k := range map[string]struct{ err, want error }{
		"text as a film":  {func() error { _, err := a.Files.BringClip(ctx, m, id, "", "x.mp4", text); return err }(), app.ErrInvalid},
		"text as a sound": {func() error { _, _, err := a.Files.BringSound(ctx, m, "x.mp3", text); return err }(), app.ErrInvalid},
		"by a viewer":     {func() error { _, err := a.Files.BringClip(ctx, viewer, id, "", "x.mp4", film); return err }(), app.ErrNotAllowed},
		"sound by one":    {func() error { _, _, err := a.Files.BringSound(ctx, viewer, "x.mp3", film); return err }(), app.ErrNotAllowed},
		"a frame past it": {a.Briefs.ShowFrame(ctx, m, id, "", pic.ID, 99), app.ErrInvalid},
		"of no clip":      {a.Briefs.ShowFrame(ctx, m, id, "", "nothing", 1), app.ErrNotFound},
		"no captions":     {func() error { _, err := a.Briefs.ReadCaptions(ctx, m, id, app.Change{}, []byte("none")); return err }(), app.ErrInvalid},
	} {
		if !errors.Is(k.err, k.want) {
			t.Errorf("%s: %v", what, k.err)
		}
	}
}

// TestASpokenClipWithoutItsSilences: a shot of a clip becomes those in which something is heard;
// one without silences is told so and stays.
func TestASpokenClipWithoutItsSilences(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	works(t, a)
	// a tone from 0.5 to 1.5 s and from 3 s to the end at 4 s
	path := stage.Film(t, "said.mp4", "-f", "lavfi", "-i", "testsrc2=size=320x180:rate=30:duration=4", "-f", "lavfi", "-i",
		"aevalsrc='0.4*sin(2*PI*300*t)*(between(t,0.5,1.5)+gte(t,3))':d=4:s=48000", "-pix_fmt", "yuv420p", "-c:a", "aac")
	job, err := a.Files.BringClip(ctx, m, id, "", "said.mp4", path)
	if err != nil {
		t.Fatal(err)
	}
	if j := isOver(t, a, m, job); j.State != jobs.Done {
		t.Fatalf("%+v", j)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	pics := s.Brief.Cards[0].Pictures
	v := brief.Video{NoOpening: true, Shots: []brief.Shot{{Role: "hook", Headline: "Go"}, {Role: "point", Headline: "Listen", Picture: pics[len(pics)-1].File}}}
	if _, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, v); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Briefs.WithoutSilence(ctx, m, id, app.Change{Base: app.Latest}, 1); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	shots := s.Shots()
	if len(shots) != 3 || !s.Brief.Video.NoOpening {
		t.Fatalf("%+v", shots)
	}
	for i, want := range [][2]float64{{0.38, 1.24}, {2.88, 1.12}} {
		if got := shots[i+1]; math.Abs(got.From-want[0]) > 0.08 || math.Abs(got.Seconds-want[1]) > 0.12 {
			t.Errorf("%d: from %.2f for %.2f s, want %v", i, got.From, got.Seconds, want)
		}
	}
	viewer := m
	viewer.Role = "viewer"
	for shot, want := range map[int]error{0: app.ErrInvalid, 1: app.ErrInvalid, 7: app.ErrNotFound} {
		if _, err := a.Briefs.WithoutSilence(ctx, m, id, app.Change{Base: app.Latest}, shot); !errors.Is(err, want) {
			t.Errorf("shot %d: %v", shot, err)
		}
		if _, err := a.Briefs.WithoutSilence(ctx, viewer, id, app.Change{Base: app.Latest}, shot); !errors.Is(err, app.ErrNotAllowed) {
			t.Errorf("shot %d by a viewer: %v", shot, err)
		}
	}
}

// TestWhatCameIsForgotten: the film that was brought is kept as the clip it became; the file
// itself goes with its job, unless a kit has the same.
func TestWhatCameIsForgotten(t *testing.T) {
	a, m, kit, id := open(t)
	ctx := t.Context()
	works(t, a)
	hashes := map[string]string{}
	for name, rate := range map[string]string{"own.mp4": "24", "kits.mp4": "25"} {
		film := stage.Film(t, name, "-f", "lavfi", "-i", "testsrc2=size=320x180:duration=0.5:rate="+rate, "-pix_fmt", "yuv420p")
		data, err := os.ReadFile(film)
		if err != nil {
			t.Fatal(err)
		}
		hashes[name] = fmt.Sprintf("%x", sha256.Sum256(data))
		if name == "kits.mp4" {
			if err := a.Brand.AddBrandPicture(ctx, m, kit, "", name, data); err != nil {
				t.Fatal(err)
			}
		}
		job, err := a.Files.BringClip(ctx, m, id, "", name, film)
		if err != nil {
			t.Fatal(err)
		}
		if j := isOver(t, a, m, job); j.State != jobs.Done {
			t.Fatalf("%+v", j)
		}
	}
	a.SetClock(func() time.Time { return time.Now().Add(app.ParcelTime + time.Minute) })
	if err := a.Tidy(ctx); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Blobs().Get(ctx, hashes["own.mp4"]); err == nil {
		t.Error("what came stays for ever")
	}
	if _, err := a.Blobs().Get(ctx, hashes["kits.mp4"]); err != nil {
		t.Errorf("the kit's film went with it: %v", err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	for _, clip := range s.Brief.Clips() {
		if r, _, err := a.Files.Clip(ctx, m, app.HashOf(clip)); err != nil {
			t.Errorf("%s: %v", clip, err)
		} else if err := r.Close(); err != nil {
			t.Error(err)
		}
	}
	// the kit's film opens the video
	if c := s.Job.KitClips; len(c) != 1 {
		t.Errorf("the kit's films: %+v", c)
	}
}
