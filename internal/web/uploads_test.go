package web_test

import (
	"bytes"
	"compress/zlib"
	"context"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"io/fs"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"aspenridge/test/stage"
)

const svgOpen = `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 100 100">`

// hostileFiles are uploads that must be refused, each with what it tries.
func hostileFiles(t *testing.T) map[string]func() io.Reader {
	text := func(s string) func() io.Reader { return func() io.Reader { return strings.NewReader(s) } }
	var uses strings.Builder // 10^9 rectangles by reference
	uses.WriteString(svgOpen + `<defs><g id="a0"><rect width="1" height="1"/></g>`)
	for i := 1; i < 10; i++ {
		fmt.Fprintf(&uses, `<g id="a%d">%s</g>`, i, strings.Repeat(fmt.Sprintf(`<use xlink:href="#a%d"/>`, i-1), 10))
	}
	uses.WriteString(`</defs><use xlink:href="#a9"/></svg>`)
	var entities strings.Builder // a billion laughs
	entities.WriteString(`<?xml version="1.0"?><!DOCTYPE svg [<!ENTITY l0 "ha">`)
	for i := 1; i < 10; i++ {
		fmt.Fprintf(&entities, `<!ENTITY l%d "%s">`, i, strings.Repeat(fmt.Sprintf("&l%d;", i-1), 10))
	}
	entities.WriteString(`]>` + svgOpen + `<text>&l9;</text></svg>`)
	photo, bomb := photoOf(t, 400, 300), pngBomb(60_000, 60_000)
	return map[string]func() io.Reader{
		"2,000 nested groups":     text(svgOpen + strings.Repeat("<g>", 2000) + strings.Repeat("</g>", 2000) + "</svg>"),
		"100,000 nested groups":   text(svgOpen + strings.Repeat("<g>", 100_000) + strings.Repeat("</g>", 100_000) + "</svg>"),
		"an entity bomb":          text(entities.String()),
		"a use bomb":              text(uses.String()),
		"1e6 x 1e6 px":            text(`<svg xmlns="http://www.w3.org/2000/svg" width="1e6" height="1e6"><rect width="1e6" height="1e6"/></svg>`),
		"a PNG of 60,000 squared": func() io.Reader { return bytes.NewReader(bomb) },
		"a truncated JPEG":        func() io.Reader { return bytes.NewReader(photo[:len(photo)/2]) },
		"a renamed executable":    text("\x7fELF\x02\x01\x01" + strings.Repeat("\x00", 4000)),
		"a renamed HTML page":     text("<html><body><svg></svg></body></html>"),
		"0 bytes":                 text(""),
		"100 MB":                  func() io.Reader { return io.MultiReader(bytes.NewReader(photo), io.LimitReader(zeros{}, 100<<20)) },
		"a GIF that lies":         text("GIF89a\xff\xff\xff\xff\x00\x00\x00;"),
		"broken XML":              text(svgOpen + `<rect width="10" height=10></svg>`),
		"nothing drawn":           text(svgOpen + `</svg>`),
	}
}

