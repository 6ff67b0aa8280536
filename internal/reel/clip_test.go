package reel_test

import (
	"bytes"
	"context"
	"errors"
	"image"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/raster"
	"aspenridge/internal/reel"
	"aspenridge/test/stage"
)

func imported(t testing.TB, data []byte) raster.Imported {
	t.Helper()
	in, err := raster.Import(t.Context(), data)
	if err != nil {
		t.Fatal(err)
	}
	return in
}

// studioOf draws one picture.
func studioOf(in raster.Imported) *raster.Studio {
	return raster.NewStudio(func(string) ([]byte, error) { return in.Data, nil })
}

func rect(x, y, w, h float64) spec.Rect { return spec.Rect{X: x, Y: y, W: w, H: h} }

// TestClipsComeIn: whatever the kind, the rate, the way up, the depth of colour, what comes
// in is upright, 30 frames a second, of its length, in the colours of screens.
func TestClipsComeIn(t *testing.T) {
	src := func(args ...string) []string {
		return append([]string{"-f", "lavfi", "-i", "testsrc2=size=320x180:rate=24:duration=1"}, args...)
	}
	turned := stage.Film(t, "plain.mp4", src("-pix_fmt", "yuv420p")...)
	for name, k := range map[string]struct {
		path   string
		w, h   int
		length float64
		sound  bool
	}{
		"mp4":        {stage.Film(t, "a.mp4", src("-pix_fmt", "yuv420p")...), 320, 180, 1, false},
		"webm":       {stage.Film(t, "a.webm", src("-c:v", "libvpx-vp9", "-deadline", "realtime", "-cpu-used", "8")...), 320, 180, 1, false},
		"mov, 10bit": {stage.Film(t, "a.mov", src("-c:v", "libx265", "-x265-params", "log-level=error", "-pix_fmt", "yuv420p10le", "-color_trc", "smpte2084", "-color_primaries", "bt2020", "-colorspace", "bt2020nc")...), 320, 180, 1, false},
		"gif":        {stage.Film(t, "a.gif", "-f", "lavfi", "-i", "testsrc2=size=200x301:rate=10:duration=1.5"), 200, 301, 1.5, false},
		"60 a s":     {stage.Film(t, "b.mp4", "-f", "lavfi", "-i", "testsrc2=size=320x180:rate=60:duration=1", "-pix_fmt", "yuv420p"), 320, 180, 1, false},
		"turned":     {stage.Film(t, "c.mp4", "-i", turned, "-c", "copy", "-metadata:s:v", "rotate=90"), 180, 320, 1, false},
		"large":      {stage.Film(t, "d.mp4", "-f", "lavfi", "-i", "testsrc2=size=2560x1440:rate=5:duration=0.6", "-pix_fmt", "yuv420p", "-preset", "ultrafast"), 1920, 1080, 0.6, false},
		"odd":        {stage.Film(t, "e.mp4", "-f", "lavfi", "-i", "testsrc2=size=321x181:rate=30:duration=1", "-pix_fmt", "yuv444p"), 320, 180, 1, false},
		"with sound": {stage.Film(t, "f.mp4", "-f", "lavfi", "-i", "testsrc2=size=320x240:rate=30:duration=1", "-f", "lavfi", "-i", "sine=frequency=1000:duration=1", "-pix_fmt", "yuv420p"), 320, 240, 1, true},
		"wide dots":  {stage.Film(t, "g.mp4", "-f", "lavfi", "-i", "testsrc2=size=360x288:rate=25:duration=1", "-vf", "setsar=64/45", "-pix_fmt", "yuv420p"), 512, 288, 1, false},
	} {
		out := filepath.Join(t.TempDir(), "out.mp4")
		told := 0
		f, err := reel.TakeClip(t.Context(), k.path, out, func(int, int) { told++ })
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if abs(f.W-k.w) > 1 || abs(f.H-k.h) > 1 || math.Abs(f.Seconds-k.length) > 0.11 || f.Sound != k.sound {
			t.Errorf("%s: %+v, want %d x %d, %.1f s, sound %v", name, f, k.w, k.h, k.length, k.sound)
		}
		v := probed(t, out).Streams[0]
		if v.Codec != "h264" || v.Pixels != "yuv420p" || v.Rate != "30/1" || v.Space != "bt709" || v.Transfer != "bt709" {
			t.Errorf("%s: %+v", name, v)
		}
		if still, at, err := reel.Poster(t.Context(), out, f.Seconds); err != nil || at <= 0 || at >= f.Seconds {
			t.Errorf("%s: its frame at %.2f of %d bytes: %v", name, at, len(still), err)
		}
	}
}

