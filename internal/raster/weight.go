package raster

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"slices"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Fitted is a file drawn to keep to a limit of bytes.
type Fitted struct {
	Data    []byte
	Format  string
	How     string // what was done to meet the limit, "" for nothing
	TooMuch bool   // nothing helped: it is over the limit all the same
}

// The qualities a file may have, best first steps of one; under the
// least, edges of type fray.
const (
	bestQuality  = 90
	leastQuality = 45
)

// Fit draws a scene in one format and meets a limit of bytes where it can: a
// PNG by up to 256 colours, the scene's own kept exact, a JPEG, WebP or
// AVIF by the best quality that is light enough. Without a limit, and for formats without
// [spec.Means], it is [Studio.Render]. A drawing without its words is treated as the one with them
// would be, so that the two differ in nothing but the words.
func (s *Studio) Fit(ctx context.Context, sc *scene.Scene, o Output, limit int) (Fitted, error) {
	whole := o
	whole.Bare = false
	data, err := s.Render(ctx, sc, whole)
	f := Fitted{Data: data, Format: o.Format}
	if err != nil {
		return f, err
	}
	if limit <= 0 || len(data) <= limit {
		if o.Bare {
			f.Data, err = s.Render(ctx, sc, o)
		}
		return f, err
	}
	f.TooMuch = true
	switch kind, _ := spec.FormatOf(o.Format); kind.Lighter {
	case spec.ByQuality:
		return s.fitQuality(ctx, sc, o, limit)
	case spec.ByPalette:
		return s.fitPNG(ctx, sc, o, limit, f)
	}
	if o.Bare {
		f.Data, err = s.Render(ctx, sc, o)
	}
	return f, err
}

func (s *Studio) fitPNG(ctx context.Context, sc *scene.Scene, o Output, limit int, f Fitted) (Fitted, error) {
	bare := o
	bare.Bare = true
	ground, err := s.Render(ctx, sc, bare)
	if err != nil {
		return f, err
	}
	a, err := drawers().do(ctx, task{Palette: &paletteTask{f.Data, ground, exact(sc), o.Bare, limit}})
	if err != nil {
		return f, err
	}
	f.Data, f.How = a.Data, a.How
	f.TooMuch = a.Heavy || a.How == ""
	return f, nil
}

// run writes a PNG in 256 colours; where that is no lighter, How is empty and it
// stays as it was. Heavy is left to who knows the limit.
func (t paletteTask) run() (answer, error) {
	pal, err := palette(t.Ground, t.Exact)
	if err != nil {
		return answer{}, err
	}
	small, err := mapPNG(t.Whole, pal)
	if err != nil {
		return answer{}, err
	}
	a := answer{Data: small, How: "256 colours", Heavy: len(small) > t.Limit}
	if len(small) >= len(t.Whole) {
		a = answer{Data: t.Whole}
		if t.Bare {
			a.Data = t.Ground
		}
		return a, nil
	}
	if t.Bare {
		a.Data, err = mapPNG(t.Ground, pal)
	}
	return a, err
}

// searchPixels is how many px a search for a quality may encode in all, besides
// the first try: a large file gets fewer steps, so that no search takes many
// times as long as its drawing.
const searchPixels = 200e6

// fitQuality finds the best quality that meets the limit.
func (s *Studio) fitQuality(ctx context.Context, sc *scene.Scene, o Output, limit int) (Fitted, error) {
	f := Fitted{Format: o.Format}
	whole := o
	whole.Bare = false
	svg, err := s.SVG(ctx, sc, whole)
	if err != nil {
		return f, err
	}
	t := drawTask{SVG: svg, Out: o, Pixels: pixelsOf(svg), Limit: limit}
	if o.Bare {
		if t.Bare, err = s.SVG(ctx, sc, o); err != nil {
			return f, err
		}
	}
	a, err := drawers().do(ctx, task{Weigh: &t})
	f.Data, f.How, f.TooMuch = a.Data, a.How, a.Heavy
	return f, err
}

// weigh finds the best quality that meets the limit by halving; it runs in a
// worker.
func (t drawTask) weigh() (a answer, err error) {
	o := t.Out
	img, err := draw(t.SVG, o)
	if err != nil {
		return a, err
	}
	defer img.Close()
	steps := int(searchPixels / float64(img.Width()*img.Height()))
	low, high := leastQuality, bestQuality // low is taken when nothing is light enough; high is too heavy
	o.Quality = low
	if a.Data, err = encode(img, o); err != nil {
		return a, err
	}
	a.Heavy = len(a.Data) > t.Limit
	for ; steps > 0 && !a.Heavy && high-low > 1; steps-- {
		o.Quality = (low + high) / 2
		data, err := encode(img, o)
		if err != nil {
			return a, err
		}
		if len(data) <= t.Limit {
			low, a.Data = o.Quality, data
		} else {
			high = o.Quality
		}
	}
	a.How = fmt.Sprintf("quality %d", low)
	if t.Bare != "" {
		o.Quality = low
		a.Data, err = drawFile(t.Bare, o)
	}
	return a, err
}

