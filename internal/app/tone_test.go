package app_test

import (
	"bytes"
	"testing"

	"aspenridge/internal/app"
)

// TestTheMissingTone: a kit whose one logo is dark is offered a version for dark
// grounds, and nothing more once it has it; a bitmap is offered none.
func TestTheMissingTone(t *testing.T) {
	a, m := newcomer(t)
	kit, err := a.NewKit(t.Context(), m, "Brandt & Voss")
	if err != nil {
		t.Fatal(err)
	}
	load := func() *app.Kit {
		t.Helper()
		k, err := a.Kit(t.Context(), m, kit)
		if err != nil {
			t.Fatal(err)
		}
		return k
	}
	if _, ok := load().MissingTone(); ok {
		t.Error("a kit without a logo is offered a tone")
	}
	const navy = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><path d="M0 0h18v20H0zM22 0h18v20z" fill="#1C2B4A"/></svg>`
	if err := a.AddLogo(t.Context(), m, kit, "tab", "navy.svg", []byte(navy)); err != nil {
		t.Fatal(err)
	}
	k := load()
	got, ok := k.MissingTone()
	if !ok || got.Tone != "for-dark" || got.Logo != k.Logos[0].ID || k.Logos[0].Fits(got.Ground) {
		t.Fatalf("offered %+v %v", got, ok)
	}
	if bytes.Contains(bytes.ToUpper(got.SVG), []byte("1C2B4A")) {
		t.Errorf("the version for dark grounds is as dark: %s", got.SVG)
	}
	if err := a.ToneLogo(t.Context(), m, kit, "tab", got.Logo, got.Tone); err != nil {
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
