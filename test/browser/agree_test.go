package browser

import (
	"bytes"
	"context"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	_ "image/png"
	"maps"
	"math"
	"slices"
	"testing"
	"testing/fstest"

	cdptype "github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/page"
	cdp "github.com/chromedp/chromedp"
	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/assets"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/kitfile"
	"aspenridge/internal/raster"
	"aspenridge/test/stage"
)

// Two independent renderers, Chromium and librsvg, must agree on every slot of
// a piece: what is seen on screen is what is in the file. Compared are the
// worst 1% of a slot's pixels, since a mean hides a logo that moved.

// oddLogos are files as drawing programs write them.
var oddLogos = map[string]string{
	"classes and no viewBox": `<svg xmlns="http://www.w3.org/2000/svg" width="240" height="90"><style>.a{fill:#7a2e3a}.b{fill:none;stroke:#26432f;stroke-width:8}</style><circle class="a" cx="45" cy="45" r="40"/><path class="b" d="M100 20h120M100 45h90M100 70h110"/></svg>`,
	"inline style and use":   `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="-10 -10 220 120"><defs><linearGradient id="g" x2="1"><stop offset="0" style="stop-color:#7a2e3a"/><stop offset="1" stop-color="#d08a2e"/></linearGradient><path id="p" d="M0 0h40v40z"/></defs><rect width="200" height="100" rx="20" style="fill:url(#g)"/><use xlink:href="#p" x="20" y="30" fill="#fff"/><g transform="translate(120 30) rotate(15)" fill="#fff" fill-opacity=".6"><use href="#p"/></g></svg>`,
	"clip and mask of paths": `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><clipPath id="c"><circle cx="50" cy="50" r="46"/></clipPath><g clip-path="url(#c)"><rect width="100" height="100" fill="#26432f"/><path d="M0 60q25-20 50 0t50 0v50H0z" fill="#d08a2e"/></g></svg>`,
}

func TestChromiumAgreesWithTheFiles(t *testing.T) {
	b := openTab(t, "")
	jobs := map[string]*piece.Job{}
	sources := map[string]raster.Source{}
	rotated, wide := oddPictures(t)
	kits := map[string]fstest.MapFS{}
	for name, logo := range oddLogos {
		kits[name] = fstest.MapFS{
			"kit.json": {Data: []byte(`{"color":{"main":{"$type":"color","wine":{"$value":{"hex":"#7a2e3a"}},"moss":{"$value":{"hex":"#26432f"}},"cream":{"$value":{"hex":"#f4ecd8"},"$extensions":{"aspenridge":{"role":"ground"}}}}},
				"type":{"$type":"typography","headline":{"$value":{"fontFamily":"Fraunces","fontWeight":700}},"body":{"$value":{"fontFamily":"Karla"}}},
				"$extensions":{"aspenridge":{"formatVersion":1,"name":"Pellow & Finch","website":"pellow.example","callsToAction":["Reserve a basket"],"logos":[{"file":"logo.svg"}]}}}`)},
			"logo.svg": {Data: []byte(logo)},
		}
	}
	picture := map[string][]byte{"classes and no viewBox": rotated, "inline style and use": wide, "clip and mask of paths": rotated}
	for name, fsys := range kits {
		k, err := kitfile.LoadKit(t.Context(), fsys, false)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		headline, sub := "Morels at dawn, chanterelles by noon", "Every Saturday from 7 until the baskets are empty"
		br := &brief.Brief{FormatVersion: 1, Purpose: "announce", Signature: "both", Cards: []brief.Card{{Headline: &headline, Subheading: &sub, Pictures: []brief.Picture{{File: "p.jpg"}}}}}
		pics, err := kitfile.LoadPictures(t.Context(), br, fstest.MapFS{"p.jpg": {Data: picture[name]}}, k.Kit, fsys)
		if err != nil {
			t.Fatal(err)
		}
		jobs[name], sources[name] = kitfile.Job(k, br, pics), pics.Source
	}
	worst := 0.0
	for _, name := range slices.Sorted(maps.Keys(jobs)) {
		studio := raster.NewStudio(sources[name])
		looks := jobs[name].Looks(6)
		for i, id := range []string{"feed-square", "story", "shop-banner", "ad-160x600", "ad-728x90", "profile-picture"} {
			p, _ := spec.Find(id)
			pc := jobs[name].Compose(looks[i%len(looks)], p, 0)
			worst = max(worst, b.agrees(studio, pc, name))
		}
	}
	for _, name := range slices.Sorted(maps.Keys(jobs)) {
		job := *jobs[name]
		job.Brief = &brief.Brief{FormatVersion: 1, Purpose: "announce", Signature: "both", Cards: job.Brief.Cards, Adjustments: stage.ByHand("color.main.wine", "p.jpg", "logo.svg")}
		p, _ := spec.Find("feed-square")
		worst = max(worst, b.agrees(raster.NewStudio(sources[name]), job.Compose(job.First(), p, 0), name+", by hand"))
	}
	t.Logf("the worst slot differs by %.1f of 255", worst)
}

