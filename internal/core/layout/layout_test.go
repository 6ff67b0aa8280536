package layout_test

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
	"aspenridge/layouts"
	"aspenridge/test/sweep"
)

// shaper keeps what was shaped for all tests.
var shaper = sync.OnceValue(assets.Shaper)

// input is a piece to solve: our plain kit, a picture, the words given.
func input(t testing.TB, l *layout.Layout, placement string, words map[string]string) layout.Input {
	t.Helper()
	p, err := spec.Parse(placement)
	if err != nil {
		t.Fatal(err)
	}
	colours := []brand.Colour{
		{Token: "main.river", Name: "River", Value: colour.RGB{R: 0x0f, G: 0x3d, B: 0x4c}, Role: brand.Lead},
		{Token: "main.sand", Name: "Sand", Value: colour.RGB{R: 0xf6, G: 0xeb, B: 0xd6}, Role: brand.Ground},
		{Token: "main.coral", Name: "Coral", Value: colour.RGB{R: 0xf2, G: 0x69, B: 0x4b}, Role: brand.Accent},
	}
	library := assets.Library()
	return layout.Input{
		Layout: l, Placement: p, Words: words, Purpose: "announce", Types: brand.DefaultTypeSet(),
		Face: func(s brand.Style) *typeset.Face {
			f, err := library.Face(s.Family, s.Weight, s.Italic)
			if err != nil {
				t.Fatal(err)
			}
			return f
		},
		Shaper: shaper(), Colours: colourway.Rank(colours, l.Needs(), 1)[0],
		Pictures: []photo.Picture{{Hash: "x", W: 2000, H: 1600, Focus: [2]float64{0.4, 0.6}}},
		Kit:      &brand.Kit{Name: "Larkmoor", Palettes: []brand.Palette{{ID: "main", Colours: colours}}}, Signature: "address",
	}
}

func byID(t testing.TB, id string) *layout.Layout {
	t.Helper()
	for _, l := range layouts.All() {
		if l.ID == id {
			return l
		}
	}
	t.Fatalf("no layout %s", id)
	return nil
}

func part(r layout.Result, slot string) *scene.Part {
	for i := range r.Scene.Parts {
		if r.Scene.Parts[i].Slot == slot {
			return &r.Scene.Parts[i]
		}
	}
	return nil
}

func lines(p *scene.Part) []string {
	var out []string
	for _, l := range p.Lines {
		out = append(out, strings.TrimSpace(l.Line.Text))
	}
	return out
}

var fullCopy = map[string]string{
	"headline": "Quiet water, first strokes", "shortHeadline": "First strokes", "subheading": "Six Saturdays from 3 May",
	"body": "Boats, dry bags and patience provided. Bring shoes that can get wet.", "callToAction": "Save a seat", "website": "larkmoor.example",
}

func TestTheLinterNamesWhatIsWrong(t *testing.T) {
	const head = `{"id":"x","name":"X","revision":1,"idea":"one idea","align":"left","buttonOn":"ground","areas":{},"trees":{"square":`
	for tree, says := range map[string]string{
		`{"cell":{"seat":"ground","content":{"stack":[{"text":"headline"},{"button":true}]}}}`:                                                   "",
		`{"cell":{"seat":"ground","content":{"stack":[{"button":true}]}}}`:                                                                       "headline stands 0 times",
		`{"cell":{"seat":"ground","content":{"stack":[{"text":"headline"},{"text":"headline"}]}}}`:                                               "headline stands 2 times",
		`{"cell":{"seat":"ground","picture":1,"content":{"text":"headline"}}}`:                                                                   "bare picture",
		`{"cell":{"seat":"panel","content":{"stack":[{"text":"headline"},{"button":true}]}}}`:                                                    "button stands on panel",
		`{"split":"x","at":["fit",1],"cells":[{"cell":{"seat":"ground","content":{"text":"headline"}}},{"cell":{"seat":"ground","picture":1}}]}`: "cannot fit",
		`{"split":"z","at":[1,1],"cells":[]}`:                                                                                                    "want x or y",
		`{"split":"y","at":[1],"cells":[{"cell":{"seat":"ground"}},{"cell":{"seat":"ground"}}]}`:                                                 "1 sizes for 2 cells",
		`{"cell":{"content":{"text":"headline"}}}`:                                                                                               "want a seat",
		`{"cell":{"seat":"ground","edge":{"side":"top","kind":"wave","depth":0.1},"content":{"text":"headline"}}}`:                               "kind (shore, slant, tear)",
		`{"cell":{"seat":"ground","content":{"card":{"seat":"panel","shape":"blob","width":1,"content":{"text":"headline"}}}}}`:                  "a shape (plain, label, ticket, ",
		`{"cell":{"seat":"ground","content":{"row":[{"text":"headline","flex":true},{"words":["body"],"flex":true}]}}}`:                          "2 flexible children",
		`{"stack":[{"text":"headline"}]}`:                                                                                                        "want a split or a cell",
		`{"cell":{"seat":"ground","colour":"#fff"}}`:                                                                                             "unknown field",
	} {
		_, err := layout.Parse([]byte(head + tree + `}}`))
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("%s\n%v, want %q", tree, err, says)
		}
	}
	for doc, says := range map[string]string{
		`{"id":"x","name":"X","revision":1,"idea":"this idea has far too many words","align":"left","buttonOn":"ground","trees":{}}`: "one to five words",
		`{"id":"x","name":"X","revision":0,"idea":"a"}`:                                                                       "revision",
		`{"id":"x","name":"X","revision":1,"idea":"a","align":"left","buttonOn":"ground","moves":{"over":"spin"},"trees":{}}`: "moves.over",
		"{\n\"id\": \"x\",\n\"name\": 7}":                                                                                     "line 3",
	} {
		if _, err := layout.Parse([]byte(doc)); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", doc, err, says)
		}
	}
}

