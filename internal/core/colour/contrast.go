package colour

// Luminance is WCAG 2.2 relative luminance, 0-1.
func (c RGB) Luminance() float64 {
	return 0.2126*decoded[c.R] + 0.7152*decoded[c.G] + 0.0722*decoded[c.B]
}

// Contrast is the WCAG 2.2 contrast ratio of two opaque colours, 1-21.
func Contrast(a, b RGB) float64 { return ContrastLuminance(a.Luminance(), b.Luminance()) }

// ContrastLuminance is the WCAG 2.2 ratio of two relative luminances.
func ContrastLuminance(a, b float64) float64 {
	if a < b {
		a, b = b, a
	}
	return (a + 0.05) / (b + 0.05)
}

// Over blends c with opacity alpha (0-1) over a ground, in encoded sRGB as
// SVG and CSS do.
func (c RGB) Over(ground RGB, alpha float64) RGB {
	m := func(a, b uint8) uint8 { return uint8(float64(a)*alpha + float64(b)*(1-alpha) + 0.5) }
	return RGB{m(c.R, ground.R), m(c.G, ground.G), m(c.B, ground.B)}
}
