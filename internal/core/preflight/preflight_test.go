package preflight_test

import (
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
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

// dated gives a piece a card whose date and offer are shown, on 25 November 2026.
func dated(c brief.Card) func(in *preflight.Input, h *scene.Part) {
	return func(in *preflight.Input, h *scene.Part) {
		in.Card, in.Today = &c, time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)
		for i, slot := range []string{"when", "offer"} {
			p := *h
			p.Slot, p.Box.Y = slot, 700+100*float64(i)
			in.Scene.Parts = append(in.Scene.Parts, p)
		}
	}
}

// Days that are right, today or in another language are left in peace; 28 May
// 2027 is a Friday (ISO 8601 calendar).
func TestGoodDaysAreNoFindings(t *testing.T) {
	for _, c := range []brief.Card{
		{When: &brief.When{Date: "2027-05-28", Weekday: "Friday", From: "20:30", To: "22:00"}},
		{When: &brief.When{Date: "2027-05-28", Weekday: "fri", From: "22:00", To: "02:00"}},
		{When: &brief.When{Date: "2027-05-28", From: "9:00", To: "17:00"}},
		{When: &brief.When{Date: "2027-05-28", Weekday: "Freitag"}},
		{When: &brief.When{Date: "2026-11-25"}, Offer: &brief.Offer{Percent: 5, Until: "2026-11-25"}},
	} {
		in := sound(t, "feed-square")
		dated(c)(&in, &in.Scene.Parts[0])
		for _, f := range preflight.Check(in) {
			if (f.Slot == "when" || f.Slot == "offer") && f.Code != "small-seen" {
				t.Errorf("%+v: %+v", *c.When, f)
			}
		}
	}
}

func TestCopyLeftToBeFilledIn(t *testing.T) {
	for s, want := range map[string]bool{
		"Lorem ipsum dolor": true, "Your text": true, "Add your headline": true, "[date]": true, "Hello {{name}}": true, "TODO": true, "<insert name>": true, "Offer xxx": true,
		"Your first strokes": false, "Bring your own boat": false, "Todos los sábados": false, "5 < 6": false, "Where the river bends": false, "Exxon": false,
	} {
		if got := preflight.Placeholder(s); got != want {
			t.Errorf("%q: %v", s, got)
		}
	}
	for s, want := range map[string]bool{"SALE ENDS SUNDAY": true, "RSPCA": false, "NASA AND ESA": false, "Sale ENDS": false, "水 の": false, "EINS ZWEI DREI": true} {
		if got := preflight.Shouted(s); got != want {
			t.Errorf("%q shouted: %v", s, got)
		}
	}
	if got := preflight.SentenceCase("SALE ENDS SUNDAY. COME EARLY!"); got != "Sale ends sunday. Come early!" {
		t.Error(got)
	}
}

// TestEveryFindingSaysWhy reads the code of every finding out of the package's source.
func TestEveryFindingSaysWhy(t *testing.T) {
	files, err := filepath.Glob("*.go")
	if err != nil {
		t.Fatal(err)
	}
	found := regexp.MustCompile(`\badd\("([a-z-]+)"`)
	codes := map[string]bool{"cards": true, "font-broken": true} // from elsewhere
	for _, name := range files {
		data, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range found.FindAllStringSubmatch(string(data), -1) {
			codes[m[1]] = true
		}
	}
	if len(codes) < 35 {
		t.Errorf("only %d codes", len(codes))
	}
	for code := range codes {
		if preflight.Why(code) == "" {
			t.Errorf("%s has no reason", code)
		}
	}
}

