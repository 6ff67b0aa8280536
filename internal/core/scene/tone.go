package scene

import (
	"fmt"

	"aspenridge/internal/core/colour"
)

// Tone draws a picture in the colours between two kit colours: its black point
// (0-1 of grey) and what is darker in the first, its white point and what is
// lighter in the second. The zero value draws it as it is.
type Tone struct {
	Dark, Light  colour.RGB
	Black, White float64
}

// On reports whether there is a tone.
func (t Tone) On() bool { return t.White > t.Black }

// At is the colour a grey (0-1) is drawn in.
func (t Tone) At(grey float64) colour.RGB {
	return t.Light.Over(t.Dark, max(0, min(1, (grey-t.Black)/(t.White-t.Black))))
}

// Between is what the tone draws px between two colours between, channel by channel: its two
// colours at the least and the greatest luma they can have.
func (t Tone) Between(lo, hi colour.RGB) (colour.RGB, colour.RGB) {
	luma := func(c colour.RGB) float64 {
		return (0.299*float64(c.R) + 0.587*float64(c.G) + 0.114*float64(c.B)) / 255
	}
	a, b := t.At(luma(lo)), t.At(luma(hi))
	return colour.RGB{R: min(a.R, b.R), G: min(a.G, b.G), B: min(a.B, b.B)}, colour.RGB{R: max(a.R, b.R), G: max(a.G, b.G), B: max(a.B, b.B)}
}

// String is the tone as an address says it, "" for none.
func (t Tone) String() string {
	if !t.On() {
		return ""
	}
	return fmt.Sprintf("%s-%s-%.4f-%.4f", t.Dark.Hex()[1:], t.Light.Hex()[1:], t.Black, t.White)
}

// ParseTone reads what [Tone.String] writes.
func ParseTone(s string) (Tone, error) {
	var t Tone
	if s == "" {
		return t, nil
	}
	d, l := &t.Dark, &t.Light
	if _, err := fmt.Sscanf(s, "%2x%2x%2x-%2x%2x%2x-%f-%f", &d.R, &d.G, &d.B, &l.R, &l.G, &l.B, &t.Black, &t.White); err != nil || !t.On() || t.Black < 0 || t.White > 1 {
		return Tone{}, fmt.Errorf("tone %q: want two colours and two greys, like 0F3D4C-F6EBD6-0.1000-0.9000", s)
	}
	return t, nil
}
