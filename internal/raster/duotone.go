package raster

import (
	"bytes"
	"image"
	"image/color"
	"image/png"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/scene"
)

// tone draws a picture in the colours between two: its grey looked up among them,
// so that screen, file and film show the same. What is seen through stays so.
func tone(img *vips.ImageRef, t scene.Tone) error {
	if !t.On() {
		return nil
	}
	ramp := image.NewNRGBA(image.Rect(0, 0, 256, 1))
	for i := range 256 {
		c := t.At(float64(i) / 255)
		ramp.SetNRGBA(i, 0, color.NRGBA{R: c.R, G: c.G, B: c.B, A: 255})
	}
	var b bytes.Buffer
	if err := png.Encode(&b, ramp); err != nil {
		return err
	}
	lut, err := vips.LoadImageFromBuffer(b.Bytes(), vips.NewImportParams())
	if err != nil {
		return err
	}
	defer lut.Close()
	if lut.HasAlpha() {
		if err := lut.ExtractBand(0, 3); err != nil {
			return err
		}
	}
	var alpha *vips.ImageRef
	if img.HasAlpha() {
		if alpha, err = img.ExtractBandToImage(img.Bands()-1, 1); err != nil {
			return err
		}
		defer alpha.Close()
		if err := img.ExtractBand(0, img.Bands()-1); err != nil {
			return err
		}
	}
	if err := img.ToColorSpace(vips.InterpretationBW); err != nil {
		return err
	}
	if err := img.Maplut(lut); err != nil {
		return err
	}
	if alpha == nil {
		return nil
	}
	return img.BandJoin(alpha)
}
