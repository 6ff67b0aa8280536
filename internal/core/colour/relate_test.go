package colour

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"math"
	"testing"
)

//go:embed testdata/culori.json
var culoriData []byte

// culori is a table made once with culori 4.0.2 (Node): toGamut("rgb", "oklch")
// over lightness, chroma and hue; the same after turning hues; and its three
// filterDeficiency functions.
func culori(t *testing.T) (c struct {
	Gamut  [][4]any
	Rotate [][3]any
	Sim    [][4]string
}) {
	t.Helper()
	if err := json.Unmarshal(culoriData, &c); err != nil {
		t.Fatal(err)
	}
	if len(c.Gamut) < 150 || len(c.Rotate) < 40 {
		t.Fatal("the table is short")
	}
	return c
}

func must(t *testing.T, s any) RGB {
	t.Helper()
	c, err := Parse(s.(string))
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func TestGamutMappingAgreesWithCulori(t *testing.T) {
	for _, row := range culori(t).Gamut {
		got := OKLCh{row[0].(float64), row[1].(float64), row[2].(float64)}.RGB()
		if d := DeltaE(got, must(t, row[3])); d > 0.6 {
			t.Errorf("%v: %s, %.2f apart", row, got, d)
		}
	}
}

func TestHarmoniesAgreeWithCulori(t *testing.T) {
	turned := map[string]RGB{}
	for _, row := range culori(t).Rotate {
		turned[fmt.Sprint(row[0], row[1])] = must(t, row[2])
	}
	n := 0
	for _, hex := range []string{"#0f3d4c", "#f2694b", "#7a2e3a", "#f3b23e", "#26432f", "#3355ff"} {
		for _, r := range Harmonies(must(t, hex)) {
			for i, turn := range map[string][]int{"across": {180}, "beside": {330, 30}, "split": {150, 210}, "in three": {120, 240}}[r.Name] {
				n++
				if d := DeltaE(r.Colours[i], turned[fmt.Sprint(hex, turn)]); d > 0.6 {
					t.Errorf("%s turned by %d: %s, %.2f apart", hex, turn, r.Colours[i], d)
				}
			}
		}
	}
	if n != 6*7 {
		t.Errorf("%d turns compared", n)
	}
	if Harmonies(must(t, "#808080")) != nil {
		t.Error("a grey has no hue to turn")
	}
}

// TestSimulationMatrices checks the nine numbers of each matrix through the
// primaries: culori multiplies encoded values and we, as the paper does, linear
// ones, which for 0 and 1 are the same numbers before encoding.
func TestSimulationMatrices(t *testing.T) {
	for _, row := range culori(t).Sim[:3] {
		c := must(t, row[0])
		for i, d := range []Deficiency{Protan, Deutan, Tritan} {
			got, want := Simulate(c, d).Linear(), must(t, row[i+1])
			for _, pair := range [][2]float64{{got.R, float64(want.R) / 255}, {got.G, float64(want.G) / 255}, {got.B, float64(want.B) / 255}} {
				if math.Abs(pair[0]-pair[1]) > 0.006 {
					t.Errorf("%s as %s: %.3f, want %.3f", row[0], d, pair[0], pair[1])
				}
			}
		}
	}
	for _, d := range Deficiencies { // what has no colour keeps looking so
		for _, hex := range []string{"#000000", "#808080", "#ffffff"} {
			if diff := DeltaE(Simulate(must(t, hex), d), must(t, hex)); diff > 1 {
				t.Errorf("%s as %s is %.1f away", hex, d, diff)
			}
		}
	}
	// red and green of one lightness: alike without middle-wave cones
	red, green := must(t, "#c24a3a"), must(t, "#6e7a2a")
	if full, seen := DeltaE(red, green), DeltaE(Simulate(red, Deutan), Simulate(green, Deutan)); seen > full/2 {
		t.Errorf("%.0f apart, %.0f as deutan", full, seen)
	}
}

func TestRampKeepsTheColourAndDescends(t *testing.T) {
	for _, hex := range []string{"#0f3d4c", "#f2694b", "#f3b23e", "#3355ff", "#f6ebd6", "#10242b"} {
		c := must(t, hex)
		ramp := Ramp(c, 9)
		has := false
		for i, r := range ramp {
			has = has || r == c
			if i > 0 && r.OKLCh().L >= ramp[i-1].OKLCh().L {
				t.Errorf("%s: step %d is not darker: %v", hex, i, ramp)
			}
			if o := r.OKLCh(); o.C > 0.03 && math.Abs(math.Remainder(o.H-c.OKLCh().H, 360)) > 16 { // mapping into the gamut may turn it a little
				t.Errorf("%s: step %d has hue %.0f, want %.0f", hex, i, o.H, c.OKLCh().H)
			}
		}
		if !has {
			t.Errorf("%s is not in its own ramp %v", hex, ramp)
		}
	}
}

func TestMaxChromaIsTheEdge(t *testing.T) {
	for _, l := range []float64{0.3, 0.6, 0.85} {
		for h := 0.0; h < 360; h += 45 {
			c := MaxChroma(l, h)
			if !(OKLCh{l, c, h}).Lab().Linear().InGamut() || (OKLCh{l, c + 0.002, h}).Lab().Linear().InGamut() {
				t.Errorf("lightness %.2f, hue %.0f: %.4f is not the edge", l, h, c)
			}
		}
	}
}

func TestNotationsReadBack(t *testing.T) {
	c := must(t, "#0F3D4C")
	for name, s := range c.Notations() {
		if name == "oklch" {
			// culori 4.0.2: l 0.337, c 0.0551, h 224
			if s != "oklch(33.7% 0.055 224)" {
				t.Errorf("oklch: %s", s)
			}
			continue
		}
		back, err := Parse(s)
		if err != nil || DeltaE(back, c) > 1.5 {
			t.Errorf("%s: %s reads as %v (%v)", name, s, back, err)
		}
	}
}