// harmless are uploads whose dangerous parts are taken out and that are then
// used: what must not be in what is stored.
var harmless = map[string]struct{ svg, gone string }{
	"a script":           {svgOpen + `<script>alert(1)</script><rect width="60" height="60" fill="#0a7" onload="alert(2)"/></svg>`, "alert("},
	"an external href":   {svgOpen + `<image href="http://127.0.0.1:9/secret.png" width="9" height="9"/><rect width="60" height="60" fill="#0a7"/></svg>`, "secret"},
	"a file href":        {svgOpen + `<image xlink:href="file:///etc/passwd" width="9" height="9"/><rect width="60" height="60" fill="#0a7"/></svg>`, "passwd"},
	"a filter bomb":      {svgOpen + `<filter id="f" width="100000" height="100000">` + strings.Repeat(`<feGaussianBlur stdDeviation="9999"/><feTurbulence numOctaves="99"/>`, 50) + `</filter><rect width="60" height="60" fill="#0a7" filter="url(#f)"/></svg>`, "feGaussian"},
	"a foreign object":   {svgOpen + `<foreignObject width="9" height="9"><iframe xmlns="http://www.w3.org/1999/xhtml" src="javascript:alert(1)"/></foreignObject><rect width="60" height="60" fill="#0a7"/></svg>`, "iframe"},
	"a style that leaks": {svgOpen + `<style>@import url(http://127.0.0.1:9/leak.css); rect{fill:#0a7;background:url(http://127.0.0.1:9/leak)}</style><rect width="60" height="60"/></svg>`, "leak"},
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

// pngBomb is a small PNG file that unpacks to w x h px.
func pngBomb(w, h uint32) []byte {
	chunk := func(kind string, data []byte) []byte {
		out := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
		out = append(append(out, kind...), data...)
		return binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(out[4:]))
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, w), h)
	head = append(head, 1, 0, 0, 0, 0) // 1 bit grey
	var body bytes.Buffer
	z := zlib.NewWriter(&body)
	_, _ = io.Copy(z, io.LimitReader(zeros{}, int64(h)*int64(1+w/8)))
	_ = z.Close()
	return bytes.Join([][]byte{[]byte("\x89PNG\r\n\x1a\n"), chunk("IHDR", head), chunk("IDAT", body.Bytes()), chunk("IEND", nil)}, nil)
}

func photoOf(t *testing.T, w, h int) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	for i := range img.Pix {
		img.Pix[i] = uint8(i * 7 / 3)
	}
	img.Set(0, 0, color.White)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestHostileUploads sends files made to crash, hang or break in, as a logo and
// as a picture. Each is refused in words, nothing is kept, and the same process
// goes on serving. How long each takes is logged; it must come back at all.
func TestHostileUploads(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	kit := p.newKit("House")
	brief := p.newBrief(kit)
	_, sheet := p.get("/kits/" + kit)
	var slowest time.Duration
	for what, file := range hostileFiles(t) {
		for _, path := range []string{"/kits/" + kit + "/logos", "/briefs/" + brief + "/pictures"} {
			start := time.Now()
			r, answer := p.upload(path, "logo.svg", file())
			took := time.Since(start)
			slowest = max(slowest, took)
			words, _ := answer["error"].(string)
			if r.StatusCode != http.StatusUnprocessableEntity && r.StatusCode != http.StatusRequestEntityTooLarge || len(words) < 12 {
				t.Errorf("%s as %s: %s %q", what, path[strings.LastIndex(path, "/")+1:], r.Status, words)
			}
			if took > 30*time.Second {
				t.Errorf("%s took %v", what, took)
			}
			t.Logf("%-24s %4d ms  %s", what, took.Milliseconds(), words)
			if r, _ := p.get("/healthz"); r.StatusCode != http.StatusOK {
				t.Fatalf("after %s the server answers %s", what, r.Status)
			}
		}
	}
	t.Logf("slowest: %v", slowest)
	nothingStored(t, s)
	if _, after := p.get("/kits/" + kit); after != sheet {
		t.Error("a refused file left traces in the kit")
	}
	var children syscall.Rusage
	if err := syscall.Getrusage(syscall.RUSAGE_CHILDREN, &children); err != nil {
		t.Fatal(err)
	}
	if mb := children.Maxrss / 1024; mb > 700 {
		t.Errorf("a child that read a file grew to %d MB", mb)
	}
}

