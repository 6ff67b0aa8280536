// Package test holds the checks that cross packages: pieces measured on their
// pixels, the command line, the import rules, the application in a browser.
package test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"aspenridge/assets"
	"aspenridge/demo"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
	"aspenridge/internal/raster"
	"aspenridge/internal/voice"
	"aspenridge/layouts"
	"aspenridge/test/stage"
)

func TestMain(m *testing.M) {
	raster.ChildMain()
	voice.ChildMain()
	code := m.Run()
	stage.Done()
	os.Exit(code)
}

// demoPictures imports the demo's pictures once.
var demoPictures = sync.OnceValues(func() (map[string]photo.Picture, map[string][]byte) {
	byFile, byHash := map[string]photo.Picture{}, map[string][]byte{}
	for name, svg := range demo.Pictures() {
		in, err := raster.Import(context.Background(), []byte(svg))
		if err != nil {
			panic(err)
		}
		byFile[name] = in.Picture()
		byHash[in.Hash] = in.Data
	}
	return byFile, byHash
})

var demoLogos = sync.OnceValue(func() []brand.Logo {
	var out []brand.Logo
	k := demoKit()
	for _, l := range k.Logos {
		in, err := raster.ImportLogo(context.Background(), []byte(demo.Logos()[l.File]))
		if err != nil {
			panic(err)
		}
		l.Art = &in.Art
		out = append(out, l)
	}
	return out
})

func demoKit() *brand.Kit {
	doc, err := edit.ParseObject(demo.KitDocument())
	if err != nil {
		panic(err)
	}
	k, err := brand.Parse(doc)
	if err != nil {
		panic(err)
	}
	return k
}

// kits are palettes from kind to cruel.
func testKits() map[string]*brand.Kit {
	out := map[string]*brand.Kit{}
	for name, hexes := range map[string][]string{
		"full":       {"#0F3D4C", "#F2694B", "#F3B23E", "#7E9B57", "#E6F0EC", "#F6EBD6", "#10242B"},
		"one colour": {"#8A6FD1"},
		"all dark":   {"#101820", "#1D2B2F", "#33202A", "#20331F"},
		"all light":  {"#F7F2E8", "#E4F1EE", "#FBE9E4"},
		"alike":      {"#4477AA", "#4578AB", "#4679AA", "#4477AC", "#4376A9", "#4578A9", "#4478AB", "#4576AA", "#4678A8", "#4377AB", "#4479AC", "#4675AA"},
		"garish":     {"#FF00AA", "#00FF55", "#FFEE00", "#0022FF"},
	} {
		k := demoKit()
		k.Palettes = []brand.Palette{{ID: "main"}}
		for i, h := range hexes {
			c, err := colour.Parse(h)
			if err != nil {
				panic(err)
			}
			k.Palettes[0].Colours = append(k.Palettes[0].Colours, brand.Colour{Token: fmt.Sprintf("main.c%d", i), Name: h, Value: c, Role: brand.Roles[i%len(brand.Roles)]})
		}
		k.Logos = demoLogos()
		if name == "garish" {
			k.Logos = nil
		}
		out[name] = k
	}
	return out
}

func str(s string) *string { return &s }

