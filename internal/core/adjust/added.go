package adjust

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// add draws a part that was added by hand. What cannot be drawn (a picture that is gone,
// a face that fails) is left out.
func (a *adjuster) add(add brief.Added) {
	w, h := add.Size[0]*a.short, add.Size[1]*a.short
	r := spec.Rect{X: add.At[0]*float64(a.scene.W) - w/2, Y: add.At[1]*float64(a.scene.H) - h/2, W: w, H: h}
	if add.Fit == "whole" || add.Fit == "wide" {
		r.X, r.W = 0, float64(a.scene.W)
	}
	if add.Fit == "whole" || add.Fit == "high" {
		r.Y, r.H = 0, float64(a.scene.H)
	}
	fill, ok := a.Paint(add.Fill)
	if !ok || add.Kind == "button" || add.Kind == "badge" { // chosen when it is known where it stands
		a.free[add.Slot] = add
	}
	p := scene.Part{Slot: add.Slot, Kind: scene.KindShape, Box: r, Fill: fill}
	switch add.Kind {
	case "words":
		set, fits := a.words(add, r)
		if !fits {
			return
		}
		p = set
		p.Fill = fill
	case "button", "badge":
		a.labelled(add, p)
		return
	case "facts":
		a.facts(add, p)
		return
	case "row":
		inside, found := a.Icons[add.Name]
		if !found {
			return
		}
		p.Kind, p.Art = scene.KindIcon, rowArt(inside, fill, add.Count)
		p.Box = fitted(r, p.Art.View[2]/p.Art.View[3])
	case "picture":
		pic, found := a.Files(add.File)
		if !found || pic.W == 0 {
			return
		}
		p.Kind, p.Picture, p.Crop = scene.KindPicture, pic.Hash, pic.CropFor(photo.Frame{W: r.W, H: r.H})
	case "logo":
		i := slices.IndexFunc(a.Kit.Logos, func(l brand.Logo) bool { return l.File == add.File && l.Art != nil })
		if i < 0 {
			return
		}
		art := a.Kit.Logos[i].Art
		p.Kind, p.Art, p.File = scene.KindLogo, art, add.File
		p.Box = fitted(r, art.View[2]/art.View[3])
	case "icon":
		inside, found := a.Icons[add.Name]
		if !found {
			return
		}
		p.Kind, p.Box = scene.KindIcon, fitted(r, 1)
		p.Art = iconArt(inside, fill)
	case "pattern":
		p.Path, p.Stroke = layout.PatternPath(add.Name, r, a.short/40)
		p.Clip = FramePath("rectangle", r, 0)
	case "shape":
		p.Path = ShapePath(add.Name, r)
		if add.Name == "frame" {
			p.Stroke = math.Max(1, math.Round(add.Width*a.short))
			p.Path = FramePath("rectangle", r.Inset(p.Stroke/2), 0)
		}
	}
	a.scene.Parts = append(a.scene.Parts, p)
}

// Room between icons in a row, in sides of one.
const rowGap = 0.5

// rowArt is an icon several times in a row, evenly spaced.
func rowArt(inside string, c colour.RGB, n int) *brand.Art {
	one := iconArt(inside, c)
	art := &brand.Art{View: [4]float64{0, 0, 24 * (float64(n) + rowGap*float64(n-1)), 24}}
	for i := range n {
		art.SVG += `<g transform="translate(` + typeset.Num(24*(1+rowGap)*float64(i)) + ` 0)">` + one.SVG + `</g>`
	}
	return art
}

// Room around the words of a button and of a badge, in fractions of its box on each side.
var labelRoom = map[string][2]float64{"button": {0.12, 0.26}, "badge": {0.17, 0.27}}

// labelled draws a shape with words in it: a button as the manner of the kit has its
// corners, a badge as a burst.
func (a *adjuster) labelled(add brief.Added, shape scene.Part) {
	r := shape.Box
	if add.Kind == "badge" {
		shape.Path = ShapePath("burst", r)
	} else {
		shape.Radius = a.Corner(r.H)
	}
	room := labelRoom[add.Kind]
	words, fits := a.words(add, spec.Rect{X: r.X + room[0]*r.W, Y: r.Y + room[1]*r.H, W: (1 - 2*room[0]) * r.W, H: (1 - 2*room[1]) * r.H})
	a.scene.Parts = append(a.scene.Parts, shape)
	if fits {
		a.scene.Parts = append(a.scene.Parts, words)
	}
}

