package raster

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"
	"strings"
	"time"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
)

// load decodes into upright sRGB with 8 bits and straight alpha.
func load(data []byte) (*vips.ImageRef, error) {
	start()
	params := vips.NewImportParams()
	img, err := vips.LoadImageFromBuffer(data, params)
	if err != nil {
		return nil, errDamaged
	}
	if err := upright(img); err != nil {
		img.Close()
		return nil, errDamaged
	}
	return img, nil
}

// errDamaged is a picture the libraries cannot read to its end; what they say of
// it means nothing to people.
var errDamaged = errors.New("what it shows cannot be read: the file is damaged or cut off; save it anew from the program it comes from")

func upright(img *vips.ImageRef) error {
	if err := img.AutoRotate(); err != nil {
		return err
	}
	if img.HasICCProfile() {
		if err := img.TransformICCProfile(vips.SRGBIEC6196621ICCProfilePath); err != nil {
			return err
		}
		if err := img.RemoveICCProfile(); err != nil {
			return err
		}
	}
	if img.Interpretation() != vips.InterpretationSRGB {
		if err := img.ToColorSpace(vips.InterpretationSRGB); err != nil {
			return err
		}
	}
	return img.Cast(vips.BandFormatUchar)
}

func firstLine(err error) error {
	s := err.Error()
	for i, r := range s {
		if r == '\n' {
			return fmt.Errorf("%s", s[:i])
		}
	}
	return err
}

// pixels reads an image as RGBA.
func pixels(img *vips.ImageRef) (colour.Pixels, error) {
	if img.Bands() < 3 {
		if err := img.ToColorSpace(vips.InterpretationSRGB); err != nil {
			return colour.Pixels{}, err
		}
	}
	if !img.HasAlpha() {
		if err := img.AddAlpha(); err != nil {
			return colour.Pixels{}, err
		}
	}
	if err := img.Cast(vips.BandFormatUchar); err != nil {
		return colour.Pixels{}, err
	}
	raw, err := img.ToBytes()
	if err != nil {
		return colour.Pixels{}, err
	}
	p := colour.Pixels{W: img.Width(), H: img.Height(), Pix: raw}
	if len(raw) != 4*p.W*p.H {
		return colour.Pixels{}, fmt.Errorf("%d bands", img.Bands())
	}
	return p, nil
}

// importPicture runs in the child.
func importPicture(data []byte) (any, []byte, error) {
	if Kind(data) == "svg" {
		clean, err := CleanSVG(data, "")
		if err != nil {
			return nil, nil, err
		}
		data = []byte(wrapSVG(clean, pictureRaster(clean.View)))
	}
	img, err := load(data)
	if err != nil {
		return nil, nil, err
	}
	defer img.Close()
	out := Imported{Type: "image/jpeg"}
	if long := max(img.Width(), img.PageHeight()); long > LongSide {
		k := float64(LongSide) / float64(long)
		if err := img.ResizeWithVScale(k, k, vips.KernelLanczos3); err != nil {
			return nil, nil, errDamaged
		}
		out.Notes = append(out.Notes, fmt.Sprintf("reduced to %d px on the long side", LongSide))
	}
	if err := img.RemoveMetadata(); err != nil {
		return nil, nil, errDamaged
	}
	if err := dropOpaqueAlpha(img); err != nil {
		return nil, nil, errDamaged
	}
	out.W, out.H = img.Width(), img.Height()
	var payload []byte
	if img.HasAlpha() {
		out.Type = "image/png"
	}
	if len(out.Notes) == 0 && asKept(data, out.Type) {
		payload = data
	} else if img.HasAlpha() {
		payload, _, err = img.ExportPng(&vips.PngExportParams{StripMetadata: true, Compression: 6, Filter: vips.PngFilterAll})
	} else {
		payload, _, err = img.ExportJpeg(&vips.JpegExportParams{StripMetadata: true, Quality: 92, SubsampleMode: vips.VipsForeignSubsampleOff, OptimizeCoding: true})
	}
	if err != nil {
		return nil, nil, errDamaged
	}
	// what is known of a picture is known of what is kept, so that it is the same
	// when the file comes in again
	thumb, err := load(payload)
	if err != nil {
		return nil, nil, err
	}
	defer thumb.Close()
	if out.Subjects, err = subjects(thumb); err != nil {
		return nil, nil, errDamaged
	}
	every, err := pixels(thumb)
	if err != nil {
		return nil, nil, errDamaged
	}
	out.Light = photo.LightOf(every)
	if k := 256 / float64(max(out.W, out.H)); k < 1 {
		if err := thumb.ResizeWithVScale(k, k, vips.KernelLinear); err != nil {
			return nil, nil, errDamaged
		}
	}
	if out.Thumb, err = pixels(thumb); err != nil {
		return nil, nil, errDamaged
	}
	if out.Thumb.Empty() {
		return nil, nil, errors.New("nothing is drawn in it")
	}
	return out, payload, nil
}