// A rule broken somewhere is said with its line.
func TestTheLinterNamesTheLine(t *testing.T) {
	doc := `{
 "id": "x", "name": "X", "revision": 1, "idea": "one idea", "align": "left", "pictures": 0, "buttonOn": "ground", "areas": {},
 "trees": {
  "square": {"cell": {"seat": "ground", "content": {"text": "headline"}}},
  "tall": {
   "split": "y", "at": [1, 1],
   "cells": [
    {"cell": {"seat": "ground", "content": {"text": "headline"}}},
    {"cell": {"seat": "panel", "content": {"stack": [
     {"text": "body"},
     {"mark": "star"}
    ]}}}
   ]
  }
 }
}`
	_, err := layout.Parse([]byte(doc))
	if err == nil || !strings.Contains(err.Error(), "line 11") || !strings.Contains(err.Error(), "trees.tall.cells[1].cell.content.stack[1]") || !strings.Contains(err.Error(), "want quote") {
		t.Errorf("%v", err)
	}
}

func TestShippedLayoutsDiffer(t *testing.T) {
	seen := map[string]string{}
	for _, l := range append([]*layout.Layout{layout.Plain()}, layouts.All()...) {
		for what, v := range map[string]string{"id": l.ID, "name": l.Name, "idea": l.Idea} {
			if other, ok := seen[what+v]; ok {
				t.Errorf("%s and %s share the %s %q", l.ID, other, what, v)
			}
			seen[what+v] = l.ID
		}
		for _, c := range spec.Classes {
			if l.Tree(c) == nil {
				t.Errorf("%s has no tree for %s", l.ID, c)
			}
		}
	}
	if n := len(layouts.All()); n < 15 {
		t.Errorf("%d layouts", n)
	}
}

// TestGivingWayHasAnOrder shrinks a custom size step by step: what is given up
// only ever grows, in the documented order, and the headline stays to the end.
func TestGivingWayHasAnOrder(t *testing.T) {
	order := []string{"website", "body", "subheading", "callToAction"}
	for _, id := range []string{"poster", "shoreline", "frame"} {
		given := -1
		for _, w := range []int{1080, 400, 300, 240, 200, 160, 130, 110} {
			r := layout.Solve(input(t, byID(t, id), fmt.Sprintf("%dx%d", w, w), fullCopy))
			if r.Plain {
				continue
			}
			if part(r, "headline") == nil {
				t.Fatalf("%s at %d px lost its headline", id, w)
			}
			if len(r.Dropped) < given-1 {
				t.Errorf("%s at %d px keeps more than a larger one: dropped %v", id, w, r.Dropped)
			}
			given = len(r.Dropped)
			at := -1
			for _, slot := range r.Dropped {
				i := slices.Index(order, slot)
				if i < at {
					t.Errorf("%s at %d px dropped out of order: %v", id, w, r.Dropped)
				}
				at = i
			}
			for _, slot := range r.Dropped {
				if part(r, slot) != nil {
					t.Errorf("%s at %d px shows %s and says it was dropped", id, w, slot)
				}
			}
		}
		if given < 1 {
			t.Errorf("%s never had to give anything up: the test is too easy", id)
		}
	}
}