func testCopy() map[string]brief.Card {
	return map[string]brief.Card{
		"plain":     {Headline: str("Quiet water, first strokes"), ShortHeadline: str("First strokes"), Subheading: str("Beginners' kayak course: six Saturdays from 3 May"), Body: str("Boats, dry bags and patience provided."), CallToAction: str("Save a seat")},
		"one word":  {Headline: str("Float")},
		"long":      {Headline: str(strings.Repeat("Learn to read the river before it reads you, ", 7)), Body: str(strings.Repeat("Bring shoes that can get wet. ", 8)), CallToAction: str("Reserve your place in the boat")},
		"german":    {Headline: str("Donaudampfschifffahrtsgesellschaftskapitän"), Subheading: str("Wildwassersicherheitsgrundlagen für Einsteigerinnen"), CallToAction: str("Anmelden")},
		"accents":   {Headline: str("ÅNGSTRÖM Ế Ǻ Ç ỹ"), Subheading: str("Žluťoučký kůň, Ĝis!"), CallToAction: str("Přihlásit")},
		"greek":     {Headline: str("Ήρεμα νερά"), Subheading: str("Μαθήματα καγιάκ κάθε Σάββατο")},
		"hebrew":    {Headline: str("מים שקטים, צעדים ראשונים"), Subheading: str("קורס קיאקים למתחילים"), CallToAction: str("הירשמו")},
		"event":     {Headline: str("Eleven lanterns and one slow bend"), When: &brief.When{Date: "2027-05-28", Weekday: "Friday", From: "20:30", To: "22:00"}, Where: str("Old Boathouse"), CallToAction: str("Join")},
		"no spaces": {Headline: str(strings.Repeat("W", 60))},
		"capitals":  {Headline: str("SALE ENDS SUNDAY"), Offer: &brief.Offer{Percent: 20, Code: "BEND", Until: "2027-05-31"}},
		"cyrillic":  {Headline: str("Тихая вода, первые гребки"), Subheading: str("Курс каякинга для начинающих"), CallToAction: str("Записаться")},
		"arabic":    {Headline: str("مياه هادئة وأولى الضربات"), Subheading: str("دورة للمبتدئين كل سبت"), CallToAction: str("احجز مقعدا")},
		"emoji":     {Headline: str("Float 🛶 on quiet water 🌊"), Body: str("Bring a hat 🧢 and a friend 👩‍👧")},
		"price":     {Headline: str("A paddle of your own"), Offer: &brief.Offer{Price: "€ 89", OldPrice: "€ 119", Until: "2027-06-30"}, Body: str("Ash wood, cut to your height."), CallToAction: str("Order yours")},
		"quote":     {Quote: &brief.Quote{Text: "I came to learn strokes and learned to listen to the river", Source: "Ina Brackwater"}, Person: &brief.Person{Name: "Ina Brackwater", Role: "paddles since April", Picture: "noon-slack-water.svg"}},
		"facts":     {Headline: str("Before your first stroke"), Emphasis: []string{"first stroke"}, Facts: []brief.Fact{{Icon: "footprints", Text: "Shoes that can get wet"}, {Icon: "droplets", Text: "A litre of water each"}, {Text: "A hat, even under a cloudy sky, and something warm for the way home"}}, CallToAction: str("Read the list")},
		"lines":     {Headline: str("Three knots worth knowing"), Lines: []string{"Bowline", "Clove hitch", "Figure of eight"}, Subheading: str("In ten minutes"), Tagline: str("Read the river first")},
		"shop":      {BusinessName: str("Larkmoor Paddle School"), Tagline: str("Read the river first"), Where: str("Old Boathouse, Larkmoor")},
	}
}

type combination struct {
	kit, copy string
	place     spec.Placement
	layout    *layout.Layout
	picture   string
	pictures  int // how often
	signature string
	purpose   string
	look      int
}

func (c combination) String() string {
	return fmt.Sprintf("%s/%s/%s/%s/%dx%q/%s/%s/%d", c.kit, c.copy, c.place.ID, c.layout.ID, c.pictures, c.picture, c.signature, c.purpose, c.look)
}