// agrees compares a piece part by part, in the file and as Chromium draws it, and returns
// how far the worst is apart.
func (b *tab) agrees(studio *raster.Studio, pc piece.Piece, name string) (worst float64) {
	b.t.Helper()
	data, err := studio.Render(b.t.Context(), pc.Scene, raster.Output{Format: "png"})
	if err != nil {
		b.t.Fatal(err)
	}
	svg, err := studio.SVG(b.t.Context(), pc.Scene, raster.Output{})
	if err != nil {
		b.t.Fatal(err)
	}
	file, screen := rgba(b.t, data), b.picture(svg, pc.Placement.Width, pc.Placement.Height)
	for _, part := range pc.Scene.Parts {
		diff := difference(file, screen, part)
		worst = max(worst, diff)
		if diff > agreement {
			b.t.Errorf("%s on %s (%s): %s differs by %.0f of 255 in its worst 1%%", name, pc.Placement.ID, pc.Layout.ID, part.Slot, diff)
		}
	}
	return worst
}

// agreement is how far a slot's 99th percentile may be apart, of 255, after both
// pictures were softened by one pixel: the two antialias edges differently
// (measured: up to about 12), while a part that is a pixel off or in another
// colour differs by 60 and more.
const agreement = 24

// difference is the 99th percentile of how far the pixels of a part's box are
// apart in their worst channel.
func difference(a, b *image.RGBA, part scene.Part) float64 {
	r := image.Rect(int(part.Box.X)-2, int(part.Box.Y)-2, int(math.Ceil(part.Box.X+part.Box.W))+2, int(math.Ceil(part.Box.Y+part.Box.H))+2).
		Intersect(a.Bounds()).Intersect(b.Bounds())
	soft := func(img *image.RGBA, x, y int) (out [3]float64) {
		n := 0.0
		for yy := max(y-1, 0); yy <= min(y+1, img.Rect.Dy()-1); yy++ {
			for xx := max(x-1, 0); xx <= min(x+1, img.Rect.Dx()-1); xx++ {
				c := img.Pix[yy*img.Stride+4*xx:]
				out[0], out[1], out[2], n = out[0]+float64(c[0]), out[1]+float64(c[1]), out[2]+float64(c[2]), n+1
			}
		}
		return [3]float64{out[0] / n, out[1] / n, out[2] / n}
	}
	var all []float64
	step := 1 + r.Dx()*r.Dy()/200_000
	i := 0
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if i++; i%step != 0 {
				continue
			}
			p, q := soft(a, x, y), soft(b, x, y)
			all = append(all, max(math.Abs(p[0]-q[0]), math.Abs(p[1]-q[1]), math.Abs(p[2]-q[2])))
		}
	}
	if len(all) == 0 {
		return 255
	}
	slices.Sort(all)
	return all[len(all)*99/100]
}

