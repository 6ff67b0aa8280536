package raster_test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/raster"
)

// mark is a logo of a disc with a wave on it and a bar of another colour.
const mark = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 100"><circle cx="50" cy="50" r="48" fill="#0F3D4C"/><path d="M20 42h60v16h-60z" fill="#F6EBD6"/><rect x="120" y="30" width="170" height="40" fill="#F2694B"/></svg>`

func importMark(t *testing.T, svg string) brand.Art {
	t.Helper()
	in, err := raster.ImportLogo(t.Context(), []byte(svg))
	if err != nil {
		t.Fatal(err)
	}
	return in.Art
}

// TestTonesOfAVectorLogo: what did not read on dark does, what did is left, a
// detail stays told apart, and one colour is one.
func TestTonesOfAVectorLogo(t *testing.T) {
	art := importMark(t, mark)
	dark, light := colour.RGB{R: 16, G: 36, B: 43}, colour.RGB{R: 246, G: 235, B: 214}
	before := brand.Logo{Tone: "for-dark", Art: &art}
	if before.Fits(dark) {
		t.Fatal("the mark reads on dark already")
	}
	out, err := raster.Retone(&art, "for-dark", light, dark)
	if err != nil {
		t.Fatal(err)
	}
	made := importMark(t, string(out))
	after := brand.Logo{Tone: "for-dark", Art: &made}
	if !after.Fits(dark) {
		t.Errorf("it does not read on dark: %v", made.Inks)
	}
	has := func(a brand.Art, c colour.RGB) bool {
		for _, f := range a.Inks {
			if colour.DeltaE(f.Colour, c) < 1 {
				return true
			}
		}
		return false
	}
	if !has(made, colour.RGB{R: 0xF2, G: 0x69, B: 0x4B}) || !has(made, dark) || !has(made, light) {
		t.Errorf("coral reads on dark and stays, the wave turns dark on the light disc: %v", made.Inks)
	}

	one, err := raster.Retone(&art, "one-colour", dark, light)
	if err != nil {
		t.Fatal(err)
	}
	single := importMark(t, string(one))
	if len(single.Inks) != 1 || colour.DeltaE(single.Inks[0].Colour, dark) > 1 {
		t.Errorf("one colour has %v", single.Inks)
	}
	if _, err := raster.Retone(&art, "gold", dark, light); err == nil {
		t.Error("a tone nobody knows was made")
	}
	if _, err := raster.Retone(&brand.Art{Bitmap: []byte("x")}, "for-dark", dark, light); err == nil {
		t.Error("a broken bitmap was toned")
	}
}

