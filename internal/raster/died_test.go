package raster

import (
	"slices"
	"testing"
)

// TestAnIdleWorkerThatDied: a process that died while it waited fails nobody's drawing.
func TestAnIdleWorkerThatDied(t *testing.T) {
	studio := NewStudio(nil)
	draw := func() error {
		_, err := studio.Draw(t.Context(), `<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20"><rect width="20" height="20" fill="#0F3D4C"/></svg>`, Output{Format: "png"})
		return err
	}
	if err := draw(); err != nil {
		t.Fatal(err)
	}
	p := drawers()
	p.mu.Lock()
	idle := slices.Concat(p.idle[drawMode])
	p.mu.Unlock()
	if len(idle) == 0 {
		t.Fatal("nobody waits for something to draw")
	}
	for _, w := range idle {
		if err := w.cmd.Process.Kill(); err != nil {
			t.Fatal(err)
		}
	}
	if err := draw(); err != nil {
		t.Errorf("after it died: %v", err)
	}
}
