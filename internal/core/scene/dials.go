package scene

import (
	"fmt"
	"math"

	"aspenridge/internal/core/colour"
)

// Dials change how a picture looks, each from -1 to 1; the zero value leaves it as it is.
type Dials struct {
	Brightness float64 `json:"brightness,omitempty"`
	Contrast   float64 `json:"contrast,omitempty"`
	Saturation float64 `json:"saturation,omitempty"` // -1 is grey
	Warmth     float64 `json:"warmth,omitempty"`     // below 0 cooler
}

// How much a dial does at its end, of the whole range of a channel.
const (
	brightest = 0.4
	warmest   = 0.12
)

// On reports whether a dial is turned.
func (d Dials) On() bool { return d != Dials{} }

// Matrix is what the dials do to red, green and blue (0-1, as stored): out = m·in + off.
// Saturation blends with the luma of Rec. 709, contrast turns about the middle.
func (d Dials) Matrix() (m [3][3]float64, off [3]float64) {
	luma := [3]float64{0.2126, 0.7152, 0.0722}
	k, s := 1+d.Contrast, 1+d.Saturation
	warm := [3]float64{warmest * d.Warmth, warmest / 6 * d.Warmth, -warmest * d.Warmth}
	for i := range 3 {
		for j := range 3 {
			m[i][j] = k * (1 - s) * luma[j]
		}
		m[i][i] += k * s
		off[i] = 0.5*(1-k) + brightest*d.Brightness + warm[i]
	}
	return m, off
}

// Bounds are the least and the largest values colours between two have under the dials,
// channel by channel.
func (d Dials) Bounds(lo, hi colour.RGB) (colour.RGB, colour.RGB) {
	m, off := d.Matrix()
	l, h := [3]uint8{lo.R, lo.G, lo.B}, [3]uint8{hi.R, hi.G, hi.B}
	var a, b [3]uint8
	for i := range 3 {
		least, most := 255*off[i], 255*off[i]
		for j := range 3 {
			x, y := m[i][j]*float64(l[j]), m[i][j]*float64(h[j])
			least, most = least+math.Min(x, y), most+math.Max(x, y)
		}
		a[i], b[i] = uint8(math.Max(0, math.Min(255, math.Floor(least)))), uint8(math.Max(0, math.Min(255, math.Ceil(most))))
	}
	return colour.RGB{R: a[0], G: a[1], B: a[2]}, colour.RGB{R: b[0], G: b[1], B: b[2]}
}

// String is the dials as an address says them, "" for none.
func (d Dials) String() string {
	if !d.On() {
		return ""
	}
	return fmt.Sprintf("%.3f,%.3f,%.3f,%.3f", d.Brightness, d.Contrast, d.Saturation, d.Warmth)
}

// ParseDials reads what [Dials.String] writes.
func ParseDials(s string) (d Dials, err error) {
	if s == "" {
		return d, nil
	}
	_, err = fmt.Sscanf(s, "%f,%f,%f,%f", &d.Brightness, &d.Contrast, &d.Saturation, &d.Warmth)
	if err == nil {
		err = d.Check()
	}
	if err != nil {
		return Dials{}, fmt.Errorf("dials %q: want four numbers from -1 to 1, like 0.100,0,-0.500,0", s)
	}
	return d, nil
}

// Check reports a dial that is turned too far.
func (d Dials) Check() error {
	for _, v := range []float64{d.Brightness, d.Contrast, d.Saturation, d.Warmth} {
		if !(v >= -1 && v <= 1) {
			return fmt.Errorf("%v: want dials from -1 to 1", v)
		}
	}
	return nil
}
