package app_test

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"os"
	"strings"
	"testing"

	"aspenridge/demo"
	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/store"
	"aspenridge/test/stage"
)

// boxed is a mark on white, as a JPEG.
func boxed(t *testing.T) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 300, 200))
	for i := range 300 * 200 {
		x, y := i%300, i/300
		c := color.RGBA{255, 255, 255, 255}
		if dx, dy := x-100, y-100; dx*dx+dy*dy < 60*60 {
			c = color.RGBA{15, 61, 76, 255}
		} else if x > 180 && x < 280 && y > 70 && y < 130 {
			c = color.RGBA{242, 105, 75, 255}
		}
		img.Set(x, y, c)
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: 80}); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// A new person gives one thing after the other and says of none where it belongs.
func TestEverythingGivenFindsItsPlace(t *testing.T) {
	a, m := newcomer(t)
	var at app.Given
	give := func(g app.Giving) app.Given {
		t.Helper()
		g.Kit, g.Brief, g.Client = at.Kit, at.Brief, "tab"
		out, err := a.Documents.Give(t.Context(), m, g)
		if err != nil {
			t.Fatalf("%s%s: %v", g.Name, g.Text, err)
		}
		at.Kit, at.Brief = out.Kit, out.Brief
		return out
	}
	font, err := os.ReadFile("../core/typeset/testdata/karla-latin-500-normal.woff2")
	if err != nil {
		t.Fatal(err)
	}
	give(app.Giving{Name: "hut.jpg", Data: stage.Photo(320, 240)})
	if at.Kit == (app.ID{}) || at.Brief == (app.ID{}) {
		t.Fatal("a photograph made no kit and no brief")
	}
	guesses := func(k *app.Kit) (n int) {
		for _, c := range k.Colours() {
			if c.Guessed {
				n++
			}
		}
		return n
	}
	before := kitOf(t, a, m, at.Kit)
	ofPicture := len(before.Colours()) - guesses(before)
	give(app.Giving{Text: "Pellow & Finch\nChanterelles are in\nFrom Saturday at the stall, and every day after\nReserve a basket\npellow.example\n@pellowfinch #mushrooms"})
	give(app.Giving{Name: "scan.jpg", Data: boxed(t)})
	give(app.Giving{Name: "karla.woff2", Data: font})
	give(app.Giving{Text: "Wine #7A2E3A\nMoss #26432F"})
	give(app.Giving{Name: "more.gpl", Data: []byte("GIMP Palette\nName: x\n#\n244 236 216\tCream\n")})

	k := kitOf(t, a, m, at.Kit)
	if k.Name != "Pellow & Finch" || k.Website != "pellow.example" || strings.Join(k.Handles, " ")+strings.Join(k.Hashtags, " ") != "@pellowfinch#mushrooms" {
		t.Errorf("the kit is %q at %q, %v %v", k.Name, k.Website, k.Handles, k.Hashtags)
	}
	if len(k.Logos) != 1 || len(k.Fonts) != 1 || k.TypeSet("").Levels[brand.Headline].Family != "Karla" {
		t.Errorf("%d logos, %d fonts, headlines in %s", len(k.Logos), len(k.Fonts), k.TypeSet("").Levels[brand.Headline].Family)
	}
	if got := len(k.Colours()); ofPicture < 3 || guesses(before) == 0 || got != ofPicture+3 { // what was made up for want of others is gone
		t.Errorf("%d colours after %d of the photograph, %d made up and three more", got, ofPicture, guesses(before))
	}
	set, err := a.Sets.Set(t.Context(), m, at.Brief)
	if err != nil {
		t.Fatal(err)
	}
	c := set.Brief.Cards[0]
	if text(c.Headline) != "Chanterelles are in" || text(c.Subheading) != "From Saturday at the stall, and every day after" || text(c.CallToAction) != "Reserve a basket" || len(c.Pictures) != 1 {
		t.Errorf("the brief says %q, %q, %q with %d pictures", text(c.Headline), text(c.Subheading), text(c.CallToAction), len(c.Pictures))
	}
}

