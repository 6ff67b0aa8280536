package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"aspenridge/internal/core/caption"
)

// TestVideoOnTheCommandLine: a brief with a clip, and a kit that opens with one, become an MP4
// with captions burnt in and beside, and a GIF; a clip that leads out of the folder is bad
// input.
func TestVideoOnTheCommandLine(t *testing.T) {
	dir := sample(t)
	film := func(path, colour string, seconds int) {
		if out, err := exec.Command("ffmpeg", "-v", "error", "-y", "-f", "lavfi", "-i", fmt.Sprintf("color=%s:size=320x180:rate=30:duration=%d", colour, seconds), "-pix_fmt", "yuv420p", path).CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
	}
	film(filepath.Join(dir, "kit", "opens.mp4"), "red", 1)
	film(filepath.Join(dir, "river.mp4"), "blue", 3)
	if out, err := exec.Command("ffmpeg", "-v", "error", "-y", "-i", filepath.Join(dir, "river.mp4"), "-frames:v", "1", filepath.Join(dir, "river.png")).CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	kit := filepath.Join(dir, "kit", "kit.json")
	data, err := os.ReadFile(kit)
	if err != nil {
		t.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(data, &doc); err != nil {
		t.Fatal(err)
	}
	own := doc["$extensions"].(map[string]any)["aspenridge"].(map[string]any)
	own["pictures"] = []any{map[string]any{"file": "opens.mp4", "kind": "clip"}}
	own["motion"] = map[string]any{"opening": map[string]any{"from": "clip", "clip": "opens.mp4"}, "closing": map[string]any{"from": "none"}, "voice": "low"}
	write := func(path string, v any) {
		data, err := json.Marshal(v)
		if err == nil {
			err = os.WriteFile(path, data, 0o600)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	write(kit, doc)
	brief := func(clip string) string {
		path := filepath.Join(dir, "moves.json")
		write(path, map[string]any{"formatVersion": 1, "name": "Moves", "cards": []any{map[string]any{"headline": "Quiet water", "pictures": []any{map[string]any{"file": "river.png", "clip": clip}}}},
			"video": map[string]any{"shots": []any{map[string]any{"role": "hook", "picture": "river.png", "say": "Come down to the river.", "seconds": 3}}}})
		return path
	}
	out := filepath.Join(dir, "out")
	if status, stderr := do(t, "video", "-kit", dir+"/kit", "-brief", brief("river.mp4"), "-out", out, "-placements", "270x480", "-format", "mp4,gif", "-captions", "burn,srt"); status != 0 {
		t.Fatalf("status %d: %s", status, stderr)
	}
	found, _ := filepath.Glob(out + "/*")
	if len(found) != 3 {
		t.Fatalf("%q", found)
	}
	for _, path := range found {
		if strings.HasSuffix(path, ".srt") {
			data, err := os.ReadFile(path)
			cues, readErr := caption.Read(data)
			if err != nil || readErr != nil || strings.Join(strings.Fields(cues[0].Text), " ") != "Come down to the river." || cues[0].From < 1 { // after the opening
				t.Errorf("%+v, %v, %v", cues, err, readErr)
			}
			continue
		}
		said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "stream=width,height,codec_name,duration", "-of", "csv=p=0", path).Output()
		if err != nil || !strings.Contains(string(said), "270,480") {
			t.Errorf("%s: %s %v", path, said, err)
		}
		for at, want := range map[string][3]byte{"0.5": {255, 0, 0}, "2.5": {0, 0, 255}} { // the kit's clip, then the brief's
			px, err := exec.Command("ffmpeg", "-v", "error", "-ss", at, "-i", path, "-frames:v", "1", "-vf", "crop=20:20:125:120,scale=1:1", "-f", "rawvideo", "-pix_fmt", "rgb24", "-").Output()
			if err != nil || len(px) != 3 || apartBy(px, want[:]) > 40 {
				t.Errorf("%s at %s s is %v (%v), want %v", path, at, px, err, want)
			}
		}
	}
	// a place that takes pictures has a piece that moves, not the video
	moving := filepath.Join(dir, "moving")
	if status, stderr := do(t, "video", "-kit", dir+"/kit", "-brief", brief("river.mp4"), "-out", moving, "-placements", "ad-300x250", "-format", "gif", "-loop", "-seconds", "4"); status != 0 {
		t.Fatalf("status %d: %s", status, stderr)
	}
	gif, _ := filepath.Glob(moving + "/*.gif")
	if len(gif) != 1 {
		t.Fatalf("%q", gif)
	}
	if said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "stream=width,height:format=duration", "-of", "csv=p=0", gif[0]).Output(); err != nil || !strings.HasPrefix(string(said), "300,250\n") || !strings.Contains(string(said), "\n4.0") && !strings.Contains(string(said), "\n3.9") {
		t.Errorf("%q %v", said, err)
	}
	if status, stderr := do(t, "video", "-kit", dir+"/kit", "-brief", brief("river.mp4"), "-out", moving, "-placements", "ad-300x250", "-seconds", "60"); status != 2 || !strings.Contains(stderr, "15") {
		t.Errorf("status %d: %s", status, stderr)
	}
	if status, stderr := do(t, "video", "-kit", dir+"/kit", "-brief", brief("../river.mp4"), "-out", out); status != 2 || !strings.Contains(stderr, "river.mp4") {
		t.Errorf("status %d: %s", status, stderr)
	}
	if status, stderr := do(t, "video", "-kit", dir+"/kit", "-brief", brief("river.mp4"), "-out", out, "-format", "avi"); status != 2 || !strings.Contains(stderr, "webm") {
		t.Errorf("status %d: %s", status, stderr)
	}
}

// apartBy is how far two colours are from each other at most, 0-255.
func apartBy(a, b []byte) int {
	most := 0
	for i := range a {
		most = max(most, int(a[i])-int(b[i]), int(b[i])-int(a[i]))
	}
	return most
}

// TestPiecesThatMove: those of a brief that are to move are made as long as the brief has it,
// unless the command says otherwise.
func TestPiecesThatMove(t *testing.T) {
	dir := sample(t)
	path := filepath.Join(dir, "moves.json")
	brief := `{"formatVersion": 1, "name": "Moves", "cards": [{"headline": "Quiet water"}], "placements": ["feed-square", "ad-300x250"],
		"adjustments": [{"reach": "piece:ad-300x250", "slot": "piece", "property": "moving", "value": {"seconds": 4, "loop": true}}]}`
	if err := os.WriteFile(path, []byte(brief), 0o600); err != nil {
		t.Fatal(err)
	}
	runs := func(flags ...string) float64 {
		out := t.TempDir()
		if status, stderr := do(t, append([]string{"video", "-kit", dir + "/kit", "-brief", path, "-out", out, "-format", "mp4"}, flags...)...); status != 0 {
			t.Fatalf("status %d: %s", status, stderr)
		}
		found, _ := filepath.Glob(out + "/*")
		if len(found) != 1 || !strings.Contains(found[0], "ad-300x250") {
			t.Fatalf("%v: made %q", flags, found)
		}
		said, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "format=duration", "-of", "csv=p=0", found[0]).Output()
		if err != nil {
			t.Fatal(err)
		}
		s, err := strconv.ParseFloat(strings.TrimSpace(string(said)), 64)
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	if s := runs(); math.Abs(s-4) > 0.1 {
		t.Errorf("it runs %.2f s, the brief says 4", s)
	}
	if s := runs("-seconds", "3"); math.Abs(s-3) > 0.1 {
		t.Errorf("it runs %.2f s, the command says 3", s)
	}
}
