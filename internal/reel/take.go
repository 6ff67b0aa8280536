package reel

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"math"
	"os/exec"
	"strconv"
	"strings"
	"time"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/sound"
	"aspenridge/internal/gate"
	"aspenridge/internal/raster"
)

// ErrClip means a film cannot be taken in.
var ErrClip = errors.New("the clip")

// Facts are what is known of a film, or of a sound.
type Facts struct {
	W       int     `json:"w"` // px, upright
	H       int     `json:"h"`
	Seconds float64 `json:"seconds"`
	Picture bool    `json:"picture"` // it has pictures that move
	Sound   bool    `json:"sound"`
	bright  bool    // of more than screens show (HDR)
	header  header
}

// What is taken in.
const (
	MostClipBytes = 500 << 20
	leastSeconds  = 0.2
	longSide      = 1920 // px of the longer side, once it is in
	clipRate      = 30   // frames a second, then

	probing = 60 * time.Second // as the clock has it: only for what neither works nor ends

	// what a child may take that looks at a film, and one that makes it anew
	lookRoom = 600 << 20 // bytes of memory
	lookTime = 10        // s of the processor's time
	makeRoom = 3 << 30
)

// known are the kinds of files that are opened, by the names ffmpeg has for them; lists of
// other files are none of them.
const known = "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,gif,wav,mp3,ogg,flac,aac"

// child is a program that reads what strangers sent: with so many bytes of memory and seconds of
// the processor's time and no more, and no way to anything but the file.
func child(ctx context.Context, room, seconds int, name string, args ...string) *exec.Cmd {
	guard := []string{"--as=" + strconv.Itoa(room), "--cpu=" + strconv.Itoa(seconds), name, "-hide_banner", "-v", "error", "-protocol_whitelist", "file,pipe", "-format_whitelist", known}
	return behind(ctx, "prlimit", append(guard, args...)...)
}

// behind is a program that stands back for what somebody does, and for files that are drawn.
func behind(ctx context.Context, name string, args ...string) *exec.Cmd {
	if _, err := exec.LookPath(name); err != nil {
		return exec.CommandContext(ctx, name, args...) // starting it says that it is not there
	}
	nice := gate.NiceFilms
	if gate.Far(ctx) {
		nice = gate.NiceFar
	}
	return exec.CommandContext(ctx, "nice", append([]string{"-n", strconv.Itoa(nice), name}, args...)...)
}

// look runs a child that looks at a film of which the header is known, when it is its turn.
func look(ctx context.Context, h header, name string, args ...string) ([]byte, error) {
	leave, err := raster.Heavy(ctx, h.cost())
	if err != nil {
		return nil, err
	}
	defer leave()
	ctx, stop := context.WithTimeout(ctx, probing)
	defer stop()
	cmd := child(ctx, lookRoom, lookTime, name, args...)
	out, err := cmd.Output()
	if ctx.Err() != nil {
		err = errSlow
	}
	if spent := gate.Spent(ctx, cmd.ProcessState); spent != nil {
		return nil, fmt.Errorf("%w: %w", ErrClip, spent)
	}
	if exit := (*exec.ExitError)(nil); errors.As(err, &exit) && !exit.Exited() { // it used its time up
		err = errSlow
	}
	return out, err
}

// errSlow means that looking at a film takes more than it may.
var errSlow = fmt.Errorf("%w takes too long to read: save it anew as MP4", ErrClip)

// headerOf reads what a film says of itself, and decodes nothing.
func headerOf(ctx context.Context, path string) (header, error) {
	out, err := look(ctx, header{}, "ffprobe", "-nofind_stream_info", "-show_data", "-of", "json", "-show_streams", "-show_format", path)
	switch {
	case errors.Is(err, exec.ErrNotFound):
		return header{}, fmt.Errorf("%w is not there (%w)", ErrEncoder, err)
	case errors.Is(err, ErrClip), ctx.Err() != nil, errors.Is(err, gate.ErrCrowded):
		return header{}, err
	case err != nil:
		return header{}, errUnread
	}
	return readHeader(out)
}

