package reel_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/internal/reel"
	"aspenridge/internal/voice"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	voice.ChildMain()
	os.Exit(m.Run())
}

// sample is the demo's first brief and what draws its pictures.
func sample(t testing.TB) (*piece.Job, *raster.Studio) {
	t.Helper()
	dir := t.TempDir()
	if err := demo.Write(dir); err != nil {
		t.Fatal(err)
	}
	fsys, err := kitfile.Open(filepath.Join(dir, "kit"))
	if err != nil {
		t.Fatal(err)
	}
	k, err := kitfile.LoadKit(t.Context(), fsys, false)
	if err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(filepath.Join(dir, "beginners.json"))
	if err != nil {
		t.Fatal(err)
	}
	b, err := kitfile.LoadBrief(data)
	if err != nil {
		t.Fatal(err)
	}
	pics, err := kitfile.LoadPictures(t.Context(), b, os.DirFS(dir), k.Kit, fsys)
	if err != nil {
		t.Fatal(err)
	}
	return kitfile.Job(k, b, pics), raster.NewStudio(pics.Source)
}

func filmOf(t testing.TB, j *piece.Job, place string) *film.Film {
	t.Helper()
	p, err := spec.Parse(place)
	if err != nil {
		t.Fatal(err)
	}
	return film.Of(j, j.First(), p, nil)
}

func frame(s *reel.Stage, f *film.Film, n int) *image.RGBA {
	out := image.NewRGBA(image.Rect(0, 0, f.W, f.H))
	if err := s.Frame(n, out); err != nil {
		panic(err)
	}
	return out
}

// apart is how far two drawings are from each other: the mean of what their channels
// differ by, 0-255.
func apart(a, b image.Image) float64 {
	sum, r := 0.0, a.Bounds()
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			ar, ag, ab, _ := a.At(x, y).RGBA()
			br, bg, bb, _ := b.At(x, y).RGBA()
			sum += math.Abs(float64(ar>>8)-float64(br>>8)) + math.Abs(float64(ag>>8)-float64(bg>>8)) + math.Abs(float64(ab>>8)-float64(bb>>8))
		}
	}
	return sum / 3 / float64(r.Dx()*r.Dy())
}

// A take that stands is the piece it is composed as: frames put together of layers are
// what the renderer of still pieces draws of all parts at once.
func TestAFrameIsThePiece(t *testing.T) {
	j, studio := sample(t)
	for _, place := range []string{"video-square", "video-wide"} {
		f := filmOf(t, j, place)
		for i := range f.Takes {
			f.Takes[i].Mark = nil
		}
		stills := make([]scene.Scene, len(f.Takes))
		for i := range f.Takes {
			stills[i] = scene.Scene{W: f.W, H: f.H}
			for k := range f.Takes[i].Layers {
				l := &f.Takes[i].Layers[k]
				if l.Move.Kind == "drift" { // as it was composed
					l.Move.By = 1
				}
				stills[i].Parts = append(stills[i].Parts, l.Drawing.Parts...)
			}
		}
		s, err := reel.Set(t.Context(), studio, f, nil)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		for i := range f.Takes {
			take, still := &f.Takes[i], &stills[i]
			data, err := studio.Render(t.Context(), still, raster.Output{Format: "png", Fast: true})
			if err != nil {
				t.Fatal(err)
			}
			want, err := png.Decode(bytes.NewReader(data))
			if err != nil {
				t.Fatal(err)
			}
			if d := apart(frame(s, f, int(math.Round(take.Settled()*float64(f.FPS)))-1), want); d > 0.8 { // of large words there is more edge
				t.Errorf("%s: the %s as it stands is %.2f of 255 from the piece", place, take.Role, d)
			}
		}
	}
}

// probe is what ffprobe says of a file.
type probe struct {
	Streams []struct {
		Type      string `json:"codec_type"`
		Codec     string `json:"codec_name"`
		Profile   string `json:"profile"`
		Pixels    string `json:"pix_fmt"`
		W         int    `json:"width"`
		H         int    `json:"height"`
		Space     string `json:"color_space"`
		Transfer  string `json:"color_transfer"`
		Primaries string `json:"color_primaries"`
		Frames    string `json:"nb_read_frames"`
		Rate      string `json:"r_frame_rate"`
		Duration  string `json:"duration"`
	} `json:"streams"`
	Format struct {
		Duration string `json:"duration"`
	} `json:"format"`
}

