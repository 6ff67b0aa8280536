package app_test

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"

	"aspenridge/internal/app"
)

// TestTheMissingTone: a kit whose one logo is dark is offered a version for dark
// grounds, and nothing more once it has it.
func TestTheMissingTone(t *testing.T) {
	a, m := newcomer(t)
	kit, err := a.Kits.NewKit(t.Context(), m, "Brandt & Voss")
	if err != nil {
		t.Fatal(err)
	}
	load := func() *app.Kit {
		t.Helper()
		k, err := a.Kits.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		return k
	}
	if _, ok := load().MissingTone(); ok {
		t.Error("a kit without a logo is offered a tone")
	}
	const navy = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><path d="M0 0h18v20H0zM22 0h18v20z" fill="#1C2B4A"/></svg>`
	if err := a.Brand.AddLogo(t.Context(), m, kit, "tab", "navy.svg", []byte(navy)); err != nil {
		t.Fatal(err)
	}
	k := load()
	got, ok := k.MissingTone()
	if !ok || got.Tone != "for-dark" || got.Logo != k.Logos[0].ID || k.Logos[0].Fits(got.Ground) {
		t.Fatalf("offered %+v %v", got, ok)
	}
	if bytes.Contains(bytes.ToUpper(got.Data), []byte("1C2B4A")) {
		t.Errorf("the version for dark grounds is as dark: %s", got.Data)
	}
	if err := a.Brand.ToneLogo(t.Context(), m, kit, "tab", got.Logo, got.Tone); err != nil {
		t.Fatal(err)
	}
	k = load()
	if again, ok := k.MissingTone(); ok {
		t.Errorf("still offered %s on %v", again.Tone, again.Ground)
	}
	if fit, ok := k.PickLogo(got.Ground, "wide", ""); !ok || fit.Plate {
		t.Error("on the dark ground it still needs a plate")
	}
}

// Of a bitmap in a box the version for dark grounds is cut in one colour.
func TestTheMissingToneOfABitmap(t *testing.T) {
	a, m := newcomer(t)
	kit, err := a.Kits.NewKit(t.Context(), m, "Brandt & Voss")
	if err != nil {
		t.Fatal(err)
	}
	img := image.NewNRGBA(image.Rect(0, 0, 200, 120))
	for i := range 200 * 120 {
		c := color.NRGBA{255, 255, 255, 255}
		if x, y := i%200-100, i/200-60; x*x+y*y < 50*50 {
			c = color.NRGBA{28, 43, 74, 255}
		}
		img.SetNRGBA(i%200, i/200, c)
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	if err := a.Brand.AddLogo(t.Context(), m, kit, "tab", "navy.png", b.Bytes()); err != nil {
		t.Fatal(err)
	}
	k, err := a.Kits.Kit(t.Context(), m, kit)
	if err != nil {
		t.Fatal(err)
	}
	got, ok := k.MissingTone()
	if !ok || got.Tone != "for-dark" || !bytes.HasPrefix(got.Data, []byte("\x89PNG")) {
		t.Fatalf("offered %q %v", got.Tone, ok)
	}
	if err := a.Brand.ToneLogo(t.Context(), m, kit, "tab", got.Logo, got.Tone); err != nil {
		t.Fatal(err)
	}
	if k, err = a.Kits.Kit(t.Context(), m, kit); err != nil {
		t.Fatal(err)
	}
	if fit, ok := k.PickLogo(got.Ground, "wide", ""); !ok || fit.Plate {
		t.Error("on the dark ground it still needs a plate")
	}
}