var errUnread = fmt.Errorf("%w cannot be read: MP4, MOV, WebM and GIF are taken, WAV, MP3, Ogg, FLAC and M4A for sound", ErrClip)

// Probe looks at a film or a sound. Errors are [ErrClip] and say what is wrong with it.
func Probe(ctx context.Context, path string) (f Facts, err error) {
	h, err := headerOf(ctx, path)
	if err == nil {
		err = h.check()
	}
	if err != nil {
		return f, err
	}
	out, err := look(ctx, h, "ffprobe", "-threads", "1", "-of", "json", "-show_streams", "-show_format", path)
	switch {
	case errors.Is(err, ErrClip), ctx.Err() != nil, errors.Is(err, gate.ErrCrowded):
		return f, err
	case err != nil:
		return f, errUnread
	}
	f.header = h
	var got struct {
		Streams []struct {
			Type     string `json:"codec_type"`
			Width    int    `json:"width"`
			Height   int    `json:"height"`
			Duration string `json:"duration"`
			Transfer string `json:"color_transfer"`
			Still    struct {
				Attached int `json:"attached_pic"`
			} `json:"disposition"`
			Side []struct {
				Rotation float64 `json:"rotation"`
			} `json:"side_data_list"`
		} `json:"streams"`
		Format struct {
			Duration string `json:"duration"`
		} `json:"format"`
	}
	if err := json.Unmarshal(out, &got); err != nil {
		return f, fmt.Errorf("%w: %w", ErrClip, err)
	}
	f.Seconds, _ = strconv.ParseFloat(got.Format.Duration, 64)
	for _, s := range got.Streams {
		if d, err := strconv.ParseFloat(s.Duration, 64); err == nil && f.Seconds == 0 {
			f.Seconds = d
		}
		switch {
		case s.Type == "audio":
			f.Sound = true
		case s.Type == "video" && s.Still.Attached == 0 && !f.Picture:
			f.Picture, f.W, f.H = true, s.Width, s.Height
			for _, d := range s.Side {
				if q := int(math.Round(math.Abs(d.Rotation)/90)) % 2; q == 1 {
					f.W, f.H = f.H, f.W
				}
			}
			f.bright = s.Transfer == "smpte2084" || s.Transfer == "arib-std-b67"
		}
	}
	return f, nil
}

// mayBeClip says what is wrong with what is to be a clip; nil when it can be taken in.
func (f Facts) mayBeClip() error {
	switch {
	case !f.Picture && f.Sound:
		return fmt.Errorf("%w has sound and no pictures: bring a film", ErrClip)
	case !f.Picture:
		return fmt.Errorf("%w has no pictures: bring a film", ErrClip)
	case f.W > mostSide || f.H > mostSide: // the stream is larger than the header said
		return fmt.Errorf("%w is %d x %d px, at most %d are taken: save it smaller", ErrClip, f.W, f.H, mostSide)
	case f.W < leastSide || f.H < leastSide:
		return fmt.Errorf("%w is %d x %d px, at least %d are needed", ErrClip, f.W, f.H, leastSide)
	case f.Seconds > brief.MostClip: // and longer
		return fmt.Errorf("%w runs %.0f min, at most %.0f are taken: cut out what is needed", ErrClip, f.Seconds/60, brief.MostClip/60)
	}
	return nil
}

// Work is how long making the film into a clip may take: by the pixels of all its frames, four
// times what that takes on a slow machine (15 million a second).
func (f Facts) Work() time.Duration {
	pixels := float64(f.W) * float64(f.H) * math.Max(f.header.rate, clipRate) * f.Seconds
	return time.Minute + time.Duration(pixels/15e6)*time.Second
}

// CheckClip looks at what is to be a clip.
func CheckClip(ctx context.Context, path string) (Facts, error) {
	f, err := Probe(ctx, path)
	if err == nil {
		err = f.mayBeClip()
	}
	return f, err
}

