package app_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/app"
	"aspenridge/internal/raster"
)

func TestDownloadsAreNamedAndWhole(t *testing.T) {
	a, m, _, brief := open(t)
	name, data, err := a.Files.Download(t.Context(), m, brief, "ad-320x50", "png")
	if err != nil || name != "spring-beginners-course_ad-320x50_320x50.png" || raster.Kind(data) != "png" {
		t.Errorf("%s, %d bytes, %v", name, len(data), err)
	}
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := a.Files.DownloadAll(t.Context(), m, s, &b, app.HandOver{Skip: []string{app.PieceKey(s.CurrentLook(), "story")}}, nil); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	if err != nil || len(z.File) != len(s.Placements()) { // one left out, one list more
		t.Fatalf("%d files, %v", len(z.File), err)
	}
	kinds := map[string]int{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		if f.Name == "contents.txt" {
			for _, o := range z.File {
				if o.Name != f.Name && !strings.Contains(string(data), o.Name) {
					t.Errorf("the list does not name %s", o.Name)
				}
			}
			continue
		}
		if want := map[string]string{".png": "png", ".jpg": "jpeg"}[filepath.Ext(f.Name)]; raster.Kind(data) != want {
			t.Errorf("%s is a %s", f.Name, raster.Kind(data))
		}
		kinds[raster.Kind(data)]++
		if strings.Contains(f.Name, "story") {
			t.Errorf("%s was left out", f.Name)
		}
	}
	// pieces with a large picture weigh less as JPEG, the profile picture is flat
	if kinds["jpeg"] == 0 || kinds["png"] == 0 {
		t.Errorf("formats %v", kinds)
	}
	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	if err := a.Files.DownloadAll(stopped, m, s, &b, app.HandOver{Format: "png"}, nil); err == nil {
		t.Error("a download nobody waits for goes on")
	}
}

