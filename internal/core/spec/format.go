package spec

import "slices"

// Format is a file format pieces are written in.
type Format struct {
	Name      string
	Extension string // of file names
	Type      string // media type
	Side      int    // px a side has at most, 0 for any
	Pixels    bool   // it holds px; without, it holds shapes
	Lighter   Means  // how a file gets lighter where a place has a limit of bytes
	Clear     bool   // it can do without the ground
}

// Means is a way a file of a format gets lighter.
type Means string

// The ways there are. Files of a format with none of them weigh what they weigh.
const (
	ByQuality Means = "quality" // of 1 to 100: the best that is light enough
	ByPalette Means = "palette" // at most 256 colours
)

// Formats are the file formats there are, in the order people are offered them.
var Formats = []Format{
	{Name: "png", Extension: "png", Type: "image/png", Pixels: true, Lighter: ByPalette, Clear: true},
	{Name: "jpeg", Extension: "jpg", Type: "image/jpeg", Pixels: true, Lighter: ByQuality},
	{Name: "webp", Extension: "webp", Type: "image/webp", Side: 16_383, Pixels: true, Lighter: ByQuality, Clear: true}, // RFC 9649, section 2.6: 14 bits
	{Name: "avif", Extension: "avif", Type: "image/avif", Pixels: true, Lighter: ByQuality, Clear: true},
	{Name: "svg", Extension: "svg", Type: "image/svg+xml", Clear: true},
	{Name: "pdf", Extension: "pdf", Type: "application/pdf"},
}

// FormatOf is a format by its name; ok is false where there is none.
func FormatOf(name string) (f Format, ok bool) {
	if i := slices.IndexFunc(Formats, func(f Format) bool { return f.Name == name }); i >= 0 {
		return Formats[i], true
	}
	return Format{Name: name, Extension: name}, false
}

// FormatNames are the names of the formats for which something holds, nil for all.
func FormatNames(is func(Format) bool) []string {
	var out []string
	for _, f := range Formats {
		if is == nil || is(f) {
			out = append(out, f.Name)
		}
	}
	return out
}
