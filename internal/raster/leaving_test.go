package raster

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

// until waits for something to become true, two minutes at most.
func until(t *testing.T, what string, so func() bool) {
	t.Helper()
	for end := time.Now().Add(2 * time.Minute); !so(); {
		if t.Context().Err() != nil || time.Now().After(end) {
			t.Fatal("never: " + what)
		}
		syscall.Nanosleep(&syscall.Timespec{Nsec: 1e6}, nil)
	}
}

// ticks is how much processor time a process has taken so far.
func ticks(pid int) string {
	data, err := os.ReadFile(filepath.Join("/proc", fmt.Sprint(pid), "stat"))
	if f := strings.Fields(string(data)); err == nil && len(f) > 14 {
		return f[13]
	}
	return ""
}

// When nobody waits for a drawing any more its process ends with it, and its place
// is free again.
func TestWhoLeavesEndsTheDrawing(t *testing.T) {
	w, err := startWorker(drawMode)
	if err != nil {
		t.Fatal(err)
	}
	p := &workers{idle: map[string][]*worker{drawMode: {w}}}
	// eighty blurs over sixteen megapixels take minutes
	var svg bytes.Buffer
	svg.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" width="4000" height="4000"><filter id="f"><feGaussianBlur stdDeviation="90"/></filter>`)
	for range 80 {
		svg.WriteString(`<rect width="4000" height="4000" filter="url(#f)"/>`)
	}
	svg.WriteString(`</svg>`)
	ctx, leave := context.WithCancel(t.Context())
	before := ticks(w.cmd.Process.Pid)
	done := make(chan error, 1)
	go func() {
		_, err := p.do(ctx, task{Draw: &drawTask{SVG: svg.String(), Out: Output{Format: "png"}, Pixels: 16_000_000}})
		done <- err
	}()
	until(t, "it draws", func() bool { return ticks(w.cmd.Process.Pid) != before })
	leave()
	if err := <-done; !errors.Is(err, context.Canceled) {
		t.Errorf("the drawing ends with %v", err)
	}
	until(t, "the process is gone", func() bool { return syscall.Kill(w.cmd.Process.Pid, 0) != nil })
	if len(p.idle[drawMode]) != 0 {
		t.Error("a worker that was killed is to be used again")
	}
	// and somebody else is drawn for
	if _, err := p.do(t.Context(), task{Draw: &drawTask{SVG: `<svg xmlns="http://www.w3.org/2000/svg" width="4" height="4"/>`, Out: Output{Format: "png"}, Pixels: 16}}); err != nil {
		t.Error(err)
	}
}

// A picture waits at the gate by the pixels it announces, however few bytes it
// has.
func TestAnnouncedPixelsWaitAtTheGate(t *testing.T) {
	// the header of a lossless WebP of 8,000 by 8,000, as its format has it (RFC 9649)
	const w, h = 8_000, 8_000
	bits := uint32(w-1) | uint32(h-1)<<14
	webp := []byte("RIFF\x1a\x00\x00\x00WEBPVP8L\x0d\x00\x00\x00\x2f")
	webp = append(webp, byte(bits), byte(bits>>8), byte(bits>>16), byte(bits>>24), 0, 0, 0, 0, 0, 0, 0, 0, 0)
	if got := Announced(webp); got != w*h {
		t.Fatalf("%d px are announced, want %d", got, w*h)
	}
	var small bytes.Buffer
	if err := png.Encode(&small, image.NewGray(image.Rect(0, 0, 8, 8))); err != nil {
		t.Fatal(err)
	}
	g := heavy()
	rest := heavyBytes - 600<<20 // leaves room for a small picture, not for this one
	hold, err := g.Enter(t.Context(), rest)
	if err != nil {
		t.Fatal(err)
	}
	done := make(chan error, 1)
	go func() { _, err := Import(t.Context(), webp); done <- err }()
	until(t, "it waits", func() bool { return g.Waiting() == 1 })
	select {
	case err := <-done:
		t.Fatalf("it went in: %v", err)
	default:
	}
	hold()
	if err := <-done; err == nil {
		t.Error("a picture that ends after its header is taken in")
	}
	if _, err := Import(t.Context(), small.Bytes()); err != nil {
		t.Error(err)
	}
	if g.Waiting() != 0 {
		t.Error("somebody waits still")
	}
}
