package reel_test

import (
	"bytes"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/gate"
	"aspenridge/internal/reel"
	"aspenridge/test/stage"
)

// relabelled is a film whose container says it is 64 px wide and high, whatever its stream is.
func relabelled(t *testing.T, path string) string {
	t.Helper()
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	at := bytes.Index(data, []byte("avc1\x00\x00\x00\x00"))
	if at < 0 {
		t.Fatal("no sample entry")
	}
	copy(data[at+4+24:], []byte{0, 64, 0, 64}) // width, height (ISO/IEC 14496-12, 12.1.3)
	out := filepath.Join(t.TempDir(), "small.mp4")
	if err := os.WriteFile(out, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return out
}

// TestFilmsAreRefusedFromTheirHeader: what would cost more to read than a film may is refused with
// words before anything of it is decoded, also where the container hides it: a refusal takes less
// of the processor's time than opening a small film does.
func TestFilmsAreRefusedFromTheirHeader(t *testing.T) {
	long := stage.Film(t, "wide.mp4", "-f", "lavfi", "-i", "color=s=4352x128:d=1:r=5", "-pix_fmt", "yuv420p")
	html := filepath.Join(t.TempDir(), "page.mp4")
	if err := os.WriteFile(html, append([]byte("\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom"), []byte("<html><script>alert(1)</script>")...), 0o600); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct{ path, says string }{
		"wide":                          {long, "4352"},
		"wide, and labelled otherwise":  {relabelled(t, long), "4352"},
		"of twelve frames each":         {stage.Film(t, "refs.mp4", "-f", "lavfi", "-i", "testsrc2=s=320x240:d=1:r=30", "-pix_fmt", "yuv420p", "-x264-params", "ref=12:level=5.1"), "12"},
		"fast":                          {stage.Film(t, "fast.mp4", "-f", "lavfi", "-i", "testsrc2=s=128x128:d=1:r=120", "-pix_fmt", "yuv420p"), "120"},
		"of sixteen minutes":            {stage.Film(t, "long.mp4", "-f", "lavfi", "-i", "color=s=64x64:d=960:r=1", "-pix_fmt", "yuv420p"), "16 min"},
		"long for its size":             {stage.Film(t, "large.mp4", "-f", "lavfi", "-i", "color=s=4096x2304:d=700:r=0.1", "-r", "0.1", "-pix_fmt", "yuv420p", "-preset", "ultrafast"), ""},
		"a page behind a film's header": {html, "cannot be read"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			_, err := reel.CheckClip(gate.WithBudget(t.Context(), 3*time.Second), c.path)
			if c.says == "" { // one frame in ten seconds is little to read
				if errors.Is(err, gate.ErrBudget) {
					t.Error(err)
				}
				return
			}
			if !errors.Is(err, reel.ErrClip) || errors.Is(err, gate.ErrBudget) || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%v, want it to say %q", err, c.says)
			}
		})
	}
	for _, c := range []string{"ref=1", "ref=3", "ref=5:interlaced=1", "ref=8:bframes=3"} {
		path := stage.Film(t, "ok.mp4", "-f", "lavfi", "-i", "testsrc2=s=330x252:d=1:r=30", "-pix_fmt", "yuv420p", "-x264-params", c)
		f, err := reel.CheckClip(t.Context(), path)
		if err != nil || f.W != 330 || f.H != 252 {
			t.Errorf("%s: %+v, %v", c, f, err)
		}
		// as ffmpeg reads it itself (its trace of the sequence parameter set)
		out, _ := exec.Command("ffmpeg", "-nostdin", "-i", path, "-c", "copy", "-bsf:v", "trace_headers", "-f", "null", "-").CombinedOutput()
		for line := range strings.Lines(string(out)) {
			if strings.Contains(line, "max_num_ref_frames") {
				if fields := strings.Fields(line); fields[len(fields)-1] != reel.RefsOf(f) {
					t.Errorf("%s: %s references, ffmpeg reads %s", c, reel.RefsOf(f), fields[len(fields)-1])
				}
				break
			}
		}
	}
}

// FuzzParameterSets: no header makes the reader of it fail, or read without end.
func FuzzParameterSets(f *testing.F) {
	f.Add([]byte{1, 100, 0, 62, 255, 225, 0, 29, 0x67, 0x64, 0, 0x3e, 0xac, 0x72, 0x84, 0x40, 0x10, 0, 8, 6, 0xc0, 0x44, 0, 0, 3, 0, 4, 0, 0, 3, 0, 0x50, 0x3c, 0x20, 0x10, 0x61, 0x18, 1, 0, 6, 0x68, 0xe8})
	f.Add([]byte{1, 66, 0, 30, 255, 255, 0, 4, 0x67, 0, 0, 3})
	f.Fuzz(func(t *testing.T, data []byte) {
		for _, refs := range reel.ParameterSets(data) {
			if refs < 0 {
				t.Errorf("%d references", refs)
			}
		}
	})
}