func nothingStored(t *testing.T, s *stage.Stage) {
	t.Helper()
	var rows int
	if err := s.Store.Pool.QueryRow(context.Background(), `select count(*) from files`).Scan(&rows); err != nil {
		t.Fatal(err)
	}
	if rows != 0 {
		t.Errorf("%d refused files are in the database", rows)
	}
	err := filepath.WalkDir(s.Files, func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			t.Errorf("a refused file is stored as %s", path)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// TestDangerousPartsAreTakenOut uploads logos that are fine but for one part;
// they are taken without it, and the page that shows them stays clean.
func TestDangerousPartsAreTakenOut(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	for what, f := range harmless {
		kit := p.newKit("House")
		r, answer := p.upload("/kits/"+kit+"/logos", "logo.svg", strings.NewReader(f.svg))
		if r.StatusCode != http.StatusOK {
			t.Errorf("%s: %s %v", what, r.Status, answer["error"])
			continue
		}
		if _, page := p.get("/kits/" + kit); strings.Contains(page, f.gone) {
			t.Errorf("%s is still in the page", what)
		}
		brief := p.newBrief(kit)
		r, body := p.get("/briefs/" + brief + "/pieces/feed-square.svg")
		if r.StatusCode != http.StatusOK || strings.Contains(body, f.gone) {
			t.Errorf("%s is in the piece, or there is none: %s", what, r.Status)
		}
	}
}

// TestManyAtOnce uploads good pictures while bombs arrive.
func TestManyAtOnce(t *testing.T) {
	s := open(t, stage.Options{})
	p := join(t, s, "a@one.example")
	brief := p.newBrief(p.newKit("House"))
	good, bomb := photoOf(t, 1200, 900), pngBomb(60_000, 60_000)
	done := make(chan string)
	for i := range 12 {
		go func() {
			data, want := good, http.StatusOK
			if i%2 == 0 {
				data, want = bomb, http.StatusUnprocessableEntity
			}
			r, _ := p.upload("/briefs/"+brief+"/pictures", "p", bytes.NewReader(data))
			if r.StatusCode != want {
				done <- fmt.Sprintf("upload %d: %s, want %d", i, r.Status, want)
				return
			}
			done <- ""
		}()
	}
	for range 12 {
		if msg := <-done; msg != "" {
			t.Error(msg)
		}
	}
	if _, err := os.Stat(s.Files); err != nil {
		t.Fatal(err)
	}
}

// TestSeveralFilmsAtOnce: six films that arrive together are looked at as there are processors, and
// worked on by as many as there are workers; all of them are taken.
func TestSeveralFilmsAtOnce(t *testing.T) {
	s := open(t, stage.Options{Work: true})
	p := join(t, s, "films@one.example")
	brief := p.newBrief(p.newKit("Otter"))
	films := make([][]byte, 4) // more than there are workers and processors
	for i := range films {
		var err error
		if films[i], err = exec.Command("ffmpeg", "-nostdin", "-v", "error", "-f", "lavfi", "-i", fmt.Sprintf("testsrc2=s=320x180:d=0.5:r=%d", 10+i), "-c:v", "libvpx", "-f", "webm", "pipe:1").Output(); err != nil {
			t.Fatal(err)
		}
	}
	done := make(chan struct{})
	most := 0
	var watching, sending sync.WaitGroup
	watching.Go(func() {
		for {
			most = max(most, stage.Running(os.Getpid(), "ffmpeg")+stage.Running(os.Getpid(), "ffprobe"))
			select {
			case <-done:
				return
			case <-time.After(5 * time.Millisecond):
			}
		}
	})
	for i, film := range films {
		sending.Go(func() {
			r, body := p.send(http.MethodPost, fmt.Sprintf("/briefs/%s/clips?name=%d.webm", brief, i), "video/webm", bytes.NewReader(film))
			if r.StatusCode != http.StatusOK {
				t.Errorf("film %d: %s %s", i, r.Status, body)
			}
		})
	}
	sending.Wait()
	for deadline := time.Now().Add(4 * time.Minute); ; time.Sleep(50 * time.Millisecond) { // they stand back for whatever else is done
		left := 0
		if err := s.Store.Pool.QueryRow(t.Context(), `select count(*) from jobs where state in ('waiting', 'working')`).Scan(&left); err != nil {
			t.Fatal(err)
		}
		if left == 0 {
			break
		}
		if time.Now().After(deadline) {
			t.Fatalf("%d films are still worked on", left)
		}
	}
	close(done)
	watching.Wait()
	if workers := 2; most == 0 || most > runtime.NumCPU()+workers {
		t.Errorf("%d programs worked on films at once", most)
	}
}