// How a row of facts is set out, in fractions of its height and of a column's width.
const (
	factIcon  = 0.42
	factGap   = 0.1
	factWords = 0.88
)

// facts draws facts beside each other in columns of one width: an icon, and under it words
// of one size.
func (a *adjuster) facts(add brief.Added, p scene.Part) {
	list := add.Facts()
	r := p.Box
	wide := r.W / float64(len(list))
	inside, found := a.Icons[add.Name]
	top := 0.0
	if found {
		top = factIcon + factGap
	}
	set := make([]scene.Part, 0, len(list))
	size := math.Inf(1)
	for range 2 { // the second time all of them as large as the longest fits
		set = set[:0]
		for i, text := range list {
			one := add
			one.Text = text
			x := r.X + float64(i)*wide
			box := spec.Rect{X: x + (1-factWords)/2*wide, Y: r.Y + top*r.H, W: factWords * wide, H: (1 - top) * r.H}
			words, fits := a.wordsUpTo(one, box, size)
			if !fits {
				return
			}
			words.Fill = p.Fill
			set = append(set, words)
		}
		for _, w := range set {
			size = min(size, w.SizePx)
		}
	}
	for i, words := range set {
		if found {
			side := min(factIcon*r.H, wide)
			icon := p
			icon.Kind, icon.Art = scene.KindIcon, iconArt(inside, p.Fill)
			icon.Box = spec.Rect{X: r.X + (float64(i)+0.5)*wide - side/2, Y: r.Y, W: side, H: side}
			a.scene.Parts = append(a.scene.Parts, icon)
		}
		a.scene.Parts = append(a.scene.Parts, words)
	}
}

// settle gives an added part that nobody chose a colour for one that is told apart from
// everything below it: that of the seat it has by rights, else the best of the kit's.
func (a *adjuster) settle(p *scene.Part, below []scene.Part) {
	add, free := a.free[p.Slot]
	if !free {
		return
	}
	label := p.Words() && (add.Kind == "button" || add.Kind == "badge") // it is read on its shape, whatever colour that has
	if h := a.Hands[p.Slot]; !label && (add.Fill != "" || h != nil && h.Fill != "") {
		return
	}
	want, first := colourway.InkContrast, colourway.InkOn(colourway.Ground)
	switch p.Kind {
	case scene.KindShape:
		want, first = colourway.ButtonContrast, colourway.Button
	case scene.KindIcon:
		want = signContrast
	}
	colours := []colour.RGB{a.Colours.At(first).Value}
	for _, s := range colourway.Seats {
		colours = append(colours, a.Colours.At(s).Value)
	}
	for _, c := range a.Kit.Colours() {
		colours = append(colours, c.Value)
	}
	best, most := colours[0], 0.0
	grounds := a.under(p, below)
	if add.Kind == "pattern" {
		colours = quietest(colours, grounds)
		want = 0
	}
	if p.Kind == scene.KindShape { // a picture has every colour somewhere: a shape is told from flat grounds
		grounds = slices.DeleteFunc(grounds, func(b photo.Bounds) bool { return b.Lo != b.Hi })
	}
	for _, c := range append(colours, colour.White, colour.Black) {
		contrast, _ := against([]colour.RGB{c}, grounds)
		if contrast > most {
			best, most = c, contrast
		}
		if contrast >= want {
			break
		}
	}
	p.Fill = best
	a.redraw(p, add, best)
}

// signContrast is what a sign needs to be told from what it lies on (WCAG 2.2, 1.4.11).
const signContrast = 3.0

// leastApart is how far colours are apart (CIEDE2000) that are told from each other.
const leastApart = 7

// quietest is the colour nearest to the topmost flat ground that is still told from it.
func quietest(colours []colour.RGB, grounds []photo.Bounds) []colour.RGB {
	i := slices.IndexFunc(grounds, func(b photo.Bounds) bool { return b.Lo == b.Hi })
	if i < 0 {
		return colours
	}
	apart := func(c colour.RGB) float64 { return colour.DeltaE(c, grounds[i].Lo) }
	told := slices.DeleteFunc(slices.Clone(colours), func(c colour.RGB) bool { return apart(c) < leastApart })
	if len(told) == 0 {
		return colours
	}
	return []colour.RGB{slices.MinFunc(told, func(p, q colour.RGB) int { return cmp.Compare(apart(p), apart(q)) })}
}