func text(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// What was given is taken back one by one, in any order; with the last one the
// kit and the brief are gone.
func TestWhatIsGivenIsTakenBack(t *testing.T) {
	a, m := newcomer(t)
	words, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Text: "Pellow & Finch\nChanterelles are in"})
	if err != nil {
		t.Fatal(err)
	}
	colours, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Kit: words.Kit, Brief: words.Brief, Text: "#7A2E3A"})
	if err != nil {
		t.Fatal(err)
	}
	more, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Kit: words.Kit, Brief: words.Brief, Text: "#26432F"})
	if err != nil {
		t.Fatal(err)
	}
	// the palette came with the first colour, and the second one is in it
	if _, err := a.Documents.TakeBack(t.Context(), m, "tab", colours.Placed[0], words.Kit, words.Brief); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("taking a palette back from under a colour: %v", err)
	}
	list := append([]app.Placed{more.Placed[0], colours.Placed[0]}, words.Placed...)
	for i, p := range list {
		gone, err := a.Documents.TakeBack(t.Context(), m, "tab", p, words.Kit, words.Brief)
		if err != nil {
			t.Fatalf("%s: %v", p.What, err)
		}
		if last := i == len(list)-1; (len(gone) == 2) != last {
			t.Errorf("after %s %d documents are gone", p.What, len(gone))
		}
	}
	if _, n, err := a.Kits.FindKits(t.Context(), m, store.KitQuery{Limit: 1}); err != nil || n != 0 {
		t.Errorf("%d kits are left, %v", n, err)
	}
}

// A logo gives a kit its colours; said to be something else it goes there.
func TestGivenAsSomethingElse(t *testing.T) {
	a, m := newcomer(t)
	logo := []byte(demo.Logos()["logos/horizontal.svg"])
	first, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Name: "mark.svg", Data: logo})
	if err != nil {
		t.Fatal(err)
	}
	if k := kitOf(t, a, m, first.Kit); len(k.Logos) != 1 || len(k.Colours()) < 2 || len(first.Placed) != 2 {
		t.Fatalf("%d logos, %d colours, %d things said", len(k.Logos), len(k.Colours()), len(first.Placed))
	}
	as, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Kit: first.Kit, Name: "mark.svg", Data: logo, As: "kit picture"})
	if err != nil {
		t.Fatal(err)
	}
	if k := kitOf(t, a, m, as.Kit); len(k.Pictures) != 1 || len(k.Logos) != 1 {
		t.Errorf("%d pictures, %d logos", len(k.Pictures), len(k.Logos))
	}
	tag, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Kit: first.Kit, Text: "Slow water, good company", As: "tagline"})
	if err != nil || tag.Brief != (app.ID{}) || kitOf(t, a, m, first.Kit).Tagline != "Slow water, good company" {
		t.Errorf("as a tagline: %+v, %v", tag, err)
	}
	for _, bad := range []app.Giving{{Text: "x", As: "hat"}, {Text: "   "}, {Name: "a.bin", Data: []byte{0, 1, 2, 255}}, {Name: "cut.jpg", Data: boxed(t)[:300]}, {Name: "no.gpl", Data: []byte("GIMP Palette\nx y z\n")}} {
		if _, err := a.Documents.Give(t.Context(), m, bad); err == nil {
			t.Errorf("%q %q was taken", bad.Name, bad.Text)
		}
	}
	if _, n, _ := a.Kits.FindKits(t.Context(), m, store.KitQuery{Limit: 1}); n != 1 {
		t.Errorf("%d kits, want the first alone", n)
	}
}

func kitOf(t *testing.T, a *app.App, m app.Member, id app.ID) *app.Kit {
	t.Helper()
	k, err := a.Kits.Kit(t.Context(), m, id)
	if err != nil {
		t.Fatal(err)
	}
	return k
}

