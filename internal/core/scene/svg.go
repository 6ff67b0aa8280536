package scene

import (
	"encoding/base64"
	"fmt"
	"hash/fnv"
	"html"
	"io"
	"math"
	"strconv"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// PictureRef asks for a picture cut to a crop, shown W x H px large.
type PictureRef struct {
	Hash  string
	Crop  spec.Rect
	W, H  float64
	Tone  Tone
	Dials Dials `json:",omitzero"`
}

// Options says how a scene is written.
type Options struct {
	// Href turns a picture into what an image element may point to.
	Href func(PictureRef) string
	// Bare leaves the glyphs of words out, keeps what is behind them, and moves nothing else.
	Bare bool
	// IDs prefixes the ids of clip paths; pieces on one page need different
	// ones.
	IDs string
	// Scale multiplies the size it is shown at; 0 means 1.
	Scale float64
	// View is the part of the canvas that is drawn, px; the whole where it is empty.
	View spec.Rect
	// Selectable adds a nearly invisible text layer, for PDF.
	Selectable bool
}

// SVG writes the whole drawing. The features used are a short list that librsvg
// and browsers draw alike: nested svg, path, rect, image, use, clipPath, gradients,
// transform and presentation attributes; no style, no filters, no masks.
func (s *Scene) SVG(o Options) string {
	var b strings.Builder
	b.WriteString(s.Open(o))
	for _, g := range s.Groups(o) {
		b.WriteString(g.SVG)
	}
	b.WriteString("</svg>")
	return b.String()
}

// Open is the opening tag of the drawing.
func (s *Scene) Open(o Options) string {
	if o.Scale == 0 {
		o.Scale = 1
	}
	v := o.View
	if v.Empty() {
		v = spec.Rect{W: float64(s.W), H: float64(s.H)}
	}
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%s" height="%s" viewBox="%s %s %s %s" role="img" aria-label="%s">`,
		num(v.W*o.Scale), num(v.H*o.Scale), num(v.X), num(v.Y), num(v.W), num(v.H), html.EscapeString(s.Alt))
}

// Group is a run of neighbouring parts of one slot, the unit a screen replaces.
type Group struct {
	ID   string // slot, with a number where a slot has several groups
	Hash string // of SVG
	SVG  string
}

// Groups writes the drawing as groups in painting order.
func (s *Scene) Groups(o Options) []Group {
	var out []Group
	seen := map[string]int{}
	var b strings.Builder
	flush := func(slot, unit string) {
		n := seen[slot]
		seen[slot]++
		id := slot
		if n > 0 {
			id += strconv.Itoa(n + 1)
		}
		h := fnv.New64a()
		_, _ = io.WriteString(h, unit+b.String())
		hash := strconv.FormatUint(h.Sum64(), 36)
		out = append(out, Group{id, hash, `<g data-slot="` + slot + `" data-group="` + id + unit + `" data-hash="` + hash + `">` + b.String() + `</g>`})
		b.Reset()
	}
	for i := range s.Parts {
		s.Parts[i].write(&b, o, i)
		p := s.Parts[i]
		if i+1 == len(s.Parts) || s.Parts[i+1].Slot != p.Slot || s.Parts[i+1].Unit != p.Unit {
			unit := ""
			if p.Unit != "" {
				unit = `" data-unit="` + p.Unit
			}
			flush(p.Slot, unit)
		}
	}
	return out
}

var num = typeset.Num

func (p *Part) write(b *strings.Builder, o Options, i int) {
	if open := p.wrap(); open != "" {
		b.WriteString(open)
		defer b.WriteString("</g>")
	}
	switch p.Kind {
	case KindShape:
		p.writeShape(b, o, i)
	case KindPicture:
		p.writePicture(b, o, i)
	case KindLogo:
		p.writeLogo(b)
	case KindIcon:
		if p.Art != nil {
			p.writeLogo(b)
		} else {
			p.writePicture(b, o, i)
		}
	default:
		p.writeMarkers(b)
		if !o.Bare {
			p.writeText(b)
			if o.Selectable {
				p.writeSelectable(b)
			}
		}
	}
}

func paint(fill colour.RGB, stroke, alpha float64) string {
	s := ` fill="` + fill.Hex() + `"`
	if stroke > 0 {
		s = ` fill="none" stroke="` + fill.Hex() + `" stroke-width="` + num(stroke) + `"`
	}
	if alpha > 0 && alpha < 1 {
		s += ` fill-opacity="` + num4(alpha) + `"`
	}
	return s
}

// clip writes the clipping of a part and returns the attribute that uses it.
func (p *Part) clip(b *strings.Builder, o Options, i int) string {
	if p.Clip == "" {
		return ""
	}
	id := o.IDs + "c" + strconv.Itoa(i)
	b.WriteString(`<clipPath id="` + id + `"><path d="` + p.Clip + `"/></clipPath>`)
	return ` clip-path="url(#` + id + `)"`
}

