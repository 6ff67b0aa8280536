package reel

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strings"
	"syscall"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/sound"
)

// Formats are the kinds of files a film is made into.
var Formats = []string{"mp4", "webm"}

// GIF is the format of moving pieces that are shown where no video is.
const GIF = "gif"

// ErrEncoder means ffmpeg is not there, or failed.
var ErrEncoder = errors.New("ffmpeg")

// errPipe means the encoder stopped taking frames; it says why itself.
var errPipe = fmt.Errorf("%w stopped taking frames", ErrEncoder)

var errNothing = errors.New("there is nothing to show: the brief has no words and no pictures, and the kit opens and closes with nothing")

// How files are encoded. Threads are fixed, so that the same film is the same file on any
// machine.
const (
	encoderThreads = "3"
	keyEvery       = 2 // s between frames one can begin at
)

// qualities are the constant rate factors that are tried, the best first: of x264 18 is hardly
// told from the frames.
var qualities = map[string][]int{"mp4": {18, 22, 26, 30, 35}, "webm": {30, 36, 42, 50, 58}}

// encoders are the arguments of ffmpeg by format, between what comes in and the file.
func encoder(format string, f *film.Film, crf int) []string {
	key := fmt.Sprint(keyEvery * f.FPS)
	colours := []string{"-color_primaries", "bt709", "-color_trc", "bt709", "-colorspace", "bt709", "-color_range", "tv"}
	switch format {
	case "webm":
		return append([]string{
			"-c:v", "libvpx-vp9", "-b:v", "0", "-crf", fmt.Sprint(crf), "-deadline", "good", "-cpu-used", "4", "-row-mt", "1", "-g", key, "-f", "webm",
		}, colours...)
	default:
		return append([]string{
			"-c:v", "libx264", "-profile:v", "high", "-preset", "faster", "-crf", fmt.Sprint(crf), "-g", key, "-keyint_min", key, "-sc_threshold", "0", "-flags", "+cgop",
			"-rc-lookahead", "10", "-x264-params", "sync-lookahead=0", // frames it holds are memory
			"-movflags", "+faststart", "-f", "mp4",
		}, colours...)
	}
}

// soundOf is how sound is encoded by format.
var soundOf = map[string][]string{
	"mp4":  {"-c:a", "aac", "-b:a", "192k"},
	"webm": {"-c:a", "libopus", "-b:a", "128k"},
}

// Make makes a film into a file at a path, whole or not at all, with a track of sound or
// without (nil), of at most so many bytes (0 for any): as good as they leave. tell hears how
// many frames are done.
func Make(ctx context.Context, s *Stage, track sound.Track, format string, limit int64, path string, tell func(done, of int)) (given Given, err error) {
	if !slices.Contains(Formats, format) {
		return given, fmt.Errorf("format %q: want one of %s", format, strings.Join(Formats, ", "))
	}
	if s.film.Frames() == 0 {
		return given, errNothing
	}
	debug.FreeOSMemory() // what composing and mixing took is not needed beside the encoder
	for i, q := range qualities[format] {
		if given, err = s.make(ctx, track, format, q, path, tell); err != nil {
			return given, err
		}
		if given.Over = limit > 0 && given.Bytes > limit; !given.Over || i == len(qualities[format])-1 {
			break
		}
	}
	return given, nil
}

func (s *Stage) make(ctx context.Context, track sound.Track, format string, crf int, path string, tell func(done, of int)) (Given, error) {
	given := Given{CRF: crf}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	err := encode(ctx, s.film, track, format, given, path, func(w io.Writer) error {
		err := s.pour(ctx, w, tell)
		if err != nil {
			stop()
		}
		return err
	})
	if err != nil {
		return given, err
	}
	info, err := os.Stat(path)
	if err == nil {
		given.Bytes, given.Flashes = info.Size(), s.flashes
	}
	return given, err
}

// tagged are the arguments of videos: sizes that are not even are filled up, colours are as
// screens have them, and nothing tells when or by what a file was made.
var tagged = []string{
	"-threads", encoderThreads,
	"-vf", "pad=ceil(iw/2)*2:ceil(ih/2)*2,scale=out_color_matrix=bt709:out_range=tv:flags=bilinear+accurate_rnd,format=yuv420p",
	"-map_metadata", "-1", "-fflags", "+bitexact", "-flags:v", "+bitexact", "-flags:a", "+bitexact",
}