// What is given outranks what was made up from a logo: a font sets the headlines, colours that
// carry text replace the neutral; and a colour changed far is named anew, near it is not.
func TestGivenOutranksGuessed(t *testing.T) {
	a, m := newcomer(t)
	font, err := os.ReadFile("../core/typeset/testdata/karla-latin-500-normal.woff2")
	if err != nil {
		t.Fatal(err)
	}
	logo := `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 40"><circle cx="20" cy="20" r="16" fill="#2a7f86"/><rect x="44" y="12" width="50" height="16" rx="8" fill="#2a7f86"/></svg>`
	out, err := a.Documents.Give(t.Context(), m, app.Giving{Name: "logo.svg", Data: []byte(logo), Client: "tab"})
	if err != nil {
		t.Fatal(err)
	}
	give := func(g app.Giving) {
		t.Helper()
		g.Kit, g.Client, g.KitOnly = out.Kit, "tab", true
		if _, err := a.Documents.Give(t.Context(), m, g); err != nil {
			t.Fatalf("%s%s: %v", g.Name, g.Text, err)
		}
	}
	made := kitOf(t, a, m, out.Kit)
	if c := made.Colours(); len(c) != 3 || !c[1].Guessed || !c[2].Guessed {
		t.Fatalf("of the logo: %+v", c)
	}
	give(app.Giving{Name: "karla.woff2", Data: font})
	give(app.Giving{Text: "Deep #0f2a30\nSail #f6f1e4"})
	k := kitOf(t, a, m, out.Kit)
	if f := k.TypeSet("").Levels[brand.Headline].Family; f != "Karla" {
		t.Errorf("headlines are set in %s", f)
	}
	var names []string
	for _, c := range k.Colours() {
		names = append(names, c.Name)
		if c.Guessed {
			t.Errorf("%s stays, made up for want of others", c.Name)
		}
	}
	if len(names) != 3 || names[1] != "Deep" || names[2] != "Sail" {
		t.Errorf("colours %v", names)
	}
	teal := k.Colours()[0]
	for _, c := range []struct {
		to  string
		far bool
	}{{"#2b8087", false}, {"#a8324a", true}} {
		if _, err := a.Brand.SetColour(t.Context(), m, out.Kit, app.Change{Kind: "kit", Base: app.Latest}, teal.Token, c.to); err != nil {
			t.Fatal(err)
		}
		if now := kitOf(t, a, m, out.Kit).Colours()[0]; (now.Name != teal.Name) != c.far {
			t.Errorf("%s changed to %s is called %q", teal.Name, c.to, now.Name)
		}
	}
	if _, err := a.Brand.SetColour(t.Context(), m, out.Kit, app.Change{Kind: "kit", Base: app.Latest}, k.Colours()[1].Token, "#e0e0e0"); err != nil {
		t.Fatal(err)
	}
	if now := kitOf(t, a, m, out.Kit).Colours()[1]; now.Name != "Deep" {
		t.Errorf("a given name became %q", now.Name)
	}
}

// A pasted style guide makes the kit it describes, without a correction and without a brief; what a
// kit has no place for is said.
func TestAStyleGuideIsPasted(t *testing.T) {
	a, m := newcomer(t)
	out, err := a.Documents.Give(t.Context(), m, app.Giving{Client: "tab", Text: `Pellow & Finch brand guidelines
Tagline: Fresh from the dark
Colours
Primary: Wine #7A2E3A (RGB 122 46 58)
Secondary: #26432F
Accent: Chanterelle #E9A23B
Background: Cream #F4ECD8
Text: #1B1A17
Typography
Headings: Gabarito Bold, 48 px
Body text: Figtree Regular
Labels: Futurama Nova
Voice
Tone of voice: plain, warm, never loud
We say: basket, morning
Never say: cheap, deal
Call to action: Reserve a basket
Website: https://pellow.example/
Handle: @pellowfinch
Phone: 01632 960118
Address: 4 Mill Lane, Larkmoor
`})
	if err != nil {
		t.Fatal(err)
	}
	if out.Brief != (app.ID{}) {
		t.Error("it made a brief")
	}
	if len(out.Left) != 1 || !strings.Contains(out.Left[0].What, "Futurama") {
		t.Errorf("left: %+v", out.Left)
	}
	k := kitOf(t, a, m, out.Kit)
	if k.Name != "Pellow & Finch" || k.Tagline != "Fresh from the dark" || k.Website != "pellow.example" || k.Phone != "01632 960118" || k.Place != "4 Mill Lane, Larkmoor" {
		t.Errorf("it is %q, %q, %q, %q, %q", k.Name, k.Tagline, k.Website, k.Phone, k.Place)
	}
	if strings.Join(k.Voice.Says, " ")+strings.Join(k.Voice.NeverSays, " ")+k.Voice.Sounds != "basket morningcheap dealplain, warm, never loud" || len(k.CallsToAction) != 1 {
		t.Errorf("the voice is %+v, calls %v", k.Voice, k.CallsToAction)
	}
	var colours []string
	for _, c := range k.Colours() {
		colours = append(colours, c.Name+" "+c.Value.Hex()+" "+string(c.Role))
	}
	if got := strings.Join(colours, ", "); got != "Wine #7A2E3A lead, Evergreen #26432F support, Chanterelle #E9A23B accent, Cream #F4ECD8 ground, Black #1B1A17 ink" {
		t.Errorf("colours %s", got)
	}
	levels := k.TypeSet("").Levels
	if h, b := levels[brand.Headline], levels[brand.Body]; h.Family != "Gabarito" || h.Weight != 700 || b.Family != "Figtree" || b.Weight != 400 {
		t.Errorf("set in %s %d and %s %d", h.Family, h.Weight, b.Family, b.Weight)
	}
}