func TestPurposeKeepsWhatItIsAbout(t *testing.T) {
	words := map[string]string{"headline": "Lantern paddle", "subheading": "An evening on the slow bend for anyone who can float", "when": "Friday 28 May, 20:30", "where": "Old Boathouse", "body": "Boats and lanterns provided.", "callToAction": "Join the crew"}
	for _, w := range []int{220, 200, 180, 160, 150, 140} {
		in := input(t, byID(t, "poster"), fmt.Sprintf("%dx%d", w, w*5/4), words)
		in.Purpose = "event"
		r := layout.Solve(in)
		sub, when := slices.Index(r.Dropped, "subheading"), slices.Index(r.Dropped, "when")
		if when >= 0 && (sub < 0 || sub > when) {
			t.Errorf("at %d px an event dropped its date before its subheading: %v", w, r.Dropped)
		}
	}
}

// A source signs its quote and nothing else: they are left out together.
func TestAQuoteGoesWithItsSource(t *testing.T) {
	words := map[string]string{"headline": "Ask those who came", "quote": "“We came for one glass and stayed until the sun was down behind the hill.”", "source": "– Ida, guest in September"}
	apart, together := 0, 0
	for _, w := range []int{1080, 300, 200, 160, 130, 110} {
		in := input(t, byID(t, "poster"), fmt.Sprintf("%dx%d", w, w), words)
		without := layout.Solve(in)
		in.With = map[string]string{"source": "quote"}
		r := layout.Solve(in)
		if part(r, "quote") == nil && part(r, "source") != nil {
			t.Errorf("at %d px %q signs the headline", w, words["source"])
		}
		if part(without, "quote") == nil && part(without, "source") != nil {
			apart++
		}
		if part(r, "quote") == nil {
			together++
			if !slices.Contains(r.Dropped, "quote") || !slices.Contains(r.Dropped, "source") {
				t.Errorf("at %d px it says %v was left out", w, r.Dropped)
			}
		}
	}
	if apart == 0 || together == 0 {
		t.Errorf("nothing was ever left out: the test is too easy (%d, %d)", apart, together)
	}
}

func TestShortHeadlineOnlyWhereItMust(t *testing.T) {
	big := layout.Solve(input(t, byID(t, "poster"), "feed-square", fullCopy))
	if got := part(big, "headline").Text; got != fullCopy["headline"] || len(big.Shortened) > 0 {
		t.Errorf("a square post shows %q", got)
	}
	words := map[string]string{"headline": strings.Repeat("Quiet water and the first strokes of the year ", 3), "shortHeadline": "First strokes"}
	small := layout.Solve(input(t, byID(t, "poster"), "ad-320x50", words))
	if got := part(small, "headline").Text; got != "First strokes" || !slices.Contains(small.Shortened, "headline") {
		t.Errorf("a phone banner shows %q, shortened %v", got, small.Shortened)
	}
}

// TestMoreRoomLargerType: the same shape at twice the pixels sets everything at
// twice the size (within the rounding to whole units).
func TestMoreRoomLargerType(t *testing.T) {
	for _, l := range layouts.All() {
		a := layout.Solve(input(t, l, "800x1000", fullCopy))
		b := layout.Solve(input(t, l, "1600x2000", fullCopy))
		pa, pb := part(a, "headline"), part(b, "headline")
		if k := pb.SizePx / pa.SizePx; k < 1.8 || k > 2.3 {
			t.Errorf("%s: %.1f px and %.1f px, %.2f times", l.ID, pa.SizePx, pb.SizePx, k)
		}
	}
}

// TestInkStandsOnTheMargin: in a left-aligned layout the stems of all lines of a
// column begin at the same x, not their side bearings (common practice).
func TestInkStandsOnTheMargin(t *testing.T) {
	words := map[string]string{"headline": "Half of the harbour", "subheading": "It begins at nine", "body": "Boats and dry bags are there."}
	for _, l := range layouts.All() {
		if l.Align != "left" {
			continue
		}
		r := layout.Solve(input(t, l, "feed-tall", words))
		var left []float64
		for _, slot := range []string{"headline", "subheading", "body"} {
			if p := part(r, slot); p != nil {
				for _, line := range p.Lines {
					left = append(left, line.X+line.Line.Ink.X0*p.Size(line))
				}
			}
		}
		if len(left) < 3 {
			t.Fatalf("%s shows %d lines", l.ID, len(left))
		}
		if spread := slices.Max(left) - slices.Min(left); spread > 1 {
			t.Errorf("%s: the left edges differ by %.1f px: %.1f", l.ID, spread, left)
		}
	}
}

