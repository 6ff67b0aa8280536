package reel

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"io"
	"math"
	"os/exec"
	"strings"
	"sync"

	"aspenridge/internal/core/film"
	"aspenridge/internal/core/sound"
)

// Clips gives the path of a clip's file by its hash.
type Clips func(ctx context.Context, hash string) (path string, err error)

// keptFrames is how many frames of a clip are held: those drawn at the same time, which
// follow each other, and a few before. The oldest becomes the next.
const keptFrames = drawnAhead + 2

// player reads the frames of a clip in order, at the rate and size they are shown; one that
// is asked for again and gone begins anew. Safe for concurrent use.
type player struct {
	path string
	clip film.Clip
	w, h int // px on the canvas
	fps  int
	last int // number of its last frame
	tint *tint

	mu     sync.Mutex
	frames map[int]*image.RGBA
	next   int // the frame that comes next
	stop   context.CancelFunc
	out    io.ReadCloser
	wait   func() error
	err    error
}

func newPlayer(path string, clip film.Clip, w, h, fps int) *player {
	p := &player{path: path, clip: clip, w: w, h: h, fps: fps, last: max(0, int(math.Round(clip.For*float64(fps)))-1), frames: map[int]*image.RGBA{}, tint: tintOf(clip.Tone, clip.Dials)}
	return p
}

// frame is what is seen some time after the clip began; past its end its last frame.
func (p *player) frame(u float64) (*image.RGBA, error) {
	n := min(p.last, max(0, int(math.Round(u*float64(p.fps)))))
	p.mu.Lock()
	defer p.mu.Unlock()
	if img := p.frames[n]; img != nil {
		return img, nil
	}
	if p.err != nil {
		return nil, p.err
	}
	if p.out == nil || n < p.next {
		p.close()
		if p.err = p.open(); p.err != nil {
			return nil, p.err
		}
	}
	for p.next <= n {
		img := p.frames[p.next-keptFrames] // nobody draws it any more
		delete(p.frames, p.next-keptFrames)
		if img == nil {
			img = image.NewRGBA(image.Rect(0, 0, p.w, p.h))
		}
		if _, err := io.ReadFull(p.out, img.Pix); err != nil {
			return p.short(err)
		}
		p.tint.dye(img.Pix)
		p.frames[p.next] = img
		p.next++
	}
	if p.next > p.last { // it has been read: its decoder need not wait for the end of the film
		p.close()
	}
	return p.frames[n], nil
}

// short is what is shown when the file ends before it should: the last frame there was.
func (p *player) short(err error) (*image.RGBA, error) {
	if p.next == 0 {
		p.err = fmt.Errorf("%w: the clip gives no frames: %v", ErrEncoder, errors.Join(err, p.wait()))
		return nil, p.err
	}
	p.last = p.next - 1
	return p.frames[p.last], nil
}

// open begins to decode.
func (p *player) open() error {
	ctx, stop := context.WithCancel(context.Background())
	c := p.clip.Crop
	filters := []string{
		fmt.Sprintf("fps=%d", p.fps),
		fmt.Sprintf("crop=max(2\\,round(iw*%f)):max(2\\,round(ih*%f)):round(iw*%f):round(ih*%f):exact=1", min(1, c[2]), min(1, c[3]), c[0], c[1]),
		fmt.Sprintf("scale=%d:%d:flags=bicubic+accurate_rnd+full_chroma_int:in_color_matrix=bt709", p.w, p.h),
		"format=rgba",
	}
	cmd := exec.CommandContext(ctx, "ffmpeg", "-hide_banner", "-loglevel", "error", "-nostdin", "-threads", "1", "-ss", fmt.Sprint(p.clip.From), "-i", p.path,
		"-t", fmt.Sprint(p.clip.For+1), "-an", "-vf", strings.Join(filters, ","), "-f", "rawvideo", "pipe:1")
	said := &bytes.Buffer{}
	cmd.Stderr = said
	out, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		stop()
		return fmt.Errorf("%w is not there (%w); install Debian's package ffmpeg", ErrEncoder, err)
	}
	p.stop, p.out, p.next = stop, out, 0
	p.wait = func() error {
		if cmd.Wait() == nil || said.Len() == 0 {
			return nil
		}
		return errors.New(lastLine(said.String()))
	}
	clear(p.frames)
	return nil
}

// close ends decoding.
func (p *player) close() {
	if p.out == nil {
		return
	}
	p.stop()
	_ = p.out.Close()
	_ = p.wait()
	p.out = nil
}

// Close ends what a stage runs: the decoders of its clips.
func (s *Stage) Close() {
	for _, row := range s.takes {
		for i := range row {
			if p := row[i].player; p != nil {
				p.mu.Lock()
				p.close()
				p.mu.Unlock()
			}
		}
	}
}

// Heard are the clips of a film that are heard, as it lists them.
func Heard(ctx context.Context, f *film.Film, clips Clips) ([]sound.Track, error) {
	var out []sound.Track
	for _, c := range f.Loud() {
		path, err := clips(ctx, c.Hash)
		if err != nil {
			return nil, err
		}
		t, err := Hear(ctx, path, c.From, c.For)
		if err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, nil
}

// Hear decodes the sound of a file, from some seconds on and for so many.
func Hear(ctx context.Context, path string, from, seconds float64) (sound.Track, error) {
	cmd := exec.CommandContext(ctx, "ffmpeg", "-hide_banner", "-loglevel", "error", "-nostdin", "-ss", fmt.Sprint(from), "-t", fmt.Sprint(seconds), "-i", path,
		"-vn", "-f", "f32le", "-ac", "2", "-ar", fmt.Sprint(sound.Rate), "pipe:1")
	data, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("%w: the sound of a clip: %v", ErrEncoder, errorText(err))
	}
	return trackOf(data), nil
}
