package motion_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/motion"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

func kitOf(colours ...colour.RGB) *brand.Kit {
	k := &brand.Kit{Name: "Larkmoor", Tagline: "Read the river first", Website: "larkmoor.example", TypeSets: []brand.TypeSet{brand.DefaultTypeSet()}, Palettes: []brand.Palette{{ID: "main"}}}
	for i, c := range colours {
		role := brand.Extra
		if i == 0 {
			role = brand.Lead
		}
		k.Palettes[0].Colours = append(k.Palettes[0].Colours, brand.Colour{Token: fmt.Sprintf("main.c%d", i), Value: c, Role: role})
	}
	k.Motion = brand.Motion{Opening: brand.Bookend{From: "tagline", Duration: 2}, Closing: brand.Bookend{From: "address", Duration: 2},
		Mark: brand.Mark{Place: "top-right", Size: 0.14}, Captions: brand.Captions{Level: brand.Subheading, Opacity: 0.3}}
	return k
}

func input(k *brand.Kit, placement string) motion.Input {
	p, _ := spec.Find(placement)
	return motion.Input{Kit: k, Library: assets.Library(), Shaper: typeset.NewShaper(), Placement: p, Caption: "Read the slow water before the first stroke of the day", Spoken: 3}
}

// TestCaptionsReadOverAnything: whatever the palette, the words keep 4.5:1
// (WCAG 2.2, 1.4.3) on the caption's ground blended over white and over black.
func TestCaptionsReadOverAnything(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	for range 400 {
		var list []colour.RGB
		for range 1 + rng.IntN(6) {
			list = append(list, colour.RGB{R: uint8(rng.IntN(256)), G: uint8(rng.IntN(256)), B: uint8(rng.IntN(256))})
		}
		s := motion.Captions(kitOf(list...))
		for _, under := range []colour.RGB{colour.White, colour.Black, {R: 255}, {G: 200, B: 90}} {
			mix := func(g, u uint8) uint8 { return uint8(math.Round(s.Opacity*float64(g) + (1-s.Opacity)*float64(u))) }
			ground := colour.RGB{R: mix(s.Ground.R, under.R), G: mix(s.Ground.G, under.G), B: mix(s.Ground.B, under.B)}
			if a, b := colour.Contrast(s.Ink, ground), colour.Contrast(s.Spoken, ground); a < 4.49 || b < 4.49 {
				t.Fatalf("%v over %v: %.2f and %.2f", s, under, a, b)
			}
		}
	}
}

// TestTheMarkStaysInTheSafeArea at every place, size and shape of logo.
func TestTheMarkStaysInTheSafeArea(t *testing.T) {
	for _, id := range []string{"video-wide", "video-square", "video-tall"} {
		p, ok := spec.Find(id)
		if !ok {
			t.Fatal(id)
		}
		for _, place := range brand.MarkPlaces {
			for _, at := range [][2]float64{{0, 0}, {1, 1}, {0.5, 0.5}} {
				for _, aspect := range []float64{0.3, 1, 5} {
					box, shown := motion.MarkBox(brand.Mark{Place: place, At: at, Size: 0.2}, p, aspect)
					if shown != (place != "none") {
						t.Errorf("%s %s: shown %v", id, place, shown)
					}
					if shown && !p.SafeBox().Contains(box, 0.01) {
						t.Errorf("%s %s %v: %+v leaves %+v", id, place, aspect, box, p.SafeBox())
					}
				}
			}
		}
	}
}

