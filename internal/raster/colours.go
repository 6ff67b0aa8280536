package raster

import (
	"context"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/colour"
)

// paletteSide is the long side in px a picture is reduced to before its colours
// are counted: they move by less than CIEDE2000 1 from there to the full size.
const paletteSide = 128

// Colours finds up to n colours that make up a picture as [Import] keeps it, most
// used first.
func Colours(ctx context.Context, data []byte, n int) ([]colour.Found, error) {
	a, err := drawers().do(ctx, task{Colours: &coloursTask{data, n}})
	return a.Found, err
}

func colours(data []byte, n int) ([]colour.Found, error) {
	start()
	img, err := vips.NewThumbnailFromBuffer(data, paletteSide, paletteSide, vips.InterestingNone)
	if err != nil {
		return nil, firstLine(err)
	}
	defer img.Close()
	p, err := pixels(img)
	if err != nil {
		return nil, firstLine(err)
	}
	return colour.ExtractPhoto(p, n), nil
}
