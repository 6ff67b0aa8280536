package colour

import (
	"fmt"
	"math"
)

// RGB is an opaque 8-bit sRGB colour (IEC 61966-2-1).
type RGB struct{ R, G, B uint8 }

// White and Black are the two colours every ground can carry one of: any
// colour reaches at least 4.58:1 against one of them.
var (
	White = RGB{255, 255, 255}
	Black = RGB{0, 0, 0}
)

// Hex writes the colour as "#RRGGBB".
func (c RGB) Hex() string { return fmt.Sprintf("#%02X%02X%02X", c.R, c.G, c.B) }

// String is Hex.
func (c RGB) String() string { return c.Hex() }

// Linear is linear-light sRGB, each component 0-1 inside the gamut.
type Linear struct{ R, G, B float64 }

// XYZ is CIE XYZ relative to D65, Y of white = 1.
type XYZ struct{ X, Y, Z float64 }

// Lab is CIE L*a*b* relative to D65: L 0-100.
type Lab struct{ L, A, B float64 }

// OKLab is Ottosson's perceptual space (2020): L 0-1.
type OKLab struct{ L, A, B float64 }

// OKLCh is OKLab in polar form: L 0-1, C about 0-0.37, H in degrees [0, 360).
type OKLCh struct{ L, C, H float64 }

// HSL has H in degrees [0, 360), S and L 0-1.
type HSL struct{ H, S, L float64 }

// decode turns a gamma-encoded component 0-1 into linear light, and is odd
// around zero as CSS Color 4 asks, so out-of-gamut values survive.
func decode(v float64) float64 {
	a := math.Abs(v)
	if a <= 0.04045 {
		return v / 12.92
	}
	return math.Copysign(math.Pow((a+0.055)/1.055, 2.4), v)
}

func encode(v float64) float64 {
	a := math.Abs(v)
	if a <= 0.0031308 {
		return v * 12.92
	}
	return math.Copysign(1.055*math.Pow(a, 1/2.4)-0.055, v)
}

// decoded caches decode for the 256 values an 8-bit component can take.
var decoded = func() (t [256]float64) {
	for i := range t {
		t[i] = decode(float64(i) / 255)
	}
	return t
}()

// Linear returns the colour in linear light.
func (c RGB) Linear() Linear { return Linear{decoded[c.R], decoded[c.G], decoded[c.B]} }

func to8(v float64) uint8 {
	switch v = math.Round(encode(v) * 255); {
	case v <= 0 || math.IsNaN(v):
		return 0
	case v >= 255:
		return 255
	default:
		return uint8(v)
	}
}

// Clip encodes to 8 bits, cutting each component to the gamut. Use [OKLCh.RGB]
// when hue and lightness matter more than speed.
func (l Linear) Clip() RGB { return RGB{to8(l.R), to8(l.G), to8(l.B)} }

// InGamut reports whether every component lies in 0-1 within a tolerance far
// below one 8-bit step.
func (l Linear) InGamut() bool {
	const e = 1e-6
	return l.R >= -e && l.R <= 1+e && l.G >= -e && l.G <= 1+e && l.B >= -e && l.B <= 1+e
}

// XYZ converts with the matrix of CSS Color 4, "Sample code for color
// conversions" (lin_sRGB_to_XYZ).
func (l Linear) XYZ() XYZ {
	return XYZ{
		506752.0/1228815*l.R + 87881.0/245763*l.G + 12673.0/70218*l.B,
		87098.0/409605*l.R + 175762.0/245763*l.G + 12673.0/175545*l.B,
		7918.0/409605*l.R + 87881.0/737289*l.G + 1001167.0/1053270*l.B,
	}
}

// Linear is the inverse matrix of the same source.
func (x XYZ) Linear() Linear {
	return Linear{
		12831.0/3959*x.X - 329.0/214*x.Y - 1974.0/3959*x.Z,
		-851781.0/878810*x.X + 1648619.0/878810*x.Y + 36519.0/878810*x.Z,
		705.0/12673*x.X - 2585.0/12673*x.Y + 705.0/667*x.Z,
	}
}