// TestAnOpenOffer: a reduction says when it ends or what it is bound to.
func TestAnOpenOffer(t *testing.T) {
	for _, c := range []struct {
		offer brief.Offer
		terms bool
		open  bool
	}{
		{brief.Offer{Percent: 20}, false, true}, {brief.Offer{Percent: 20, Until: "2027-05-31"}, false, false},
		{brief.Offer{Percent: 20}, true, false}, {brief.Offer{Price: "€ 45"}, false, false}, {brief.Offer{Price: "€ 45", OldPrice: "€ 60"}, false, true},
	} {
		p, _ := spec.Find("feed-square")
		in := preflight.Input{Placement: p, Scene: &scene.Scene{W: 1080, H: 1080}, Kit: &brand.Kit{}, Card: &brief.Card{Offer: &c.offer}, CapHeight: func(string, int) float64 { return 0.7 }}
		in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "offer", Kind: scene.KindText, SizePx: 60, Contrast: 7, Box: spec.Rect{X: 100, Y: 100, W: 200, H: 50}})
		if c.terms {
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "terms", Kind: scene.KindText, SizePx: 30, Contrast: 7, Box: spec.Rect{X: 100, Y: 300, W: 200, H: 50}})
		}
		got := slices.ContainsFunc(preflight.Check(in), func(f preflight.Finding) bool { return f.Code == "open-offer" })
		if got != c.open {
			t.Errorf("%+v, small print %v: open %v", c.offer, c.terms, got)
		}
	}
}

