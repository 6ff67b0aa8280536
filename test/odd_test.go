package test

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/kitfile"
)

// oddJob is a brief of a white and wine-red kit with a logo of one's own.
func oddJob(t *testing.T, logo string, data []byte, card brief.Card, purpose string) *piece.Job {
	t.Helper()
	fsys := fstest.MapFS{
		"kit.json": {Data: fmt.Appendf(nil, `{"color":{"main":{"$type":"color","wine":{"$value":{"hex":"#7a2e3a"}},"white":{"$value":{"hex":"#ffffff"},"$extensions":{"aspenridge":{"role":"ground"}}}}},
			"$extensions":{"aspenridge":{"formatVersion":1,"name":"Pellow & Finch","website":"pellow.example","logos":[{"file":%q}]}}}`, logo)},
		logo: {Data: data},
	}
	k, err := kitfile.LoadKit(t.Context(), fsys, false)
	if err != nil {
		t.Fatalf("%s: %v", logo, err)
	}
	br := &brief.Brief{FormatVersion: 1, Purpose: purpose, Signature: "both", Cards: []brief.Card{card}}
	pics, err := kitfile.LoadPictures(t.Context(), br, fstest.MapFS{}, k.Kit, fsys)
	if err != nil {
		t.Fatal(err)
	}
	return kitfile.Job(k, br, pics)
}

// bitmap is a picture of a size as a PNG or JPEG.
func bitmap(t *testing.T, w, h int, at func(x, y int) color.Color, jpg bool) []byte {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			img.Set(x, y, at(x, y))
		}
	}
	var b bytes.Buffer
	var err error
	if jpg {
		err = jpeg.Encode(&b, img, nil)
	} else {
		err = png.Encode(&b, img)
	}
	if err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// stands checks what every piece has to be, whatever it is made of: a headline, nothing on top of
// something else, nothing outside.
func stands(t *testing.T, at string, pc *piece.Piece) {
	t.Helper()
	var solid []scene.Part
	for _, p := range pc.Scene.Parts {
		if !p.Words() && p.Kind != scene.KindLogo {
			continue
		}
		if !pc.Placement.SafeBox().Contains(p.Box, 1) {
			t.Errorf("%s: %s %+v leaves the frame", at, p.Slot, p.Box)
		}
		for _, o := range solid {
			if o.Box.Overlaps(p.Box, 1) {
				t.Errorf("%s: %s lies on %s", at, p.Slot, o.Slot)
			}
		}
		solid = append(solid, p)
	}
	if !slices.ContainsFunc(solid, func(p scene.Part) bool { return p.Slot == "headline" }) {
		t.Errorf("%s: there is no headline", at)
	}
}