// subjects finds what a picture shows, in a smaller one of it.
func subjects(img *vips.ImageRef) ([]photo.Subject, error) {
	small, err := img.Copy()
	if err != nil {
		return nil, err
	}
	defer small.Close()
	if k := photo.FaceSide / float64(max(img.Width(), img.Height())); k < 1 {
		if err := small.Resize(k, vips.KernelLinear); err != nil {
			return nil, err
		}
	}
	p, err := pixels(small)
	if err != nil {
		return nil, err
	}
	return photo.FindSubjects(p), nil
}

// asKept reports whether a file is already as we keep pictures: of the media
// type, upright 8-bit sRGB with nothing besides the pixels. It then stays as it
// is, so that a picture loses nothing on its way through an archive and back.
func asKept(data []byte, mediaType string) bool {
	if "image/"+Kind(data) != mediaType {
		return false
	}
	img, err := vips.LoadImageFromBuffer(data, vips.NewImportParams())
	if err != nil {
		return false
	}
	defer img.Close()
	if img.HasICCProfile() || img.Orientation() > 1 || img.Interpretation() != vips.InterpretationSRGB || img.BandFormat() != vips.BandFormatUchar {
		return false
	}
	for _, f := range img.ImageFields() {
		if strings.HasPrefix(f, "exif-") || strings.HasPrefix(f, "xmp-") || strings.HasPrefix(f, "iptc-") || strings.HasPrefix(f, "png-comment") {
			return false
		}
	}
	return true
}

// dropOpaqueAlpha takes away an alpha channel through which nothing shows:
// without it a picture is a JPEG, which decodes several times faster.
func dropOpaqueAlpha(img *vips.ImageRef) error {
	if !img.HasAlpha() {
		return nil
	}
	alpha, err := img.ExtractBandToImage(img.Bands()-1, 1)
	if err != nil {
		return err
	}
	defer alpha.Close()
	mean, err := alpha.Average()
	if err != nil || mean < 255 {
		return err
	}
	return img.ExtractBand(0, img.Bands()-1)
}

// logoSide is the long side in px a bitmap logo is kept at.
const logoSide = 1600

// loadLogo opens a logo at the size it is kept at, with its pixels; img is the
// caller's to close.
func loadLogo(data []byte) (img *vips.ImageRef, p colour.Pixels, err error) {
	if img, err = load(data); err != nil {
		return nil, p, err
	}
	defer func() {
		if err != nil {
			img.Close()
		}
	}()
	if long := max(img.Width(), img.Height()); Kind(data) != "svg" && long > logoSide {
		k := logoSide / float64(long)
		if err := img.ResizeWithVScale(k, k, vips.KernelLanczos3); err != nil {
			return nil, p, errDamaged
		}
	}
	full, err := img.Copy()
	if err != nil {
		return nil, p, err
	}
	defer full.Close()
	if p, err = pixels(full); err != nil {
		return nil, p, errDamaged
	}
	return img, p, nil
}

// cutLogo runs in the child: it takes the ground a bitmap logo stands on out.
func cutLogo(data []byte) (any, []byte, error) {
	if Kind(data) == "svg" {
		out, err := cutSVG(data)
		return nil, out, err
	}
	img, p, err := loadLogo(data)
	if err != nil {
		return nil, nil, err
	}
	img.Close()
	flat := colour.ExtractFlat(p)
	if flat.Ground == nil {
		return nil, nil, fmt.Errorf("it stands in no box of one colour")
	}
	out := colour.CutOut(p, *flat.Ground, flat.Ink)
	var b bytes.Buffer
	err = png.Encode(&b, &image.NRGBA{Pix: out.Pix, Stride: 4 * out.W, Rect: image.Rect(0, 0, out.W, out.H)})
	return nil, b.Bytes(), err
}

// The limits of a vector logo as it is kept: every piece carries it, and draws
// it. One that is heavier is taken in as a bitmap.
const (
	logoMarkup = 400_000 // bytes
	logoTime   = 400 * time.Millisecond
)