// FitAny draws a scene in the first of the formats that meets the limit, or in
// the lightest when none does.
func (s *Studio) FitAny(ctx context.Context, sc *scene.Scene, o Output, limit int, formats []string) (Fitted, error) {
	var best Fitted
	for i, format := range formats {
		o.Format = format
		f, err := s.Fit(ctx, sc, o, limit)
		if err != nil {
			return f, err
		}
		if !f.TooMuch {
			if i > 0 {
				f.How = join("as "+format+" instead of "+formats[0]+" for its weight", f.How)
			}
			return f, nil
		}
		if best.Data == nil || len(f.Data) < len(best.Data) {
			best = f
		}
	}
	return best, nil
}

func join(a, b string) string {
	if b == "" {
		return a
	}
	return a + ", " + b
}

// exact are the flat colours of a scene, which a palette keeps as they are.
func exact(sc *scene.Scene) []colour.RGB {
	var out []colour.RGB
	add := func(c colour.RGB) {
		if !slices.Contains(out, c) {
			out = append(out, c)
		}
	}
	for _, p := range sc.Parts {
		if p.Kind == scene.KindPicture || p.Kind == scene.KindLogo || p.Kind == scene.KindIcon {
			continue
		}
		add(p.Fill)
		for _, l := range p.Lines {
			if l.Fill != nil {
				add(*l.Fill)
			}
		}
	}
	return out
}

// palette chooses up to 256 colours for a drawing: the kept ones as they are,
// the rest as libvips' quantiser finds them.
func palette(data []byte, keep []colour.RGB) (color.Palette, error) {
	start()
	img, err := vips.NewImageFromBuffer(data)
	if err != nil {
		return nil, firstLine(err)
	}
	defer img.Close()
	out, _, err := img.ExportPng(&vips.PngExportParams{StripMetadata: true, Compression: 1, Palette: true, Quality: 100, Bitdepth: 8})
	if err != nil {
		return nil, firstLine(err)
	}
	drawn, err := png.Decode(bytes.NewReader(out))
	if err != nil {
		return nil, err
	}
	var pal color.Palette
	for _, c := range keep {
		pal = append(pal, color.NRGBA{R: c.R, G: c.G, B: c.B, A: 255})
	}
	if p, ok := drawn.(*image.Paletted); ok {
		for _, e := range p.Palette {
			c := color.NRGBAModel.Convert(e).(color.NRGBA)
			near := func(k colour.RGB) bool {
				return c.A == 255 && colour.DeltaE(k, colour.RGB{R: c.R, G: c.G, B: c.B}) < 1.5
			}
			if !slices.ContainsFunc(keep, near) && len(pal) < 256 {
				pal = append(pal, c)
			}
		}
	}
	// the edges of words run from their ink to the ground: a step between any two
	// of the kept colours, as far as there is room
	for i, a := range keep {
		for _, b := range keep[i+1:] {
			if len(pal) < 256 {
				pal = append(pal, color.NRGBA{R: uint8((int(a.R) + int(b.R)) / 2), G: uint8((int(a.G) + int(b.G)) / 2), B: uint8((int(a.B) + int(b.B)) / 2), A: 255})
			}
		}
	}
	return pal, nil
}

// mapPNG writes a PNG in the colours of a palette, each pixel in the nearest,
// without dithering: the same colour always becomes the same.
func mapPNG(data []byte, pal color.Palette) ([]byte, error) {
	src, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	b := src.Bounds()
	out := image.NewPaletted(b, pal)
	index := map[color.NRGBA]uint8{}
	for y := b.Min.Y; y < b.Max.Y; y++ {
		for x := b.Min.X; x < b.Max.X; x++ {
			c := color.NRGBAModel.Convert(src.At(x, y)).(color.NRGBA)
			i, ok := index[c]
			if !ok {
				i = uint8(pal.Index(c))
				index[c] = i
			}
			out.SetColorIndex(x, y, i)
		}
	}
	var buf bytes.Buffer
	enc := png.Encoder{CompressionLevel: png.BestCompression}
	err = enc.Encode(&buf, out)
	return buf.Bytes(), err
}
