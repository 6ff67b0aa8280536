package preflight_test

import (
	"slices"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// sound is a piece nothing is wrong with.
func sound(t *testing.T, placement string) preflight.Input {
	t.Helper()
	p, err := spec.Parse(placement)
	if err != nil {
		t.Fatal(err)
	}
	w := float64(p.Width)
	safe := p.SafeBox()
	words := func(slot string, kind scene.Kind, y float64) scene.Part {
		return scene.Part{Slot: slot, Kind: kind, Box: spec.Rect{X: safe.X + 0.1*safe.W, Y: safe.Y + y*safe.H, W: 0.5 * safe.W, H: 0.06 * safe.H}, SizePx: 0.06 * w, Family: "Karla", Weight: 500, Contrast: 9, Text: "words"}
	}
	return preflight.Input{
		Placement: p, Kit: &brand.Kit{Voice: brand.Voice{NeverSays: []string{"extreme"}}}, Words: map[string]string{"headline": "Quiet water"},
		Scene:     &scene.Scene{W: p.Width, H: p.Height, Parts: []scene.Part{words("headline", scene.KindText, 0.3), words("callToAction", scene.KindButton, 0.5)}},
		CapHeight: func(string, int) float64 { return 0.7 },
	}
}

func TestSoundPiecesHaveNoFindings(t *testing.T) {
	for _, id := range []string{"feed-square", "story", "shop-banner", "video-thumbnail", "ad-300x250"} {
		if got := preflight.Check(sound(t, id)); slices.ContainsFunc(got, func(f preflight.Finding) bool { return f.Severity != preflight.Note }) {
			t.Errorf("%s: %+v", id, got)
		}
	}
}

// TestEachFaultIsFound breaks a sound piece in one way at a time.
func TestEachFaultIsFound(t *testing.T) {
	for what, c := range map[string]struct {
		placement string
		spoil     func(in *preflight.Input, head *scene.Part)
		code      string
		severity  preflight.Severity
		slot      string
	}{
		"grey on grey":          {"feed-square", func(_ *preflight.Input, h *scene.Part) { h.Contrast = 4.4 }, "contrast", preflight.Error, "headline"},
		"too small":             {"feed-square", func(_ *preflight.Input, h *scene.Part) { h.SizePx = 20 }, "too-small", preflight.Error, "headline"},
		"small where small":     {"feed-square", func(_ *preflight.Input, h *scene.Part) { h.SizePx = 40 }, "small-seen", preflight.Note, "headline"},
		"over the edge":         {"feed-square", func(_ *preflight.Input, h *scene.Part) { h.Box.X = -20 }, "clipped", preflight.Error, "headline"},
		"in the story's bars":   {"story", func(_ *preflight.Input, h *scene.Part) { h.Box.Y = 100 }, "unsafe", preflight.Error, "headline"},
		"under the clock":       {"video-thumbnail", func(_ *preflight.Input, h *scene.Part) { h.Box = spec.Rect{X: 1100, Y: 670, W: 150, H: 30} }, "keep-out", preflight.Error, "headline"},
		"one on the other":      {"feed-square", func(in *preflight.Input, h *scene.Part) { in.Scene.Parts[1].Box = h.Box }, "overlap", preflight.Error, "headline"},
		"an ad that asks not":   {"ad-300x250", func(in *preflight.Input, _ *scene.Part) { in.Scene.Parts = in.Scene.Parts[:1] }, "no-action", preflight.Warning, "callToAction"},
		"a post with no way on": {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Scene.Parts = in.Scene.Parts[:1] }, "no-address", preflight.Warning, "website"},
		"a word never said":     {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Words["headline"] = "EXTREME water" }, "never-says", preflight.Warning, "headline"},
		"an enlarged picture": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Box: spec.Rect{W: 1080, H: 500}, Crop: spec.Rect{W: 400, H: 200}})
		}, "enlarged", preflight.Warning, "picture"},
		"a picture nobody describes": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Pictures = []photo.Picture{{}}
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Box: spec.Rect{W: 100, H: 100}, Crop: spec.Rect{W: 100, H: 100}})
		}, "no-alt", preflight.Note, "picture"},
		"a logo of ten px": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "logo", Kind: scene.KindLogo, Box: spec.Rect{X: 500, Y: 900, W: 30, H: 30}})
		}, "logo-small", preflight.Warning, "logo"},
		"words all over an ad": {"ad-300x250", func(_ *preflight.Input, h *scene.Part) { h.Box = spec.Rect{X: 20, Y: 20, W: 260, H: 80} }, "much-text", preflight.Note, ""},
		"four families": {"feed-square", func(in *preflight.Input, h *scene.Part) {
			for i, f := range []string{"A", "B", "C"} {
				p := *h
				p.Family, p.Slot, p.Box.Y = f, f, 600+100*float64(i)
				in.Scene.Parts = append(in.Scene.Parts, p)
			}
		}, "many-fonts", preflight.Warning, ""},
		"a font nobody vouches for": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Kit.Fonts = []brand.Font{{File: "k.ttf", Family: "Karla"}}
		}, "font-rights", preflight.Note, ""},
		"fewer words than written": {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Shortened = []string{"headline"} }, "shortened", preflight.Note, "headline"},
		"the plain layout":         {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Plain = true }, "plain", preflight.Note, ""},
		"outside the small view":   {"feed-tall", func(_ *preflight.Input, h *scene.Part) { h.Box.Y = 20 }, "keep-in", preflight.Note, "headline"},
	} {
		in := sound(t, c.placement)
		c.spoil(&in, &in.Scene.Parts[0])
		got := preflight.Check(in)
		if !slices.ContainsFunc(got, func(f preflight.Finding) bool {
			return f.Code == c.code && f.Severity == c.severity && f.Slot == c.slot && f.Message != "" && f.Fixes != nil
		}) {
			t.Errorf("%s: no %s on %q in %+v", what, c.code, c.slot, got)
		}
		if c.severity == preflight.Error && preflight.Worst(got) != preflight.Error {
			t.Errorf("%s: an error does not come first", what)
		}
	}
	if preflight.Worst(nil) != "" {
		t.Error("nothing is worse than nothing")
	}
}
