package colour

import (
	"errors"
	"image"
	"image/color"
	"math"
	"testing"

	"github.com/lucasb-eyer/go-colorful"
	"golang.org/x/image/colornames"
	"golang.org/x/image/vector"
)

// The 34 test pairs of Sharma, Wu, Dalal 2005, table 1.
var sharma = [][7]float64{
	{50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425}, {50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615},
	{50, 2.8361, -74.0200, 50, 0, -82.7485, 3.4412}, {50, -1.3802, -84.2814, 50, 0, -82.7485, 1.0000},
	{50, -1.1848, -84.8006, 50, 0, -82.7485, 1.0000}, {50, -0.9009, -85.5211, 50, 0, -82.7485, 1.0000},
	{50, 0, 0, 50, -1, 2, 2.3669}, {50, -1, 2, 50, 0, 0, 2.3669},
	{50, 2.4900, -0.0010, 50, -2.4900, 0.0009, 7.1792}, {50, 2.4900, -0.0010, 50, -2.4900, 0.0010, 7.1792},
	{50, 2.4900, -0.0010, 50, -2.4900, 0.0011, 7.2195}, {50, 2.4900, -0.0010, 50, -2.4900, 0.0012, 7.2195},
	{50, -0.0010, 2.4900, 50, 0.0009, -2.4900, 4.8045}, {50, -0.0010, 2.4900, 50, 0.0010, -2.4900, 4.8045},
	{50, -0.0010, 2.4900, 50, 0.0011, -2.4900, 4.7461}, {50, 2.5, 0, 50, 0, -2.5, 4.3065},
	{50, 2.5, 0, 73, 25, -18, 27.1492}, {50, 2.5, 0, 61, -5, 29, 22.8977}, {50, 2.5, 0, 56, -27, -3, 31.9030},
	{50, 2.5, 0, 58, 24, 15, 19.4535}, {50, 2.5, 0, 50, 3.1736, 0.5854, 1.0000}, {50, 2.5, 0, 50, 3.2972, 0, 1.0000},
	{50, 2.5, 0, 50, 1.8634, 0.5757, 1.0000}, {50, 2.5, 0, 50, 3.2592, 0.3350, 1.0000},
	{60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644},
	{63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.2630},
	{61.2901, 3.7196, -5.3901, 61.4292, 2.2480, -4.9620, 1.8731},
	{35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645},
	{22.7233, 20.0904, -46.6940, 23.0331, 14.9730, -42.5619, 2.0373},
	{36.4612, 47.8580, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146},
	{90.8027, -2.0831, 1.4410, 91.1528, -1.6435, 0.0447, 1.4441},
	{90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381},
	{6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377},
	{2.0776, 0.0795, -1.1350, 0.9033, -0.0636, -0.5514, 0.9082},
}

func TestCIEDE2000MatchesThePublishedPairs(t *testing.T) {
	if len(sharma) != 34 {
		t.Fatalf("%d pairs, want 34", len(sharma))
	}
	for i, r := range sharma {
		p, q := Lab{r[0], r[1], r[2]}, Lab{r[3], r[4], r[5]}
		for _, got := range []float64{p.DeltaE(q), q.DeltaE(p)} {
			if math.Abs(got-r[6]) > 5e-5 {
				t.Errorf("pair %d: %.4f, want %.4f", i+1, got, r[6])
			}
		}
	}
}

// Ottosson 2020, table "XYZ -> Oklab".
func TestOKLabMatchesThePublishedTable(t *testing.T) {
	table := []struct {
		in  XYZ
		out OKLab
	}{
		{XYZ{0.950, 1.000, 1.089}, OKLab{1.000, 0.000, 0.000}},
		{XYZ{1.000, 0.000, 0.000}, OKLab{0.450, 1.236, -0.019}},
		{XYZ{0.000, 1.000, 0.000}, OKLab{0.922, -0.671, 0.263}},
		{XYZ{0.000, 0.000, 1.000}, OKLab{0.153, -1.415, -0.449}},
	}
	for _, r := range table {
		got := r.in.OKLab()
		for i, d := range []float64{got.L - r.out.L, got.A - r.out.A, got.B - r.out.B} {
			if math.Abs(d) > 0.00051 {
				t.Errorf("%v component %d: got %+v, want %+v", r.in, i, got, r.out)
			}
		}
	}
}