// importLogo runs in the child: it finds the ink, the colours and, for bitmaps,
// cuts the margins off.
func importLogo(data []byte) (any, []byte, error) {
	if Kind(data) != "svg" {
		return bitmapLogo(data)
	}
	// the drawing as it is kept; its ids on a piece tell it from other logos
	plain, err := CleanSVG(data, "")
	if err != nil {
		return nil, nil, err
	}
	file := []byte(plain.File())
	clean, err := CleanSVG(file, "l"+hashOf(file)[:8]+"-")
	if err != nil {
		return nil, nil, err
	}
	clean.Notes = plain.Notes
	width := logoRaster(clean.View)
	from := cpuTime()
	img, p, err := loadLogo([]byte(wrapSVG(clean, width)))
	if err != nil {
		return nil, nil, err
	}
	img.Close()
	if len(clean.Markup) > logoMarkup || cpuTime()-from > logoTime {
		return detailedLogo(clean)
	}
	out, box, err := logoOf(p)
	if err != nil {
		return nil, nil, err
	}
	// half a pixel of air, for the soft edge; then px of the drawing become the
	// file's units
	k := clean.View[2] / float64(width)
	x, y := math.Max(0, float64(box[0])-0.5), math.Max(0, float64(box[1])-0.5)
	out.Art.View = [4]float64{clean.View[0] + x*k, clean.View[1] + y*k, (float64(box[2]) + 1) * k, (float64(box[3]) + 1) * k}
	out.Art.SVG = clean.Markup
	out.Notes = append(out.Notes, clean.Notes...)
	return out, file, nil
}

// detailedLogo draws a vector logo with too much in it once, as large as a bitmap
// logo is kept.
func detailedLogo(clean CleanedSVG) (any, []byte, error) {
	width := max(1, int(logoSide*min(1, clean.View[2]/clean.View[3])))
	img, _, err := loadLogo([]byte(wrapSVG(clean, width)))
	if err != nil {
		return nil, nil, err
	}
	png, _, err := img.ExportPng(&vips.PngExportParams{StripMetadata: true, Compression: 6, Filter: vips.PngFilterAll})
	img.Close()
	if err != nil {
		return nil, nil, errDamaged
	}
	head, payload, err := bitmapLogo(png)
	if out, ok := head.(ImportedLogo); ok {
		out.Notes = append(out.Notes, fmt.Sprintf("the drawing has too much detail to be drawn on every piece; it was taken in as a picture of %d px", logoSide))
		out.Notes = append(out.Notes, clean.Notes...)
		head = out
	}
	return head, payload, err
}

func bitmapLogo(data []byte) (any, []byte, error) {
	img, p, err := loadLogo(data)
	if err != nil {
		return nil, nil, err
	}
	defer img.Close()
	out, box, err := logoOf(p)
	if err != nil {
		return nil, nil, err
	}
	if err := img.ExtractArea(box[0], box[1], box[2], box[3]); err != nil {
		return nil, nil, errDamaged
	}
	out.Art.View = [4]float64{0, 0, float64(box[2]), float64(box[3])}
	if out.Art.Box != nil {
		out.Notes = append(out.Notes, "the logo stands in a box of "+out.Art.Box.Hex()+"; a file with a transparent ground goes on any colour")
	}
	payload, _, err := img.ExportPng(&vips.PngExportParams{StripMetadata: true, Compression: 6, Filter: vips.PngFilterAll})
	return out, payload, err
}

// logoOf finds the colours of a logo and the box of its ink.
func logoOf(p colour.Pixels) (ImportedLogo, [4]int, error) {
	flat := colour.ExtractFlat(p)
	box, ok := inkBox(p, flat.Ground)
	if !ok {
		return ImportedLogo{}, box, fmt.Errorf("nothing is drawn in it")
	}
	return ImportedLogo{Art: brand.Art{Inks: flat.Ink, Hosts: colour.Hosts(p, flat.Ground, flat.Ink), Box: flat.Ground}}, box, nil
}

// inkBox is x, y, width, height of what differs from the ground, or from
// transparency.
func inkBox(p colour.Pixels, ground *colour.RGB) ([4]int, bool) {
	x0, y0, x1, y1 := p.W, p.H, -1, -1
	for y := range p.H {
		for x := range p.W {
			i := 4 * (y*p.W + x)
			if p.Pix[i+3] < 16 {
				continue
			}
			if ground != nil {
				d := 0
				for k, v := range [3]uint8{ground.R, ground.G, ground.B} {
					d = max(d, int(math.Abs(float64(p.Pix[i+k])-float64(v))))
				}
				if d < 12 {
					continue
				}
			}
			x0, y0, x1, y1 = min(x0, x), min(y0, y), max(x1, x), max(y1, y)
		}
	}
	return [4]int{x0, y0, x1 - x0 + 1, y1 - y0 + 1}, x1 >= 0
}