func (p *Part) writeShape(b *strings.Builder, o Options, i int) {
	if p.Fade != nil {
		p.writeFade(b, o, i)
		return
	}
	if p.Art != nil {
		b.WriteString(`<g opacity="` + num4(p.Alpha) + `">`)
		if len(p.Tiles) > 0 {
			p.writeTiles(b, o.IDs+"t"+strconv.Itoa(i))
		} else {
			p.writeMarkup(b, p.Art.Cut.Markup(p.Fill))
		}
		b.WriteString(`</g>`)
		return
	}
	if p.Path != "" {
		clip := p.clip(b, o, i)
		b.WriteString(`<path d="` + p.Path + `"` + paint(p.Fill, p.Stroke, p.Alpha) + clip + `/>`)
		return
	}
	at := p.Solved()
	b.WriteString(`<rect x="` + num(at.X) + `" y="` + num(at.Y) + `" width="` + num(at.W) + `" height="` + num(at.H) + `"`)
	if p.Radius > 0 {
		b.WriteString(` rx="` + num(p.Radius) + `"`)
	}
	b.WriteString(paint(p.Fill, p.Stroke, p.Alpha) + `/>`)
}

// writeTiles writes a symbol once, under an id, and then where it is repeated.
func (p *Part) writeTiles(b *strings.Builder, id string) {
	v, at := p.Art.View, p.Solved()
	b.WriteString(`<defs><g id="` + id + `">` + p.Art.Cut.Markup(p.Fill) + `</g></defs>`)
	b.WriteString(`<svg x="` + num(at.X) + `" y="` + num(at.Y) + `" width="` + num(at.W) + `" height="` + num(at.H) +
		`" viewBox="` + num(p.Box.X) + " " + num(p.Box.Y) + " " + num(p.Box.W) + " " + num(p.Box.H) + `" preserveAspectRatio="none">`)
	for _, tile := range p.Tiles {
		k := tile.W / v[2]
		b.WriteString(`<use href="#` + id + `" transform="translate(` + num(tile.X-v[0]*k) + " " + num(tile.Y-v[1]*k) + `) scale(` + strconv.FormatFloat(k, 'g', 6, 64) + `)"/>`)
	}
	b.WriteString(`</svg>`)
}

// fadeStops are in how many steps a fade goes to clear; between them renderers blend
// evenly.
const fadeStops = 8

// writeFade writes a shape that grades to clear, eased so that no edge is seen where
// it ends (the smoothstep 3t^2 - 2t^3).
func (p *Part) writeFade(b *strings.Builder, o Options, i int) {
	id, f := o.IDs+"f"+strconv.Itoa(i), p.Fade
	kind := "linearGradient"
	at := ` x1="` + num(f.X0) + `" y1="` + num(f.Y0) + `" x2="` + num(f.X1) + `" y2="` + num(f.Y1) + `"`
	if f.Radius > 0 {
		kind = "radialGradient"
		at = ` cx="` + num(f.X0) + `" cy="` + num(f.Y0) + `" r="` + num(f.Radius) + `"`
	}
	b.WriteString(`<` + kind + ` id="` + id + `" gradientUnits="userSpaceOnUse"` + at + `>`)
	stop := func(offset, alpha float64) {
		b.WriteString(`<stop offset="` + num4(offset) + `" stop-color="` + p.Fill.Hex() + `" stop-opacity="` + num4(alpha) + `"/>`)
	}
	stop(0, f.Edge)
	for s := range fadeStops + 1 {
		t := float64(s) / fadeStops
		stop(f.Hold+t*(1-f.Hold), p.Alpha*(1-t*t*(3-2*t)))
	}
	box := p.Solved()
	b.WriteString(`</` + kind + `><rect x="` + num(box.X) + `" y="` + num(box.Y) + `" width="` + num(box.W) + `" height="` + num(box.H) + `" fill="url(#` + id + `)"/>`)
}

// num4 writes opacities and offsets: two decimals would be seen in them.
func num4(v float64) string { return strconv.FormatFloat(math.Round(v*1e4)/1e4, 'f', -1, 64) }

func (p *Part) writePicture(b *strings.Builder, o Options, i int) {
	at := p.Solved()
	k := p.Moved.Scale()
	href := o.Href(PictureRef{p.Picture, p.Crop, at.W * k, at.H * k, p.Tone, p.Dials})
	clip := p.clip(b, o, i)
	b.WriteString(`<image x="` + num(at.X) + `" y="` + num(at.Y) + `" width="` + num(at.W) + `" height="` + num(at.H) +
		`" preserveAspectRatio="none" href="` + html.EscapeString(href) + `"` + clip + `/>`)
}

