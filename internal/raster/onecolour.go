package raster

import (
	"bytes"
	"fmt"
	"image"
	imagedraw "image/draw"
	"image/png"
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// oneColour draws a bitmap logo in one ink, as PNG: its box goes, its details are cut
// out, and what is mixed of two colours along their edge becomes partly clear.
func oneColour(art *brand.Art, ink colour.RGB) ([]byte, error) {
	img, err := png.Decode(bytes.NewReader(art.Bitmap))
	if err != nil {
		return nil, fmt.Errorf("%w: the bitmap cannot be read", ErrFile)
	}
	size := img.Bounds().Size()
	out := image.NewNRGBA(image.Rect(0, 0, size.X, size.Y))
	imagedraw.Draw(out, out.Rect, img, img.Bounds().Min, imagedraw.Src)
	if art.Box != nil {
		out.Pix = colour.CutOut(colour.Pixels{W: size.X, H: size.Y, Pix: out.Pix}, *art.Box, art.Inks).Pix
	}
	known := map[colour.RGB]float64{} // flat artwork has few colours
	for i := 0; i < len(out.Pix); i += 4 {
		px := out.Pix[i : i+4]
		if px[3] == 0 {
			continue
		}
		c := colour.RGB{R: px[0], G: px[1], B: px[2]}
		kept, ok := known[c]
		if !ok {
			kept = keptOf(art, c)
			known[c] = kept
		}
		px[0], px[1], px[2], px[3] = ink.R, ink.G, ink.B, uint8(float64(px[3])*kept+0.5)
	}
	var b bytes.Buffer
	err = png.Encode(&b, out)
	return b.Bytes(), err
}

// keptOf is how much of a px of a logo is ink, 0-1: none where it is a detail on another
// colour, part of it on the way between the two.
func keptOf(art *brand.Art, v colour.RGB) float64 {
	best, kept := math.Inf(1), 1.0
	for i, f := range art.Inks {
		if d := colour.DeltaE(v, f.Colour); d < best {
			best, kept = d, 1
			if i < len(art.Hosts) && art.Hosts[i] >= 0 {
				kept = 0
			}
		}
	}
	if best < 4 { // one of its colours
		return kept
	}
	for i, f := range art.Inks {
		if i >= len(art.Hosts) || art.Hosts[i] < 0 || art.Hosts[i] >= len(art.Inks) {
			continue
		}
		host := art.Inks[art.Hosts[i]].Colour
		share, along := 0.0, 0.0 // of the detail in the mixture
		for _, c := range [3][3]uint8{{v.R, host.R, f.Colour.R}, {v.G, host.G, f.Colour.G}, {v.B, host.B, f.Colour.B}} {
			d := float64(c[2]) - float64(c[1])
			share, along = share+(float64(c[0])-float64(c[1]))*d, along+d*d
		}
		if along == 0 {
			continue
		}
		share = math.Max(0, math.Min(1, share/along))
		if mix := f.Colour.Over(host, share); colour.DeltaE(mix, v) < best {
			best, kept = colour.DeltaE(mix, v), 1-share
		}
	}
	return kept
}