// WCAG 2.2, contrast ratio; the pairs are the well-known grey boundary cases.
func TestContrastMatchesWCAG(t *testing.T) {
	for _, r := range []struct {
		a, b string
		want float64
	}{{"#767676", "#fff", 4.54}, {"#777777", "#fff", 4.48}, {"#000", "#fff", 21}, {"#fff", "#fff", 1}} {
		if got := Contrast(mustParse(t, r.a), mustParse(t, r.b)); math.Abs(got-r.want) > 0.005 {
			t.Errorf("%s on %s: %.3f, want %.2f", r.a, r.b, got, r.want)
		}
	}
}

func TestEveryColourCarriesWhiteOrBlackAt458(t *testing.T) {
	worst := 21.0
	for v := 0; v < 1<<24; v += 97 {
		c := RGB{uint8(v >> 16), uint8(v >> 8), uint8(v)}
		worst = math.Min(worst, math.Max(Contrast(c, White), Contrast(c, Black)))
	}
	if worst < 4.58 {
		t.Errorf("worst case %.4f, want at least 4.58", worst)
	}
}

// golang.org/x/image/colornames is the SVG 1.1 table; CSS Color 4 adds one.
func TestCSSNamesAreAllThere(t *testing.T) {
	if len(named) != 148 {
		t.Errorf("%d names, want the 148 of CSS Color 4", len(named))
	}
	for name, want := range colornames.Map {
		got, err := Parse(name)
		if err != nil || got != (RGB{want.R, want.G, want.B}) {
			t.Errorf("%s: %v, %v; want %v", name, got, err, want)
		}
	}
}

// go-colorful is the general-purpose reference.
func TestSpacesAgreeWithAReferenceLibrary(t *testing.T) {
	for v := 0; v < 1<<24; v += 65521 {
		c := RGB{uint8(v >> 16), uint8(v >> 8), uint8(v)}
		ref, _ := colorful.MakeColor(color.RGBA{c.R, c.G, c.B, 255})
		l, a, b := ref.OkLab()
		if d := c.OKLab().Distance(OKLab{l, a, b}); d > 1e-3 {
			t.Errorf("%v OKLab differs by %g", c, d)
		}
		h, s, li := ref.Hsl()
		if got := c.HSL(); math.Abs(got.S-s) > 1e-6 || math.Abs(got.L-li) > 1e-6 || math.Abs(got.H-h) > 1e-6 {
			t.Errorf("%v HSL %+v, want %v %v %v", c, got, h, s, li)
		}
		if got := c.HSL().RGB(); got != c {
			t.Errorf("%v came back from HSL as %v", c, got)
		}
		if got := c.OKLCh().RGB(); got != c {
			t.Errorf("%v came back from OKLCh as %v", c, got)
		}
	}
}

// CSS Color 4 section 13.2: mapping keeps hue and lightness. Lime pushed far
// out of gamut must stay green, which plain clipping would not.
func TestGamutMappingKeepsHueAndLightness(t *testing.T) {
	for h := 0.0; h < 360; h += 15 {
		want := OKLCh{0.7, 0.4, h}
		got := want.RGB().OKLCh()
		if math.Abs(got.L-want.L) > 0.03 {
			t.Errorf("hue %v: lightness %.3f, want %.3f", h, got.L, want.L)
		}
		d := math.Mod(math.Abs(got.H-h)+360, 360)
		if math.Min(d, 360-d) > 12 {
			t.Errorf("hue %v became %.1f", h, got.H)
		}
	}
}

func mustParse(t *testing.T, s string) RGB {
	t.Helper()
	c, err := Parse(s)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func TestParseReadsEveryNotation(t *testing.T) {
	river := RGB{0x0F, 0x3D, 0x4C}
	for _, s := range []string{"#0F3D4C", "0f3d4c", " #0f3d4c; ", "rgb(15, 61, 76)", "rgb(15 61 76 / 100%)", "15 61 76", "15,61,76", "#0F3D4CFF"} {
		if got := mustParse(t, s); got != river {
			t.Errorf("%q: %v, want %v", s, got, river)
		}
	}
	if got := mustParse(t, "hsl(0 100% 50%)"); got != (RGB{255, 0, 0}) {
		t.Errorf("hsl red: %v", got)
	}
	if got := mustParse(t, "#f80"); got != (RGB{255, 136, 0}) {
		t.Errorf("#f80: %v", got)
	}
	for _, s := range []string{"", "#12", "#1234567", "rgb(1,2)", "15 61 300", "#0F3D4C80", "blurple", "rgb(15 61 76 / 0.4)", "#ggg"} {
		if c, err := Parse(s); !errors.Is(err, ErrSyntax) {
			t.Errorf("%q: %v, %v; want a syntax error", s, c, err)
		}
	}
}

func TestParseListKeepsNames(t *testing.T) {
	got, err := ParseList("River #0F3D4C\n15 61 76\n  --accent: hsl(12 88% 62%);\nSand — F6EBD6\nwords only\ntomato, teal\n")
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"River", "", "accent", "Sand", "tomato", "teal"}
	if len(got) != len(want) {
		t.Fatalf("%d colours %v, want %d", len(got), got, len(want))
	}
	for i, n := range want {
		if got[i].Name != n {
			t.Errorf("colour %d is called %q, want %q", i, got[i].Name, n)
		}
	}
	if _, err := ParseList("nothing here"); err == nil {
		t.Error("a list without colours was taken")
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"#0F3D4C", "hsl(1e9 5% 5%)", "rgb(,,)", "oklch(0.5 9 nan)"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		c, err := Parse(s)
		if err == nil {
			if back, err := Parse(c.Hex()); err != nil || back != c {
				t.Errorf("%q gave %v which reads back as %v, %v", s, c, back, err)
			}
		}
	})
}

