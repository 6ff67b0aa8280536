package raster

import (
	"aspenridge/internal/cache"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	_ "image/gif" // header readers
	_ "image/jpeg"
	_ "image/png"
	"sync"

	_ "golang.org/x/image/webp" // header reader

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/typeset"
)

// ErrFile is wrapped by every error about an uploaded file.
var ErrFile = errors.New("the file cannot be used")

// The limits of an uploaded file.
const (
	MaxBytes  = 60 << 20
	MaxPixels = 64_000_000
	// LongSide is what a larger picture is reduced to.
	LongSide = 4096
)

// Accepted says in words which files are taken.
const Accepted = "want PNG, JPEG, WebP, GIF or SVG"

// Kind tells a file by its first bytes: png, jpeg, webp, gif, svg, or "".
func Kind(data []byte) string {
	switch {
	case bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")):
		return "png"
	case bytes.HasPrefix(data, []byte("\xff\xd8\xff")):
		return "jpeg"
	case bytes.HasPrefix(data, []byte("GIF8")):
		return "gif"
	case len(data) > 12 && string(data[:4]) == "RIFF" && string(data[8:12]) == "WEBP":
		return "webp"
	}
	head := data[:min(len(data), 4096)]
	head = bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\xef\xbb\xbf")), " \t\r\n")
	if bytes.HasPrefix(head, []byte("<")) && bytes.Contains(head, []byte("<svg")) {
		return "svg"
	}
	return ""
}

// Imported is a picture made safe: upright sRGB, JPEG or (with transparency)
// PNG, at most [LongSide] px.
type Imported struct {
	Hash  string // SHA-256 of Data
	Data  []byte
	Type  string // image/jpeg or image/png
	W, H  int
	Thumb colour.Pixels // at most 256 px
	// Subjects are what it shows, the main one first.
	Subjects []photo.Subject
	Light    photo.Light
	Notes    []string
}

// Picture is what the core knows of it.
func (in Imported) Picture() photo.Picture {
	return photo.Picture{Hash: in.Hash, W: in.W, H: in.H, Subjects: in.Subjects, Light: in.Light, Focus: photo.FocusOf(in.Thumb, in.Subjects)}
}

// Announced is how many px a picture says it has, from its header alone; 0 for a
// drawing and for what is no picture.
func Announced(data []byte) int {
	if k := Kind(data); k == "" || k == "svg" {
		return 0
	}
	cfg, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return 0
	}
	return cfg.Width * cfg.Height
}

// check tells the kind and refuses by size before anything is decoded.
func check(data []byte) (string, error) {
	if len(data) == 0 {
		return "", fmt.Errorf("%w: it is empty", ErrFile)
	}
	if len(data) > MaxBytes {
		return "", fmt.Errorf("%w: it has %d MB, at most %d MB are taken", ErrFile, len(data)>>20, MaxBytes>>20)
	}
	kind := Kind(data)
	switch kind {
	case "":
		return "", fmt.Errorf("%w: it is not a picture; %s", ErrFile, Accepted)
	case "svg":
		return kind, nil
	}
	cfg, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return "", fmt.Errorf("%w: its header is damaged or cut off; save it anew from the program it comes from", ErrFile)
	}
	if cfg.Width <= 0 || cfg.Height <= 0 || cfg.Width > 65535 || cfg.Height > 65535 || cfg.Width*cfg.Height > MaxPixels {
		return "", fmt.Errorf("%w: it measures %d × %d px, at most %d megapixels are taken", ErrFile, cfg.Width, cfg.Height, MaxPixels/1_000_000)
	}
	return kind, nil
}

// lately are the pictures that came in last, by the hash of the file as it came in: the
// same file often comes in again, into the next brief or kit.
var lately = sync.OnceValue(func() *cache.Cache[string, Imported] {
	return cache.New[string](latelyBytes, func(in Imported) int { return len(in.Data) })
})

const latelyBytes = 24 << 20

// Import takes a picture in; nobody may change what it returns. Errors wrap [ErrFile].
func Import(ctx context.Context, data []byte) (Imported, error) {
	if _, err := check(data); err != nil {
		return Imported{}, err
	}
	key := hashOf(data)
	if in, ok := lately().Get(key); ok {
		return in, nil
	}
	var out Imported
	payload, err := runChild(ctx, "picture", data, &out)
	if err != nil {
		return Imported{}, err
	}
	out.Data = payload
	out.Hash = hashOf(payload)
	lately().Put(key, out)
	return out, nil
}