func abs(v int) int { return max(v, -v) }

// TestBadClips: what cannot be taken in says why.
func TestBadClips(t *testing.T) {
	write := func(name string, data []byte) string {
		path := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	whole, err := os.ReadFile(stage.Film(t, "a.mp4", "-f", "lavfi", "-i", "testsrc2=size=640x360:rate=30:duration=3", "-pix_fmt", "yuv420p", "-movflags", "+faststart"))
	if err != nil {
		t.Fatal(err)
	}
	secret := write("secret.txt", []byte("secret"))
	for name, k := range map[string]struct{ path, says string }{
		"nothing":      {write("a.mp4", nil), "cannot be read"},
		"a program":    {write("b.mp4", append([]byte("\x7fELF\x02\x01\x01"), make([]byte, 4000)...)), "cannot be read"},
		"a web page":   {write("c.mp4", []byte("<html><script>alert(1)</script></html>")), "cannot be read"},
		"only its top": {write("d.mp4", whole[:40]), "no pictures"},
		"sound alone":  {stage.Film(t, "e.mp3", "-f", "lavfi", "-i", "sine=duration=1"), "no pictures"},
		"one frame":    {stage.Film(t, "f.mp4", "-f", "lavfi", "-i", "testsrc2=size=320x240:rate=30:duration=0.033", "-pix_fmt", "yuv420p"), "at least 0.2"},
		"ten hours":    {stage.Film(t, "g.mp4", "-f", "lavfi", "-i", "color=size=64x64:rate=1/600:duration=36000", "-pix_fmt", "yuv420p"), "600 min"},
		"very large":   {stage.Film(t, "h.mkv", "-f", "lavfi", "-i", "color=size=9000x64:rate=1:duration=1", "-c:v", "ffv1"), "9000 x 64"},
		"very small":   {stage.Film(t, "i.gif", "-f", "lavfi", "-i", "testsrc2=size=16x16:rate=5:duration=1"), "16 x 16"},
		"a list":       {write("j.mp4", []byte("#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\nfile://"+secret+"\n")), "cannot be read"},
		"a list too":   {write("k.txt", []byte("ffconcat version 1.0\nfile '"+secret+"'\n")), "cannot be read"},
	} {
		_, err := reel.TakeClip(t.Context(), k.path, filepath.Join(t.TempDir(), "out.mp4"), nil)
		if !errors.Is(err, reel.ErrClip) || !strings.Contains(err.Error(), k.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	// one that breaks off is taken as far as it goes
	f, err := reel.TakeClip(t.Context(), write("l.mp4", whole[:len(whole)/2]), filepath.Join(t.TempDir(), "out.mp4"), nil)
	if err != nil || f.Seconds < 0.5 || f.Seconds > 2.9 {
		t.Errorf("half a film: %+v, %v", f, err)
	}
	ctx, stop := context.WithCancel(t.Context())
	stop()
	if _, err := reel.TakeClip(ctx, write("m.mp4", whole), filepath.Join(t.TempDir(), "out.mp4"), nil); err == nil {
		t.Error("stopped, and taken in")
	}
}

// running is a film of one take in which a clip runs in a box, from a second on.
func running(clip string, seconds float64) *film.Film {
	canvas := &scene.Scene{W: 400, H: 300, Parts: []scene.Part{{Slot: "picture", Kind: scene.KindPicture, Box: rect(40, 30, 320, 180), Crop: rect(0, 0, 640, 360), Picture: clip}}}
	l := film.Layer{Slot: "picture", Drawing: canvas, Box: rect(40, 30, 320, 180), Move: film.Move{Kind: "drift", For: seconds, By: 1}, Clip: &film.Clip{Hash: clip, From: 1, For: seconds, Crop: [4]float64{0, 0, 1, 1}}}
	return &film.Film{W: 400, H: 300, FPS: 30, Takes: []film.Take{{Role: "point", To: seconds, Layers: []film.Layer{l}}}}
}

// TestClipsRun holds frames of a film in which a clip runs against the clip's own frames, as
// ffmpeg decodes them by number: each is nearer to its own than to the ones beside it.
func TestClipsRun(t *testing.T) {
	came := stage.Film(t, "a.mp4", "-f", "lavfi", "-i", "testsrc2=size=640x360:rate=30:duration=3", "-f", "lavfi", "-i", "sine=frequency=440:duration=3", "-pix_fmt", "yuv420p")
	clip := filepath.Join(t.TempDir(), "clip.mp4")
	if _, err := reel.TakeClip(t.Context(), came, clip, nil); err != nil {
		t.Fatal(err)
	}
	still, err := reel.Still(t.Context(), clip, 1)
	if err != nil {
		t.Fatal(err)
	}
	show := imported(t, still)
	f := running(show.Hash, 1.5)
	clips := func(context.Context, string) (string, error) { return clip, nil }
	s, err := reel.Set(t.Context(), studioOf(show), f, clips)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	own := func(n int) image.Image { // of the clip, by its number
		out, err := exec.Command("ffmpeg", "-v", "error", "-i", clip, "-vf", "select=eq(n\\,"+strconv.Itoa(n)+"),scale=320:180:flags=bicubic:in_color_matrix=bt709", "-frames:v", "1", "-c:v", "png", "-f", "image2pipe", "-").Output()
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(bytes.NewReader(out))
		if err != nil {
			t.Fatal(err)
		}
		return img
	}
	apart := func(a *image.RGBA, b image.Image) float64 {
		sum := 0.0
		for y := range 180 {
			for x := range 320 {
				r, g, bl, _ := b.At(x, y).RGBA()
				c := a.RGBAAt(x+40, y+30)
				sum += math.Abs(float64(c.R)-float64(r>>8)) + math.Abs(float64(c.G)-float64(g>>8)) + math.Abs(float64(c.B)-float64(bl>>8))
			}
		}
		return sum / (3 * 320 * 180)
	}
	for _, n := range []int{0, 7, 20, 3, 44} { // 3 after 20: it begins anew
		got := frame(s, f, n)
		at, before, after := apart(got, own(30+n)), apart(got, own(29+n)), apart(got, own(31+n))
		if at > 4 || at >= before || at >= after {
			t.Errorf("frame %d is %.2f from its own, %.2f from the one before, %.2f from the one after", n, at, before, after)
		}
	}
	heard, err := reel.Hear(t.Context(), clip, 1, 1.5)
	if err != nil || math.Abs(heard.Seconds()-1.5) > 0.05 || heard.Loudness() < -40 {
		t.Errorf("its sound: %.2f s, %v", heard.Seconds(), err)
	}
	// made into a file all its frames come, and no decoder stays
	path := filepath.Join(t.TempDir(), "out.mp4")
	if _, err := reel.Make(t.Context(), s, sound.Mix(nil, []sound.Heard{{Track: heard}}, 1.5), "mp4", 0, path, nil); err != nil {
		t.Fatal(err)
	}
	if v := probed(t, path).Streams[0]; v.Frames != "45" {
		t.Errorf("%s frames", v.Frames)
	}
}

// TestAClipThatIsNotThere fails, and says so.
func TestAClipThatIsNotThere(t *testing.T) {
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, 640, 360))); err != nil {
		t.Fatal(err)
	}
	blank := b.Bytes()
	img := imported(t, blank)
	f := running(img.Hash, 1)
	if _, err := reel.Set(t.Context(), studioOf(img), f, func(context.Context, string) (string, error) { return "", os.ErrNotExist }); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("set without it: %v", err)
	}
	broken := filepath.Join(t.TempDir(), "x.mp4")
	if err := os.WriteFile(broken, []byte("no film"), 0o600); err != nil {
		t.Fatal(err)
	}
	s, err := reel.Set(t.Context(), studioOf(img), f, func(context.Context, string) (string, error) { return broken, nil })
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if _, err := reel.Make(t.Context(), s, nil, "mp4", 0, filepath.Join(t.TempDir(), "out.mp4"), nil); err == nil {
		t.Error("a video was made of a broken clip")
	}
}

