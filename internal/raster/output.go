package raster

import (
	"aspenridge/internal/cache"
	"bytes"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"math"
	"os"
	"os/exec"
	"regexp"
	"strconv"
	"strings"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// Formats lists the file formats that can be written.
var Formats = spec.FormatNames(nil)

// Extension is the file name ending of a format.
func Extension(format string) string {
	f, _ := spec.FormatOf(format)
	return f.Extension
}

// Source gives the bytes of a picture by its hash.
type Source func(hash string) ([]byte, error)

// Studio draws scenes. It keeps cut and scaled pictures, since a set shows the
// same crops again and again. Safe for concurrent use.
type Studio struct {
	source Source
	crops  *cache.Cache[cropKey, crop]
}

// cropBytes is how much memory crops may take.
const cropBytes = 96 << 20

type cropKey struct {
	ref  scene.PictureRef
	w, h int
}

type crop struct {
	data []byte
	kind string
}

// NewStudio makes a studio over a source of pictures.
func NewStudio(source Source) *Studio {
	return &Studio{source, cache.New[cropKey](cropBytes, func(c crop) int { return len(c.data) })}
}

// Crop cuts a picture and scales it to w x h px. It returns the bytes and their
// media type.
func (s *Studio) Crop(ctx context.Context, ref scene.PictureRef, w, h int) ([]byte, string, error) {
	key := cropKey{ref, w, h}
	if c, ok := s.crops.Get(key); ok {
		return c.data, c.kind, nil
	}
	data, err := s.source(ref.Hash)
	if err != nil {
		return nil, "", err
	}
	a, err := drawers().do(ctx, task{Cut: &cutTask{data, ref, w, h}})
	if err != nil {
		return nil, "", fmt.Errorf("picture %.8s: %w", ref.Hash, err)
	}
	s.crops.Put(key, crop{a.Data, a.Kind})
	return a.Data, a.Kind, nil
}

// cut runs in a worker.
func cut(data []byte, ref scene.PictureRef, w, h int) (out []byte, kind string, err error) {
	start()
	params := vips.NewImportParams()
	shrink := 1
	if Kind(data) == "jpeg" { // let the decoder do the coarse part of scaling down
		for shrink < 8 && ref.Crop.W/float64(w) >= float64(shrink*2) {
			shrink *= 2
		}
		if shrink > 1 {
			params.JpegShrinkFactor.Set(shrink)
		}
	}
	img, err := vips.LoadImageFromBuffer(data, params)
	if err != nil {
		return nil, "", firstLine(err)
	}
	defer img.Close()
	k := 1 / float64(shrink)
	x, y := int(math.Round(ref.Crop.X*k)), int(math.Round(ref.Crop.Y*k))
	cw, ch := int(math.Round(ref.Crop.W*k)), int(math.Round(ref.Crop.H*k))
	x, y = max(0, min(x, img.Width()-1)), max(0, min(y, img.Height()-1))
	cw, ch = max(1, min(cw, img.Width()-x)), max(1, min(ch, img.Height()-y))
	if err := img.ExtractArea(x, y, cw, ch); err != nil {
		return nil, "", firstLine(err)
	}
	if err := img.ResizeWithVScale(float64(w)/float64(cw), float64(h)/float64(ch), vips.KernelLanczos3); err != nil {
		return nil, "", firstLine(err)
	}
	if err := dial(img, ref.Dials); err != nil {
		return nil, "", firstLine(err)
	}
	if err := tone(img, ref.Tone); err != nil {
		return nil, "", firstLine(err)
	}
	if img.HasAlpha() {
		out, _, err = img.ExportPng(&vips.PngExportParams{StripMetadata: true, Compression: 4})
		return out, "image/png", err
	}
	out, _, err = img.ExportJpeg(&vips.JpegExportParams{StripMetadata: true, Quality: 92, SubsampleMode: vips.VipsForeignSubsampleOff})
	return out, "image/jpeg", err
}

// Output says how a scene becomes a file.
type Output struct {
	Format string  // one of [Formats]
	Scale  float64 // px of the file per px of the scene, 0 means 1
	Bare   bool    // without the glyphs of words
	Fast   bool    // PNG at level 1 without filter
	IDs    string  // prefix of ids, for drawings that share a page

	View        spec.Rect // the part of the scene that is drawn, px of it; the whole where it is empty
	Quality     int       // of JPEG, WebP and AVIF, 1-100; 0 means 90
	Transparent bool      // without the ground, in formats that can do without
}

// clear reports whether the ground is left out.
func (o Output) clear() bool {
	f, _ := spec.FormatOf(o.Format)
	return o.Transparent && f.Clear
}

// MaxOutput is the most px a side of an output may have.
const MaxOutput = 16_384

// check refuses what no file of the format can hold. Errors wrap [ErrSize].
func (o Output) check(sc *scene.Scene) error {
	most := MaxOutput
	if f, _ := spec.FormatOf(o.Format); f.Side > 0 {
		most = min(most, f.Side)
	}
	if o.Scale*float64(max(sc.W, sc.H)) > float64(most) {
		return fmt.Errorf("%w: %d × %d px at scale %g in %s: at most %d px on a side", ErrSize, sc.W, sc.H, o.Scale, o.Format, most)
	}
	return nil
}

// ErrSize means a file would have more px than its format holds.
var ErrSize = errors.New("that is larger than a file can be")

// SVG writes a scene with its pictures inside, at the resolution it is shown.
func (s *Studio) SVG(ctx context.Context, sc *scene.Scene, o Output) (string, error) {
	if o.Scale == 0 {
		o.Scale = 1
	}
	if o.clear() {
		sc = sc.WithoutGround()
	}
	var failed error
	svg := sc.SVG(scene.Options{
		Bare: o.Bare, IDs: o.IDs, Selectable: o.Format == "pdf" && !o.Bare, Scale: o.Scale, View: o.View,
		Href: func(ref scene.PictureRef) string {
			if failed != nil {
				return ""
			}
			w, h := max(1, int(math.Round(ref.W*o.Scale))), max(1, int(math.Round(ref.H*o.Scale)))
			data, kind, err := s.Crop(ctx, ref, w, h)
			if err != nil {
				failed = err
				return ""
			}
			return "data:" + kind + ";base64," + base64.StdEncoding.EncodeToString(data)
		},
	})
	return svg, failed
}

// Render draws a scene as a file. The same scene, pictures and options give
// the same bytes.
func (s *Studio) Render(ctx context.Context, sc *scene.Scene, o Output) ([]byte, error) {
	if o.Scale == 0 {
		o.Scale = 1
	}
	if err := o.check(sc); err != nil {
		return nil, err
	}
	svg, err := s.SVG(ctx, sc, o)
	if err != nil {
		return nil, err
	}
	return s.Draw(ctx, svg, o)
}

// Draw turns an SVG this package has written into a file of the format; scale
// and words are as they were when it was written.
func (s *Studio) Draw(ctx context.Context, svg string, o Output) ([]byte, error) {
	switch o.Format {
	case "svg":
		return []byte(svg), nil
	case "pdf":
		return pdf(ctx, svg)
	}
	a, err := drawers().do(ctx, task{Draw: &drawTask{SVG: svg, Out: o, Pixels: pixelsOf(svg)}})
	return a.Data, err
}

// pixelsOf is how many px an SVG this package has written is drawn at.
func pixelsOf(svg string) int {
	m := drawnSize.FindStringSubmatch(svg[:min(len(svg), 400)])
	if m == nil {
		return 0
	}
	w, _ := strconv.ParseFloat(m[1], 64)
	h, _ := strconv.ParseFloat(m[2], 64)
	return int(w * h)
}

var drawnSize = regexp.MustCompile(` width="([\d.]+)" height="([\d.]+)"`)

// drawFile runs in a worker.
func drawFile(svg string, o Output) ([]byte, error) {
	img, err := draw(svg, o)
	if err != nil {
		return nil, err
	}
	defer img.Close()
	return encode(img, o)
}

// draw rasters our own SVG: onto opaque sRGB unless it is to be seen through.
func draw(svg string, o Output) (*vips.ImageRef, error) {
	start()
	img, err := vips.LoadImageFromBuffer([]byte(svg), vips.NewImportParams())
	if err != nil {
		return nil, firstLine(err)
	}
	if img.HasAlpha() && !o.clear() { // every piece has a ground: nothing shows through
		if err := img.ExtractBand(0, 3); err != nil {
			img.Close()
			return nil, firstLine(err)
		}
	}
	return img, nil
}

// avifEffort is how long an AVIF is worked on, 0 to 9.
const avifEffort = 3

func encode(img *vips.ImageRef, o Output) ([]byte, error) {
	var out []byte
	var err error
	quality := o.Quality
	if quality == 0 {
		quality = bestQuality
	}
	switch o.Format {
	case "png":
		p := &vips.PngExportParams{StripMetadata: true, Compression: 6, Filter: vips.PngFilterAll}
		if o.Fast {
			p.Compression, p.Filter = 1, vips.PngFilterNone
		}
		out, _, err = img.ExportPng(p)
	case "jpeg":
		out, _, err = img.ExportJpeg(&vips.JpegExportParams{StripMetadata: true, Quality: quality, SubsampleMode: vips.VipsForeignSubsampleOff, OptimizeCoding: true})
	case "webp":
		out, _, err = img.ExportWebp(&vips.WebpExportParams{StripMetadata: true, Quality: quality, ReductionEffort: 4})
	case "avif":
		out, _, err = img.ExportAvif(&vips.AvifExportParams{StripMetadata: true, Quality: quality, Effort: avifEffort})
	default:
		return nil, fmt.Errorf("format %q: want one of %s", o.Format, strings.Join(Formats, ", "))
	}
	if err != nil {
		return nil, firstLine(err)
	}
	return out, nil
}

// pdf draws through rsvg-convert, since libvips writes none.
func pdf(ctx context.Context, svg string) ([]byte, error) {
	cmd := exec.CommandContext(ctx, "rsvg-convert", "-f", "pdf", "--dpi-x=96", "--dpi-y=96")
	cmd.Env = append(os.Environ(), "SOURCE_DATE_EPOCH=1767225600", "TZ=UTC")
	cmd.Stdin = strings.NewReader(svg)
	var stdout, stderr bytes.Buffer
	cmd.Stdout, cmd.Stderr = &stdout, &limited{&stderr, 2000}
	if err := cmd.Run(); err != nil {
		return nil, fmt.Errorf("rsvg-convert: %v %s", err, strings.TrimSpace(stderr.String()))
	}
	return stdout.Bytes(), nil
}