// TestLinesAreBalancedAndGlued: no last line under 40% of the longest, no break
// inside "3 May" (craft: common practice).
func TestLinesAreBalancedAndGlued(t *testing.T) {
	for _, headline := range []string{"Quiet water, first strokes from 3 May", "The long way home by the slow river bend", "Six calm Saturdays for people who have never held a paddle"} {
		for _, l := range layouts.All() {
			for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
				p := part(layout.Solve(input(t, l, place, map[string]string{"headline": headline})), "headline")
				got := lines(p)
				longest, last := 0.0, 0.0
				for _, line := range p.Lines {
					last = line.Line.Advance
					longest = math.Max(longest, last)
				}
				if len(got) > 1 && last < 0.4*longest {
					t.Errorf("%s on %s: the last line is %.0f%% of the longest: %q", l.ID, place, 100*last/longest, got)
				}
				for _, line := range got {
					if strings.HasSuffix(line, " 3") {
						t.Errorf("%s on %s breaks a date: %q", l.ID, place, got)
					}
				}
			}
		}
	}
}

// TestEverythingInEveryPlacement solves every layout in every placement with
// much and with little copy; the result keeps inside, apart and readable.
func TestEverythingInEveryPlacement(t *testing.T) {
	long := map[string]string{"headline": strings.Repeat("Donaudampfschifffahrtsgesellschaft ", 4), "subheading": strings.Repeat("six calm Saturdays ", 8), "callToAction": "Save a seat for two", "website": "larkmoor.example", "body": strings.Repeat("Bring shoes. ", 20)}
	turnOf := map[string]int{"full": 0, "long": 1, "one word": 2}
	for i, l := range layouts.All() {
		for k, id := range spec.AllImages() {
			for name, words := range map[string]map[string]string{"full": fullCopy, "long": long, "one word": {"headline": "Float"}} {
				if !sweep.Turn(i+k+turnOf[name], 3) { // every layout and every placement has each of them
					continue
				}
				in := input(t, l, id, words)
				r := layout.Solve(in)
				at := l.ID + " on " + id + ", " + name
				if part(r, "headline") == nil && !in.Placement.Icon {
					t.Errorf("%s: no headline", at)
				}
				safe := in.Placement.SafeBox()
				var solid []scene.Part
				for _, p := range r.Scene.Parts {
					if p.Kind != scene.KindText && p.Kind != scene.KindButton && p.Kind != scene.KindLogo {
						continue
					}
					if !safe.Contains(p.Box, 0.6) {
						t.Errorf("%s: %s leaves the safe area: %+v in %+v", at, p.Slot, p.Box, safe)
					}
					for _, k := range in.Placement.KeepOuts() {
						if p.Box.Overlaps(k, 0.6) {
							t.Errorf("%s: %s is under the channel's own signs", at, p.Slot)
						}
					}
					for _, o := range solid {
						if p.Box.Overlaps(o.Box, 0.6) {
							t.Errorf("%s: %s overlaps %s", at, p.Slot, o.Slot)
						}
					}
					solid = append(solid, p)
					if p.Kind != scene.KindLogo && p.Contrast < 4.5 {
						t.Errorf("%s: %s has a contrast of %.2f", at, p.Slot, p.Contrast)
					}
				}
			}
		}
	}
}

// TestALogoAloneIsTheHero: with nothing said, the mark takes the middle.
func TestALogoAloneIsTheHero(t *testing.T) {
	for _, id := range []string{"feed-square", "story", "shop-banner", "ad-160x600"} {
		in := input(t, byID(t, "poster"), id, map[string]string{})
		in.Pictures, in.Signature = nil, "both"
		in.Kit.Logos = []brand.Logo{{File: "l", Lockup: "horizontal", Tone: "full-colour", Art: &brand.Art{View: [4]float64{0, 0, 300, 100}, Inks: []colour.Found{{Colour: colour.RGB{R: 246, G: 235, B: 214}, Share: 1}}}}}
		logo := part(layout.Solve(in), "logo")
		if logo == nil {
			t.Fatalf("%s shows no logo", id)
		}
		safe := in.Placement.SafeBox()
		if dx, dy := logo.Box.X+logo.Box.W/2-safe.X-safe.W/2, logo.Box.Y+logo.Box.H/2-safe.Y-safe.H/2; math.Abs(dx) > 1 || math.Abs(dy) > 1 || math.Max(logo.Box.W/safe.W, logo.Box.H/safe.H) < 0.3 {
			t.Errorf("%s: %+v in %+v", id, logo.Box, safe)
		}
	}
}