// TakeClip makes a film into a clip as we keep them: upright, 30 frames a second, at most
// 1920 px long, in the colours of screens, one that can be begun at every half second. tell
// hears how far it is, of 100.
func TakeClip(ctx context.Context, path, out string, tell func(done, of int)) (Facts, error) {
	f, err := CheckClip(ctx, path)
	if err != nil {
		return f, err
	}
	ctx, stop := context.WithTimeout(ctx, f.Work())
	defer stop()
	filters := []string{"scale='trunc(iw*sar/2)*2':ih", "setsar=1"}
	if f.bright { // toned down to what screens show
		filters = append(filters, "zscale=t=linear:npl=203", "format=gbrpf32le", "zscale=p=bt709", "tonemap=hable:desat=0", "zscale=t=bt709:m=bt709:r=tv")
	}
	side := strconv.Itoa(longSide)
	filters = append(filters,
		"scale=w='if(gt(iw,ih),min("+side+",trunc(iw/2)*2),-2)':h='if(gt(iw,ih),-2,min("+side+",trunc(ih/2)*2))':flags=lanczos+accurate_rnd:out_color_matrix=bt709:out_range=tv",
		"fps="+strconv.Itoa(clipRate), "format=yuv420p")
	cmd := child(ctx, makeRoom, 2*int(f.Work().Seconds()), "ffmpeg", "-nostdin", "-y", "-threads", encoderThreads, "-t", fmt.Sprint(brief.MostClip), "-i", path,
		"-map", "0:v:0", "-map", "0:a:0?", "-sn", "-dn", "-max_error_rate", "1", "-vf", strings.Join(filters, ","),
		"-c:v", "libx264", "-preset", "veryfast", "-crf", "17", "-profile:v", "high", "-g", strconv.Itoa(clipRate/2), "-color_primaries", "bt709", "-color_trc", "bt709", "-colorspace", "bt709", "-color_range", "tv",
		"-c:a", "aac", "-b:a", "192k", "-ac", "2", "-ar", "48000", "-map_metadata", "-1", "-fflags", "+bitexact", "-movflags", "+faststart", "-progress", "pipe:1", "-f", "mp4", out)
	var errs bytes.Buffer
	cmd.Stderr = &errs
	lines, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		return f, fmt.Errorf("%w is not there (%w)", ErrEncoder, err)
	}
	for read := bufio.NewScanner(lines); read.Scan(); {
		if us, ok := strings.CutPrefix(read.Text(), "out_time_us="); ok && tell != nil && f.Seconds > 0 {
			at, _ := strconv.ParseFloat(us, 64)
			tell(min(99, max(0, int(at/1e4/f.Seconds))), 100)
		}
	}
	ended := cmd.Wait()
	if ctx.Err() != nil {
		return f, context.Cause(ctx)
	}
	had := f
	if f, err = Probe(ctx, out); err != nil || f.Seconds < leastSeconds { // a file that breaks off is taken as far as it goes
		why := "it shows nothing"
		if ended != nil {
			why = lastLine(errs.String())
		}
		if f.Seconds > 0 {
			why = fmt.Sprintf("it runs %.2f s, at least %.1f are needed", f.Seconds, leastSeconds)
		}
		return had, fmt.Errorf("%w cannot be used: %s", ErrClip, why)
	}
	return f, nil
}

// MostSoundBytes is how large a file of sound may be.
const MostSoundBytes = 100 << 20

// TakeSound makes a file of sound, or the sound of a film, into one as we keep them: FLAC of
// two channels at 48 kHz.
func TakeSound(ctx context.Context, path, out string) (Facts, error) {
	f, err := Probe(ctx, path)
	switch {
	case err != nil:
		return f, err
	case !f.Sound:
		return f, fmt.Errorf("%w has no sound", ErrClip)
	case f.Seconds > brief.MostClip:
		return f, fmt.Errorf("%w runs %.0f min, at most %.0f are taken: cut out what is needed", ErrClip, f.Seconds/60, brief.MostClip/60)
	}
	ctx, stop := context.WithTimeout(ctx, time.Minute)
	defer stop()
	_, err = child(ctx, lookRoom, 60, "ffmpeg", "-nostdin", "-y", "-t", fmt.Sprint(brief.MostClip), "-i", path, "-vn", "-map", "0:a:0", "-ac", "2", "-ar", fmt.Sprint(sound.Rate), "-sample_fmt", "s16",
		"-c:a", "flac", "-map_metadata", "-1", "-fflags", "+bitexact", "-flags:a", "+bitexact", "-f", "flac", out).Output()
	if ctx.Err() != nil {
		return f, ctx.Err()
	}
	said := errorText(err)
	if f, err = Probe(ctx, out); err != nil || f.Seconds < leastSeconds {
		return f, fmt.Errorf("%w cannot be used: there is nothing to hear in it (%s)", ErrClip, said)
	}
	return f, nil
}