// sample draws n combinations so that every value of every factor comes up
// about equally often and pairs of values vary: each factor is a shuffled deck
// dealt again and again.
func sample(n int, seed uint64) []combination {
	rng := rand.New(rand.NewPCG(seed, 17))
	kitNames, copies := sortedKeys(testKits()), sortedKeys(testCopy())
	places := slices.DeleteFunc(spec.AllImages(), isEnd) // [ends] come besides
	all := append([]*layout.Layout{layout.Plain()}, layouts.All()...)
	pics := []string{"", "dawn-on-the-bend.svg", "lanterns-after-dark.svg", "noon-slack-water.svg"}
	deck := func(size int) func() int {
		var cards []int
		return func() int {
			if len(cards) == 0 {
				cards = rng.Perm(size)
			}
			c := cards[0]
			cards = cards[1:]
			return c
		}
	}
	dk, dc, dp, dl, di, ds, du := deck(len(kitNames)), deck(len(copies)), deck(len(places)), deck(len(all)), deck(len(pics)), deck(len(brief.Signatures)), deck(len(brief.Purposes))
	var out []combination
	for range n {
		p, _ := spec.Find(places[dp()])
		out = append(out, combination{kitNames[dk()], copies[dc()], p, all[dl()], pics[di()], []int{1, 1, 2, 4}[rng.IntN(4)], brief.Signatures[ds()], brief.Purposes[du()], rng.IntN(5)})
	}
	return out
}

// isEnd reports whether a placement closes a video.
func isEnd(id string) bool {
	p, _ := spec.Find(id)
	return p.End != ""
}

// ends are combinations with every tenth at the end of a video instead.
func ends(all []combination) []combination {
	places := slices.DeleteFunc(spec.AllImages(), func(id string) bool { return !isEnd(id) })
	for i := 0; i < len(all); i += 10 {
		all[i].place, _ = spec.Find(places[i/10%len(places)])
	}
	return all
}

func sortedKeys[V any](m map[string]V) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

func (c combination) job(kits map[string]*brand.Kit) *piece.Job {
	byFile, _ := demoPictures()
	card := testCopy()[c.copy]
	if c.picture != "" {
		for range c.pictures {
			card.Pictures = append(card.Pictures, brief.Picture{File: c.picture, Focus: &[2]float64{0.42, 0.68}, Alt: "a kayak"})
		}
	}
	return &piece.Job{
		Kit: kits[c.kit], Brief: &brief.Brief{Purpose: c.purpose, Signature: c.signature, Cards: []brief.Card{card}},
		Layouts: []*layout.Layout{c.layout}, Library: assets.Library(), Shaper: testShaper(), Pictures: byFile, Icons: assets.Icons(),
	}
}

var testShaper = sync.OnceValue(func() *typeset.Shaper { return assets.Shaper() })

func decodePNG(t *testing.T, data []byte) image.Image {
	t.Helper()
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	return img
}

func rgb(img image.Image, x, y int) colour.RGB {
	r, g, b, _ := img.At(x, y).RGBA()
	return colour.RGB{R: uint8(r >> 8), G: uint8(g >> 8), B: uint8(b >> 8)}
}

// The report's boxes come from shaped ink and its contrast from flat grounds;
// drawing each piece with and without its words proves both on pixels.
func TestWordsOnPixels(t *testing.T) {
	kits := testKits()
	_, data := demoPictures()
	studio := raster.NewStudio(func(h string) ([]byte, error) { return data[h], nil })
	n := 250
	if testing.Short() {
		n = 30
	}
	if many, err := strconv.Atoi(os.Getenv("SAFE_PIECES")); err == nil {
		n = many
	}
	for _, c := range ends(sample(n, 1)) {
		t.Run(c.String(), func(t *testing.T) {
			t.Parallel()
			job := c.job(kits)
			looks := job.Looks(5)
			pc := job.Compose(looks[c.look%len(looks)], c.place, 0)
			out := raster.Output{Format: "png", Fast: true}
			worded, err := studio.Render(context.Background(), pc.Scene, out)
			if err != nil {
				t.Fatal(err)
			}
			out.Bare = true
			bare, err := studio.Render(context.Background(), pc.Scene, out)
			if err != nil {
				t.Fatal(err)
			}
			checkPixels(t, &pc, decodePNG(t, worded), decodePNG(t, bare))
			checkReport(t, &pc, kits[c.kit])
		})
	}
}

