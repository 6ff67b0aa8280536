package app_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/jobs"
)

// A video is made of the order somebody set up, once, and fetched under its name; what
// cannot be made is said.
func TestAVideoIsMade(t *testing.T) {
	a, m, _, id := open(t)
	ctx := t.Context()
	works(t, a)
	short := brief.Video{NoOpening: true, NoClosing: true, NoMark: true, Shots: []brief.Shot{{Role: "hook", Headline: "Go", Seconds: 0.5}}}
	if _, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, short); err != nil {
		t.Fatal(err)
	}
	s, err := a.Sets.Set(ctx, m, id)
	if err != nil {
		t.Fatal(err)
	}
	if got := s.Shots(); len(got) != 1 || got[0].Headline != "Go" {
		t.Fatalf("it runs %+v", got)
	}
	job, err := a.Files.MakeVideo(ctx, m, s, "video-square", "webm")
	if err != nil {
		t.Fatal(err)
	}
	j := isOver(t, a, m, job)
	if j.State != jobs.Done || j.Of != 15 {
		t.Fatalf("%+v", j)
	}
	p, r, err := a.Files.Parcel(ctx, m, job)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Close()
	data, err := io.ReadAll(r)
	if err != nil || int64(len(data)) != p.Bytes || !strings.HasSuffix(p.Name, "_video-square_1080x1080.webm") || string(data[:4]) != "\x1a\x45\xdf\xa3" {
		t.Errorf("%s has %d bytes of %d, %v", p.Name, len(data), p.Bytes, err)
	}

	// a piece of the set moves
	if job, err = a.Files.MakeMoving(ctx, m, s, "ad-300x250", "gif", film.Way{Seconds: 3}); err == nil {
		j = isOver(t, a, m, job)
	}
	if p, r, err := a.Files.Parcel(ctx, m, job); err != nil || !strings.HasSuffix(p.Name, "_ad-300x250_300x250.gif") || !strings.Contains(string(j.Result), `"fps"`) {
		t.Errorf("%+v %s, %v", p, j.Result, err)
	} else if err := r.Close(); err != nil {
		t.Error(err)
	}

	// it closes with a piece of the set, once that is in it
	if _, err := a.Briefs.AddEndCard(ctx, m, id, app.Change{Base: app.Latest}, "video-square"); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	if !slices.ContainsFunc(s.Placements(), func(p spec.Placement) bool { return p.ID == "video-end-square" }) {
		t.Error("its end is no piece of the set")
	}

	// what is finished moves as it stands, or not at all
	if _, err := a.Sets.Finish(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Files.MakeMoving(ctx, m, s, "ad-300x250", "gif", film.Way{Seconds: 3}); err != nil {
		t.Errorf("finished and as it would be now: %v", err)
	}
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/cards/0/headline", Value: []byte(`"Another word"`)}}); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Files.MakeMoving(ctx, m, s, "ad-300x250", "gif", film.Way{Seconds: 3}); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("finished and different now: %v", err)
	}

	for what, err := range map[string]error{
		"a minute": func() error {
			_, err := a.Files.MakeMoving(ctx, m, s, "story", "mp4", film.Way{Seconds: 60})
			return err
		}(),
		"a loop of 3 s": func() error {
			_, err := a.Files.MakeMoving(ctx, m, s, "story", "mp4", film.Way{Seconds: 3, Loop: true})
			return err
		}(),
		"a piece there is not": func() error {
			_, err := a.Files.MakeMoving(ctx, m, s, "video-tall", "mp4", film.Way{Seconds: 6})
			return err
		}(),
		"an end of no video": func() error {
			_, err := a.Briefs.AddEndCard(ctx, m, id, app.Change{Base: app.Latest}, "feed-square")
			return err
		}(),
		"a place for stills": func() error { _, err := a.Files.MakeVideo(ctx, m, s, "feed-square", "mp4"); return err }(),
		"another format":     func() error { _, err := a.Files.MakeVideo(ctx, m, s, "video-tall", "avi"); return err }(),
		"an empty shot": func() error {
			_, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, brief.Video{Shots: []brief.Shot{{Role: "point", Headline: "  "}}})
			return err
		}(),
		"a role there is not": func() error {
			_, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, brief.Video{Shots: []brief.Shot{{Role: "dance", Headline: "Go"}}})
			return err
		}(),
		"a shot of an hour": func() error {
			_, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, brief.Video{Shots: []brief.Shot{{Role: "hook", Headline: "Go", Seconds: 3600}}})
			return err
		}(),
	} {
		if !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%s: %v", what, err)
		}
	}
	// an hour of shots may be set up, and is neither made nor played
	var hour brief.Video
	for range 60 {
		hour.Shots = append(hour.Shots, brief.Shot{Role: "point", Headline: "Go", Seconds: 60})
	}
	hour.Music = "night-bus"
	if _, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, hour); err != nil {
		t.Fatal(err)
	}
	if s, err = a.Sets.Set(ctx, m, id); err != nil {
		t.Fatal(err)
	}
	if _, err := a.Files.MakeVideo(ctx, m, s, "video-tall", "mp4"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("an hour of video: %v", err)
	}
	if _, err := a.Files.Sound(ctx, m, s, "video-tall"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("an hour of music: %v", err)
	}
	if _, _, err := a.Documents.Undo(ctx, m, id, "", false); err != nil {
		t.Fatal(err)
	}

	viewer := m
	viewer.Role = "viewer"
	if _, err := a.Briefs.SetVideo(ctx, viewer, id, app.Change{Base: app.Latest}, short); !errors.Is(err, app.ErrNotAllowed) {
		t.Errorf("by a viewer: %v", err)
	}
	if s, _ = a.Sets.Set(ctx, m, id); len(s.Shots()) != 1 {
		t.Error("what was refused was kept")
	}
}