func probed(t *testing.T, path string) probe {
	t.Helper()
	out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_streams", "-show_format", "-of", "json", path).Output()
	if err != nil {
		t.Fatalf("ffprobe (scripts/setup installs ffmpeg): %v", err)
	}
	var p probe
	if err := json.Unmarshal(out, &p); err != nil {
		t.Fatal(err)
	}
	return p
}

// small is a short film of a small size: what is encoded does not depend on either.
func small(t *testing.T) (*film.Film, *reel.Stage) {
	t.Helper()
	j, studio := sample(t)
	p, err := spec.Parse("360x640")
	if err != nil {
		t.Fatal(err)
	}
	f := film.Of(j, j.First(), p, nil)
	f.Takes = f.Takes[:2]
	s, err := reel.Set(t.Context(), studio, f, nil)
	if err != nil {
		t.Fatal(err)
	}
	return f, s
}

// Files are what channels take: H.264 High or VP9 in 4:2:0, tagged as BT.709, every frame
// there, sound as long as the pictures, the index before what it is of.
func TestFilesAreWhatChannelsTake(t *testing.T) {
	f, s := small(t)
	track := sound.Mix(sound.Under("", "bright", f.Seconds()), nil, f.Seconds())
	for format, want := range map[string][2]string{"mp4": {"h264", "aac"}, "webm": {"vp9", "opus"}} {
		path := filepath.Join(t.TempDir(), "a."+format)
		told := 0
		if _, err := reel.Make(t.Context(), s, track, format, 0, path, func(done, of int) {
			if done != told+1 || of != f.Frames() {
				t.Errorf("told %d of %d after %d", done, of, told)
			}
			told = done
		}); err != nil {
			t.Fatal(err)
		}
		p := probed(t, path)
		if len(p.Streams) != 2 {
			t.Fatalf("%s has %d streams", format, len(p.Streams))
		}
		v, a := p.Streams[0], p.Streams[1]
		if v.Codec != want[0] || v.Pixels != "yuv420p" || v.W != f.W || v.H != f.H || v.Space != "bt709" || v.Transfer != "bt709" || v.Primaries != "bt709" || v.Rate != "30/1" || a.Codec != want[1] {
			t.Errorf("%s: %+v", format, p.Streams)
		}
		if format == "mp4" && v.Profile != "High" {
			t.Errorf("its profile is %s", v.Profile)
		}
		if v.Frames != strconv.Itoa(f.Frames()) {
			t.Errorf("%s has %s frames, the film %d", format, v.Frames, f.Frames())
		}
		if d, _ := strconv.ParseFloat(p.Format.Duration, 64); math.Abs(d-f.Seconds()) > 1.0/30+0.03 {
			t.Errorf("%s runs %s s, the film %v", format, p.Format.Duration, f.Seconds())
		}
		// its peaks stay under what it is held to when it is decoded again (EBU R 128 s1: -1 dBTP)
		loud, err := exec.Command("ffmpeg", "-hide_banner", "-i", path, "-af", "ebur128=peak=true", "-f", "null", "-").CombinedOutput()
		if err != nil {
			t.Fatal(err)
		}
		_, tail, _ := strings.Cut(string(loud), "True peak:")
		_, tail, _ = strings.Cut(tail, "Peak:")
		if peak, err := strconv.ParseFloat(strings.Fields(tail + " none")[0], 64); err != nil || peak > sound.MostTop {
			t.Errorf("%s peaks at %.1f dBTP: %v", format, peak, err)
		}
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		if moov, mdat := bytes.Index(data, []byte("moov")), bytes.Index(data, []byte("mdat")); format == "mp4" && (moov < 0 || moov > mdat) {
			t.Errorf("its index stands at %d, what it is of at %d", moov, mdat)
		}
		if left, _ := filepath.Glob(filepath.Join(filepath.Dir(path), ".*")); len(left) > 0 {
			t.Errorf("left behind: %v", left)
		}
	}
}