// TestWhatCannotStayTakesNothingAlong: points that fit no tree of a layout are left out alone.
func TestWhatCannotStayTakesNothingAlong(t *testing.T) {
	alone := 0
	for _, l := range layouts.All() {
		words := map[string]string{
			"headline": "How do you take your first cup of the day?", "callToAction": "Tell us", "website": "larkmoor.example",
			"lines": "Black, standing up by the window\nWith milk, sitting down with the paper\nNot before ten on any day\nTea, thank you\nNothing at all until noon\nWhatever there is",
		}
		in := input(t, l, "video-thumbnail", words)
		in.Purpose = "question"
		with := layout.Solve(in)
		if with.Plain || !slices.Contains(with.Dropped, "lines") {
			continue
		}
		delete(words, "lines")
		without := layout.Solve(in)
		if len(with.Dropped) != len(without.Dropped)+1 {
			t.Errorf("%s: with points %v are left out, without any %v", l.ID, with.Dropped, without.Dropped)
		}
		alone++
	}
	if alone < 10 {
		t.Errorf("only %d layouts leave the points out: nothing was tried", alone)
	}
}

// TestSmallPrint: terms are the smallest words of a piece, stand after the headline and
// stay in an advertisement of an offer when other copy has to go.
func TestSmallPrint(t *testing.T) {
	words := map[string]string{"headline": "A fifth off every boat", "offer": "20% off · until 31 May", "callToAction": "Save a seat", "terms": "Not with other offers, while boats last"}
	for _, l := range layouts.All() {
		for _, place := range []string{"feed-square", "ad-300x250"} {
			in := input(t, l, place, words)
			in.Purpose = "offer"
			in.Figures = map[string]layout.Figure{"offer": {Lead: "20%", Below: []string{"off", "until 31 May"}}}
			r := layout.Solve(in)
			terms, head := part(r, "terms"), part(r, "headline")
			if terms == nil {
				t.Errorf("%s on %s: no terms; left out %v", l.ID, place, r.Dropped)
				continue
			}
			if head != nil && terms.Box.Y < head.Box.Y {
				t.Errorf("%s on %s: terms at %.0f, the headline at %.0f", l.ID, place, terms.Box.Y, head.Box.Y)
			}
			for _, p := range r.Scene.Parts {
				if p.Words() && p.Slot != "terms" && p.SizePx < terms.SizePx-0.05 {
					t.Errorf("%s on %s: %s is %.1f px, the terms %.1f", l.ID, place, p.Slot, p.SizePx, terms.SizePx)
				}
			}
		}
	}
	// so much of it that it cannot stay takes nothing else along
	without := input(t, byID(t, "halves"), "ad-300x250", map[string]string{"headline": words["headline"], "offer": words["offer"], "subheading": "Six Saturdays", "businessName": "Larkmoor", "callToAction": words["callToAction"]})
	without.Purpose, without.Signature = "offer", "both"
	endless := without
	endless.Words = maps.Clone(without.Words)
	endless.Words["terms"] = strings.Repeat("Not with other offers, while boats last. ", 25)
	a, b := layout.Solve(without), layout.Solve(endless)
	if !slices.Contains(b.Dropped, "terms") || !slices.Equal(slices.DeleteFunc(slices.Clone(b.Dropped), func(s string) bool { return s == "terms" }), a.Dropped) {
		t.Errorf("with endless terms %v are left out, without any %v", b.Dropped, a.Dropped)
	}
	crowded := map[string]string{"body": strings.Repeat("Boats, dry bags and patience provided. ", 6), "subheading": "Six Saturdays from 3 May", "tagline": "Read the river first"}
	for k, v := range words {
		crowded[k] = v
	}
	in := input(t, byID(t, "halves"), "ad-300x250", crowded)
	in.Purpose = "offer"
	if r := layout.Solve(in); part(r, "terms") == nil || len(r.Dropped) == 0 {
		t.Errorf("crowded, terms are shown: %v; left out %v", part(r, "terms") != nil, r.Dropped)
	}
}

