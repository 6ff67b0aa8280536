package reel

import (
	"math"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
)

// tint is what the dials and the tone of a picture do to the pixels of a clip that runs in
// its frame, as the still has them; nil leaves them as they are.
type tint struct {
	dialled bool
	matrix  [3][3]int32    // of 65536
	off     [3]int32       // of 65536 x 255
	toned   bool           //
	linear  [256][3]uint32 // what red, green and blue add to the light of a grey, of greyLevels
	ramp    [greyLevels + 1]colour.RGB
}

// greyLevels is in how many steps of light a tone is looked up.
const greyLevels = 4095

func tintOf(t scene.Tone, d scene.Dials) *tint {
	if !t.On() && !d.On() {
		return nil
	}
	out := &tint{dialled: d.On(), toned: t.On()}
	m, off := d.Matrix()
	for i := range 3 {
		for j := range 3 {
			out.matrix[i][j] = int32(math.Round(65536 * m[i][j]))
		}
		out.off[i] = int32(math.Round(65536 * 255 * off[i]))
	}
	if !t.On() {
		return out
	}
	luma := [3]float64{0.2126, 0.7152, 0.0722}
	for v := range out.linear {
		l := colour.RGB{R: uint8(v)}.Linear().R
		for k := range 3 {
			out.linear[v][k] = uint32(math.Round(greyLevels * luma[k] * l))
		}
	}
	for i := range out.ramp { // a grey of so much light, as it is stored
		light := float64(i) / greyLevels
		out.ramp[i] = t.At(float64(colour.Linear{R: light, G: light, B: light}.Clip().R) / 255)
	}
	return out
}

// dye tints pixels of four bytes.
func (t *tint) dye(pix []byte) {
	if t == nil {
		return
	}
	for i := 0; i+3 < len(pix); i += 4 {
		p := pix[i : i+3 : i+3]
		if t.dialled {
			r, g, b := int32(p[0]), int32(p[1]), int32(p[2])
			for k := range 3 {
				v := (t.matrix[k][0]*r + t.matrix[k][1]*g + t.matrix[k][2]*b + t.off[k]) >> 16
				p[k] = byte(max(0, min(255, v)))
			}
		}
		if t.toned {
			light := t.linear[p[0]][0] + t.linear[p[1]][1] + t.linear[p[2]][2]
			c := t.ramp[min(light, greyLevels)]
			p[0], p[1], p[2] = c.R, c.G, c.B
		}
	}
}