// D65 white from the chromaticities x=0.3127, y=0.3290 that CSS Color 4 uses.
var d65 = XYZ{0.3127 / 0.3290, 1, (1 - 0.3127 - 0.3290) / 0.3290}

// Lab converts by CIE 15: kappa 24389/27, epsilon 216/24389.
func (x XYZ) Lab() Lab {
	f := func(t float64) float64 {
		if t > 216.0/24389 {
			return math.Cbrt(t)
		}
		return (24389.0/27*t + 16) / 116
	}
	fx, fy, fz := f(x.X/d65.X), f(x.Y/d65.Y), f(x.Z/d65.Z)
	return Lab{116*fy - 16, 500 * (fx - fy), 200 * (fy - fz)}
}

// labD50 is a colour of CIE Lab relative to D50, as CSS writes it, in linear
// sRGB: the inverse of CIE 15, then CSS Color 4's D50_to_D65 (Bradford).
func labD50(l Lab) Linear {
	fy := (l.L + 16) / 116
	fx, fz := fy+l.A/500, fy-l.B/200
	f := func(t float64) float64 {
		if c := t * t * t; c > 216.0/24389 {
			return c
		}
		return (116*t - 16) / (24389.0 / 27)
	}
	y := l.L / (24389.0 / 27)
	if l.L > 8 {
		y = fy * fy * fy
	}
	x, z := f(fx)*0.3457/0.3585, f(fz)*(1-0.3457-0.3585)/0.3585
	return XYZ{
		0.9554734527042182*x - 0.023098536874261423*y + 0.0632593086610217*z,
		-0.028369706963208136*x + 1.0099954580058226*y + 0.021041398966943008*z,
		0.012314001688319899*x - 0.020507696433477912*y + 1.3303659366080753*z,
	}.Linear()
}

// Lab returns the colour in CIE Lab (D65).
func (c RGB) Lab() Lab { return c.Linear().XYZ().Lab() }

// OKLab converts XYZ with the matrices published with OKLab (Ottosson, "A
// perceptual color space for image processing", 2020).
func (x XYZ) OKLab() OKLab {
	l := math.Cbrt(0.8189330101*x.X + 0.3618667424*x.Y - 0.1288597137*x.Z)
	m := math.Cbrt(0.0329845436*x.X + 0.9293118715*x.Y + 0.0361456387*x.Z)
	s := math.Cbrt(0.0482003018*x.X + 0.2643662691*x.Y + 0.6338517070*x.Z)
	return lmsToOK(l, m, s)
}

func lmsToOK(l, m, s float64) OKLab {
	return OKLab{
		0.2104542553*l + 0.7936177850*m - 0.0040720468*s,
		1.9779984951*l - 2.4285922050*m + 0.4505937099*s,
		0.0259040371*l + 0.7827717662*m - 0.8086757660*s,
	}
}

// OKLab converts linear sRGB with the direct matrices of the same source.
func (l Linear) OKLab() OKLab {
	return lmsToOK(
		math.Cbrt(0.4122214708*l.R+0.5363325363*l.G+0.0514459929*l.B),
		math.Cbrt(0.2119034982*l.R+0.6806995451*l.G+0.1073969566*l.B),
		math.Cbrt(0.0883024619*l.R+0.2817188376*l.G+0.6299787005*l.B),
	)
}

// OKLab returns the colour in OKLab.
func (c RGB) OKLab() OKLab { return c.Linear().OKLab() }

// Linear is the inverse of [Linear.OKLab]; the result may lie out of gamut.
func (o OKLab) Linear() Linear {
	l := o.L + 0.3963377774*o.A + 0.2158037573*o.B
	m := o.L - 0.1055613458*o.A - 0.0638541728*o.B
	s := o.L - 0.0894841775*o.A - 1.2914855480*o.B
	l, m, s = l*l*l, m*m*m, s*s*s
	return Linear{
		4.0767416621*l - 3.3077115913*m + 0.2309699292*s,
		-1.2684380046*l + 2.6097574011*m - 0.3413193965*s,
		-0.0041960863*l - 0.7034186147*m + 1.7076147010*s,
	}
}