// Still is one frame of a clip as a PNG file.
func Still(ctx context.Context, path string, at float64) ([]byte, error) {
	h, err := headerOf(ctx, path)
	if err == nil {
		err = h.check()
	}
	if err != nil {
		return nil, err
	}
	out, err := look(ctx, h, "ffmpeg", "-nostdin", "-threads", "1", "-ss", fmt.Sprint(at), "-i", path, "-frames:v", "1", "-threads", "1", "-vf", "scale=flags=bicubic+accurate_rnd+full_chroma_int:in_color_matrix=bt709,format=rgb24", "-c:v", "png", "-f", "image2pipe", "pipe:1")
	if errors.Is(err, ErrClip) || ctx.Err() != nil {
		return nil, err
	}
	if err != nil || len(out) == 0 {
		return nil, fmt.Errorf("%w has no frame at %.1f s: %w", ErrClip, at, err)
	}
	return out, nil
}

// samples are where it is looked at what a clip shows, 0-1 of its length.
var samples = []float64{0.12, 0.3, 0.5, 0.7, 0.88}

// Poster is the frame that stands for a clip, as a PNG file, and when it is seen: of a few
// the one with most in it.
func Poster(ctx context.Context, path string, seconds float64) (data []byte, at float64, err error) {
	frames, err := sampled(ctx, path, seconds)
	if err != nil {
		return nil, 0, err
	}
	most := -1.0
	for _, f := range frames {
		img, _, e := image.Decode(bytes.NewReader(f.data))
		if e != nil {
			err = e
			continue
		}
		if v := variety(img); v > most {
			most, data, at = v, f.data, f.at
		}
	}
	if data == nil {
		return nil, 0, err
	}
	return data, at, nil
}

// OverFrames is what a clip shows over its frames, by a few of them.
func OverFrames(ctx context.Context, path string, seconds float64) (photo.Over, error) {
	frames, err := sampled(ctx, path, seconds)
	if err != nil {
		return photo.Over{}, err
	}
	var seen []photo.Picture
	for _, f := range frames {
		in, err := raster.Import(ctx, f.data)
		if err != nil {
			return photo.Over{}, err
		}
		seen = append(seen, in.Picture())
	}
	return photo.OverFrames(seen), nil
}

// sample is a frame of a clip.
type sample struct {
	at   float64 // s
	data []byte  // PNG
}

// sampled are a few frames of a clip; an error is of one that has none.
func sampled(ctx context.Context, path string, seconds float64) (out []sample, err error) {
	for _, share := range samples {
		t := math.Floor(100*share*seconds) / 100
		still, e := Still(ctx, path, t)
		if errors.Is(e, errSlow) { // none of them would be quicker
			return nil, e
		}
		if e != nil {
			err = e
			continue
		}
		out = append(out, sample{t, still})
	}
	if len(out) == 0 {
		return nil, err
	}
	return out, nil
}

// variety is how much the light of a picture varies: its standard deviation.
func variety(img image.Image) float64 {
	b := img.Bounds()
	sum, squares, n := 0.0, 0.0, 0.0
	for y := b.Min.Y; y < b.Max.Y; y += max(1, b.Dy()/90) {
		for x := b.Min.X; x < b.Max.X; x += max(1, b.Dx()/160) {
			r, g, bl, _ := img.At(x, y).RGBA()
			v := (0.2126*float64(r) + 0.7152*float64(g) + 0.0722*float64(bl)) / 65535
			sum, squares, n = sum+v, squares+v*v, n+1
		}
	}
	mean := sum / n
	return math.Sqrt(math.Max(0, squares/n-mean*mean))
}
