package stage

import (
	"bytes"
	"image"
	"image/color"
	"image/jpeg"
)

// Photo is a JPEG of soft light over noise, no two pixels alike: what a photograph is
// to whoever tells it from a drawing.
func Photo(w, h int) []byte {
	img := image.NewRGBA(image.Rect(0, 0, w, h))
	noise := uint32(7)
	for i := range w * h {
		noise = noise*1664525 + 1013904223
		x, y := i%w, i/w
		img.Set(x, y, color.RGBA{uint8(160*x/w + int(noise>>28)), uint8(40 + 120*y/h + int(noise>>27)), uint8(200 - 120*y/h), 255})
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		panic(err) // into memory
	}
	return b.Bytes()
}