// picture shows markup alone on a page of w x h px and photographs it.
func (b *tab) picture(markup string, w, h int) *image.RGBA {
	b.t.Helper()
	b.do("showing a piece", cdp.EmulateViewport(int64(w), int64(h)), cdp.Navigate("about:blank"), func(ctx context.Context, t *cdp.Target) (cdp.Void, error) {
		tree, err := cdptype.Call(ctx, t, page.GetFrameTree, cdptype.Empty{})
		if err != nil {
			return cdp.Void{}, err
		}
		_, err = cdptype.Call(ctx, t, page.SetDocumentContent, page.SetDocumentContentParams{FrameID: tree.FrameTree.Frame.ID, HTML: `<!doctype html><body style="margin:0;background:#fff;overflow:hidden"><style>svg,img{display:block}</style>` + markup})
		return cdp.Void{}, err
	})
	b.until(`document.readyState === 'complete' && !!document.querySelector('svg, img')`)
	// pictures inside decode after the page is there
	eval[bool](b, `Promise.all([...document.querySelectorAll('image')].map((i) => { const p = new Image(); p.src = i.getAttribute('href'); return p.decode() }).concat([...document.images].map((i) => i.decode()), document.fonts.ready)).then(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true)))))`)
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	data, err := cdp.Run(ctx, cdp.CaptureScreenshot())
	if err != nil {
		b.t.Fatal(err)
	}
	return rgba(b.t, data)
}

// TestSignsInColour compares emoji with what Chromium draws of the same font, whose
// gradients are flat with us: that is much in a flame or a wave, little over many signs.
func TestSignsInColour(t *testing.T) {
	signs := []string{"🔥", "🛶", "🌊", "🎉", "😀", "👋🏽", "👨‍🍳", "🏳️‍🌈", "🇩🇪", "1️⃣", "⭐", "🍷", "♻️", "🐶"}
	const size, cell = 100.0, 140
	b := openTab(t, "")
	brand, err := assets.Library().Face("Gabarito", 700, false)
	if err != nil {
		t.Fatal(err)
	}
	shaper := assets.Shaper()
	sc := &scene.Scene{W: cell * len(signs), H: cell, Parts: []scene.Part{{Slot: "ground", Kind: scene.KindShape, Box: spec.Rect{W: float64(cell * len(signs)), H: cell}, Fill: colour.White}}}
	words := scene.Part{Slot: "headline", Kind: scene.KindText, SizePx: size, Fill: colour.Black}
	html := ""
	for i, s := range signs {
		x := float64(cell*i) + 5
		words.Lines = append(words.Lines, scene.TextLine{Line: shaper.Line(s, typeset.Style{Face: brand}), X: x, Y: 110})
		html += fmt.Sprintf(`<text x="%g" y="110" font-family="E" font-size="%g">%s</text>`, x, size, s)
	}
	sc.Parts = append(sc.Parts, words)
	data, err := raster.NewStudio(nil).Render(t.Context(), sc, raster.Output{Format: "png"})
	if err != nil {
		t.Fatal(err)
	}
	font, err := assets.Font("noto-color-emoji-400.ttf")
	if err != nil {
		t.Fatal(err)
	}
	ours := rgba(t, data)
	theirs := b.picture(fmt.Sprintf(`<style>@font-face{font-family:E;src:url(data:font/ttf;base64,%s)}</style><svg width="%d" height="%d">%s</svg>`,
		base64.StdEncoding.EncodeToString(font), sc.W, sc.H, html), sc.W, sc.H)
	all := 0.0
	for i, s := range signs {
		sum, inked, n := 0.0, 0, 0
		for y := range cell {
			for x := cell * i; x < cell*(i+1); x++ {
				p, q := ours.RGBAAt(x, y), theirs.RGBAAt(x, y)
				if p == q && p.R == 255 && p.G == 255 && p.B == 255 {
					continue
				}
				n++
				if q.R < 250 || q.G < 250 || q.B < 250 {
					inked++
				}
				sum += (math.Abs(float64(p.R)-float64(q.R)) + math.Abs(float64(p.G)-float64(q.G)) + math.Abs(float64(p.B)-float64(q.B))) / 3
			}
		}
		if inked < 1500 {
			t.Errorf("Chromium drew %d px of %s", inked, s)
		}
		t.Logf("%s differs by %.1f of 255 over %d px", s, sum/float64(n), n)
		if mean := sum / float64(n); mean > 30 {
			t.Errorf("%s differs by %.1f of 255", s, mean)
		}
		all += sum / float64(n)
	}
	if mean := all / float64(len(signs)); mean > 8 {
		t.Errorf("the signs differ by %.1f of 255", mean)
	}
}

