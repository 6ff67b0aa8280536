// Package guide sets a kit's guidelines as pages to print: logos with do and
// don't, colours with their values and what they carry, type, voice, pieces in
// use. It draws the same scenes as everything else; files belong to raster.
package guide

import (
	"fmt"
	"math"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// The size of a page in px at 96 to the inch: A4, landscape (ISO 216).
const (
	PageW = 1123
	PageH = 794
)

// Places are the shapes guidelines show in use.
var Places = []string{"feed-square", "feed-tall", "story", "shop-banner", "ad-300x250", "video-thumbnail"}

// Page is a page: its own drawing, and pieces set on it.
type Page struct {
	Scene  *scene.Scene
	Pieces []Placed
}

// Placed is a piece drawn on a page, X and Y in px of the page.
type Placed struct {
	Scene       *scene.Scene
	X, Y, Scale float64
}

// Input is what the guidelines are made of.
type Input struct {
	Kit     *brand.Kit
	Library *typeset.Library
	Shaper  *typeset.Shaper
	Pieces  []piece.Piece // shown in use
	Manner  brand.Manner
}

const (
	margin = 64.0
	column = 260.0 // where the right column starts
)

type book struct {
	Input
	page *Page
	out  []Page
	set  brand.TypeSet
	ink  colour.RGB
	soft colour.RGB
}

// Pages sets the guidelines; every page carries its subject at the top left and
// its number at the foot.
func Pages(in Input) []Page {
	b := &book{Input: in, set: in.Kit.TypeSet(""), ink: colour.RGB{R: 24, G: 28, B: 27}, soft: colour.RGB{R: 92, G: 100, B: 97}}
	b.cover()
	if len(in.Kit.Logos) > 0 {
		b.logos()
	}
	if len(in.Kit.Colours()) > 0 {
		b.colours()
	}
	b.type_()
	b.voice()
	if len(in.Pieces) > 0 {
		b.use()
	}
	return b.out
}

func (b *book) begin(title string) {
	b.out = append(b.out, Page{Scene: &scene.Scene{W: PageW, H: PageH, Alt: title}})
	b.page = &b.out[len(b.out)-1]
	b.rect(spec.Rect{W: PageW, H: PageH}, colour.White, 0)
	if title == "" {
		return
	}
	b.text(title, brand.Subheading, 26, margin, margin+20, column-margin-16, 2, b.ink)
	b.text(fmt.Sprintf("%s · %d", b.name(), len(b.out)), brand.Body, 11, margin, PageH-36, 600, 1, b.soft)
}

func (b *book) name() string {
	if b.Kit.Name == "" {
		return "Guidelines"
	}
	return b.Kit.Name
}

func (b *book) rect(r spec.Rect, c colour.RGB, radius float64) {
	b.page.Scene.Parts = append(b.page.Scene.Parts, scene.Part{Slot: "shape", Kind: scene.KindShape, Box: r, Fill: c, Radius: radius})
}

func (b *book) frame(r spec.Rect, c colour.RGB) {
	b.page.Scene.Parts = append(b.page.Scene.Parts, scene.Part{Slot: "frame", Kind: scene.KindShape, Fill: c, Stroke: 1,
		Path: fmt.Sprintf("M%g %gH%gV%gH%gZ", r.X+0.5, r.Y+0.5, r.X+r.W-0.5, r.Y+r.H-0.5, r.X+0.5)})
}

// text sets words at a size from a baseline, broken to a width; it returns how
// far down it went.
func (b *book) text(words string, level brand.Level, size, x, y, width float64, lines int, c colour.RGB) float64 {
	words = strings.Join(strings.Fields(words), " ")
	style := b.set.Levels[level]
	if style.Small != nil && size < 16 {
		style = *style.Small
	}
	face, err := b.Library.Face(style.Family, style.Weight, style.Italic)
	if err != nil || words == "" {
		return 0
	}
	if style.Upper {
		words = strings.ToUpper(words)
	}
	p := b.Shaper.Paragraph(words, typeset.Style{Face: face, Tracking: style.Tracking})
	set := p.Narrowest(width/size, lines)
	for set == nil && size > 6 {
		size *= 0.94
		if set = p.Narrowest(width/size, lines); set == nil {
			set = p.Emergency(width/size, lines)
		}
	}
	if set == nil {
		return 0
	}
	lead := 1.42
	if level == brand.Headline {
		lead = 1.06
	}
	part := scene.Part{Slot: "text", Kind: scene.KindText, Text: words, SizePx: size, Family: style.Family, Weight: face.Weight, Fill: c}
	for i, l := range set.Lines {
		part.Lines = append(part.Lines, scene.TextLine{Line: l, X: x - l.Ink.X0*size, Y: y + float64(i)*lead*size, From: set.Starts[i]})
	}
	part.Box = spec.Rect{X: x, Y: y - size, W: set.Widest * size, H: float64(len(set.Lines)) * lead * size}
	b.page.Scene.Parts = append(b.page.Scene.Parts, part)
	return float64(len(set.Lines)) * lead * size
}

func (b *book) logo(fit brand.LogoFit, r spec.Rect) {
	art := fit.Art()
	w, h := r.W, r.W/art.Aspect()
	if h > r.H {
		w, h = r.H*art.Aspect(), r.H
	}
	b.page.Scene.Parts = append(b.page.Scene.Parts, scene.Part{Slot: "logo", Kind: scene.KindLogo, Art: art, File: fit.Logo.File,
		Box: spec.Rect{X: r.X + (r.W-w)/2, Y: r.Y + (r.H-h)/2, W: w, H: h}})
}

func (b *book) cover() {
	b.begin("")
	ground := colour.White
	for _, c := range b.Kit.Colours() {
		if c.Role == brand.Lead {
			ground = c.Value
			break
		}
	}
	ink := b.Kit.InkOn(ground)
	b.rect(spec.Rect{W: PageW, H: PageH}, ground, 0)
	if fit, ok := b.Kit.PickLogo(ground, brand.WideRoom, ""); ok && !fit.Plate {
		h := math.Min(96, 340/fit.Logo.Art.Aspect())
		b.logo(fit, spec.Rect{X: margin, Y: margin, W: h * fit.Logo.Art.Aspect(), H: h})
	}
	down := b.text(b.name(), brand.Headline, 84, margin, 520, PageW-2*margin, 2, ink)
	b.text(b.Kit.Tagline, brand.Subheading, 26, margin, 520+down, PageW-2*margin, 2, ink)
}

func (b *book) logos() {
	const rows, w, h, gap = 4, 186.0, 104.0, 14.0
	grounds := append([]brand.Colour{{Name: "White", Value: colour.White}}, b.Kit.Colours()...)
	n := 0
	for i := range b.Kit.Logos {
		l := &b.Kit.Logos[i]
		if l.Art == nil {
			continue
		}
		if n%rows == 0 {
			b.begin("Logos")
			if n == 0 {
				b.text("Pick the tone that reads on the ground. Never stretch, recolour or crop it.", brand.Body, 13, margin, margin+64, column-margin-24, 8, b.soft)
			}
		}
		y := margin + float64(n%rows)*(h+62)
		n++
		clear := l.ClearSpace
		if clear == 0 {
			clear = 0.5
		}
		note := fmt.Sprintf("%s, %s. Keep %.2g of its height free around it", plain(l.Lockup), plain(l.Tone), clear)
		if l.MinWidth > 0 {
			note += fmt.Sprintf("; never under %.4g px wide", l.MinWidth)
		}
		if l.OwnColours {
			note += "; never in one colour"
		}
		b.text(note+".", brand.Body, 13, column, y+12, 780, 1, b.ink)
		x, shown, never := column, 0, false
		for _, c := range grounds {
			fits := l.Fits(c.Value)
			if (fits && shown == 3) || (!fits && never) {
				continue
			}
			if !fits && shown == 0 {
				continue // what it is for comes first
			}
			r := spec.Rect{X: x, Y: y + 26, W: w, H: h}
			b.rect(r, c.Value, 0)
			b.frame(r, colour.RGB{R: 214, G: 214, B: 206})
			b.logo(brand.LogoFit{Logo: l}, r.Inset(22))
			words := "on " + c.Name
			if !fits {
				words = "never on " + c.Name
				b.page.Scene.Parts = append(b.page.Scene.Parts, scene.Part{Slot: "no", Kind: scene.KindShape, Fill: colour.RGB{R: 178, G: 58, B: 46}, Stroke: 2,
					Path: fmt.Sprintf("M%g %gL%g %g", r.X, r.Y+r.H, r.X+r.W, r.Y)})
				never = true
			} else {
				shown++
			}
			b.text(words, brand.Body, 11, x, r.Y+h+16, w, 1, b.soft)
			if x += w + gap; x+w > PageW-margin+1 {
				break
			}
		}
	}
}

func plain(id string) string { return strings.ReplaceAll(id, "-", " ") }

func (b *book) colours() {
	const columns, w, h = 3, 252.0, 190.0
	all := b.Kit.Colours()
	for i, c := range all {
		if i%9 == 0 {
			b.begin("Colours")
		}
		x, y := column+float64(i%columns)*(w+20), margin+float64(i%9/columns)*(h+22)
		r := spec.Rect{X: x, Y: y, W: w, H: 76}
		b.rect(r, c.Value, 0)
		b.frame(r, colour.RGB{R: 214, G: 214, B: 206})
		use := string(c.Role)
		if c.NeverGround {
			use += ", never as a ground"
		}
		b.text(c.Name, brand.Subheading, 15, x, y+98, 130, 1, b.ink)
		b.text(use, brand.Body, 11, x+134, y+98, w-134, 1, b.soft)
		n := c.Value.Notations()
		for j, key := range []string{"hex", "rgb", "hsl", "oklch"} {
			b.text(n[key], brand.Body, 10.5, x+float64(j%2)*118, y+116+float64(j/2)*15, 132, 1, b.ink)
		}
		var carries []string
		for _, o := range all {
			if r := colour.Contrast(o.Value, c.Value); r >= 4.5 {
				carries = append(carries, fmt.Sprintf("%s %.1f", o.Name, r))
			}
		}
		words := "Carries no text of this kit."
		if len(carries) > 0 {
			words = "Carries text in " + strings.Join(carries, ", ") + "."
		}
		b.text(words, brand.Body, 10, x, y+150, w, 3, b.soft)
	}
}

func (b *book) type_() {
	samples := map[brand.Level]string{brand.Headline: b.Kit.Tagline, brand.Subheading: "Every piece in one voice", brand.Body: "Set the brand up once. What you make from it comes out right in every size.", brand.Caption: "Photographed where it was made", brand.Button: "See the pieces"}
	if samples[brand.Headline] == "" {
		samples[brand.Headline] = "Words worth stopping for"
	}
	if len(b.Kit.CallsToAction) > 0 {
		samples[brand.Button] = b.Kit.CallsToAction[0]
	}
	for _, set := range b.Kit.TypeSets {
		b.set = set
		title := "Type"
		if len(b.Kit.TypeSets) > 1 {
			title = "Type: " + set.Name
		}
		b.begin(title)
		y := margin + 30
		for _, l := range brand.Levels {
			s := set.Levels[l]
			note := fmt.Sprintf("%s: %s %d, %.2g times the body", l, s.Family, s.Weight, set.Ratio(l))
			if s.Small != nil {
				note += "; small in " + s.Small.Family
			}
			size := math.Min(84, 20*set.Ratio(l))
			y += size * 0.7
			b.text(note, brand.Body, 10.5, column, y-size*0.95, 780, 1, b.soft)
			y += b.text(samples[l], l, size, column, y+8, PageW-margin-column, 3, b.ink) + 34
		}
	}
	b.set = b.Kit.TypeSet("")
}

func (b *book) voice() {
	v := b.Kit.Voice
	rows := [][2]string{{"It sounds", v.Sounds}, {"It speaks to", v.Reader}, {"It says", strings.Join(v.Says, ", ")}, {"It never says", strings.Join(v.NeverSays, ", ")},
		{"Sentences", v.Sentences}, {"In all", v.Text}, {"Values", strings.Join(b.Kit.Values, ", ")}, {"It asks to", strings.Join(b.Kit.CallsToAction, ", ")}, {"Where", strings.Join(nonEmpty(b.Kit.Website, b.Kit.Place, b.Kit.Phone), ", ")}}
	begun, y := false, margin+20
	for _, r := range rows {
		if strings.TrimSpace(r[1]) == "" {
			continue
		}
		if !begun || y > PageH-120 {
			b.begin("Voice")
			begun, y = true, margin+20
		}
		b.text(r[0], brand.Body, 12, column, y, 130, 1, b.soft)
		y += math.Max(34, b.text(r[1], brand.Body, 19, column+150, y, PageW-margin-column-150, 8, b.ink)+14)
	}
}

func nonEmpty(list ...string) []string {
	var out []string
	for _, s := range list {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}

// use sets the pieces in rows, each at most 205 px tall.
func (b *book) use() {
	x, y, row := column, margin, 0.0
	b.begin("In use")
	if words := b.Manner.String(); words != "" {
		y += b.text("Built with "+words+".", brand.Body, 13, column, y+13, PageW-margin-column, 2, b.ink) + 22
	}
	for i := range b.Pieces {
		sc := b.Pieces[i].Scene
		k := math.Min(205/float64(sc.H), (PageW-margin-column)/float64(sc.W))
		w, h := float64(sc.W)*k, float64(sc.H)*k
		if x > column && x+w > PageW-margin {
			x, y, row = column, y+row+40, 0
		}
		if y+h > PageH-80 {
			b.begin("In use")
			x, y, row = column, margin, 0
		}
		b.page.Pieces = append(b.page.Pieces, Placed{sc, x, y, k})
		b.text(b.Pieces[i].Placement.Name, brand.Body, 10.5, x, y+h+18, math.Max(w, 120), 1, b.soft)
		x, row = x+w+24, math.Max(row, h)
	}
}