func checkPixels(t *testing.T, pc *piece.Piece, worded, bare image.Image) {
	t.Helper()
	p := pc.Placement
	if worded.Bounds() != image.Rect(0, 0, p.Width, p.Height) {
		t.Fatalf("drawn %v, want %d×%d", worded.Bounds(), p.Width, p.Height)
	}
	type ink struct {
		part           scene.Part
		x0, y0, x1, y1 int
	}
	var inks []*ink
	for _, part := range pc.Scene.Parts {
		if part.Kind == scene.KindText || part.Kind == scene.KindButton {
			inks = append(inks, &ink{part: part, x0: 1 << 30, y0: 1 << 30, x1: -1, y1: -1})
		}
	}
	safe, keepOuts := p.SafeBox(), p.KeepOuts()
	stray := 0
	for y := range p.Height {
		for x := range p.Width {
			a, b := rgb(worded, x, y), rgb(bare, x, y)
			if a == b {
				continue
			}
			strong := math.Abs(a.Luminance()-b.Luminance()) > 0.03
			px := spec.Rect{X: float64(x), Y: float64(y), W: 1, H: 1}
			if strong && (!safe.Contains(px, 1) || slices.ContainsFunc(keepOuts, func(k spec.Rect) bool { return k.Overlaps(px, 0.5) })) {
				t.Errorf("ink at %d,%d is outside the safe area or in a keepOut", x, y)
				return
			}
			home := false
			for _, k := range inks {
				if k.part.Box.Inset(-1).Contains(px, 1) {
					home = true
					if strong {
						k.x0, k.y0, k.x1, k.y1 = min(k.x0, x), min(k.y0, y), max(k.x1, x), max(k.y1, y)
					}
				}
			}
			if strong && !home {
				stray++
			}
		}
	}
	if stray > 0 {
		t.Errorf("%d pixels of ink lie in no element's box", stray)
	}
	for _, k := range inks {
		if k.part.Text == "" || k.part.Box.W == 0 {
			continue
		}
		b := k.part.Box
		// a soft edge can hide the outermost pixel: 1 px, and one more of antialiasing
		for side, d := range map[string]float64{"left": float64(k.x0) - b.X, "top": float64(k.y0) - b.Y, "right": b.Right() - float64(k.x1+1), "bottom": b.Bottom() - float64(k.y1+1)} {
			if math.Abs(d) > 2 {
				t.Errorf("%s %q: the true ink's %s edge is %.1f px inside the reported box", k.part.Slot, k.part.Text, side, d)
			}
		}
		if worst := groundContrast(bare, k.part); worst < 4.5 {
			t.Errorf("%s: contrast on pixels %.2f, reported %.2f", k.part.Slot, worst, k.part.Contrast)
		} else if k.part.Contrast > worst+0.15 {
			t.Errorf("%s: reported %.2f is better than the %.2f on pixels", k.part.Slot, k.part.Contrast, worst)
		}
	}
}

// groundContrast is the contrast of the ink against the worst 2% of the bare
// pixels under and a px around its lines.
func groundContrast(bare image.Image, part scene.Part) float64 {
	var ratios []float64
	for _, l := range part.Lines {
		own := part.Fill.Luminance()
		if l.Fill != nil {
			own = l.Fill.Luminance()
		}
		ink := l.Line.Ink.Scale(part.Size(l)).Shift(l.X, l.Y)
		for y := int(ink.Y0) - 1; y <= int(ink.Y1)+1; y++ {
			for x := int(ink.X0) - 1; x <= int(ink.X1)+1; x++ {
				if image.Pt(x, y).In(bare.Bounds()) {
					ratios = append(ratios, colour.ContrastLuminance(own, rgb(bare, x, y).Luminance()))
				}
			}
		}
	}
	if len(ratios) == 0 {
		return 21
	}
	slices.Sort(ratios)
	return ratios[len(ratios)/50]
}