// TestSoundsComeIn: recordings and music of any kind, the sound of a film too, and what has
// none.
func TestSoundsComeIn(t *testing.T) {
	tone := []string{"-f", "lavfi", "-i", "sine=frequency=700:duration=1.5"}
	for _, name := range []string{"a.wav", "a.mp3", "a.ogg", "a.flac", "a.m4a"} {
		out := filepath.Join(t.TempDir(), "out.flac")
		f, err := reel.TakeSound(t.Context(), stage.Film(t, name, tone...), out)
		if err != nil || math.Abs(f.Seconds-1.5) > 0.1 {
			t.Errorf("%s: %+v, %v", name, f, err)
			continue
		}
		heard, err := reel.Hear(t.Context(), out, 0, f.Seconds)
		if err != nil || math.Abs(heard.Seconds()-f.Seconds) > 0.02 || heard.Loudness() < -30 {
			t.Errorf("%s: heard %.2f s, %.1f LUFS, %v", name, heard.Seconds(), heard.Loudness(), err)
		}
	}
	silent := stage.Film(t, "b.mp4", "-f", "lavfi", "-i", "testsrc2=size=320x240:rate=30:duration=1", "-pix_fmt", "yuv420p")
	if _, err := reel.TakeSound(t.Context(), silent, filepath.Join(t.TempDir(), "out.flac")); !errors.Is(err, reel.ErrClip) || !strings.Contains(err.Error(), "no sound") {
		t.Errorf("of a silent film: %v", err)
	}
}

