package test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/test/stage"
)

// photo12MP is a JPEG of 4000 x 3000 px with soft hills and grain.
func photo12MP(b *testing.B) []byte {
	b.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 4000, 3000))
	rng := rand.New(rand.NewPCG(1, 2))
	for y := range 3000 {
		for x := range 4000 {
			g := rng.IntN(12)
			img.SetRGBA(x, y, color.RGBA{uint8(min(255, 40+y/16+g)), uint8(min(255, 90+x/40+g)), uint8(min(255, 200-y/20+g)), 255})
		}
	}
	var out bytes.Buffer
	if err := jpeg.Encode(&out, img, &jpeg.Options{Quality: 90}); err != nil {
		b.Fatal(err)
	}
	return out.Bytes()
}

// BenchmarkPalette is the palette of a 12 MP JPEG, against libvips' thumbnail of
// it alone. Bar: 1.5 times as long.
func BenchmarkPalette(b *testing.B) {
	data := photo12MP(b)
	thumbnail := func() {
		img, err := vips.NewThumbnailFromBuffer(data, 128, 128, vips.InterestingNone)
		if err == nil {
			_, err = img.ToBytes() // a thumbnail is only made when its pixels are asked for
			img.Close()
		}
		if err != nil {
			b.Fatal(err)
		}
	}
	if _, err := raster.Colours(b.Context(), data, 6); err != nil {
		b.Fatal(err)
	}
	var ours, theirs time.Duration
	for b.Loop() {
		t := time.Now()
		if _, err := raster.Colours(b.Context(), data, 6); err != nil {
			b.Fatal(err)
		}
		ours += time.Since(t)
		t = time.Now()
		thumbnail()
		theirs += time.Since(t)
	}
	b.ReportMetric(float64(ours)/float64(theirs), "×thumbnail")
	bar(b, "times a thumbnail", float64(ours)/float64(theirs), 1.5)
}