func checkReport(t *testing.T, pc *piece.Piece, kit *brand.Kit) {
	t.Helper()
	allowed := map[colour.RGB]bool{colour.White: true, colour.Black: true}
	for _, c := range kit.Colours() {
		allowed[c.Value] = true
	}
	var solid []scene.Part
	once := map[string]bool{} // one element per slot
	for _, part := range pc.Scene.Parts {
		if part.Words() || part.Kind == scene.KindLogo {
			if once[part.Slot] {
				t.Errorf("%s stands there twice", part.Slot)
			}
			once[part.Slot] = true
		}
	}
	headline := pc.Placement.Icon
	for _, part := range pc.Scene.Parts {
		if part.Kind != scene.KindPicture && part.Kind != scene.KindLogo && !allowed[part.Fill] {
			t.Errorf("%s is filled with %v, which is not the kit's", part.Slot, part.Fill)
		}
		if part.Words() || part.Kind == scene.KindLogo || part.Kind == scene.KindIcon {
			for _, o := range solid {
				if o.Box.Overlaps(part.Box, 0.5) {
					t.Errorf("%s %v overlaps %s %v", part.Slot, part.Box, o.Slot, o.Box)
				}
			}
			solid = append(solid, part)
			if !pc.Placement.SafeBox().Contains(part.Box, 0.6) {
				t.Errorf("%s %v leaves the safe area %v", part.Slot, part.Box, pc.Placement.SafeBox())
			}
		}
		headline = headline || part.Slot == "headline"
	}
	if !headline {
		t.Error("the headline was dropped")
	}
	for _, f := range pc.Findings {
		if f.Severity == "error" {
			t.Errorf("finding %+v", f)
		}
	}
}

// TestBareFilesDifferInWordsAlone: also where a weight limit turns a PNG into 256
// colours or lowers a quality, the file without words is the one with them but
// for the words.
func TestBareFilesDifferInWordsAlone(t *testing.T) {
	_, data := demoPictures()
	studio := raster.NewStudio(func(h string) ([]byte, error) { return data[h], nil })
	p, _ := spec.Find("video-thumbnail")
	c := combination{kit: "full", copy: "plain", place: p, picture: "dawn-on-the-bend.svg", pictures: 1, signature: "both", purpose: "announce"}
	for _, l := range layouts.All() {
		if l.ID == "shoreline" {
			c.layout = l
		}
	}
	job := c.job(testKits())
	pc := job.Compose(job.Looks(1)[0], p, 0)
	full, err := studio.Render(t.Context(), pc.Scene, raster.Output{Format: "png"})
	if err != nil {
		t.Fatal(err)
	}
	for _, limit := range []int{0, len(full) * 6 / 10} {
		worded, err := studio.Fit(t.Context(), pc.Scene, raster.Output{Format: "png"}, limit)
		if err != nil {
			t.Fatal(err)
		}
		bare, err := studio.Fit(t.Context(), pc.Scene, raster.Output{Format: "png", Bare: true}, limit)
		if err != nil {
			t.Fatal(err)
		}
		if limit > 0 && (worded.How == "" || worded.TooMuch) {
			t.Fatalf("%d bytes of %d were met by %q", limit, len(full), worded.How)
		}
		a, b := decodePNG(t, worded.Data), decodePNG(t, bare.Data)
		stray, inked := 0, 0
		for y := range p.Height {
			for x := range p.Width {
				if rgb(a, x, y) == rgb(b, x, y) {
					continue
				}
				at := spec.Rect{X: float64(x), Y: float64(y), W: 1, H: 1}
				if slices.ContainsFunc(pc.Scene.Parts, func(q scene.Part) bool { return q.Words() && q.Box.Inset(-2).Contains(at, 0) }) {
					inked++
				} else {
					stray++
				}
			}
		}
		if stray > 0 || inked < 1000 {
			t.Errorf("limit %d: %d pixels differ outside the words, %d inside", limit, stray, inked)
		}
		// the kit's colours are exact in both
		for _, part := range pc.Scene.Parts {
			if part.Slot == "button" {
				x, y := int(part.Box.X+part.Box.W/2), int(part.Box.Bottom())-3
				if got := rgb(a, x, y); got != part.Fill {
					t.Errorf("limit %d: the button is %v, want %v", limit, got, part.Fill)
				}
			}
		}
	}
}