// TestABoxIsCut: a bitmap loses its box, a vector its ground rectangle and stays
// a vector, and what has no box says so.
func TestABoxIsCut(t *testing.T) {
	img := image.NewNRGBA(image.Rect(0, 0, 200, 120))
	for y := range 120 {
		for x := range 200 {
			c := color.NRGBA{255, 255, 255, 255}
			if (x-100)*(x-100)+(y-60)*(y-60) < 50*50 {
				c = color.NRGBA{15, 61, 76, 255}
			}
			img.SetNRGBA(x, y, c)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	out, ext, err := raster.CutLogo(t.Context(), b.Bytes())
	if err != nil || ext != ".png" {
		t.Fatal(ext, err)
	}
	if in, err := raster.ImportLogo(t.Context(), out); err != nil || in.Art.Box != nil || len(in.Art.Inks) != 1 {
		t.Errorf("after the cut: %+v %v", in.Art.Inks, err)
	}
	boxed := strings.Replace(mark, `<circle`, `<rect width="300" height="100" fill="#fff"/><circle`, 1)
	if importMark(t, boxed).Box == nil {
		t.Fatal("the box of a vector was not noticed")
	}
	out, ext, err = raster.CutLogo(t.Context(), []byte(boxed))
	if err != nil || ext != ".svg" {
		t.Fatal(ext, err)
	}
	if a := importMark(t, string(out)); a.Box != nil || a.SVG == "" || len(a.Inks) != 3 {
		t.Errorf("after the cut of a vector: %+v", a.Inks)
	}
	if _, _, err := raster.CutLogo(t.Context(), []byte(mark)); err == nil {
		t.Error("a logo without a box was cut")
	}
}

// TestOneColourOfABitmap: of a bitmap its box and its details go, with soft edges, and
// what stays is of the ink.
func TestOneColourOfABitmap(t *testing.T) {
	navy, ink := color.NRGBA{15, 61, 76, 255}, colour.RGB{R: 246, G: 235, B: 214}
	for what, ground := range map[string]color.NRGBA{"in a box": {255, 255, 255, 255}, "transparent": {}} {
		img := image.NewNRGBA(image.Rect(0, 0, 240, 160))
		for y := range 160 {
			for x := range 240 {
				c := ground
				switch d := (x-120)*(x-120) + (y-80)*(y-80); {
				case d < 24*24:
					c = color.NRGBA{255, 199, 60, 255} // a yellow dot on it
				case d < 60*60:
					c = navy
				}
				img.SetNRGBA(x, y, c)
			}
		}
		var b bytes.Buffer
		if err := png.Encode(&b, img); err != nil {
			t.Fatal(err)
		}
		in, err := raster.ImportLogo(t.Context(), b.Bytes())
		if err != nil {
			t.Fatal(err)
		}
		data, err := raster.Retone(&in.Art, "for-dark", ink, colour.RGB{R: 16, G: 36, B: 43})
		if err != nil || raster.Kind(data) != "png" {
			t.Fatalf("%s: %v", what, err)
		}
		out, err := png.Decode(bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		mid, w := out.Bounds().Dx()/2, float64(out.Bounds().Dx())
		at := func(dx float64) color.NRGBA { // dx of the ring's radius from the middle
			return color.NRGBAModel.Convert(out.At(mid+int(dx*w/2), out.Bounds().Dy()/2)).(color.NRGBA)
		}
		if c := at(0.7); c != (color.NRGBA{ink.R, ink.G, ink.B, 255}) {
			t.Errorf("%s: the ring is %v", what, c)
		}
		if c := at(0); c.A != 0 {
			t.Errorf("%s: the dot is %v", what, c)
		}
		if c := out.At(out.Bounds().Min.X, out.Bounds().Min.Y); color.NRGBAModel.Convert(c).(color.NRGBA).A != 0 {
			t.Errorf("%s: the corner is %v", what, c)
		}
		if again, err := raster.ImportLogo(t.Context(), data); err != nil || len(again.Art.Inks) != 1 || again.Art.Box != nil {
			t.Errorf("%s: what is cut has %+v, %v", what, again.Art.Inks, err)
		}
	}
}

// TestMasksStaySimple: a few plain masks are kept, a nest of them is not.
func TestMasksStaySimple(t *testing.T) {
	plain := `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><mask id="m"><rect width="5" height="10" fill="#fff"/></mask><rect width="10" height="10" mask="url(#m)"/></svg>`
	if c, err := raster.CleanSVG([]byte(plain), "p-"); err != nil || !strings.Contains(c.Markup, `mask="url(#p-m)"`) || len(c.Notes) > 0 {
		t.Errorf("%+v %v", c, err)
	}
	nested := strings.Replace(plain, `fill="#fff"`, `fill="#fff" mask="url(#m)"`, 1)
	if c, err := raster.CleanSVG([]byte(nested), "p-"); err != nil || strings.Contains(c.Markup, "mask") || len(c.Notes) == 0 {
		t.Errorf("%+v %v", c, err)
	}
}

// TestACutKeepsItsHoles: in one colour a detail on a logo is a hole through which its ground is
// seen, of a drawing and of a bitmap; what would be a blot is not cut.
func TestACutKeepsItsHoles(t *testing.T) {
	ground, ink := colour.RGB{R: 90, G: 20, B: 40}, colour.RGB{R: 247, G: 242, B: 231}
	drawn := func(art *brand.Art) image.Image {
		t.Helper()
		cut := art.In(ink)
		if cut == nil {
			t.Fatal("it was not cut")
		}
		v := cut.View
		svg := fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="300" height="100" viewBox="%g %g %g %g"><rect x="-9" y="-9" width="999" height="999" fill="%s"/>%s</svg>`,
			v[0], v[1], v[2], v[3], ground.Hex(), cut.SVG)
		data, err := raster.NewStudio(nil).Draw(t.Context(), svg, raster.Output{Format: "png"})
		if err != nil {
			t.Fatal(err)
		}
		img, err := png.Decode(bytes.NewReader(data))
		if err != nil {
			t.Fatal(err)
		}
		return img
	}
	holds := func(name string, art *brand.Art) {
		t.Helper()
		img := drawn(art)
		for _, c := range []struct {
			x, y int
			want colour.RGB
		}{{50, 20, ink}, {50, 50, ground}, {200, 50, ink}, {110, 10, ground}} {
			r, g, b, _ := img.At(c.x, c.y).RGBA()
			if got := (colour.RGB{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)}); colour.DeltaE(got, c.want) > 3 {
				t.Errorf("%s at %d,%d is %s, want %s", name, c.x, c.y, got.Hex(), c.want.Hex())
			}
		}
	}
	art := importMark(t, mark)
	holds("a drawing", &art)
	plain, err := raster.NewStudio(nil).Draw(t.Context(), strings.Replace(mark, "<svg ", `<svg width="600" height="200" `, 1), raster.Output{Format: "png"})
	if err != nil {
		t.Fatal(err)
	}
	bitmap := importMark(t, string(plain))
	holds("a bitmap", &bitmap)

	photograph := image.NewNRGBA(image.Rect(0, 0, 120, 90))
	for i := range photograph.Pix {
		photograph.Pix[i] = uint8(i*i/7 + i/90)
		if i%4 == 3 {
			photograph.Pix[i] = 255
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, photograph); err != nil {
		t.Fatal(err)
	}
	if art := importMark(t, b.String()); art.Cut != nil {
		t.Error("a photograph was cut in one colour")
	}
	boxed := importMark(t, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><rect width="100" height="100" fill="#fff"/><circle cx="50" cy="50" r="30" fill="#123"/></svg>`)
	if boxed.Cut != nil {
		t.Error("a drawing in a box was cut with its box")
	}
}
