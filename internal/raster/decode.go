package raster

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"
	"strings"

	"github.com/davidbyttow/govips/v2/vips"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// load decodes into upright sRGB with 8 bits and straight alpha.
func load(data []byte) (*vips.ImageRef, error) {
	start()
	params := vips.NewImportParams()
	img, err := vips.LoadImageFromBuffer(data, params)
	if err != nil {
		return nil, firstLine(err)
	}
	if err := upright(img); err != nil {
		img.Close()
		return nil, firstLine(err)
	}
	return img, nil
}

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
	img, err := load(data)
	if err != nil {
		return nil, nil, err
	}
	defer img.Close()
	out := Imported{Type: "image/jpeg"}
	if long := max(img.Width(), img.PageHeight()); long > LongSide {
		k := float64(LongSide) / float64(long)
		if err := img.ResizeWithVScale(k, k, vips.KernelLanczos3); err != nil {
			return nil, nil, firstLine(err)
		}
		out.Notes = append(out.Notes, fmt.Sprintf("reduced to %d px on the long side", LongSide))
	}
	if err := img.RemoveMetadata(); err != nil {
		return nil, nil, firstLine(err)
	}
	if err := dropOpaqueAlpha(img); err != nil {
		return nil, nil, firstLine(err)
	}
	out.W, out.H = img.Width(), img.Height()
	thumb, err := img.Copy()
	if err != nil {
		return nil, nil, err
	}
	defer thumb.Close()
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
		return nil, nil, firstLine(err)
	}
	if k := 256 / float64(max(out.W, out.H)); k < 1 {
		if err := thumb.ResizeWithVScale(k, k, vips.KernelLinear); err != nil {
			return nil, nil, firstLine(err)
		}
	}
	if out.Thumb, err = pixels(thumb); err != nil {
		return nil, nil, firstLine(err)
	}
	if out.Thumb.Empty() {
		return nil, nil, errors.New("nothing is drawn in it")
	}
	return out, payload, nil
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
			return nil, p, firstLine(err)
		}
	}
	full, err := img.Copy()
	if err != nil {
		return nil, p, err
	}
	defer full.Close()
	if p, err = pixels(full); err != nil {
		return nil, p, firstLine(err)
	}
	return img, p, nil
}

// cutLogo runs in the child: it takes the ground a bitmap logo stands on out.
func cutLogo(data []byte) (any, []byte, error) {
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

// importLogo runs in the child: it finds the ink, the colours and, for bitmaps,
// cuts the margins off.
func importLogo(data []byte) (any, []byte, error) {
	img, p, err := loadLogo(data)
	if err != nil {
		return nil, nil, err
	}
	defer img.Close()
	bitmap := Kind(data) != "svg"
	flat := colour.ExtractFlat(p)
	box, ok := inkBox(p, flat.Ground)
	if !ok {
		return nil, nil, fmt.Errorf("nothing is drawn in it")
	}
	out := ImportedLogo{Art: brand.Art{Inks: flat.Ink, Hosts: colour.Hosts(p, flat.Ground, flat.Ink), Box: flat.Ground}}
	x, y, w, h := box[0], box[1], box[2], box[3]
	if !bitmap {
		// half a pixel of air, for the soft edge
		out.Art.View = [4]float64{math.Max(0, float64(x)-0.5), math.Max(0, float64(y)-0.5), float64(w) + 1, float64(h) + 1}
		return out, nil, nil
	}
	if err := img.ExtractArea(x, y, w, h); err != nil {
		return nil, nil, firstLine(err)
	}
	out.Art.View = [4]float64{0, 0, float64(w), float64(h)}
	if flat.Ground != nil {
		out.Notes = append(out.Notes, "the logo stands in a box of "+flat.Ground.Hex()+"; a file with a transparent ground goes on any colour")
	}
	payload, _, err := img.ExportPng(&vips.PngExportParams{StripMetadata: true, Compression: 6, Filter: vips.PngFilterAll})
	return out, payload, err
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