// TestFrames: opening and closing say what they are asked to, the word being
// said lies on its own place in the caption, nothing leaves the safe area.
func TestFrames(t *testing.T) {
	k := kitOf(colour.RGB{R: 15, G: 61, B: 76}, colour.RGB{R: 242, G: 105, B: 75}, colour.RGB{R: 246, G: 235, B: 214})
	for _, id := range []string{"video-wide", "video-square", "video-tall"} {
		in := input(k, id)
		for name, want := range map[string]string{"opening": k.Tagline, "closing": k.Website} {
			s := motion.Opening(in)
			if name == "closing" {
				s = motion.Closing(in)
			}
			found := false
			for _, part := range s.Parts {
				found = found || part.Text == want
				if part.Kind == scene.KindText && (!in.Placement.SafeBox().Contains(part.Box, 0.5) || part.Contrast < 4.5) {
					t.Errorf("%s %s: %q at %+v, contrast %.1f", id, name, part.Text, part.Box, part.Contrast)
				}
			}
			if !found {
				t.Errorf("%s %s does not say %q", id, name, want)
			}
		}
		var whole, word *scene.Part
		run := motion.Running(in)
		for i := range run.Parts {
			switch p := &run.Parts[i]; {
			case p.Slot == "caption" && p.Words():
				whole = p
			case p.Slot == "spoken":
				word = p
			}
		}
		if whole == nil || word == nil || word.Text != "water" {
			t.Fatalf("%s: the caption or its word is missing", id)
		}
		if !whole.Box.Contains(word.Box, 1) || !in.Placement.SafeBox().Contains(whole.Box, 0.5) {
			t.Errorf("%s: the word at %+v, the caption at %+v", id, word.Box, whole.Box)
		}
	}
	// every word is set again where it stands, in lines that run either way and in two
	for _, text := range []string{"Read the slow water\nbefore the first stroke", "ماء هادئ قبل الثامنة", "Wasser; Donaudampfschifffahrtsgesellschaft"} {
		for _, id := range []string{"video-wide", "video-tall"} {
			in := input(k, id)
			in.Caption = text
			c, ok := motion.Caption(in)
			words := strings.Fields(text)
			if !ok || len(c.Spoken) != len(words) {
				t.Fatalf("%s %q: %d words set again", id, text, len(c.Spoken))
			}
			sum := 0.0
			for i, w := range c.Spoken {
				sum += w.Box.W
				if w.Text != words[i] || !c.Words.Box.Contains(w.Box, 1.5) {
					t.Errorf("%s: %q at %+v of %+v", id, w.Text, w.Box, c.Words.Box)
				}
				for _, other := range c.Spoken[:i] {
					if w.Box.Overlaps(other.Box, 2) {
						t.Errorf("%s: %q lies on %q", id, w.Text, other.Text)
					}
				}
			}
			if room := motion.CaptionRoom(in); !room.Contains(c.Ground.Box, 1) || !in.Placement.SafeBox().Contains(room, 0.01) || motion.CaptionLine(in) < 20 {
				t.Errorf("%s %q: ground %+v, room %+v, %d letters a line", id, text, c.Ground.Box, room, motion.CaptionLine(in))
			}
		}
	}
	k.Motion.Opening.From = "none"
	if motion.Opening(input(k, "video-wide")) != nil {
		t.Error("an opening of nothing has a frame")
	}
}

// TestWhatAVideoClosesWith: what people are to do stands on a button that stands out by 3:1
// (WCAG 2.2, 1.4.11) in words that read by 4.5:1, the brief's before the kit's; a picture fills
// the frame; where what is asked for is not there, the brand's name is.
func TestWhatAVideoClosesWith(t *testing.T) {
	k := kitOf(colour.RGB{R: 15, G: 61, B: 76}, colour.RGB{R: 242, G: 105, B: 75}, colour.RGB{R: 246, G: 235, B: 214})
	k.CallsToAction = []string{"Book a course"}
	said := func(s *scene.Scene, words string) *scene.Part {
		for i := range s.Parts {
			if s.Parts[i].Text == words {
				return &s.Parts[i]
			}
		}
		return nil
	}
	for _, id := range []string{"video-wide", "video-square", "video-tall"} {
		in := input(k, id)
		k.Motion.Closing = brand.Bookend{From: "callToAction", Duration: 2}
		for _, words := range []string{"Book a course", "Reserve your seat in the boat for the second weekend of May"} {
			if words != k.CallsToAction[0] {
				in.Call = words
			}
			s := motion.Closing(in)
			call := said(s, words)
			if call == nil || said(s, k.Website) == nil {
				t.Fatalf("%s: %q or the address is not said", id, words)
			}
			for _, p := range s.Parts {
				if p.Slot != "button" || p.Words() {
					continue
				}
				if !p.Box.Contains(call.Box, 0) || !in.Placement.SafeBox().Contains(p.Box, 0.5) {
					t.Errorf("%s: the button at %+v, %q at %+v", id, p.Box, words, call.Box)
				}
				if stands, reads := colour.Contrast(p.Fill, s.Parts[0].Fill), call.Contrast; stands < 3 || reads < 4.5 {
					t.Errorf("%s: the button stands out by %.1f, its words read by %.1f", id, stands, reads)
				}
			}
		}
		k.Motion.Closing = brand.Bookend{From: "picture", Picture: "river.jpg", Duration: 2}
		if said(motion.Closing(in), k.Name) == nil {
			t.Errorf("%s: closes with nothing where its picture is not there", id)
		}
		in.Pictures = map[string]photo.Picture{"river.jpg": {Hash: "r", W: 4000, H: 1000, Focus: [2]float64{1, 0.5}}}
		p := motion.Closing(in).Parts[0]
		if p.Kind != scene.KindPicture || p.Box != in.Placement.Canvas() || math.Abs(p.Crop.Right()-4000) > 1 {
			t.Errorf("%s: the picture as %+v", id, p)
		}
	}
}