// redraw draws the icons of an added part in a colour.
func (a *adjuster) redraw(p *scene.Part, add brief.Added, c colour.RGB) {
	switch add.Kind {
	case "icon", "facts":
		p.Art = iconArt(a.Icons[add.Name], c)
	case "row":
		p.Art = rowArt(a.Icons[add.Name], c, add.Count)
	}
}

// iconArt is a shipped icon in a colour: strokes of 2 in a square of 24.
func iconArt(inside string, c colour.RGB) *brand.Art {
	return &brand.Art{
		View: [4]float64{0, 0, 24, 24},
		SVG:  `<g fill="none" stroke="` + c.Hex() + `" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">` + inside + `</g>`,
	}
}

// fitted is the largest rectangle of an aspect in the middle of another.
func fitted(r spec.Rect, aspect float64) spec.Rect {
	w, h := r.W, r.H
	if w/h > aspect {
		w = h * aspect
	} else {
		h = w / aspect
	}
	return spec.Rect{X: r.X + (r.W-w)/2, Y: r.Y + (r.H-h)/2, W: w, H: h}
}

// mostAdded is how many lines added words take.
const mostAdded = 8

// words sets words in a box: in the style of their level, as large as they fit.
func (a *adjuster) words(add brief.Added, r spec.Rect) (scene.Part, bool) {
	return a.wordsUpTo(add, r, math.Inf(1))
}

// wordsUpTo is words of at most a size, px; smaller ones stand at the top of their box.
func (a *adjuster) wordsUpTo(add brief.Added, r spec.Rect, most float64) (scene.Part, bool) {
	text := typeset.Correct(add.Text)
	hand := a.Hands[add.Slot]
	level := brand.Level(add.Level)
	if hand != nil && hand.Level != "" {
		level = brand.Level(hand.Level)
	}
	style := hand.Style(a.Types.Levels[level])
	if style.Upper {
		text = strings.ToUpper(text)
	}
	face := a.Face(style)
	look := typeset.Style{Face: face, Tracking: style.Tracking}
	broken, _ := hand.Broken(text)
	lead := style.LineHeight
	if lead == 0 {
		lead = 1.15
	}
	var set *typeset.Setting
	size := 0.0
	para := a.Shaper.Paragraph(broken, look)
	if times := hand.TimesOf(broken, a.Types, level); times != nil {
		para = para.Sized(times)
	}
	for k := 1; k <= mostAdded; k++ {
		s := para.Break(k)
		if s == nil || s.Widest <= 0 {
			continue
		}
		high := float64(k-1)*lead + 1
		for _, times := range s.Grown {
			high += typeset.Rise(times)
		}
		if fits := math.Min(most, math.Min(r.W/s.Widest, r.H/high)); fits > size {
			set, size = s, fits
		}
	}
	if set == nil {
		return scene.Part{}, false
	}
	size = math.Floor(size*10) / 10
	p := scene.Part{
		Slot: add.Slot, Kind: scene.KindText, Text: text, Field: add.Slot, SizePx: size, Family: style.Family, Weight: face.Weight,
		Style: look, Upper: style.Upper, Align: "start",
	}
	align := "middle"
	if hand != nil && hand.Align != "" {
		align = hand.Align
	}
	p.Align = align
	first, rise := 0.0, 0.0 // that larger words need above the first line, and above all of them, em
	for i, times := range set.Grown {
		if rise += typeset.Rise(times); i == 0 {
			first = rise
		}
	}
	y := r.Y + (first+face.CapHeight)*size
	if math.IsInf(most, 1) {
		y += (r.H - (float64(len(set.Lines)-1)*lead+face.CapHeight+rise)*size) / 2
	}
	box := spec.Rect{}
	for i, l := range set.Lines {
		ink := l.Ink.Scale(size)
		x := r.X + (r.W-(ink.X1-ink.X0))/2 - ink.X0
		switch align {
		case "start":
			x = r.X - ink.X0
		case "end":
			x = r.Right() - ink.X1
		}
		ly := y + float64(i)*lead*size
		p.Lines = append(p.Lines, scene.TextLine{Line: l, X: round(x), Y: round(ly), From: set.Starts[i]})
		if !l.Ink.Empty() {
			box = box.Union(spec.Rect{X: x + ink.X0, Y: ly + ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0})
		}
	}
	p.Box = box
	return p, true
}

func round(v float64) float64 { return math.Round(v*100) / 100 }