func TestPlansKeepWhatIsChosen(t *testing.T) {
	a, m, _, brief := open(t)
	set := standing(t, a, m, brief)
	if _, err := a.Sets.KeepLook(t.Context(), m, brief, "", set().Job.Looks(5)[4], false); err != nil {
		t.Fatal(err)
	}
	s := set()
	n := len(s.Placements())
	for what, c := range map[string]struct {
		h     app.HandOver
		files int
		names string // part of the first name
		w     int
	}{
		"the shown look": {app.HandOver{}, n, "spring-beginners-course_feed-square_1080x1080", 1080},
		"both looks":     {app.HandOver{Look: "all"}, 2 * n, "feed-square_look-a_1080x1080", 1080},
		"the second":     {app.HandOver{Look: "B"}, n, "spring-beginners-course_feed-square", 1080},
		"double":         {app.HandOver{Scale: "2"}, n, "2160x2160", 2160},
		"4k":             {app.HandOver{Scale: "4k"}, n, "3840x3840", 3840},
		"own names":      {app.HandOver{Names: "{channel}-{place}"}, n, "social-feed-feed-square", 1080},
		"one name":       {app.HandOver{Names: "post"}, n, "post", 1080},
		"hostile names":  {app.HandOver{Names: "../../{place}"}, n, "-..-feed-square", 1080},
	} {
		plans, err := s.Plans(c.h)
		if err != nil || len(plans) != c.files {
			t.Errorf("%s: %d files, %v", what, len(plans), err)
			continue
		}
		if name := plans[0].Name("png"); !strings.Contains(name, c.names) || strings.ContainsAny(name, `/\`) {
			t.Errorf("%s: %s, want %s", what, name, c.names)
		}
		if plans[0].W != c.w {
			t.Errorf("%s: %d px wide, want %d", what, plans[0].W, c.w)
		}
		seen := map[string]bool{}
		for _, pl := range plans {
			if seen[pl.Name("png")] {
				t.Errorf("%s: %s is there twice", what, pl.Name("png"))
			}
			seen[pl.Name("png")] = true
		}
	}
	for _, h := range []app.HandOver{{Format: "bmp"}, {Look: "Q"}, {Scale: "3"}, {Names: strings.Repeat("x", 300)}} {
		if _, err := s.Plans(h); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%+v: %v", h, err)
		}
	}
}

func TestWeightLimitsAreMet(t *testing.T) {
	a, m, _, brief := open(t)
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	plans, err := s.Plans(app.HandOver{})
	if err != nil {
		t.Fatal(err)
	}
	limits := 0
	for _, pl := range plans {
		if pl.Limit == 0 {
			continue
		}
		limits++
		f, err := a.Files.Draw(t.Context(), nil, pl, false)
		if err != nil {
			t.Fatal(err)
		}
		if len(f.Data) > pl.Limit {
			t.Errorf("%s: %d bytes of %d, %s", pl.Key, len(f.Data), pl.Limit, f.How)
		}
		// a tenth of that needs more than the usual quality, and it is said
		pl.Limit /= 10
		if f, err = a.Files.Draw(t.Context(), nil, pl, false); err != nil || f.How == "" && len(f.Data) > pl.Limit && !f.TooMuch {
			t.Errorf("%s in a tenth: %d bytes, %q, %v", pl.Key, len(f.Data), f.How, err)
		}
	}
	if limits < 3 {
		t.Errorf("only %d places have a limit", limits)
	}
}

func TestThePageForAPhoneEnds(t *testing.T) {
	a, m, _, brief := open(t)
	now := time.Now()
	a.SetClock(func() time.Time { return now })
	shown, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	token, until, err := a.Files.ToPhone(t.Context(), m, brief, app.HandOver{Format: "png", Skip: []string{app.PieceKey(shown.CurrentLook(), "story")}})
	if err != nil || until.Sub(now) != app.PhoneTime {
		t.Fatal(until, err)
	}
	_, s, h, _, err := a.Files.OnPhone(t.Context(), token)
	if err != nil || h.Format != "png" {
		t.Fatalf("%+v %v", h, err)
	}
	if plans, err := s.Plans(h); err != nil || len(plans) != len(s.Placements())-1 {
		t.Errorf("%d files, %v", len(plans), err)
	}
	if c := s.Caption(); !strings.Contains(c, "Quiet water, first strokes.") || !strings.Contains(c, "larkmoor.example") || !strings.Contains(c, "#slowbend") {
		t.Errorf("caption %q", c)
	}
	lengths := s.Captions()
	for i, c := range lengths {
		if !strings.Contains(c.Text, "Quiet water, first strokes.") || !strings.Contains(c.Text, "larkmoor.example") || i > 0 && len(c.Text) <= len(lengths[i-1].Text) {
			t.Errorf("caption %d, %s: %q", i, c.Name, c.Text)
		}
	}
	if len(lengths) != 3 {
		t.Errorf("%d captions", len(lengths))
	}
	now = now.Add(app.PhoneTime + time.Second)
	if _, _, _, _, err := a.Files.OnPhone(t.Context(), token); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("after its time: %v", err)
	}
	if _, _, _, _, err := a.Files.OnPhone(t.Context(), "no such token"); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("an invented token: %v", err)
	}
}

// stuck is a reader who takes nothing.
type stuck struct{ gone <-chan struct{} }

func (s stuck) Write([]byte) (int, error) {
	<-s.gone
	return 0, errors.New("the reader is gone")
}

// onDisk counts the files that wait to be sent, and their bytes; they have no name
// any more.
func onDisk(t *testing.T) (files int, total int64) {
	t.Helper()
	list, err := os.ReadDir("/proc/self/fd")
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range list {
		fd := filepath.Join("/proc/self/fd", e.Name())
		if to, _ := os.Readlink(fd); strings.Contains(to, "aspenridge-file-") && strings.HasSuffix(to, "(deleted)") {
			if info, err := os.Stat(fd); err == nil && info.Size() > 0 {
				files, total = files+1, total+info.Size()
			}
		}
	}
	return files, total
}

// Downloads nobody reads draw one file ahead and no more, which waits on disk and
// not in memory; when the reader is gone, so are they.
func TestUnreadDownloadsWaitOnDisk(t *testing.T) {
	a, m, _, brief := open(t)
	s, err := a.Sets.Set(t.Context(), m, brief)
	if err != nil {
		t.Fatal(err)
	}
	s.Pieces()
	heap := func() uint64 {
		runtime.GC()
		var now runtime.MemStats
		runtime.ReadMemStats(&now)
		return now.HeapAlloc
	}
	// stuckReaders start so many downloads nobody reads, and wait until each has one
	// file that is being sent and one ahead
	stuckReaders := func(readers int) (stop func(), total int64) {
		ctx, leave := context.WithCancel(t.Context())
		done := make(chan error, readers)
		for range readers {
			go func() {
				done <- a.Files.DownloadAll(ctx, m, s, stuck{ctx.Done()}, app.HandOver{Format: "png", Scale: "2"}, nil)
			}()
		}
		for files := 0; files < 2*readers && t.Context().Err() == nil; {
			files, total = onDisk(t)
		}
		return func() {
			leave()
			for range readers {
				if err := <-done; err == nil {
					t.Error("a download nobody reads ends well")
				}
			}
		}, total
	}
	stop, _ := stuckReaders(1) // what is read once and kept stays out of the count
	stop()
	before := heap()
	const readers = 5
	stop, total := stuckReaders(readers)
	if grown := int64(heap()) - int64(before); grown > total/2 {
		t.Errorf("%d kB wait on disk and %d kB in memory", total>>10, grown>>10)
	}
	if files, _ := onDisk(t); files != 2*readers {
		t.Errorf("%d files wait for %d readers", files, readers)
	}
	stop()
	if files, _ := onDisk(t); files != 0 {
		t.Errorf("%d files are left behind", files)
	}
}
