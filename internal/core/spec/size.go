package spec

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

var sizeText = regexp.MustCompile(`(?i)^\s*([0-9]+(?:[.,][0-9]+)?)\s*(px|cm|mm|in|inch|inches|")?\s*(?:x|×|\*|by)\s*([0-9]+(?:[.,][0-9]+)?)\s*(px|cm|mm|in|inch|inches|")?\s*(?:(?:at|@|,)?\s*([0-9]+)\s*dpi)?\s*$`)

// papers are sizes of paper by their names, mm: width and height as they are mostly used.
var papers = map[string][2]float64{
	"a3": {297, 420}, "a4": {210, 297}, "a5": {148, 210}, "a6": {105, 148}, // ISO 216
	"dl":     {99, 210},                           // a third of A4 (ISO 269 has the envelope)
	"letter": {215.9, 279.4},                      // ANSI/ASME Y14.1, size A
	"legal":  {215.9, 355.6},                      // common practice
	"card":   {85, 55}, "business card": {85, 55}, // common practice in Europe
	"postcard": {148, 105}, // A6 across
}

var paperText = regexp.MustCompile(`(?i)^\s*(a[3-6]|dl|letter|legal|business card|card|postcard)(?:\s+(portrait|landscape))?(?:\s+(?:at\s+)?([0-9]+(?:\.[0-9]+)?)\s*dpi)?\s*$`)

// paperSize writes the name of a paper as a size with its sides; anything else stays as it is.
func paperSize(s string) string {
	m := paperText.FindStringSubmatch(s)
	if m == nil {
		return s
	}
	sides := papers[strings.ToLower(m[1])]
	w, h := sides[0], sides[1]
	if turn := strings.ToLower(m[2]); turn == "landscape" && w < h || turn == "portrait" && w > h {
		w, h = h, w
	}
	return fmt.Sprintf("%g x %g mm at %s dpi", w, h, or(m[3], "300"))
}

// ParseSize reads a size people type: "1200 x 628", "10 x 15 cm at 300 dpi",
// "4×6 in", "A5", "letter landscape at 150 dpi". Without a resolution, lengths are
// taken at 300 dpi; an inch is 25.4 mm. Errors say what is accepted.
func ParseSize(s string) (w, h int, err error) {
	m := sizeText.FindStringSubmatch(paperSize(s))
	if m == nil {
		return 0, 0, fmt.Errorf("size %q: want two sides like 1200 x 628, 10 x 15 cm at 300 dpi or 4 x 6 in, or a paper: A3 to A6, letter, legal, DL, card, postcard", s)
	}
	unit := strings.ToLower(m[4])
	if unit == "" {
		unit = strings.ToLower(m[2])
	}
	dpi := 300.0
	if m[5] != "" {
		if dpi, _ = strconv.ParseFloat(m[5], 64); dpi < 30 || dpi > 1200 {
			return 0, 0, fmt.Errorf("size %q: %g dpi: want 30 to 1200", s, dpi)
		}
	}
	px := func(t string) int {
		v, _ := strconv.ParseFloat(strings.Replace(t, ",", ".", 1), 64)
		switch unit {
		case "cm":
			v *= dpi / 2.54
		case "mm":
			v *= dpi / 25.4
		case "in", "inch", "inches", `"`:
			v *= dpi
		}
		return int(math.Round(math.Min(v, 1e7)))
	}
	w, h = px(m[1]), px(m[3])
	if w < MinSide || h < MinSide || w > MaxSide || h > MaxSide {
		return 0, 0, fmt.Errorf("size %q is %d × %d px: each side must be %d to %d px", s, w, h, MinSide, MaxSide)
	}
	return w, h, nil
}