// drawLogo paints antialiased discs of known colours with x/image/vector.
func drawLogo(ground *RGB, inks ...RGB) Pixels {
	const size = 240
	img := image.NewNRGBA(image.Rect(0, 0, size, size))
	if ground != nil {
		for i := 0; i < len(img.Pix); i += 4 {
			img.Pix[i], img.Pix[i+1], img.Pix[i+2], img.Pix[i+3] = ground.R, ground.G, ground.B, 255
		}
	}
	for n, ink := range inks {
		r := vector.NewRasterizer(size, size)
		cx, cy, rad := float32(60+n%2*110), float32(60+n/2*110), float32(38.3)
		r.MoveTo(cx+rad, cy)
		for a := 0.1; a < 2*math.Pi; a += 0.1 {
			r.LineTo(cx+rad*float32(math.Cos(a)), cy+rad*float32(math.Sin(a)))
		}
		r.ClosePath()
		r.Draw(img, img.Bounds(), image.NewUniform(color.NRGBA{ink.R, ink.G, ink.B, 255}), image.Point{})
	}
	return Pixels{size, size, img.Pix}
}

func TestFlatExtractionFindsTrueColoursAndNoGhosts(t *testing.T) {
	river, coral, sand := RGB{0x0F, 0x3D, 0x4C}, RGB{0xF2, 0x69, 0x4B}, RGB{0xF6, 0xEB, 0xD6}
	for name, c := range map[string]struct {
		ground *RGB
		inks   []RGB
	}{
		"transparent": {nil, []RGB{river, coral, sand}},
		"white box":   {&White, []RGB{river, coral}},
		"brand box":   {&river, []RGB{sand, coral, White}},
	} {
		art := ExtractFlat(drawLogo(c.ground, c.inks...))
		if (art.Ground == nil) != (c.ground == nil) || (art.Ground != nil && *art.Ground != *c.ground) {
			t.Errorf("%s: ground %v, want %v", name, art.Ground, c.ground)
		}
		if len(art.Ink) != len(c.inks) {
			t.Errorf("%s: found %v, want just %v", name, art.Ink, c.inks)
		}
		for _, want := range c.inks {
			best := math.Inf(1)
			for _, f := range art.Ink {
				best = math.Min(best, DeltaE(f.Colour, want))
			}
			if best > 1 {
				t.Errorf("%s: %v is off by CIEDE2000 %.2f", name, want, best)
			}
		}
	}
}

func TestPhotoExtractionSurvivesRescaling(t *testing.T) {
	draw := func(w, h int) Pixels {
		p := Pixels{w, h, make([]uint8, 4*w*h)}
		for y := range h {
			for x := range w {
				c := OKLCh{0.35 + 0.5*float64(y)/float64(h), 0.12, 40 + 180*math.Floor(3*float64(x)/float64(w))/3}.RGB()
				copy(p.Pix[4*(y*w+x):], []uint8{c.R, c.G, c.B, 255})
			}
		}
		return p
	}
	big, small := ExtractPhoto(draw(900, 600), 6), ExtractPhoto(draw(300, 200), 6)
	if len(big) != len(small) || len(big) < 5 {
		t.Fatalf("%d and %d colours", len(big), len(small))
	}
	for _, b := range big {
		best := math.Inf(1)
		for _, s := range small {
			best = math.Min(best, DeltaE(b.Colour, s.Colour))
		}
		if best > 2 {
			t.Errorf("%v has no counterpart within CIEDE2000 2 (best %.2f)", b.Colour, best)
		}
	}
}