// encode has ffmpeg make a file of the frames a function writes, giving up what is given.
func encode(ctx context.Context, f *film.Film, track sound.Track, format string, given Given, path string, frames func(w io.Writer) error) (err error) {
	dir, err := os.MkdirTemp("", "aspenridge-reel-")
	if err != nil {
		return err
	}
	defer func() { _ = os.RemoveAll(dir) }()
	unfinished := filepath.Join(filepath.Dir(path), "."+filepath.Base(path)+".part")
	defer func() {
		if err != nil {
			_ = os.Remove(unfinished)
		}
	}()
	args := []string{
		"-hide_banner", "-loglevel", "error", "-nostdin", "-y", "-f", "rawvideo", "-pix_fmt", "rgba", "-video_size", fmt.Sprintf("%dx%d", f.W, f.H),
		"-framerate", fmt.Sprint(f.FPS), "-i", "pipe:0",
	}
	scaled := "" // even sides, as all encoders take
	if given.Scale != 0 {
		scaled = fmt.Sprintf("scale=trunc(iw*%[1]v/2)*2:trunc(ih*%[1]v/2)*2:flags=lanczos,", given.Scale)
	}
	switch format {
	case GIF:
		args = append(args, "-filter_complex", fmt.Sprintf("%ssplit[a][b];[a]palettegen=max_colors=%d:stats_mode=full[p];[b][p]paletteuse=dither=bayer:bayer_scale=4:diff_mode=rectangle", scaled, given.Colours), "-loop", loops(f, format), "-f", "gif")
	case WebP:
		if scaled != "" {
			args = append(args, "-vf", strings.TrimSuffix(scaled, ","))
		}
		args = append(args, "-c:v", "libwebp_anim", "-quality", fmt.Sprint(given.Quality), "-compression_level", "4", "-loop", loops(f, format), "-f", "webp")
	default:
		args = append(args, tagged...)
		args = append(args, encoder(format, f, given.CRF)...)
	}
	silent := unfinished
	if len(track) > 0 { // sound comes to it afterwards: read beside frames it has many of them held
		silent = filepath.Join(dir, "silent")
	}
	args = append(args, silent)
	cmd := behind(ctx, "ffmpeg", args...)
	var said bytes.Buffer
	cmd.Stderr = &said
	pipe, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("%w is not there (%w); install Debian's package ffmpeg", ErrEncoder, err)
	}
	drawErr := frames(pipe)
	_ = pipe.Close()
	switch waited := cmd.Wait(); {
	case drawErr != nil && !errors.Is(drawErr, errPipe): // and what is killed for it says nothing
		return drawErr
	case waited != nil:
		return failed(waited, lastLine(said.String()))
	case drawErr != nil:
		return drawErr
	}
	if len(track) > 0 {
		if err := withSound(ctx, silent, track, format, unfinished); err != nil {
			return err
		}
	}
	return os.Rename(unfinished, path)
}

// withSound puts a track beside the pictures of a file.
func withSound(ctx context.Context, silent string, track sound.Track, format, path string) error {
	wav := silent + ".wav"
	if err := keepWAV(wav, track); err != nil {
		return err
	}
	args := append([]string{"-hide_banner", "-loglevel", "error", "-nostdin", "-y", "-i", silent, "-i", wav, "-map", "0:v", "-map", "1:a", "-c:v", "copy"}, soundOf[format]...)
	args = append(args, "-map_metadata", "-1", "-fflags", "+bitexact", "-flags:v", "+bitexact", "-flags:a", "+bitexact")
	if format == "mp4" {
		args = append(args, "-movflags", "+faststart")
	}
	if _, err := exec.CommandContext(ctx, "ffmpeg", append(args, "-f", format, path)...).Output(); err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return failed(err, errorText(err))
	}
	return nil
}

// failed is an error of the encoder, by what it says last: a full disk is told from others.
func failed(err error, says string) error {
	if strings.Contains(says, "No space left on device") {
		return fmt.Errorf("%w: %w", ErrEncoder, syscall.ENOSPC)
	}
	return fmt.Errorf("%w: %v: %s", ErrEncoder, err, says)
}

// errorText is what ffmpeg says of an error.
func errorText(err error) string {
	if err == nil {
		return ""
	}
	var exit *exec.ExitError
	if errors.As(err, &exit) && len(exit.Stderr) > 0 {
		return lastLine(string(exit.Stderr))
	}
	return err.Error()
}

func lastLine(s string) string {
	lines := strings.Split(strings.TrimSpace(s), "\n")
	return lines[len(lines)-1]
}

// drawnAhead is how many frames are drawn at a time and ahead of the encoder.
const drawnAhead = 3

// drawnFrame is a frame, or why there is none.
type drawnFrame struct {
	img *image.RGBA
	err error
}

// pour draws the frames of a film in order into a writer.
func (s *Stage) pour(ctx context.Context, w io.Writer, tell func(done, of int)) error {
	n := s.film.Frames()
	flashes := film.NewFlashes(s.film.FPS)
	free := make(chan *image.RGBA, drawnAhead)
	for range drawnAhead {
		free <- image.NewRGBA(image.Rect(0, 0, s.film.W, s.film.H))
	}
	order := make(chan chan drawnFrame, drawnAhead)
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	go func() {
		defer close(order)
		for i := range n {
			var img *image.RGBA
			select {
			case img = <-free:
			case <-ctx.Done():
				return
			}
			done := make(chan drawnFrame, 1)
			go func() { done <- drawnFrame{img, s.Frame(i, img)} }()
			select {
			case order <- done:
			case <-ctx.Done():
				return
			}
		}
	}()
	for i := range n {
		done, ok := <-order
		if !ok {
			return ctx.Err()
		}
		frame := <-done
		if frame.err != nil {
			return frame.err
		}
		if _, err := w.Write(frame.img.Pix); err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			return fmt.Errorf("%w: %w", errPipe, err)
		}
		flashes.See(lightOf(frame.img))
		free <- frame.img
		if tell != nil {
			tell(i+1, n)
		}
	}
	s.flashes = flashes.Found()
	return nil
}

// perCell is how many pixels of a cell are looked at, each way.
const perCell = 4

// lightOf is the relative luminance of the parts of a frame.
func lightOf(img *image.RGBA) *[film.FlashGrid * film.FlashGrid]float64 {
	var out [film.FlashGrid * film.FlashGrid]float64
	const across = film.FlashGrid * perCell
	w, h := img.Rect.Dx(), img.Rect.Dy()
	for y := range across {
		for x := range across {
			p := img.Pix[((2*y+1)*h/(2*across))*img.Stride+4*((2*x+1)*w/(2*across)):]
			out[y/perCell*film.FlashGrid+x/perCell] += colour.RGB{R: p[0], G: p[1], B: p[2]}.Luminance() / (perCell * perCell)
		}
	}
	return &out
}