// BenchmarkKitList is the page of 1,000 kits as the server answers it. Bar: p95
// at most 0.7 of the reference.
func BenchmarkKitList(b *testing.B) {
	s, err := stage.Open(b.Context(), stage.Options{})
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	m, err := s.App.People.SignUp(b.Context(), "Nell", demo.Email, demo.Password)
	if err != nil {
		b.Fatal(err)
	}
	doc := string(demo.KitDocument())
	i, j := strings.Index(doc, `"logos": [`), strings.Index(doc, `"voice"`)
	doc = doc[:i] + doc[j:] // files are not in the workspace
	for n := range 1000 {
		if _, err := s.App.Kits.ImportKit(b.Context(), m, []byte(strings.Replace(doc, "Larkmoor Paddle School", fmt.Sprintf("Client %04d", n), 1))); err != nil {
			b.Fatal(err)
		}
	}
	jar, err := cookiejar.New(nil)
	if err != nil {
		b.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	if r, err := client.PostForm(s.URL+"/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}}); err != nil || r.StatusCode != http.StatusOK {
		b.Fatal(err, r)
	}
	ref := newReference()
	var times []time.Duration
	for b.Loop() {
		for _, page := range []string{"/kits", "/kits?sort=name&from=600", "/kits?find=client+07"} {
			t := time.Now()
			r, err := client.Get(s.URL + page)
			if err != nil || r.StatusCode != http.StatusOK {
				b.Fatal(err, r)
			}
			_ = r.Body.Close()
			times = append(times, time.Since(t))
		}
	}
	slices.Sort(times)
	p95 := times[len(times)*95/100]
	b.ReportMetric(p95.Seconds()*1000, "ms-p95")
	ref.bar(b, "a page of kits at p95", p95, 0.7)
}

// BenchmarkKitEdit is one change of a colour until the sheet and the shelf are
// there anew. Bar: 0.7 of the reference.
func BenchmarkKitEdit(b *testing.B) {
	s, err := stage.Open(b.Context(), stage.Options{Demo: true})
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	jar, err := cookiejar.New(nil)
	if err != nil {
		b.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	if r, err := client.PostForm(s.URL+"/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}}); err != nil || r.StatusCode != http.StatusOK {
		b.Fatal(err, r)
	}
	m, err := s.App.People.SignIn(b.Context(), demo.Email, demo.Password)
	if err != nil {
		b.Fatal(err)
	}
	kit, err := s.App.Kits.DefaultKit(b.Context(), m)
	if err != nil {
		b.Fatal(err)
	}
	n := 0
	ref := newReference()
	var times []time.Duration
	for b.Loop() {
		n++
		body := fmt.Sprintf(`{"action":"colour","client":"bench","base":999999,"typing":true,"token":"main.coral","text":"#F2%02X4B"}`, n%256)
		t := time.Now()
		r, err := client.Post(s.URL+"/kits/"+kit.String()+"/edit", "application/json", strings.NewReader(body))
		if err != nil || r.StatusCode != http.StatusOK {
			b.Fatal(err, r)
		}
		_ = r.Body.Close()
		times = append(times, time.Since(t))
	}
	slices.Sort(times)
	b.ReportMetric(float64(times[len(times)/2].Microseconds())/1000, "ms-median")
	b.ReportMetric(float64(times[len(times)*95/100].Microseconds())/1000, "ms-p95")
	ref.bar(b, "a change at the median", times[len(times)/2], 0.7)
}

// BenchmarkLargeFont reads a TTF of 20 MB: a shipped face with a table of ballast
// (OpenType specification, table directory). Bar: seven times the reference.
func BenchmarkLargeFont(b *testing.B) {
	face, err := assets.Font("inter-400.ttf")
	if err != nil {
		b.Fatal(err)
	}
	data := withBallast(face, 20<<20)
	ref := newReference()
	b.SetBytes(int64(len(data)))
	for b.Loop() {
		if _, err := raster.ImportFont(b.Context(), data); err != nil {
			b.Fatal(err)
		}
	}
	ref.bar(b, "a font of 20 MB", b.Elapsed()/time.Duration(b.N), 7)
}

// BenchmarkFontIntake takes an ordinary text face in: read and proven in a
// process of its own. Bar: 3.4 times the reference.
func BenchmarkFontIntake(b *testing.B) {
	data, err := assets.Font("inter-400.ttf")
	if err != nil {
		b.Fatal(err)
	}
	b.SetBytes(int64(len(data)))
	ref := newReference()
	for b.Loop() {
		if _, err := raster.ImportFont(b.Context(), data); err != nil {
			b.Fatal(err)
		}
	}
	ref.bar(b, "an ordinary font", b.Elapsed()/time.Duration(b.N), 3.4)
}

// withBallast adds a private table of n bytes to a font file.
func withBallast(font []byte, n int) []byte {
	tables := int(binary.BigEndian.Uint16(font[4:6]))
	head := slices.Clone(font[:12])
	binary.BigEndian.PutUint16(head[4:6], uint16(tables+1))
	out := slices.Clone(head)
	for i := range tables {
		e := slices.Clone(font[12+16*i : 28+16*i])
		binary.BigEndian.PutUint32(e[8:12], binary.BigEndian.Uint32(e[8:12])+16)
		out = append(out, e...)
	}
	at := len(font) + 16
	entry := append([]byte("zzzz"), make([]byte, 12)...)
	binary.BigEndian.PutUint32(entry[8:12], uint32(at))
	binary.BigEndian.PutUint32(entry[12:16], uint32(n))
	out = append(out, entry...)
	out = append(out, font[12+16*tables:]...)
	return append(out, make([]byte, n)...)
}

// BenchmarkWOFF2 unpacks a web font. Bar: 0.7 of the reference for a MB of what comes out.
func BenchmarkWOFF2(b *testing.B) {
	data, err := os.ReadFile("../internal/core/typeset/testdata/karla-latin-500-normal.woff2")
	if err != nil {
		b.Fatal(err)
	}
	out, _, _, err := typeset.Unpack(data)
	if err != nil {
		b.Fatal(err)
	}
	b.SetBytes(int64(len(out)))
	ref := newReference()
	for b.Loop() {
		if _, _, _, err := typeset.Unpack(data); err != nil {
			b.Fatal(err)
		}
	}
	perMB := float64(b.Elapsed()) / float64(b.N) / float64(len(out)) * 1e6
	ref.bar(b, "a MB of a web font", time.Duration(perMB), 0.7)
}