// TestOddLogosStand: a logo of a few pixels, one in the colour of the ground and a photograph: pieces
// stand, what is drawn can be seen, and what is wrong with the file is said.
func TestOddLogosStand(t *testing.T) {
	rnd := rand.New(rand.NewPCG(1, 2))
	card := brief.Card{Headline: str("Second cup, half price"), Subheading: str("Every weekday before nine"), CallToAction: str("Find us")}
	for name, c := range map[string]struct {
		file string
		data []byte
		says string
	}{
		"five pixels": {"dot.png", bitmap(t, 9, 9, func(x, y int) color.Color {
			return color.NRGBA{0x7a, 0x2e, 0x3a, uint8(255 * (x / 2 % 2) * (y / 2 % 2))}
		}, false), "logo-soft"},
		"white on white": {"white.svg", []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 80 40"><path fill="#fff" d="M0 0h30v40H0zM50 0h30v40H50z"/></svg>`), ""},
		"a photograph": {"photo.jpg", bitmap(t, 320, 240, func(x, y int) color.Color {
			return color.NRGBA{uint8(x*200/320 + rnd.IntN(40)), uint8(y*200/240 + rnd.IntN(40)), uint8((x^y)&127 + rnd.IntN(60)), 255}
		}, true), "logo-photo"},
	} {
		job := oddJob(t, c.file, c.data, card, "announce")
		drawn, said := 0, 0
		for _, look := range job.Looks(6) {
			for _, id := range []string{"feed-square", "story", "feed-wide"} {
				p, _ := spec.Find(id)
				pc := job.Compose(look, p, 0)
				at := fmt.Sprintf("%s, %s on %s", name, look.Layout, id)
				stands(t, at, &pc)
				for i, part := range pc.Scene.Parts {
					if part.Kind != scene.KindLogo {
						continue
					}
					drawn++
					if under, ok := flatBelow(pc.Scene, i); ok && part.Art != nil && len(part.Art.Inks) == 1 {
						if r := colour.Contrast(part.Art.Inks[0].Colour, under); r < 2 {
							t.Errorf("%s: the logo has a contrast of %.2f", at, r)
						}
					}
				}
				for _, f := range pc.Findings {
					if f.Code == c.says {
						said++
					}
				}
			}
		}
		if drawn == 0 || c.says != "" && said == 0 {
			t.Errorf("%s: drawn %d times, %q said %d times", name, drawn, c.says, said)
		}
	}
}

// flatBelow is the flat colour a part stands on; false where that is a picture.
func flatBelow(s *scene.Scene, i int) (colour.RGB, bool) {
	box := s.Parts[i].Box
	for k := i - 1; k >= 0; k-- {
		p := s.Parts[k]
		switch {
		case p.Kind == scene.KindPicture && p.Box.Overlaps(box, 0):
			return colour.RGB{}, false
		case p.Kind == scene.KindShape && p.Stroke == 0 && p.Fade == nil && p.Alpha == 0 && p.Box.Contains(box, 0):
			return p.Fill, true
		}
	}
	return colour.RGB{}, false
}

// TestOddCopyStands: an answer of two hundred letters, hours of fourteen days, of one, and some that
// overlap or end after midnight: pieces stand and say what is wrong.
func TestOddCopyStands(t *testing.T) {
	logo := []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 40"><circle cx="20" cy="20" r="20" fill="#7a2e3a"/></svg>`)
	long := strings.TrimSpace(strings.Repeat("because the second loaf is better ", 6))[:200]
	days := []string{}
	for range 2 {
		days = append(days, "Mo 07:00-18:00", "Tu 07:00-18:30", "We 07:00-19:00", "Th 07:00-20:00", "Fr 07:00-21:00", "Sa 08:00-14:00", "Su closed")
	}
	for name, c := range map[string]struct {
		purpose string
		card    brief.Card
		says    string
	}{
		"a long answer":  {"question", brief.Card{Headline: str("Why do you come?"), Lines: []string{"For the bread", long}}, ""},
		"fourteen days":  {"hours", brief.Card{Headline: str("Open again"), Hours: days}, "hours"},
		"one day":        {"hours", brief.Card{Headline: str("Open again"), Hours: []string{"Sa 08:00-14:00"}}, ""},
		"overlapping":    {"hours", brief.Card{Headline: str("Open again"), Hours: []string{"Mo-We 07:00-18:00", "Tu 17:00-20:00"}}, "hours"},
		"after midnight": {"hours", brief.Card{Headline: str("Open late"), Hours: []string{"Fr-Sa 20:00-02:00"}}, ""},
	} {
		job := oddJob(t, "logo.svg", logo, c.card, c.purpose)
		said := 0
		for _, look := range job.Looks(6) {
			for _, id := range []string{"feed-square", "story", "feed-wide", "ad-728x90", "ad-300x250"} {
				p, _ := spec.Find(id)
				pc := job.Compose(look, p, 0)
				stands(t, fmt.Sprintf("%s, %s on %s", name, look.Layout, id), &pc)
				for _, f := range pc.Findings {
					if c.says != "" && f.Code == c.says {
						said++
					}
				}
			}
		}
		if c.says != "" && said == 0 {
			t.Errorf("%s: nothing is said of it", name)
		}
	}
}