// ImportedLogo is a logo file made ready to draw, with a guess at what it is.
type ImportedLogo struct {
	Art    brand.Art
	File   []byte `json:",omitempty"` // what is kept: the upload, a drawing as it was cleaned
	Lockup string
	Tone   string
	Notes  []string
}

// ImportLogo takes a logo in, vector or bitmap. Words in a drawing are outlined in the faces that
// ship and in those given. Errors wrap [ErrFile].
func ImportLogo(ctx context.Context, data []byte, own ...typeset.Entry) (ImportedLogo, error) {
	if _, err := check(data); err != nil {
		return ImportedLogo{}, err
	}
	var out ImportedLogo
	payload, err := runChildWith(ctx, "logo", data, facesIn(data, own), &out)
	if err != nil {
		return ImportedLogo{}, err
	}
	out.File = data
	switch {
	case out.Art.SVG != "":
		out.File = payload
	case len(payload) > 0:
		out.Art.Bitmap = payload
		if Kind(data) == "svg" { // too detailed to be kept as a drawing
			out.File = payload
		}
	}
	out.Art.Hash = hashOf(out.File)
	Derive(&out.Art)
	out.Lockup, out.Tone = propose(out.Art)
	return out, nil
}

func hashOf(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// CutLogo takes the opaque ground a logo stands on out of it: a PNG with soft
// edges. A vector logo loses the shape that fills its ground and stays a vector.
// Errors wrap [ErrFile]; one says when there is no such ground.
func CutLogo(ctx context.Context, data []byte) (out []byte, ext string, err error) {
	kind, err := check(data)
	if err != nil {
		return nil, "", err
	}
	if ext = ".png"; kind == "svg" {
		ext = ".svg"
	}
	var none any
	out, err = runChild(ctx, "cut", data, &none)
	return out, ext, err
}

// CleanFile is a drawing as it is kept: rewritten by [CleanSVG], in a child.
func CleanFile(ctx context.Context, data []byte) ([]byte, error) {
	if _, err := check(data); err != nil {
		return nil, err
	}
	var none any
	return runChild(ctx, "clean", data, &none)
}

// propose guesses lockup and tone from shape and lightness.
func propose(a brand.Art) (lockup, tone string) {
	switch r := a.Aspect(); {
	case r > 1.6:
		lockup = "horizontal"
	case r > 0.85 && r < 1.18:
		lockup = "symbol"
	default:
		lockup = "stacked"
	}
	light, hues := 0.0, 0
	for _, ink := range a.Inks {
		o := ink.Colour.OKLCh()
		light += o.L * ink.Share
		if o.C > 0.04 && ink.Share > 0.04 {
			hues++
		}
	}
	switch {
	case light > 0.8:
		tone = "for-dark"
	case hues == 0 && len(a.Inks) <= 1:
		tone = "one-colour"
	case hues <= 1 && light < 0.5 && len(a.Inks) == 1:
		tone = "for-light"
	default:
		tone = "full-colour"
	}
	return lockup, tone
}

func logoRaster(view [4]float64) int { return max(1, int(600*min(1, view[2]/view[3]))) }

// pictureRaster is the width in px a vector picture is drawn at: 2,000 px on the
// long side or its own size if that is larger.
func pictureRaster(view [4]float64) int {
	long := min(max(2000, view[2], view[3]), LongSide)
	return max(1, int(long*min(1, view[2]/view[3])))
}

// File is the drawing as a file of its own.
func (c CleanedSVG) File() string {
	v := c.View
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="%g %g %g %g" width="%g" height="%g">%s</svg>`, v[0], v[1], v[2], v[3], v[2], v[3], c.Markup)
}

// wrapSVG makes a whole file of w px width again.
func wrapSVG(c CleanedSVG, w int) string {
	h := max(1, int(float64(w)*c.View[3]/c.View[2]+0.5))
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="%g %g %g %g">%s</svg>`,
		w, h, c.View[0], c.View[1], c.View[2], c.View[3], c.Markup)
}
