package layout_test

import (
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/layouts"
)

var shortCopy = map[string]string{"headline": "Quiet water", "subheading": "Six Saturdays from 3 May", "callToAction": "Save a seat"}

// shaded is a picture whose px are as light as a function of where they are (0-1).
func shaded(w, h int, light func(x, y float64) byte) photo.Picture {
	p := colour.Pixels{W: w, H: h, Pix: make([]byte, 4*w*h)}
	for i := range w * h {
		v := light(float64(i%w)/float64(w), float64(i/w)/float64(h))
		p.Pix[4*i], p.Pix[4*i+1], p.Pix[4*i+2], p.Pix[4*i+3] = v, v, v, 255
	}
	return photo.Picture{Hash: "shaded", W: w, H: h, Focus: [2]float64{0.5, 0.5}, Light: photo.LightOf(p)}
}

func partOf(r layout.Result, slot string) (scene.Part, bool) {
	for _, p := range r.Scene.Parts {
		if p.Slot == slot {
			return p, true
		}
	}
	return scene.Part{}, false
}

func solveOn(t *testing.T, id, place string, p photo.Picture) layout.Result {
	t.Helper()
	in := input(t, byID(t, id), place, shortCopy)
	in.Pictures = []photo.Picture{p}
	r := layout.Solve(in)
	if r.Plain {
		t.Fatalf("%s on %s is plain", id, place)
	}
	return r
}

// checkered is as busy as a picture can be, in one part of it.
func checkered(inside func(x, y float64) bool) func(x, y float64) byte {
	return func(x, y float64) byte {
		if inside(x, y) && (int(x*97)+int(y*97))%2 == 0 {
			return 250
		}
		return 12
	}
}

// TestWordsGoWhereItIsQuiet: away from the busy half, without a veil on the dark
// one.
func TestWordsGoWhereItIsQuiet(t *testing.T) {
	top := shaded(1200, 1200, checkered(func(_, y float64) bool { return y < 0.25 }))
	bottom := shaded(1200, 1200, checkered(func(_, y float64) bool { return y > 0.75 }))
	for _, c := range []struct {
		picture photo.Picture
		below   bool
	}{{top, true}, {bottom, false}} {
		r := solveOn(t, "clearing", "feed-square", c.picture)
		head, _ := partOf(r, "headline")
		if got := head.Box.Y > float64(r.Scene.H)/3; got != c.below {
			t.Errorf("busy elsewhere, the headline is at %v of %d", head.Box.Y, r.Scene.H)
		}
		if fade, ok := partOf(r, "fade"); ok {
			t.Errorf("a fade of %v over an even dark ground", fade.Alpha)
		}
	}
}

// TestWordsKeepOffFaces: they hang on the other side of the picture where a face is
// in the way.
func TestWordsKeepOffFaces(t *testing.T) {
	for _, c := range []struct {
		id, place string
		face      [4]float64
		free      func(head spec.Rect, w, h float64) bool
	}{
		{"dusk", "feed-square", [4]float64{0.3, 0.62, 0.3, 0.3}, func(b spec.Rect, _, h float64) bool { return b.Y < h/2 }},
		{"dusk", "feed-square", [4]float64{0.3, 0.05, 0.3, 0.3}, func(b spec.Rect, _, h float64) bool { return b.Y > h/3 }},
		{"dusk", "feed-wide", [4]float64{0.05, 0.3, 0.22, 0.4}, func(b spec.Rect, w, _ float64) bool { return b.X > w/3 }},
		{"canopy", "feed-wide", [4]float64{0.7, 0.3, 0.22, 0.4}, func(b spec.Rect, w, _ float64) bool { return b.Right() < w*0.67 }},
	} {
		p := shaded(1080, 1080, func(_, _ float64) byte { return 90 })
		if c.place == "feed-wide" {
			p = shaded(1200, 628, func(_, _ float64) byte { return 90 })
		}
		p.Subjects = []photo.Subject{{Box: c.face, Kind: photo.Face, Weight: 9}}
		r := solveOn(t, c.id, c.place, p)
		pic, _ := partOf(r, "picture")
		head, _ := partOf(r, "headline")
		if !c.free(head.Box, float64(r.Scene.W), float64(r.Scene.H)) {
			t.Errorf("%s on %s, face at %v: the headline is at %v", c.id, c.place, c.face, head.Box)
		}
		for _, f := range p.FacesIn(pic.Crop, pic.Box) {
			if f.Overlaps(head.Box, 1) {
				t.Errorf("%s on %s: the headline %v covers the face %v", c.id, c.place, head.Box, f)
			}
		}
	}
}

// TestWordsKeepOffTheFocus: where no more is known of a picture than what matters most, words go to
// another side of it.
func TestWordsKeepOffTheFocus(t *testing.T) {
	for focus, left := range map[float64]bool{0.2: false, 0.8: true} {
		p := shaded(1200, 628, func(_, _ float64) byte { return 20 })
		p.Focus = [2]float64{focus, 0.5}
		r := solveOn(t, "hush", "feed-wide", p)
		head, _ := partOf(r, "headline")
		if got := head.Box.X+head.Box.W/2 < float64(r.Scene.W)/2; got != left {
			t.Errorf("what matters is at %v, the headline at %v", focus, head.Box)
		}
	}
}