// A video stays as long as its brief, a parcel for a day; while it is of the brief as it stands it
// comes with the files, by its own name.
func TestAVideoStays(t *testing.T) {
	a, m, _, id := open(t)
	works(t, a)
	ctx := t.Context()
	short := brief.Video{NoOpening: true, NoClosing: true, NoMark: true, Shots: []brief.Shot{{Role: "hook", Headline: "Go", Seconds: 0.5}}}
	if _, err := a.Briefs.SetVideo(ctx, m, id, app.Change{Base: app.Latest}, short); err != nil {
		t.Fatal(err)
	}
	s := setOf(t, a, m, id)
	film, err := a.Files.MakeVideo(ctx, m, s, "video-square", "webm")
	if err != nil {
		t.Fatal(err)
	}
	choice := app.HandOver{Videos: true}
	for _, pc := range s.Pieces()[1:] {
		choice.Skip = append(choice.Skip, app.PieceKey(pc.Look, pc.Placement.ID))
	}
	if j := isOver(t, a, m, film); j.State != jobs.Done {
		t.Fatalf("%+v", j)
	}
	names := func() (out []string) {
		var b bytes.Buffer
		if err := a.Files.DownloadAll(ctx, m, setOf(t, a, m, id), &b, choice, nil); err != nil {
			t.Fatal(err)
		}
		z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range z.File {
			out = append(out, f.Name)
		}
		return out
	}
	withFilm := func(list []string) bool {
		return slices.ContainsFunc(list, func(n string) bool { return strings.HasSuffix(n, ".webm") })
	}
	if list := names(); len(list) != 3 || !withFilm(list) {
		t.Errorf("the archive has %v", list)
	}
	parcel, err := a.Files.Pack(ctx, m, s, choice)
	if err != nil {
		t.Fatal(err)
	}
	isOver(t, a, m, parcel)
	a.SetClock(func() time.Time { return time.Now().Add(2 * app.ParcelTime) })
	if err := a.Tidy(ctx); err != nil {
		t.Fatal(err)
	}
	if _, _, err := a.Files.Parcel(ctx, m, parcel); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("the parcel after two days: %v", err)
	}
	if _, r, err := a.Files.Parcel(ctx, m, film); err != nil {
		t.Errorf("the video after two days: %v", err)
	} else if err := r.Close(); err != nil {
		t.Error(err)
	}
	if _, err := a.Documents.Edit(ctx, m, id, app.Change{Kind: "brief", Base: app.Latest, Op: edit.Op{Path: "/name", Value: json.RawMessage(`"Another"`)}}); err != nil {
		t.Fatal(err)
	}
	if list := names(); withFilm(list) {
		t.Errorf("a video of how it was comes along: %v", list)
	}
}
