package reel_test

import (
	"context"
	"image"
	"io"
	"path/filepath"
	"testing"
	"time"

	"aspenridge/internal/core/film"
	"aspenridge/internal/reel"
)

// BenchmarkMake is making a tall video against ffmpeg alone, that gets the same frames
// ready made: the factor is what drawing costs on top.
func BenchmarkMake(b *testing.B) {
	f, s := tall(b)
	dir := b.TempDir()
	frames := make([]*image.RGBA, f.Frames())
	for i := range frames {
		frames[i] = image.NewRGBA(image.Rect(0, 0, f.W, f.H))
		if err := s.Frame(i, frames[i]); err != nil {
			b.Fatal(err)
		}
	}
	var drawn, ready, alone time.Duration
	for b.Loop() {
		from := time.Now()
		if _, err := reel.Make(context.Background(), s, nil, "mp4", 0, filepath.Join(dir, "a.mp4"), nil); err != nil {
			b.Fatal(err)
		}
		drawn += time.Since(from)
		from = time.Now()
		err := reel.Encode(context.Background(), f, nil, "mp4", reel.Given{CRF: 18}, filepath.Join(dir, "b.mp4"), func(w io.Writer) error {
			for _, img := range frames {
				if _, err := w.Write(img.Pix); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			b.Fatal(err)
		}
		ready += time.Since(from)
		from = time.Now()
		if err := reel.Pour(s, context.Background(), io.Discard, nil); err != nil {
			b.Fatal(err)
		}
		alone += time.Since(from)
	}
	b.ReportMetric(drawn.Seconds()/ready.Seconds(), "x-ready-frames")
	b.ReportMetric(float64(len(frames)*b.N)/drawn.Seconds(), "frames/s")
	b.ReportMetric(float64(len(frames)*b.N)/alone.Seconds(), "drawn/s")
}

// tall is the middle of the demo's video at full size.
func tall(b *testing.B) (*film.Film, *reel.Stage) {
	b.Helper()
	j, studio := sample(b)
	f := filmOf(b, j, "video-tall")
	f.Takes = f.Takes[1:3]
	begin := f.Takes[0].From
	for i := range f.Takes {
		f.Takes[i].From -= begin
		f.Takes[i].To -= begin
	}
	s, err := reel.Set(b.Context(), studio, f, nil)
	if err != nil {
		b.Fatal(err)
	}
	return f, s
}
