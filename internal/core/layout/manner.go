package layout

import (
	"math"
	"slices"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
)

// The steps of a manner in numbers, set by eye on sheets of twelve kits.
const (
	airyMore  = 1.2  // times the margins and gaps of an even piece
	packLess  = 0.84 // of them
	quietMost = 3.1  // times the body a quiet headline is at most
	loudMore  = 1.3  // times what a layout lets a headline be
	fineLine  = 0.12 // units a fine line is thick at most
	boldMore  = 1.7  // times what a layout makes a line
)

// airy is what the brand's density makes of margins and gaps.
func (t *trial) airy() float64 {
	switch t.in.Manner.Density {
	case "airy":
		return airyMore
	case "packed":
		return packLess
	}
	return 1
}

// radius is that of a button h px high.
func (t *trial) radius(h float64) float64 { return ButtonCorner(t.in.Manner, h, t.unit) }

// ButtonCorner is the radius of the corners of a button of a height, in px, on a piece
// whose unit of spacing is so many px.
func ButtonCorner(m brand.Manner, h, unit float64) float64 {
	switch m.Corners {
	case "sharp":
		return 0
	case "round":
		return h / 2
	}
	return math.Min(h/4, math.Max(2, 0.6*unit))
}

// cardRadius is that of cards, plates and inset pictures.
func (t *trial) cardRadius() float64 {
	switch t.in.Manner.Corners {
	case "sharp":
		return 0
	case "round":
		return 2 * t.unit
	}
	return math.Round(0.7 * t.unit)
}

// lineWidth is the thickness in px of a line a layout makes px thick.
func (t *trial) lineWidth(px float64) float64 {
	switch t.in.Manner.Lines {
	case "fine":
		px = math.Min(px, fineLine*t.unit)
	case "bold":
		px *= boldMore
	}
	return math.Max(1, math.Round(px))
}

// extremes are the darkest and the lightest colour of the colourway and the kit.
func (t *trial) extremes() (dark, light colour.RGB) {
	dark, light = t.colour(colourway.Ground), t.colour(colourway.Ground)
	for _, c := range t.in.Kit.Colours() {
		if c.Value.Luminance() < dark.Luminance() {
			dark = c.Value
		}
		if c.Value.Luminance() > light.Luminance() {
			light = c.Value
		}
	}
	return dark, light
}

// inManner draws a picture as the brand draws its pictures: in two colours where
// they are toned. They have to be apart, or nothing would be seen.
func (t *trial) inManner(p scene.Part, n int) scene.Part {
	if t.in.Manner.Pictures != "toned" {
		return p
	}
	if dark, light := t.extremes(); colour.Contrast(dark, light) >= 3 {
		black, white := t.in.Pictures[n-1].Light.Points()
		p.Tone = scene.Tone{Dark: dark, Light: light, Black: black, White: white}
	}
	return p
}

// framed is where a picture that fills b stands: inset, where the brand frames its
// pictures and there is room.
func (t *trial) framed(b spec.Rect) (at spec.Rect, radius float64) {
	if t.in.Manner.Pictures != "framed" || t.tiny {
		return b, 0
	}
	by := math.Round(0.55 * t.margin)
	if at = b.Inset(by); math.Min(at.W, at.H) < 4*by {
		return b, 0
	}
	return at, t.cardRadius()
}

// ornament gives the largest flat of a piece the brand's symbol where its layout has room for
// one, and of a piece without pictures a cut shape in a free corner, or a pattern behind the
// words: words alone still look designed.
func (t *trial) ornament() {
	kind := t.in.Manner.Ornament
	if kind == "none" || kind == "" || t.tiny || t.in.Placement.Icon || t.class == spec.Ribbon {
		return
	}
	at, area := -1, 0.0
	for i, p := range t.shapes {
		if p.Path == "" && p.Stroke == 0 && p.Box.W*p.Box.H > area {
			at, area = i, p.Box.W*p.Box.H
		}
	}
	if at < 0 || area < 0.25*float64(t.in.Placement.Width*t.in.Placement.Height) {
		return
	}
	if t.in.Layout.Motif && t.words("lines") == "" && t.words("facts") == "" {
		if shapes := t.giant(t.shapes[at]); shapes != nil {
			t.shapes = slices.Insert(t.shapes, at+1, shapes...)
			return
		}
	}
	busy := func(p scene.Part) bool { // something is there to look at
		return p.Kind == scene.KindPicture || p.Slot == "band" || p.Slot == "pattern"
	}
	for _, layer := range [][]scene.Part{t.under, t.shapes, t.cards, t.content} {
		if slices.ContainsFunc(layer, busy) {
			return
		}
	}
	flat := t.shapes[at]
	var shapes []scene.Part
	if kind == "cut" {
		shapes = t.cut(flat)
	}
	if shapes == nil && t.words("lines") == "" && t.words("facts") == "" { // no corner is free; lists are read line by line
		shapes = t.strewn(flat)
	}
	t.shapes = slices.Insert(t.shapes, at+1, shapes...)
}