func TestFilesOfOthers(t *testing.T) {
	river := colour.RGB{R: 0x0f, G: 0x3d, B: 0x4c}
	k := &brand.Kit{Palettes: []brand.Palette{{Colours: []brand.Colour{{Token: "main.river", Name: "River", Value: river}}}}}
	codes := func(f preflight.File) (out []string) {
		for _, x := range preflight.CheckFile(k, f).Findings {
			out = append(out, x.Code)
		}
		return out
	}
	flat := func(c colour.RGB, share float64) []colour.Found { return []colour.Found{{Colour: c, Share: share}} }
	for name, c := range map[string]struct {
		f    preflight.File
		want string
	}{
		"sound":             {preflight.File{Format: "png", Width: 1080, Height: 1080, Flats: flat(river, 0.5)}, ""},
		"at double size":    {preflight.File{Format: "png", Width: 2160, Height: 2160, Flats: flat(river, 0.5)}, ""},
		"no such size":      {preflight.File{Format: "png", Width: 999, Height: 1001}, "size"},
		"heavy":             {preflight.File{Format: "png", Width: 300, Height: 250, Bytes: 400_000}, "weight"},
		"nearly river":      {preflight.File{Format: "png", Width: 1080, Height: 1080, Flats: flat(colour.RGB{R: 0x12, G: 0x40, B: 0x4f}, 0.01)}, "near-miss"},
		"pink all over":     {preflight.File{Format: "png", Width: 1080, Height: 1080, Flats: flat(colour.RGB{R: 0xff, G: 0, B: 0x80}, 0.3)}, "off-kit-colour"},
		"a detail in pink":  {preflight.File{Format: "png", Width: 1080, Height: 1080, Flats: flat(colour.RGB{R: 0xff, G: 0, B: 0x80}, 0.01)}, ""},
		"words still text":  {preflight.File{Format: "svg", Width: 1080, Height: 1080, LiveText: true}, "live-text"},
		"something outside": {preflight.File{Format: "svg", Width: 1080, Height: 1080, Outside: []string{"boat.png"}}, "outside"},
	} {
		if got := strings.Join(codes(c.f), " "); got != c.want {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
	if p, ok := preflight.Recognise(2560, 1440); !ok || p.ID != "channel-header" {
		t.Errorf("2560 × 1440 is %q", p.ID)
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
		"left out":              {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Dropped = []string{"website"} }, "left-out", preflight.Note, "website"},
		"the date left out":     {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Dropped, in.Carries = []string{"when"}, []string{"when"} }, "left-out", preflight.Warning, "when"},
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
		"a colour nearly the kit's": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Kit.Palettes = []brand.Palette{{Colours: []brand.Colour{{Token: "main.river", Name: "River", Value: colour.RGB{R: 0x0f, G: 0x3d, B: 0x4c}}}}}
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "panel", Kind: scene.KindShape, Box: spec.Rect{W: 1080, H: 300}, Fill: colour.RGB{R: 0x12, G: 0x40, B: 0x4f}})
		}, "near-miss", preflight.Warning, "panel"},
		"a foreign colour": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Kit.Palettes = []brand.Palette{{Colours: []brand.Colour{{Token: "main.river", Name: "River", Value: colour.RGB{R: 0x0f, G: 0x3d, B: 0x4c}}}}}
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "panel", Kind: scene.KindShape, Box: spec.Rect{W: 1080, H: 300}, Fill: colour.RGB{R: 0xff, G: 0, B: 0x80}})
		}, "off-kit-colour", preflight.Warning, "panel"},
		"a sliver": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "panel", Kind: scene.KindShape, Box: spec.Rect{X: 4, W: 1076, H: 300}})
		}, "sliver", preflight.Warning, "panel"},
		"a stretched picture": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Box: spec.Rect{W: 1080, H: 500}, Crop: spec.Rect{W: 2000, H: 800}})
		}, "stretched", preflight.Warning, "picture"},
		"a subject at the edge": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Pictures = []photo.Picture{{Hash: "x", W: 3000, H: 1000, Focus: [2]float64{0.34, 0.5}, Alt: "a boat"}}
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Picture: "x", Box: spec.Rect{W: 500, H: 250}, Crop: spec.Rect{X: 1000, W: 2000, H: 1000}})
		}, "subject-cut", preflight.Warning, "picture"},
		"a logo as picture": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Pictures = []photo.Picture{{Hash: "x", W: 1000, H: 1000, Alt: "a mark", Subjects: []photo.Subject{{Box: [4]float64{0.2, 0.2, 0.6, 0.6}, Kind: photo.Drawn}}}}
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Picture: "x", Box: spec.Rect{W: 500, H: 500}, Crop: spec.Rect{W: 1000, H: 1000}})
		}, "picture-drawn", preflight.Note, "picture"},
		"a logo cut through": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Pictures = []photo.Picture{{Hash: "x", W: 1000, H: 1000, Alt: "a mark", Subjects: []photo.Subject{{Box: [4]float64{0.2, 0.2, 0.6, 0.6}, Kind: photo.Drawn}}}}
			in.Scene.Parts = append(in.Scene.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Picture: "x", Box: spec.Rect{W: 500, H: 250}, Crop: spec.Rect{Y: 500, W: 1000, H: 500}})
		}, "subject-cut", preflight.Warning, "picture"},
		"thin strokes, small": {"feed-square", func(in *preflight.Input, h *scene.Part) {
			in.Smallest = func(string, int) float64 { return 40 }
		}, "frail", preflight.Note, "headline"},
		"a foreign family": {"feed-square", func(in *preflight.Input, _ *scene.Part) {
			in.Types = brand.TypeSet{Levels: map[brand.Level]brand.Style{brand.Headline: {Family: "Lora"}}}
		}, "off-kit-font", preflight.Warning, ""},
		"a line left in":         {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Words["headline"] = "Your headline here" }, "sample", preflight.Warning, "headline"},
		"capitals by hand":       {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Words["headline"] = "SALE ENDS SUNDAY" }, "capitals", preflight.Warning, "headline"},
		"too much to read":       {"feed-square", func(in *preflight.Input, _ *scene.Part) { in.Words["headline"] = strings.Repeat("quiet water ", 9) }, "long", preflight.Note, "headline"},
		"the wrong weekday":      {"feed-square", dated(brief.Card{When: &brief.When{Date: "2027-05-28", Weekday: "Saturday"}}), "weekday", preflight.Warning, "when"},
		"hours turned round":     {"feed-square", dated(brief.Card{When: &brief.When{Date: "2027-05-28", From: "17:00", To: "9:00"}}), "hours", preflight.Note, "when"},
		"a day that is over":     {"feed-square", dated(brief.Card{When: &brief.When{Date: "2026-11-24"}}), "past", preflight.Warning, "when"},
		"an ended offer":         {"feed-square", dated(brief.Card{Offer: &brief.Offer{Percent: 20, Until: "2026-10-31"}}), "past", preflight.Warning, "offer"},
		"outside the small view": {"feed-tall", func(_ *preflight.Input, h *scene.Part) { h.Box.Y = 20 }, "keep-in", preflight.Note, "headline"},
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