// rgba decodes a picture.
func rgba(t testing.TB, data []byte) *image.RGBA {
	t.Helper()
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	out := image.NewRGBA(image.Rectangle{Max: img.Bounds().Size()})
	draw.Draw(out, out.Rect, img, img.Bounds().Min, draw.Src)
	return out
}

// oddPictures are a photograph that lies on its side and says so in EXIF, and
// one in a wider space than sRGB that says so in its profile.
func oddPictures(t *testing.T) (rotated, wide []byte) {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 600, 400))
	draw.Draw(img, img.Bounds(), image.NewUniform(color.RGBA{220, 90, 60, 255}), image.Point{}, draw.Src)
	draw.Draw(img, image.Rect(0, 0, 300, 200), image.NewUniform(color.RGBA{40, 120, 70, 255}), image.Point{}, draw.Src)
	draw.Draw(img, image.Rect(300, 200, 600, 400), image.NewUniform(color.RGBA{30, 60, 140, 255}), image.Point{}, draw.Src)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	plain := b.Bytes()
	// orientation 6: the 0th row is the right side (Exif 2.3, tag 0x0112)
	exif := []byte("Exif\x00\x00MM\x00\x2a\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00")
	segment := append([]byte{0xff, 0xe1, byte((len(exif) + 2) >> 8), byte(len(exif) + 2)}, exif...)
	rotated = append(append(append([]byte{}, plain[:2]...), segment...), plain[2:]...)

	vips.LoggingSettings(nil, vips.LogLevelError)
	ref, err := vips.NewImageFromBuffer(plain)
	if err != nil {
		t.Fatal(err)
	}
	defer ref.Close()
	if err := ref.TransformICCProfileWithFallback("p3", "srgb"); err != nil {
		t.Fatal(err)
	}
	if wide, _, err = ref.ExportJpeg(&vips.JpegExportParams{Quality: 95}); err != nil {
		t.Fatal(err)
	}
	return rotated, wide
}

// TestPicturesComeInAsABrowserShowsThem imports odd pictures and compares them
// with what Chromium makes of the originals.
func TestPicturesComeInAsABrowserShowsThem(t *testing.T) {
	b := openTab(t, "")
	rotated, wide := oddPictures(t)
	for name, data := range map[string][]byte{"rotated by EXIF": rotated, "Display P3": wide} {
		in, err := raster.Import(t.Context(), data)
		if err != nil {
			t.Fatal(err)
		}
		ours := rgba(t, in.Data)
		size := ours.Bounds().Size()
		if name == "rotated by EXIF" && (size.X != 400 || size.Y != 600) {
			t.Errorf("%s comes in as %v", name, size)
		}
		theirs := b.picture(fmt.Sprintf(`<img width="%d" height="%d" src="data:image/jpeg;base64,%s">`, size.X, size.Y, base64.StdEncoding.EncodeToString(data)), size.X, size.Y)
		whole := scene.Part{Box: spec.Rect{W: float64(size.X), H: float64(size.Y)}}
		if d := difference(ours, theirs, whole); d > 6 {
			t.Errorf("%s differs by %.1f of 255 from the browser's", name, d)
		}
	}
}
