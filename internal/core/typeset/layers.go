package typeset

import (
	"math"

	"github.com/go-text/typesetting/font"
	ot "github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/font/opentype/tables"

	"aspenridge/internal/core/colour"
)

// Paint is the colour a path of a line has whatever colour the line has: a layer of a
// sign in colour.
type Paint struct {
	Fill    colour.RGB
	Opacity float64 // 0-1
}

// layer is an outline of a glyph in colour.
type layer struct {
	path string // as of a glyph
	ink  Paint
}

// InColour marks a face whose glyphs are drawn in their own colours: layers of flat
// colour, a gradient in its mean (OpenType 1.9, COLR and CPAL). A font without such
// tables stays as it is.
func (f *Face) InColour() *Face {
	f.inColour = f.font.COLR != nil && len(f.font.CPAL) > 0
	return f
}

// layered is the glyph in colour; ok is false where the font has only an outline of it.
func (f *Face) layered(face *font.Face, gid font.GID) (*glyph, bool) {
	paint, ok := f.font.COLR.Search(tables.GlyphID(gid))
	if !ok {
		return nil, false
	}
	p := painter{face: face, upem: f.UnitsPerEm, glyph: &glyph{}}
	p.paint(paint, identity, 1, 0)
	return p.glyph, len(p.glyph.layers) > 0
}

// painter flattens the paint tables of one glyph into its layers.
type painter struct {
	face  *font.Face
	upem  float64
	glyph *glyph
}

// affine maps x, y to xx*x + xy*y + dx, yx*x + yy*y + dy.
type affine struct{ xx, yx, xy, yy, dx, dy float64 }

var identity = affine{xx: 1, yy: 1}

// then is n applied first and m after it.
func (m affine) then(n affine) affine {
	return affine{
		m.xx*n.xx + m.xy*n.yx, m.yx*n.xx + m.yy*n.yx,
		m.xx*n.xy + m.xy*n.yy, m.yx*n.xy + m.yy*n.yy,
		m.xx*n.dx + m.xy*n.dy + m.dx, m.yx*n.dx + m.yy*n.dy + m.dy,
	}
}

func scaling(x, y, cx, cy float64) affine {
	return affine{xx: x, yy: y, dx: cx - x*cx, dy: cy - y*cy}
}

// fraction is a number of the tables: signed, with 14 bits after the point.
func fraction(v tables.Fixed214) float64 { return float64(v) / (1 << 14) }

// deepest is how far paints may hold others.
const deepest = 24

// inner is the paint a table moves, and how.
func inner(t tables.PaintTable) (tables.PaintTable, affine, bool) {
	f := fraction
	switch t := t.(type) {
	case tables.PaintTransform:
		m := t.Transform
		return t.Paint, affine{float64(m.Xx), float64(m.Yx), float64(m.Xy), float64(m.Yy), float64(m.Dx), float64(m.Dy)}, true
	case tables.PaintTranslate:
		return t.Paint, affine{xx: 1, yy: 1, dx: float64(t.Dx), dy: float64(t.Dy)}, true
	case tables.PaintScale:
		return t.Paint, scaling(f(t.ScaleX), f(t.ScaleY), 0, 0), true
	case tables.PaintScaleAroundCenter:
		return t.Paint, scaling(f(t.ScaleX), f(t.ScaleY), float64(t.CenterX), float64(t.CenterY)), true
	case tables.PaintScaleUniform:
		return t.Paint, scaling(f(t.Scale), f(t.Scale), 0, 0), true
	case tables.PaintScaleUniformAroundCenter:
		return t.Paint, scaling(f(t.Scale), f(t.Scale), float64(t.CenterX), float64(t.CenterY)), true
	}
	return nil, affine{}, false
}

// paint adds what a table draws, moved by m, at an opacity (0-1).
func (p *painter) paint(t tables.PaintTable, m affine, opacity float64, depth int) {
	if depth > deepest {
		return
	}
	if child, move, ok := inner(t); ok {
		p.paint(child, m.then(move), opacity, depth+1)
		return
	}
	switch t := t.(type) {
	case tables.PaintColrLayers:
		list, err := p.face.COLR.LayerList.Resolve(t)
		if err != nil {
			return
		}
		for _, l := range list {
			p.paint(l, m, opacity, depth+1)
		}
	case tables.PaintColrLayersResolved: // version 0
		for _, l := range t {
			ink := p.entry(l.PaletteIndex, 1)
			ink.Opacity *= opacity
			p.fill(l.GlyphID, m, ink)
		}
	case tables.PaintGlyph:
		if ink, ok := p.flat(t.Paint, 0); ok {
			ink.Opacity *= opacity
			p.fill(tables.GlyphID(t.GlyphID), m, ink)
		}
	case tables.PaintColrGlyph:
		if child, ok := p.face.COLR.Search(tables.GlyphID(t.GlyphID)); ok {
			p.paint(child, m, opacity, depth+1)
		}
	case tables.PaintComposite:
		// a flat backdrop is how opaque its source is; of what only tints a
		// backdrop, the backdrop stays
		if ink, ok := p.flat(t.BackdropPaint, 0); ok && t.CompositeMode == tables.CompositeSrcIn {
			p.paint(t.SourcePaint, m, opacity*ink.Opacity, depth+1)
			return
		}
		p.paint(t.BackdropPaint, m, opacity, depth+1)
		if t.CompositeMode == tables.CompositeSrcOver {
			p.paint(t.SourcePaint, m, opacity, depth+1)
		}
	}
}

