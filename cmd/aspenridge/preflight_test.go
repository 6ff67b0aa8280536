package main

import (
	"bytes"
	"context"
	"encoding/json"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"image/png"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/preflight"
)

// checked runs aspenridge preflight and reads what it writes.
func checked(t *testing.T, args ...string) (status int, files []preflight.FileReport, stderr string) {
	t.Helper()
	var out, errs bytes.Buffer
	status = run(context.Background(), append([]string{"preflight"}, args...), &out, &errs)
	var doc struct {
		Schema int                    `json:"schema"`
		Files  []preflight.FileReport `json:"files"`
	}
	if out.Len() > 0 {
		if err := json.Unmarshal(out.Bytes(), &doc); err != nil || doc.Schema != 1 {
			t.Fatalf("%v: %.300s", err, out.String())
		}
	}
	return status, doc.Files, errs.String()
}

func codes(r preflight.FileReport) string {
	var out []string
	for _, f := range r.Findings {
		if !slices.Contains(out, f.Code) {
			out = append(out, f.Code)
		}
	}
	return strings.Join(out, " ")
}

// TestFilesOfOthersAreChecked draws files the way other programs might: in the
// kit's river, in a blue that nearly is river, in pink, too heavy, as live text.
func TestFilesOfOthersAreChecked(t *testing.T) {
	dir := sample(t)
	write := func(name string, data []byte) string {
		t.Helper()
		at := filepath.Join(dir, name)
		if err := os.WriteFile(at, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return at
	}
	flat := func(w, h int, c color.Color, asJPEG bool) []byte {
		img := image.NewRGBA(image.Rect(0, 0, w, h))
		draw.Draw(img, img.Bounds(), image.NewUniform(c), image.Point{}, draw.Src)
		var b bytes.Buffer
		var err error
		if asJPEG {
			err = jpeg.Encode(&b, img, &jpeg.Options{Quality: 80})
		} else {
			err = png.Encode(&b, img)
		}
		if err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	river, nearly, pink := color.RGBA{0x0f, 0x3d, 0x4c, 255}, color.RGBA{0x13, 0x41, 0x50, 255}, color.RGBA{0xff, 0x20, 0x90, 255}
	heavy := append(flat(300, 250, river, false), make([]byte, 200_000)...)
	for name, c := range map[string]struct {
		data      []byte
		placement string
		codes     string
	}{
		"sound.png":  {flat(1080, 1080, river, false), "feed-square", ""},
		"sound.jpg":  {flat(1200, 628, river, true), "feed-wide", ""},
		"double.png": {flat(600, 500, river, false), "ad-300x250", ""},
		"nearly.png": {flat(1080, 1080, nearly, false), "feed-square", "near-miss"},
		"pink.png":   {flat(1080, 1080, pink, false), "feed-square", "off-kit-colour"},
		"size.png":   {flat(333, 444, river, false), "", "size"},
		"heavy.png":  {heavy, "ad-300x250", "weight"},
		"live.svg":   {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="1080" height="1080"><rect width="1080" height="1080" fill="#0f3d4c"/><text fill="#f6ebd6">words</text></svg>`), "feed-square", "live-text"},
		"link.svg":   {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 728 90"><rect fill="#0F3D4C"/><image href="boat.png"/></svg>`), "ad-728x90", "outside"},
	} {
		status, files, stderr := checked(t, "-kit", dir+"/kit", write(name, c.data))
		if status != 0 || len(files) != 1 {
			t.Errorf("%s: status %d, %d files, %s", name, status, len(files), stderr)
			continue
		}
		if got := codes(files[0]); got != c.codes || files[0].Placement != c.placement {
			t.Errorf("%s on %q: %q, want %q on %q", name, files[0].Placement, got, c.codes, c.placement)
		}
	}
	for what, args := range map[string][]string{
		"no file":     {"-kit", dir + "/kit"},
		"no kit":      {write("a.png", flat(10, 10, pink, false))},
		"not there":   {"-kit", dir + "/kit", dir + "/nowhere.png"},
		"not a file":  {"-kit", dir + "/kit", dir + "/kit/kit.json"},
		"broken":      {"-kit", dir + "/kit", write("broken.png", []byte("\x89PNG\r\n\x1a\nrubbish"))},
		"no size":     {"-kit", dir + "/kit", write("none.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg"/>`))},
		"broken SVG":  {"-kit", dir + "/kit", write("broken.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="10"><g>`))},
		"a huge name": {"-kit", dir + "/kit", write("big.png", []byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\xff\xff\x00\x00\xff\xff\x08\x02\x00\x00\x00\x00\x00\x00\x00"))},
	} {
		if status, _, stderr := checked(t, args...); status != 2 || stderr == "" {
			t.Errorf("%s: status %d, %q", what, status, stderr)
		}
	}
}

// TestOurOwnFilesPass checks what render writes: nothing worse than the colours
// of the demo's drawn pictures.
func TestOurOwnFilesPass(t *testing.T) {
	dir := sample(t)
	out := filepath.Join(dir, "out")
	if status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/lanterns.json", "-out", out, "-placements", "shop-icon,ad-300x600", "-format", "png,svg"); status != 0 {
		t.Fatal(stderr)
	}
	entries, err := filepath.Glob(out + "/*.[ps][nv]g")
	if err != nil || len(entries) != 4 {
		t.Fatal(entries, err)
	}
	_, files, _ := checked(t, append([]string{"-kit", dir + "/kit"}, entries...)...)
	for _, f := range files {
		if f.Placement == "" || strings.Contains(codes(f), "live-text") || strings.Contains(codes(f), "near-miss") {
			t.Errorf("%s: %s", f.File, codes(f))
		}
	}
}

// TestOwnChannelsOnTheCommandLine renders a placement the catalogue does not
// have, and refuses a file with doubles.
func TestOwnChannelsOnTheCommandLine(t *testing.T) {
	dir := sample(t)
	own := filepath.Join(dir, "channels.json")
	if err := os.WriteFile(own, []byte(`{"channels":[{"id":"board","name":"Board","placements":[{"id":"notice","width":600,"height":800,"safe":[0,0,200,0]}]}]}`), 0o600); err != nil {
		t.Fatal(err)
	}
	out := filepath.Join(dir, "out")
	if status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/beginners.json", "-out", out, "-placements", "notice", "-channels", own); status != 0 {
		t.Fatal(stderr)
	}
	r := report(t, out)
	for _, e := range r.Pieces[0].Elements {
		if (e.Kind == "text" || e.Kind == "logo") && e.Box[1]+e.Box[3] > 600.6 {
			t.Errorf("%s stands at %v, in what the channel covers", e.Slot, e.Box)
		}
	}
	if err := os.WriteFile(own, []byte(`{"channels":[{"id":"board","name":"Board","placements":[{"id":"story","width":600,"height":800}]}]}`), 0o600); err != nil {
		t.Fatal(err)
	}
	if status, stderr := do(t, "render", "-kit", dir+"/kit", "-brief", dir+"/beginners.json", "-out", out, "-channels", own); status != 2 || !strings.Contains(stderr, "twice") {
		t.Errorf("status %d: %s", status, stderr)
	}
}