// TestALogoAsPictureStandsWhole: in every place a picture has among cells and frames all of a mark on a
// plain ground is seen, on the colour of that ground up to the edges of its place.
func TestALogoAsPictureStandsWhole(t *testing.T) {
	mark := photo.Picture{Hash: "m", W: 2000, H: 1000, Focus: [2]float64{0.5, 0.5}, Subjects: []photo.Subject{{Box: [4]float64{0.1, 0.2, 0.8, 0.6}, Kind: photo.Drawn, Weight: 1, Ground: "#FFEEDD"}}}
	drawn := spec.Rect{X: 200, Y: 200, W: 1600, H: 600}
	whole := 0
	for _, l := range layouts.All() {
		if l.OnPicture() { // words stand on it there: it covers all
			continue
		}
		for _, place := range []string{"feed-square", "feed-tall", "feed-wide", "story"} {
			in := input(t, l, place, map[string]string{"headline": "Six Saturdays", "callToAction": "Save a seat"})
			in.Pictures = []photo.Picture{mark}
			r := layout.Solve(in)
			for i, p := range r.Scene.Parts {
				if p.Slot != "picture" || p.Kind != scene.KindPicture {
					continue
				}
				if !p.Crop.Contains(drawn, 1) {
					t.Errorf("%s on %s shows %v of it", l.ID, place, p.Crop)
				}
				if k := (p.Box.W / p.Box.H) / (p.Crop.W / p.Crop.H); k > 1.02 || k < 1/1.02 {
					t.Errorf("%s on %s stretches it %.3f times", l.ID, place, k)
				}
				if under := r.Scene.Parts[max(0, i-1)]; under.Slot == scene.PictureGround {
					whole++
					if under.Fill.Hex() != "#FFEEDD" || !under.Box.Contains(p.Box, 1) {
						t.Errorf("%s on %s: it stands on %s in %v, itself in %v", l.ID, place, under.Fill.Hex(), under.Box, p.Box)
					}
				}
			}
		}
	}
	if whole < 40 {
		t.Errorf("it stands on its own ground in %d pieces", whole)
	}
}

// TestAnArrowPointsAtTheButton: it stands after the button in reading order, on its line and clear of it,
// and is left out where the brand's corners are sharp or there is no button.
func TestAnArrowPointsAtTheButton(t *testing.T) {
	for _, place := range []string{"feed-square", "feed-tall", "story", "feed-wide"} {
		for name, c := range map[string]struct {
			headline, action, corners string
			shown, after              bool
		}{
			"left to right": {"Six Saturdays", "Save a seat", "round", true, true},
			"right to left": {"أمسية شعر", "احجز", "soft", true, false},
			"sharp":         {"Six Saturdays", "Save a seat", "sharp", false, false},
			"no button":     {"Six Saturdays", "", "round", false, false},
		} {
			in := input(t, byID(t, "note"), place, map[string]string{"headline": c.headline, "callToAction": c.action, "website": "larkmoor.example"})
			in.Manner.Corners = c.corners
			r := layout.Solve(in)
			arrow, button := part(r, "mark"), part(r, "button")
			if (arrow != nil) != c.shown {
				t.Errorf("%s on %s: an arrow: %v", name, place, arrow != nil)
			}
			if arrow == nil || button == nil {
				continue
			}
			gap := arrow.Box.X - button.Box.Right()
			if !c.after {
				gap = button.Box.X - arrow.Box.Right()
			}
			if gap < 1 || gap > button.Box.H || arrow.Box.Y > button.Box.Bottom() || arrow.Box.Bottom() < button.Box.Y {
				t.Errorf("%s on %s: the arrow is in %v, the button in %v", name, place, arrow.Box, button.Box)
			}
		}
	}
}

// TestARingAroundAWindow: the picture of a person stands in the hole of a larger shape like its own, all
// around as wide.
func TestARingAroundAWindow(t *testing.T) {
	for _, place := range []string{"feed-square", "feed-tall", "feed-wide"} {
		in := input(t, byID(t, "portrait"), place, map[string]string{"headline": "Somebody says it"})
		r := layout.Solve(in)
		pic, ring := part(r, "picture"), part(r, "band")
		if pic == nil || ring == nil || ring.Path == "" || pic.Clip == "" {
			t.Errorf("%s: picture %v, ring %v", place, pic, ring)
			continue
		}
		wide := pic.Box.X - ring.Box.X
		for _, d := range []float64{pic.Box.Y - ring.Box.Y, ring.Box.Right() - pic.Box.Right(), ring.Box.Bottom() - pic.Box.Bottom()} {
			if wide < 4 || math.Abs(d-wide) > 1 {
				t.Errorf("%s: the ring is %.1f and %.1f px wide", place, wide, d)
			}
		}
	}
}