// entry is a colour of the font's first palette.
func (p *painter) entry(i uint16, alpha float64) Paint {
	palette := p.face.CPAL[0]
	if int(i) >= len(palette) { // 0xFFFF is the colour of the text
		return Paint{Opacity: alpha}
	}
	c := palette[i]
	return Paint{colour.RGB{R: c.Red, G: c.Green, B: c.Blue}, alpha * float64(c.Alpha) / 255}
}

// flat is the one colour that stands for a fill: of a gradient the mean.
func (p *painter) flat(t tables.PaintTable, depth int) (Paint, bool) {
	if depth > deepest {
		return Paint{}, false
	}
	if child, _, ok := inner(t); ok {
		return p.flat(child, depth+1)
	}
	switch t := t.(type) {
	case tables.PaintSolid:
		return p.entry(t.PaletteIndex, fraction(t.Alpha)), true
	case tables.PaintLinearGradient:
		return p.mean(t.ColorLine.ColorStops)
	case tables.PaintRadialGradient:
		return p.mean(t.ColorLine.ColorStops)
	case tables.PaintSweepGradient:
		return p.mean(t.ColorLine.ColorStops)
	}
	return Paint{}, false
}

// mean is the colour of a gradient over its way, each stop as much as it is seen.
func (p *painter) mean(stops []tables.ColorStop) (Paint, bool) {
	if len(stops) == 0 {
		return Paint{}, false
	}
	at := func(i int) float64 { return math.Max(0, math.Min(1, fraction(stops[i].StopOffset))) }
	var r, g, b, a, weights float64
	for i, s := range stops {
		from, to := 0.0, 1.0
		if i > 0 {
			from = (at(i-1) + at(i)) / 2
		}
		if i+1 < len(stops) {
			to = (at(i) + at(i+1)) / 2
		}
		w := math.Max(0, to-from)
		ink := p.entry(s.PaletteIndex, fraction(s.Alpha))
		k := w * ink.Opacity
		r, g, b = r+k*float64(ink.Fill.R), g+k*float64(ink.Fill.G), b+k*float64(ink.Fill.B)
		a, weights = a+k, weights+w
	}
	if a == 0 || weights == 0 {
		return Paint{}, false
	}
	round := func(v float64) uint8 { return uint8(math.Round(v / a)) }
	return Paint{colour.RGB{R: round(r), G: round(g), B: round(b)}, a / weights}, true
}

// faintest is the opacity under which a layer is left out.
const faintest = 0.02

// fill adds an outline in one colour.
func (p *painter) fill(gid tables.GlyphID, m affine, ink Paint) {
	o, ok := p.face.GlyphDataOutline(gid)
	if !ok || ink.Opacity < faintest {
		return
	}
	moved := make([]ot.Segment, len(o.Segments))
	for i, s := range o.Segments {
		for j, a := range s.Args {
			x, y := float64(a.X), float64(a.Y)
			s.Args[j] = ot.SegmentPoint{X: float32(m.xx*x + m.xy*y + m.dx), Y: float32(m.yx*x + m.yy*y + m.dy)}
		}
		moved[i] = s
	}
	g := outline(moved, p.upem)
	if g.path == "" {
		return
	}
	p.glyph.ink = p.glyph.ink.Union(g.ink)
	p.glyph.layers = append(p.glyph.layers, layer{g.path, ink})
}

// presented are the signs of the Basic Multilingual Plane that are shown in colour
// unless something says otherwise (Unicode 15.1, emoji-data.txt, Emoji_Presentation;
// from memory).
var presented = func() map[rune]bool {
	out := map[rune]bool{}
	for _, r := range "⌚⌛⏩⏪⏫⏬⏰⏳◽◾☔☕♈♉♊♋♌♍♎♏♐♑♒♓♿⚓⚡⚪⚫⚽⚾⛄⛅⛎⛔⛪⛲⛳⛵⛺⛽✅✊✋✨❌❎❓❔❕❗➕➖➗➰➿⬛⬜⭐⭕" {
		out[r] = true
	}
	return out
}()

// Selectors that ask for a sign as text or in colour (Unicode Technical Standard 51).
const (
	asText   = '\uFE0E'
	inColour = '\uFE0F'
)

// colourSigns are the runes of a text that are to be shown in colour. Keys are told
// apart where text is split: their digits are letters elsewhere.
func colourSigns(runes []rune) map[rune]bool {
	var out map[rune]bool
	for i, r := range runes {
		next := rune(0)
		if i+1 < len(runes) {
			next = runes[i+1]
		}
		if r < 0x80 || next == asText || r < 0x1F000 && !presented[r] && next != inColour && r != keycap {
			continue
		}
		if out == nil {
			out = map[rune]bool{}
		}
		out[r] = true
	}
	return out
}
