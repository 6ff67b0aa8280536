package raster

import (
	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/scene"
)

// dial turns the dials of a picture: one matrix over red, green and blue; an alpha channel
// stays as it is.
func dial(img *vips.ImageRef, d scene.Dials) error {
	if !d.On() {
		return nil
	}
	if err := img.ToColorSpace(vips.InterpretationSRGB); err != nil {
		return err
	}
	var alpha *vips.ImageRef
	var err error
	if img.HasAlpha() {
		if alpha, err = img.ExtractBandToImage(img.Bands()-1, 1); err != nil {
			return err
		}
		defer alpha.Close()
		if err := img.ExtractBand(0, img.Bands()-1); err != nil {
			return err
		}
	}
	m, off := d.Matrix()
	if err := img.Recomb([][]float64{m[0][:], m[1][:], m[2][:]}); err != nil {
		return err
	}
	if err := img.Linear([]float64{1, 1, 1}, []float64{255 * off[0], 255 * off[1], 255 * off[2]}); err != nil {
		return err
	}
	if err := img.Cast(vips.BandFormatUchar); err != nil {
		return err
	}
	if alpha == nil {
		return nil
	}
	return img.BandJoin(alpha)
}