func (p *Part) writeLogo(b *strings.Builder) {
	if at := p.Solved(); p.Art.SVG == "" {
		// the bitmap is already cut to its ink
		b.WriteString(`<image x="` + num(at.X) + `" y="` + num(at.Y) + `" width="` + num(at.W) + `" height="` + num(at.H) +
			`" preserveAspectRatio="none" href="data:image/png;base64,` + base64.StdEncoding.EncodeToString(p.Art.Bitmap) + `"/>`)
		return
	}
	p.writeMarkup(b, p.Art.SVG)
}

// writeMarkup writes the part of some markup that is in view of the part's art.
func (p *Part) writeMarkup(b *strings.Builder, markup string) {
	v, at := p.Art.View, p.Solved()
	b.WriteString(`<svg x="` + num(at.X) + `" y="` + num(at.Y) + `" width="` + num(at.W) + `" height="` + num(at.H) +
		`" viewBox="` + num(v[0]) + " " + num(v[1]) + " " + num(v[2]) + " " + num(v[3]) + `" preserveAspectRatio="none">`)
	b.WriteString(markup)
	b.WriteString(`</svg>`)
}

func (p *Part) writeText(b *strings.Builder) {
	group := func(attributes string, pen *Pen, own bool) {
		b.WriteString(`<g` + attributes + `>`)
		p.writeLines(b, pen, own)
		b.WriteString(`</g>`)
	}
	if c := p.Cast; c != nil {
		group(` transform="translate(`+num(c.X)+" "+num(c.Y)+`)" fill="`+c.Fill.Hex()+`"`, nil, false)
	}
	if o := p.Outline; o != nil {
		ink := o.Fill.Hex()
		group(` fill="`+ink+`" stroke="`+ink+`" stroke-linejoin="round"`, o, false)
	}
	group(` fill="`+p.Fill.Hex()+`"`, nil, true)
}

// markerLean is how far the ends of a marker's stroke lean, of its height.
const markerLean = 0.1

// writeMarkers writes the strokes behind emphasised words.
func (p *Part) writeMarkers(b *strings.Builder) {
	for _, l := range p.Lines {
		if l.Marker == nil {
			continue
		}
		for _, m := range l.Marker.Behind {
			lean := num(markerLean * m.H)
			b.WriteString(`<path fill="` + l.Marker.Fill.Hex() + `" d="M` + num(m.X) + " " + num(m.Bottom()) + "l" + lean + " " + num(-m.H) + "h" + num(m.W-markerLean*m.H) + "l-" + lean + " " + num(m.H) + `Z"/>`)
		}
	}
}

// writeLines writes the letters, stroked with a pen if there is one, in inks of their own
// or all in that of the group.
func (p *Part) writeLines(b *strings.Builder, pen *Pen, own bool) {
	for _, l := range p.Lines {
		size, ink := p.Size(l), ""
		if l.Fill != nil && own {
			ink = ` fill="` + l.Fill.Hex() + `"`
		}
		for i := range l.Line.Paths() {
			data, upem, x := l.Line.Path(i)
			fill := ink
			if paint, ok := l.Line.Paint(i); ok && own {
				fill = ` fill="` + paint.Fill.Hex() + `"`
				if paint.Opacity < 1 {
					fill += ` fill-opacity="` + num(paint.Opacity) + `"`
				}
			}
			if pen != nil {
				fill += ` stroke-width="` + num(pen.Width*upem/size) + `"`
			}
			b.WriteString(`<path transform="translate(` + num(l.X+x*size) + " " + num(l.Y) + `) scale(` +
				strconv.FormatFloat(size/upem, 'g', 6, 64) + `)"` + fill + ` d="M0 0` + data + `"/>`)
		}
		for _, u := range l.Under {
			b.WriteString(`<rect x="` + num(u.X) + `" y="` + num(u.Y) + `" width="` + num(u.W) + `" height="` + num(u.H) + `"` + ink + `/>`)
		}
	}
}

// writeSelectable lays real text over the outlines, invisible but for readers
// and search: a fill opacity of 0 would be left out of a PDF.
func (p *Part) writeSelectable(b *strings.Builder) {
	for _, l := range p.Lines {
		fmt.Fprintf(b, `<text x="%s" y="%s" font-family="sans-serif" font-size="%s" textLength="%s" lengthAdjust="spacingAndGlyphs" fill="%s" fill-opacity=".002">%s</text>`,
			num(l.X), num(l.Y), num(p.Size(l)), num(l.Line.Advance*p.Size(l)), p.Fill.Hex(), html.EscapeString(l.Line.Text))
	}
}