// TestAFilmThatFlashes is found while it is made; the demo's video is calm.
func TestAFilmThatFlashes(t *testing.T) {
	came := stage.Film(t, "flash.mp4", "-f", "lavfi", "-i", "color=black:size=640x360:rate=30:duration=2", "-vf", "geq=lum='if(lt(mod(N,6),3),16,235)':cb=128:cr=128", "-pix_fmt", "yuv420p")
	clip := filepath.Join(t.TempDir(), "clip.mp4")
	if _, err := reel.TakeClip(t.Context(), came, clip, nil); err != nil {
		t.Fatal(err)
	}
	still, err := reel.Still(t.Context(), clip, 0)
	if err != nil {
		t.Fatal(err)
	}
	show := imported(t, still)
	s, err := reel.Set(t.Context(), studioOf(show), running(show.Hash, 1), func(context.Context, string) (string, error) { return clip, nil })
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	given, err := reel.Make(t.Context(), s, nil, "mp4", 0, filepath.Join(t.TempDir(), "a.mp4"), nil)
	if err != nil || len(given.Flashes) == 0 {
		t.Errorf("five flashes a second: %+v, %v", given, err)
	}
	_, calm := small(t)
	if given, err = reel.Make(t.Context(), calm, nil, "mp4", 0, filepath.Join(t.TempDir(), "b.mp4"), nil); err != nil || len(given.Flashes) > 0 {
		t.Errorf("the demo's: %+v, %v", given, err)
	}
}

// TestClipsTakeTheColoursOfTheirPicture: with a tone or dials a frame of a clip is as the
// studio draws the same frame as a still.
func TestClipsTakeTheColoursOfTheirPicture(t *testing.T) {
	came := stage.Film(t, "a.mp4", "-f", "lavfi", "-i", "testsrc2=size=640x360:rate=30:duration=1.5", "-pix_fmt", "yuv420p")
	clip := filepath.Join(t.TempDir(), "clip.mp4")
	if _, err := reel.TakeClip(t.Context(), came, clip, nil); err != nil {
		t.Fatal(err)
	}
	still, err := reel.Still(t.Context(), clip, 1)
	if err != nil {
		t.Fatal(err)
	}
	in := imported(t, still)
	studio := studioOf(in)
	tone := scene.Tone{Dark: colour.RGB{R: 12, G: 40, B: 60}, Light: colour.RGB{R: 250, G: 230, B: 200}, White: 1}
	dials := scene.Dials{Brightness: 0.2, Contrast: 0.3, Saturation: -0.4, Warmth: 0.5}
	for name, k := range map[string]struct {
		tone  scene.Tone
		dials scene.Dials
	}{"plain": {}, "tone": {tone: tone}, "dials": {dials: dials}, "both": {tone, dials}} {
		f := running(in.Hash, 0.2)
		c := f.Takes[0].Layers[0].Clip
		c.Tone, c.Dials = k.tone, k.dials
		s, err := reel.Set(t.Context(), studio, f, func(context.Context, string) (string, error) { return clip, nil })
		if err != nil {
			t.Fatal(err)
		}
		got := frame(s, f, 0)
		s.Close()
		data, _, err := studio.Crop(t.Context(), scene.PictureRef{Hash: in.Hash, Crop: rect(0, 0, 640, 360), W: 320, H: 180, Tone: k.tone, Dials: k.dials}, 320, 180)
		if err != nil {
			t.Fatal(err)
		}
		want, _, err := image.Decode(bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		sum := 0.0
		for y := range 180 {
			for x := range 320 {
				r, g, b, _ := want.At(x, y).RGBA()
				p := got.RGBAAt(x+40, y+30)
				sum += math.Abs(float64(p.R)-float64(r>>8)) + math.Abs(float64(p.G)-float64(g>>8)) + math.Abs(float64(p.B)-float64(b>>8))
			}
		}
		if d := sum / (3 * 320 * 180); d > 5 {
			t.Errorf("%s: %.1f of 255 from the still", name, d)
		}
	}
}
