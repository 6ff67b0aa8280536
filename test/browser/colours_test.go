package browser

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"os"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aspenridge/internal/core/colour"
	"aspenridge/test/stage"
)

// flag is a picture of two flat colours side by side.
func flag(left, right color.RGBA) []byte {
	img := image.NewRGBA(image.Rect(0, 0, 120, 80))
	draw.Draw(img, img.Rect, &image.Uniform{left}, image.Point{}, draw.Src)
	draw.Draw(img, image.Rect(60, 0, 120, 80), &image.Uniform{right}, image.Point{}, draw.Src)
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// TestColoursOfAPictureThatIsNotShown: a brief takes the colours of a file, or of a picture of its
// kit, and not the picture.
func TestColoursOfAPictureThatIsNotShown(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.openMat("Spring")
	b.goTo(strings.Replace(eval[string](b, `location.pathname`), "/mat", "/start", 1))
	pictures := eval[int](b, `document.querySelectorAll('.bp-pic').length`)
	b.click(`.other-colours summary`)
	b.click(`[data-colours-of]`)
	b.until(`document.querySelectorAll('[data-colours-found] [data-add-colour]').length > 1`)
	ofKit := eval[string](b, `document.querySelector('[data-colours-found] [data-own-palette]').dataset.ownPalette`)

	name := t.TempDir() + "/flag.png"
	if err := os.WriteFile(name, flag(color.RGBA{R: 0xc2, G: 0x18, B: 0x5b, A: 255}, color.RGBA{R: 0x1a, G: 0x6f, B: 0x4c, A: 255}), 0o600); err != nil {
		t.Fatal(err)
	}
	b.do("giving a file", cdp.SetUploadFiles(`[data-colours-file]`, []string{name}))
	b.until(`(document.querySelector('[data-colours-found] [data-own-palette]')?.dataset.ownPalette ?? ` + quote(ofKit) + `) !== ` + quote(ofKit))
	for _, want := range []colour.RGB{{R: 0xc2, G: 0x18, B: 0x5b}, {R: 0x1a, G: 0x6f, B: 0x4c}} {
		near := false
		for _, hex := range strings.Fields(eval[string](b, `document.querySelector('[data-colours-found] [data-own-palette]').dataset.ownPalette`)) {
			c, err := colour.Parse(hex)
			near = near || err == nil && colour.DeltaE(c, want) < 3
		}
		if !near {
			t.Errorf("the file has %s, and it is not among its colours", want.Hex())
		}
	}
	b.click(`[data-colours-found] [data-own-palette]`)
	b.until(`!!document.querySelector('[data-own-none]')`)
	if now := eval[int](b, `document.querySelectorAll('.bp-pic').length`); now != pictures {
		t.Errorf("the brief has %d pictures, it had %d", now, pictures)
	}
}

// TestAColourOffThePiece: in a browser without a dropper of its own a colour is taken off the
// piece's pixels, pictures and all.
func TestAColourOffThePiece(t *testing.T) {
	s := openStage(t, stage.Options{Demo: true})
	b := openTab(t, s.URL)
	b.signIn()
	b.closeUp("story")
	b.run(mat + `.pick('headline')`)
	b.run(`window.EyeDropper = undefined; ` + mat + `.closeSlip()`)
	b.click(`.slip [data-drop=fill]`)
	b.until(`!!document.querySelector('dialog.dropper canvas')`)
	// a pixel of the picture: what is read is no colour of the ground behind it
	b.run(`{ const c = document.querySelector('dialog.dropper canvas'); const r = c.getBoundingClientRect()
		c.dispatchEvent(new MouseEvent('mousemove', { clientX: r.left + r.width * 0.5, clientY: r.top + r.height * 0.2 })) }`)
	hex := eval[string](b, `document.querySelector('dialog.dropper output').textContent`)
	if c, err := colour.Parse(hex); err != nil || c == colour.White || c == colour.Black {
		t.Errorf("in the picture the dropper reads %q", hex)
	}
	b.keys(kb.Enter)
	b.untilPart("headline", `hand.some((h) => h.property === 'fill' && h.value === `+quote(hex)+`)`)
}