// TestPeopleLookAtTheWords: words go to the side people look to, where both are as free.
func TestPeopleLookAtTheWords(t *testing.T) {
	for turn, left := range map[float64]bool{-0.5: true, 0.5: false} {
		p := shaded(2400, 628, func(_, _ float64) byte { return 90 })
		p.Subjects = []photo.Subject{{Box: [4]float64{0.46, 0.3, 0.08, 0.35}, Kind: photo.Face, Weight: 9, Turn: turn}}
		for _, id := range []string{"lamplight", "dusk"} {
			r := solveOn(t, id, "feed-wide", p)
			head, _ := partOf(r, "headline")
			if got := head.Box.X+head.Box.W/2 < float64(r.Scene.W)/2; got != left {
				t.Errorf("%s: people look %v, the headline is at %v", id, turn, head.Box)
			}
		}
	}
}

// TestWordsOnAnyPictureRead: whatever is behind them, what is said of their contrast
// is enough, and their ground is what was found there.
func TestWordsOnAnyPictureRead(t *testing.T) {
	pictures := map[string]photo.Picture{
		"white": shaded(800, 800, func(_, _ float64) byte { return 255 }), "black": shaded(800, 800, func(_, _ float64) byte { return 0 }),
		"grey": shaded(800, 800, func(_, _ float64) byte { return 119 }), "slope": shaded(800, 800, func(x, y float64) byte { return byte(255 * (x + y) / 2) }),
		"busy":    shaded(800, 800, checkered(func(_, _ float64) bool { return true })),
		"unknown": {Hash: "u", W: 800, H: 800}, "a px": shaded(1, 1, func(_, _ float64) byte { return 200 }), "a strip": shaded(1600, 90, func(x, _ float64) byte { return byte(255 * x) }),
	}
	seen := 0
	for _, l := range layouts.All() {
		on := false
		for _, tree := range l.Trees {
			on = on || tree.Cell != nil && tree.Cell.On != nil
		}
		if !on {
			continue
		}
		seen++
		for name, p := range pictures {
			for _, place := range []string{"feed-square", "story", "feed-wide", "ad-728x90", "ad-160x600"} {
				in := input(t, l, place, shortCopy)
				in.Pictures = []photo.Picture{p}
				for _, part := range layout.Solve(in).Scene.Parts {
					if part.Words() && part.Contrast < colourway.InkContrast {
						t.Errorf("%s on %s over %s: %s has a contrast of %.2f on %v", l.ID, place, name, part.Slot, part.Contrast, part.Ground)
					}
				}
			}
		}
	}
	if seen < 7 {
		t.Errorf("only %d layouts set words on the picture itself", seen)
	}
}

// TestTheLogoFindsAQuietCorner: a logo that does not read where the words are stands in
// a corner of the picture where it does, and has a plate where no corner is quiet.
func TestTheLogoFindsAQuietCorner(t *testing.T) {
	ink := colour.RGB{R: 16, G: 32, B: 48}
	dark := brand.Logo{File: "logo.svg", Lead: true, Art: &brand.Art{View: [4]float64{0, 0, 240, 80}, Inks: []colour.Found{{Colour: ink, Share: 1}}}}
	sky := func(from float64) func(x, y float64) byte {
		return func(_, y float64) byte {
			if y < from {
				return 236
			}
			return 30
		}
	}
	for _, c := range []struct {
		name  string
		light func(x, y float64) byte
		free  bool
	}{
		{"a light sky", sky(0.3), true},
		{"dark all over", sky(0), false},
		{"busy all over", checkered(func(_, _ float64) bool { return true }), false},
		{"a sky with a dark corner", func(x, y float64) byte {
			if x < 0.4 {
				return 30
			}
			return sky(0.3)(x, y)
		}, true},
	} {
		for _, id := range []string{"clearing", "dusk"} {
			p := shaded(1080, 1080, c.light)
			in := input(t, byID(t, id), "feed-square", shortCopy)
			in.Kit.Logos = []brand.Logo{dark}
			in.Pictures, in.Signature = []photo.Picture{p}, "logo"
			r := layout.Solve(in)
			logo, ok := partOf(r, "logo")
			if !ok {
				t.Errorf("%s on %s: no logo", id, c.name)
				continue
			}
			_, plate := partOf(r, "plate")
			if plate == c.free {
				t.Errorf("%s on %s: the logo is at %v, on a plate: %v", id, c.name, logo.Box, plate)
			}
			if !c.free {
				continue
			}
			pic, _ := partOf(r, "picture")
			for x := logo.Box.X; x <= logo.Box.Right(); x += 5 {
				for y := logo.Box.Y; y <= logo.Box.Bottom(); y += 5 {
					at := pic.Crop.X + (x-pic.Box.X)*pic.Crop.W/pic.Box.W
					down := pic.Crop.Y + (y-pic.Box.Y)*pic.Crop.H/pic.Box.H
					v := c.light(at/1080, down/1080)
					under := colour.RGB{R: v, G: v, B: v}
					if fade, ok := partOf(r, "fade"); ok {
						under = fade.Fill.Over(under, fade.Opacity(x, y))
					}
					if k := colour.Contrast(ink, under); k < 2.2 {
						t.Fatalf("%s on %s: %.2f at %v %v under the logo %v", id, c.name, k, x, y, logo.Box)
					}
				}
			}
		}
	}
}
