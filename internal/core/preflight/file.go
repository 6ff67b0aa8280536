package preflight

import (
	"fmt"
	"slices"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
)

// File is a finished file somebody wants checked, whoever made it.
type File struct {
	Name          string
	Format        string // one of [spec.Formats]
	Width, Height int    // px
	Bytes         int
	Flats         []colour.Found // its flat colours with their shares (0-1)
	LiveText      bool           // an SVG with words that are still text
	Outside       []string       // what an SVG asks for that lies elsewhere
}

// FileReport is what is said of one file.
type FileReport struct {
	File      string    `json:"file"`
	Format    string    `json:"format"`
	Width     int       `json:"width"`
	Height    int       `json:"height"`
	Bytes     int       `json:"bytes"`
	Placement string    `json:"placement"` // recognised by its size, "" for none
	Findings  []Finding `json:"findings"`
}

// jpegNear is the lower bound of a near miss in a JPEG: its rounding to whole
// steps of luma and chroma moves a flat colour by up to two steps of 255.
const jpegNear = 1.6

// bigFlat is the share (0-1) of a file from which a flat colour is a choice and
// not a detail of a picture.
const bigFlat = 0.02

// CheckFile checks a file against a kit: its size, weight and flat colours. At
// double or higher resolution a placement is recognised all the same.
func CheckFile(k *brand.Kit, f File) FileReport {
	r := FileReport{File: f.Name, Format: f.Format, Width: f.Width, Height: f.Height, Bytes: f.Bytes, Findings: []Finding{}}
	add := func(code string, sev Severity, slot, message string, value, limit float64, fixes ...string) {
		r.Findings = append(r.Findings, Finding{code, sev, slot, message, round2(value), limit, append([]string{}, fixes...)})
	}
	p, ok := Recognise(f.Width, f.Height)
	if !ok {
		add("size", Note, "", fmt.Sprintf("%d × %d is no placement of the catalogue", f.Width, f.Height), 0, 0)
	} else {
		r.Placement = p.ID
		if p.MaxBytes > 0 && f.Bytes > p.MaxBytes {
			add("weight", Warning, "", fmt.Sprintf("%d kB; %s takes at most %d kB", f.Bytes/1000, p.Name, p.MaxBytes/1000), float64(f.Bytes), float64(p.MaxBytes), "format")
		}
		if f.Format != "svg" && len(p.Formats) > 0 && !slices.Contains(p.Formats, f.Format) {
			add("format", Warning, "", fmt.Sprintf("%s takes %v", p.Name, p.Formats), 0, 0, "format")
		}
	}
	from := float64(NearFrom)
	if f.Format == "jpeg" {
		from = jpegNear
	}
	for _, c := range f.Flats {
		if c.Colour == colour.White || c.Colour == colour.Black {
			continue
		}
		near, d := Nearest(k, c.Colour)
		switch {
		case len(k.Colours()) == 0 || d < from:
		case d < NearTo:
			add("near-miss", Warning, "", fmt.Sprintf("%s, %.0f%% of it, is nearly, but not quite, %s %s", c.Colour.Hex(), 100*c.Share, near.Name, near.Value.Hex()), d, NearFrom, "nearest", "addColour")
		case c.Share >= bigFlat || f.Format == "svg":
			add("off-kit-colour", Warning, "", fmt.Sprintf("%s is not a colour of the kit; the nearest is %s %s", c.Colour.Hex(), near.Name, near.Value.Hex()), d, NearFrom, "nearest", "addColour")
		}
	}
	if f.LiveText {
		add("live-text", Warning, "", "words are still text and will be shown in another font elsewhere", 0, 0, "outline")
	}
	for _, o := range f.Outside {
		add("outside", Warning, "", "it asks for "+clip(o)+", which lies outside the file", 0, 0)
	}
	sortFindings(r.Findings)
	return r
}

// Recognise finds the placement of the catalogue that has a size, or a whole
// multiple of it up to four; still ones come before films.
func Recognise(w, h int) (spec.Placement, bool) {
	var all []spec.Placement
	for _, c := range spec.Catalogue() {
		all = append(all, c.Placements...)
	}
	for scale := 1; scale <= 4; scale++ {
		for _, kind := range []string{"image", "video"} {
			i := slices.IndexFunc(all, func(p spec.Placement) bool { return p.Kind == kind && p.Width*scale == w && p.Height*scale == h })
			if i >= 0 {
				return all[i], true
			}
		}
	}
	return spec.Placement{}, false
}