// decoded is a frame of a file.
func decoded(t *testing.T, path string, n int) image.Image {
	t.Helper()
	out, err := exec.Command("ffmpeg", "-v", "error", "-i", path, "-vf", fmt.Sprintf("select=eq(n\\,%d)", n), "-frames:v", "1", "-f", "image2pipe", "-c:v", "png", "-").Output()
	if err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

// What is decoded is what was drawn, in its colours; and the same film is the same file.
func TestDecodedFramesAreTheDrawnOnes(t *testing.T) {
	f, s := small(t)
	dir := t.TempDir()
	one, two := filepath.Join(dir, "1.mp4"), filepath.Join(dir, "2.mp4")
	for _, path := range []string{one, two} {
		if _, err := reel.Make(t.Context(), s, nil, "mp4", 0, path, nil); err != nil {
			t.Fatal(err)
		}
	}
	a, _ := os.ReadFile(one)
	b, _ := os.ReadFile(two)
	if !bytes.Equal(a, b) {
		t.Error("the same film became two different files")
	}
	for _, n := range []int{0, 15, f.Frames() - 1} {
		if d := apart(frame(s, f, n), decoded(t, one, n)); d > 2.5 {
			t.Errorf("frame %d is %.2f of 255 from what was drawn", n, d)
		}
	}
}

// Who stops a video gets none, nor half of one, and no process stays; without an encoder
// it is said.
func TestAVideoThatIsStopped(t *testing.T) {
	f, s := small(t)
	path := filepath.Join(t.TempDir(), "a.mp4")
	ctx, cancel := context.WithCancel(t.Context())
	_, err := reel.Make(ctx, s, nil, "mp4", 0, path, func(done, _ int) {
		if done == f.Frames()/2 {
			cancel()
		}
	})
	if err == nil {
		t.Error("it was made all the same")
	}
	if left, _ := filepath.Glob(filepath.Join(filepath.Dir(path), "*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
	t.Setenv("PATH", t.TempDir())
	if _, err := reel.Make(t.Context(), s, nil, "mp4", 0, path, nil); err == nil || !strings.Contains(err.Error(), "ffmpeg") {
		t.Errorf("without ffmpeg: %v", err)
	}
}

// Where the disk is full in the middle that is what is said, and nothing is left behind.
func TestNoRoomInTheMiddle(t *testing.T) {
	_, s := small(t)
	bin, path := t.TempDir(), filepath.Join(t.TempDir(), "a.mp4")
	full := "#!/bin/sh\nfor last; do :; done\n/usr/bin/head -c 100000 > \"$last\"\necho 'av_interleaved_write_frame(): No space left on device' >&2\nexit 1\n"
	if err := os.WriteFile(filepath.Join(bin, "ffmpeg"), []byte(full), 0o755); err != nil {
		t.Fatal(err)
	}
	t.Setenv("PATH", bin+":"+os.Getenv("PATH"))
	if _, err := reel.Make(t.Context(), s, nil, "mp4", 0, path, nil); !errors.Is(err, syscall.ENOSPC) {
		t.Errorf("%v", err)
	}
	if left, _ := filepath.Glob(filepath.Join(filepath.Dir(path), "*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
}

// moving is how a piece moves for some seconds, at any rate.
func moving(j *piece.Job, pc *piece.Piece) func(seconds float64) func(fps int) *film.Film {
	return func(seconds float64) func(fps int) *film.Film {
		return func(fps int) *film.Film { return film.Moving(j, pc, fps, film.Way{Seconds: seconds, Light: true}) }
	}
}

// A piece that runs round and round begins with the px it ends with, and a GIF of it plays without
// an end.
func TestALoopIsAPicture(t *testing.T) {
	j, studio := sample(t)
	p, _ := spec.Find("feed-square")
	p.Width, p.Height = 360, 360
	pc := j.Compose(j.First(), p, 0)
	loop := func(fps int) *film.Film {
		return film.Moving(j, &pc, fps, film.Way{Seconds: 4, Loop: true})
	}
	f := loop(30)
	s, err := reel.Set(t.Context(), studio, f, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	first, last := frame(s, f, 0), frame(s, f, f.Frames()-1)
	if !bytes.Equal(first.Pix, last.Pix) {
		t.Errorf("its ends are %.3f of 255 apart", apart(first, last))
	}
	if d := apart(first, frame(s, f, int(0.6*float64(f.Frames())))); d < 0.5 {
		t.Errorf("a little after the middle it is %.3f of 255 from its first frame", d)
	}
	path := filepath.Join(t.TempDir(), "a.gif")
	if _, err := reel.Animate(t.Context(), studio, loop, nil, reel.GIF, reel.Limit{}, path, nil); err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(path)
	if i := bytes.Index(data, []byte("NETSCAPE2.0")); err != nil || i < 0 || data[i+13] != 0 || data[i+14] != 0 {
		t.Errorf("it is not played without an end: %v", err)
	}
}

// A piece that moves as a GIF: every frame there, played three times, within its limit by
// fewer frames and colours; its end is the piece.
func TestAMovingPiece(t *testing.T) {
	j, studio := sample(t)
	p, err := spec.Parse("ad-300x250")
	if err != nil {
		t.Fatal(err)
	}
	pc := j.Compose(j.First(), p, 0)
	moves := moving(j, &pc)
	path := filepath.Join(t.TempDir(), "a.gif")
	free, err := reel.Animate(t.Context(), studio, moves(4), nil, reel.GIF, reel.Limit{}, path, nil)
	if err != nil || free.FPS != 15 || free.Over {
		t.Fatalf("%+v, %v", free, err)
	}
	v := probed(t, path).Streams[0]
	if v.Codec != "gif" || v.Frames != "60" || v.W != 300 || v.H != 250 {
		t.Errorf("%+v", v)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	// the loop count of the application extension NETSCAPE2.0: twice more
	if i := bytes.Index(data, []byte("NETSCAPE2.0")); i < 0 || data[i+13] != 2 || data[i+14] != 0 {
		t.Error("it is not played three times")
	}
	still, err := studio.Render(t.Context(), pc.Scene, raster.Output{Format: "png"})
	if err != nil {
		t.Fatal(err)
	}
	want, err := png.Decode(bytes.NewReader(still))
	if err != nil {
		t.Fatal(err)
	}
	if d := apart(want, decoded(t, path, 59)); d > 6 {
		t.Errorf("its last frame is %.1f of 255 from the piece", d)
	}
	tight, err := reel.Animate(t.Context(), studio, moves(4), nil, reel.GIF, reel.Limit{Bytes: free.Bytes * 2 / 3, Exact: true}, path, nil)
	if err != nil || tight.Over || tight.Bytes > free.Bytes*2/3 || tight.FPS >= free.FPS || tight.Colours >= free.Colours {
		t.Errorf("with two thirds of its bytes: %+v, %v", tight, err)
	}
	// what cannot be made that small is made as small as it goes, said, and in its size only
	// where that has to be
	for exact, want := range map[bool][2]int{true: {300, 250}, false: {150, 124}} {
		hopeless, err := reel.Animate(t.Context(), studio, moves(4), nil, reel.GIF, reel.Limit{Bytes: 100, Exact: exact}, path, nil)
		if err != nil || !hopeless.Over {
			t.Errorf("within 100 bytes: %+v, %v", hopeless, err)
		}
		if v := probed(t, path).Streams[0]; v.W != want[0] || v.H != want[1] {
			t.Errorf("exact %v: %d × %d", exact, v.W, v.H)
		}
	}
}

// TestWebPAndLimits: a moving piece as WebP, and a video, within their limits by quality.
func TestWebPAndLimits(t *testing.T) {
	j, studio := sample(t)
	p, err := spec.Parse("ad-300x250")
	if err != nil {
		t.Fatal(err)
	}
	pc := j.Compose(j.First(), p, 0)
	moves := moving(j, &pc)
	path := filepath.Join(t.TempDir(), "a.webp")
	free, err := reel.Animate(t.Context(), studio, moves(3), nil, reel.WebP, reel.Limit{}, path, nil)
	if err != nil || free.Over {
		t.Fatalf("%+v, %v", free, err)
	}
	data, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	// the container: RIFF, WEBP, VP8X with the animation flag, ANIM with three loops, ANMF for
	// each frame that differs (WebP container specification)
	if string(data[:4]) != "RIFF" || string(data[8:16]) != "WEBPVP8X" || data[20]&2 == 0 {
		t.Fatalf("%q", data[:32])
	}
	anim := bytes.Index(data, []byte("ANIM"))
	if anim < 0 || data[anim+12] != 3 || bytes.Count(data, []byte("ANMF")) < 10 {
		t.Errorf("%d frames", bytes.Count(data, []byte("ANMF")))
	}
	tight, err := reel.Animate(t.Context(), studio, moves(3), nil, reel.WebP, reel.Limit{Bytes: free.Bytes * 2 / 3, Exact: true}, path, nil)
	if err != nil || tight.Over || tight.Bytes > free.Bytes*2/3 || tight.Quality >= free.Quality {
		t.Errorf("with two thirds of its bytes: %+v, %v", tight, err)
	}

	_, s := small(t)
	video := filepath.Join(t.TempDir(), "a.mp4")
	good, err := reel.Make(t.Context(), s, nil, "mp4", 0, video, nil)
	if err != nil || good.Over {
		t.Fatal(good, err)
	}
	less, err := reel.Make(t.Context(), s, nil, "mp4", good.Bytes*3/4, video, nil)
	if err != nil || less.Over || less.Bytes > good.Bytes*3/4 || less.CRF <= good.CRF {
		t.Errorf("with three quarters of its bytes: %+v of %+v, %v", less, good, err)
	}
	if over, err := reel.Make(t.Context(), s, nil, "mp4", 1000, video, nil); err != nil || !over.Over {
		t.Errorf("within 1000 bytes: %+v, %v", over, err)
	}
}

// TestFramesAreThePieces: once all parts stand, a frame of the file is as like the picture
// the still renderer draws of the same scene as SSIM can tell (over 0.98).
func TestFramesAreThePieces(t *testing.T) {
	j, studio := sample(t)
	p, err := spec.Parse("640x640")
	if err != nil {
		t.Fatal(err)
	}
	f := film.Of(j, j.First(), p, nil)
	f.Takes, f.Mark = f.Takes[1:3], nil
	begin := f.Takes[0].From
	for i := range f.Takes {
		f.Takes[i].From, f.Takes[i].To, f.Takes[i].Mark = f.Takes[i].From-begin, f.Takes[i].To-begin, nil
		for k := range f.Takes[i].Layers { // pictures stand as well
			f.Takes[i].Layers[k].Move.By = min(1, f.Takes[i].Layers[k].Move.By)
		}
	}
	s, err := reel.Set(t.Context(), studio, f, nil)
	if err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "a.mp4")
	if _, err := reel.Make(t.Context(), s, nil, "mp4", 0, path, nil); err != nil {
		t.Fatal(err)
	}
	for _, k := range f.Takes {
		whole := &scene.Scene{W: f.W, H: f.H}
		for _, l := range k.Layers {
			whole.Parts = append(whole.Parts, l.Drawing.Parts...)
		}
		still, err := studio.Render(t.Context(), whole, raster.Output{Format: "png"})
		if err != nil {
			t.Fatal(err)
		}
		want := filepath.Join(t.TempDir(), "want.png")
		if err := os.WriteFile(want, still, 0o600); err != nil {
			t.Fatal(err)
		}
		n := int(k.Settled()*float64(f.FPS)) - 2
		out, err := exec.Command("ffmpeg", "-hide_banner", "-i", path, "-i", want, "-filter_complex", fmt.Sprintf("[0]select=eq(n\\,%d),format=gbrp[a];[1]format=gbrp[b];[a][b]ssim", n), "-frames:v", "1", "-f", "null", "-").CombinedOutput()
		if err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		i := bytes.LastIndex(out, []byte("All:"))
		if i < 0 {
			t.Fatalf("%s", out)
		}
		var ssim float64
		if _, err := fmt.Sscanf(string(out[i:]), "All:%f", &ssim); err != nil || ssim < 0.98 {
			t.Errorf("%s, frame %d: SSIM %.4f, %v", k.Role, n, ssim, err)
		}
	}
}

// TestSoundAndPicturesStayTogether: a click at the end of the sound is heard there in the
// file, within a frame.
func TestSoundAndPicturesStayTogether(t *testing.T) {
	f, s := small(t)
	track := make(sound.Track, 2*int(f.Seconds()*sound.Rate))
	at := f.Seconds() - 0.5
	for i := range int(0.2 * sound.Rate) {
		v := float32(0.8 * math.Sin(2*math.Pi*1000*float64(i)/sound.Rate))
		k := 2 * (int(at*sound.Rate) + i)
		track[k], track[k+1] = v, v
	}
	for _, format := range reel.Formats {
		path := filepath.Join(t.TempDir(), "a."+format)
		if _, err := reel.Make(t.Context(), s, track, format, 0, path, nil); err != nil {
			t.Fatal(err)
		}
		heard, err := reel.Hear(t.Context(), path, 0, f.Seconds()+1)
		if err != nil {
			t.Fatal(err)
		}
		first := 0
		for first < len(heard) && math.Abs(float64(heard[first])) < 0.2 {
			first++
		}
		if got := float64(first/2) / sound.Rate; math.Abs(got-at) > 1/float64(f.FPS) {
			t.Errorf("%s: the click is heard at %.3f s, it is at %.3f", format, got, at)
		}
	}
}
