package colour

import (
	"fmt"
	"math"
)

// Related are colours that go with another one, and why.
type Related struct {
	Name    string
	Colours []RGB
}

// harmonies are the classical schemes as hue turns in degrees. They are turned
// in OKLCh, where equal turns look equally large and lightness stays.
var harmonies = []struct {
	name  string
	turns []float64
}{
	{"across", []float64{180}},
	{"beside", []float64{-30, 30}},
	{"split", []float64{150, 210}},
	{"in three", []float64{120, 240}},
	{"in four", []float64{90, 180, 270}},
}

// Harmonies lists colours that match c by the classical schemes, in its own
// lightness and colourfulness as far as sRGB has them. A grey has none.
func Harmonies(c RGB) []Related {
	o := c.OKLCh()
	if o.C < 0.02 {
		return nil
	}
	var out []Related
	for _, h := range harmonies {
		r := Related{Name: h.name}
		for _, turn := range h.turns {
			r.Colours = append(r.Colours, OKLCh{o.L, o.C, math.Mod(o.H+turn+360, 360)}.RGB())
		}
		out = append(out, r)
	}
	return out
}

// Ramp is n tints and shades of c, light to dark, of one hue; the step nearest
// to c is c itself.
func Ramp(c RGB, n int) []RGB {
	o := c.OKLCh()
	out := make([]RGB, n)
	nearest := 0
	for i := range out {
		l := 0.97 - 0.77*float64(i)/float64(n-1)
		// towards white and black less colour is left, as pigments have it
		k := 1 - math.Pow(math.Abs(l-o.L)/0.9, 1.4)
		out[i] = OKLCh{l, o.C * math.Max(0.12, k), o.H}.RGB()
		if math.Abs(l-o.L) < math.Abs(0.97-0.77*float64(nearest)/float64(n-1)-o.L) {
			nearest = i
		}
	}
	out[nearest] = c
	return out
}

// MaxChroma is the largest OKLCh chroma sRGB has at a lightness (0-1) and hue
// (degrees), to within 0.0005: the edge of the gamut.
func MaxChroma(l, h float64) float64 {
	lo, hi := 0.0, 0.4
	for hi-lo > 0.0005 {
		mid := (lo + hi) / 2
		if (OKLCh{l, mid, h}).Lab().Linear().InGamut() {
			lo = mid
		} else {
			hi = mid
		}
	}
	return lo
}

// Deficiency is a kind of colour vision.
type Deficiency string

// The three dichromatic kinds.
const (
	Protan Deficiency = "protan" // no long-wave cones: reds are dark
	Deutan Deficiency = "deutan" // no middle-wave cones: reds and greens alike
	Tritan Deficiency = "tritan" // no short-wave cones: blues and greens alike
)

// Deficiencies lists them, the commonest first.
var Deficiencies = []Deficiency{Deutan, Protan, Tritan}

// simulations are the matrices for severity 1.0 on linear sRGB of Machado,
// Oliveira, Fernandes: A Physiologically-based Model for Simulation of Color
// Vision Deficiency (2009), table 1.
var simulations = map[Deficiency][9]float64{
	Protan: {0.152286, 1.052583, -0.204868, 0.114503, 0.786281, 0.099216, -0.003882, -0.048116, 1.051998},
	Deutan: {0.367322, 0.860646, -0.227968, 0.280085, 0.672501, 0.047413, -0.011820, 0.042940, 0.968881},
	Tritan: {1.255528, -0.076749, -0.178779, -0.078411, 0.930809, 0.147602, 0.004733, 0.691367, 0.303900},
}

// Simulate is how c looks to somebody with a deficiency.
func Simulate(c RGB, d Deficiency) RGB {
	m, ok := simulations[d]
	if !ok {
		return c
	}
	l := c.Linear()
	return Linear{
		m[0]*l.R + m[1]*l.G + m[2]*l.B,
		m[3]*l.R + m[4]*l.G + m[5]*l.B,
		m[6]*l.R + m[7]*l.G + m[8]*l.B,
	}.Clip()
}

// Notations writes c in the notations people copy: hex, rgb(), hsl(), oklch()
// of CSS Color 4.
func (c RGB) Notations() map[string]string {
	h, o := c.HSL(), c.OKLCh()
	return map[string]string{
		"hex":   c.Hex(),
		"rgb":   fmt.Sprintf("rgb(%d %d %d)", c.R, c.G, c.B),
		"hsl":   fmt.Sprintf("hsl(%.0f %.0f%% %.0f%%)", h.H, h.S*100, h.L*100),
		"oklch": fmt.Sprintf("oklch(%.1f%% %.3f %.0f)", o.L*100, o.C, o.H),
	}
}