// Distance is the Euclidean distance in OKLab (0-1; 0.02 is just noticeable).
func (o OKLab) Distance(p OKLab) float64 {
	return math.Sqrt(sq(o.L-p.L) + sq(o.A-p.A) + sq(o.B-p.B))
}

func sq(v float64) float64 { return v * v }

// LCh returns the polar form; the hue of a grey is 0.
func (o OKLab) LCh() OKLCh {
	c := math.Hypot(o.A, o.B)
	if c < 1e-7 {
		return OKLCh{o.L, 0, 0}
	}
	return OKLCh{o.L, c, positiveDegrees(math.Atan2(o.B, o.A))}
}

func positiveDegrees(rad float64) float64 {
	d := rad * 180 / math.Pi
	if d < 0 {
		d += 360
	}
	return d
}

// Lab returns the rectangular form.
func (o OKLCh) Lab() OKLab {
	s, c := math.Sincos(o.H * math.Pi / 180)
	return OKLab{o.L, o.C * c, o.C * s}
}

// OKLCh returns the colour in OKLCh.
func (c RGB) OKLCh() OKLCh { return c.OKLab().LCh() }

// RGB maps into the sRGB gamut by reducing chroma at constant lightness and
// hue until clipping is not noticeable: CSS Color 4, section 13.2, "Sample
// pseudocode for the binary search gamut mapping algorithm with local MINDE".
func (o OKLCh) RGB() RGB {
	if o.L >= 1 {
		return White
	}
	if o.L <= 0 {
		return Black
	}
	lin := o.Lab().Linear()
	if lin.InGamut() {
		return lin.Clip()
	}
	const jnd, epsilon = 0.02, 0.0001
	current := o
	clipped := clip(lin)
	if clipped.OKLab().Distance(current.Lab()) < jnd {
		return clipped.Clip()
	}
	min, max, minInGamut := 0.0, o.C, true
	for max-min > epsilon {
		current.C = (min + max) / 2
		lin = current.Lab().Linear()
		if minInGamut && lin.InGamut() {
			min = current.C
			continue
		}
		clipped = clip(lin)
		e := clipped.OKLab().Distance(current.Lab())
		if e < jnd {
			if jnd-e < epsilon {
				break
			}
			minInGamut = false
			min = current.C
		} else {
			max = current.C
		}
	}
	return clipped.Clip()
}

func clip(l Linear) Linear {
	c := func(v float64) float64 { return math.Min(1, math.Max(0, v)) }
	return Linear{c(l.R), c(l.G), c(l.B)}
}

// HSL converts by CSS Color 4, section 7.
func (c RGB) HSL() HSL {
	r, g, b := float64(c.R)/255, float64(c.G)/255, float64(c.B)/255
	hi, lo := math.Max(r, math.Max(g, b)), math.Min(r, math.Min(g, b))
	l, d := (hi+lo)/2, hi-lo
	if d == 0 {
		return HSL{0, 0, l}
	}
	var h float64
	switch hi {
	case r:
		h = (g - b) / d
		if h < 0 {
			h += 6
		}
	case g:
		h = (b-r)/d + 2
	default:
		h = (r-g)/d + 4
	}
	return HSL{h * 60, (hi - l) / math.Min(l, 1-l), l}
}

// RGB converts by CSS Color 4, section 7.1 (hslToRgb).
func (h HSL) RGB() RGB {
	f := func(n float64) uint8 {
		k := math.Mod(n+h.H/30, 12)
		a := h.S * math.Min(h.L, 1-h.L)
		v := h.L - a*math.Max(-1, math.Min(math.Min(k-3, 9-k), 1))
		return uint8(math.Round(math.Min(1, math.Max(0, v)) * 255))
	}
	return RGB{f(0), f(8), f(4)}
}
