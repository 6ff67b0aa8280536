// Package motion is how a brand moves: the opening and closing of a video, its
// corner mark and its captions. For now it draws single frames of them, through
// the same scenes the pieces are made of; it knows nothing of files.
package motion

import (
	"math"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// Input is what a frame is drawn of.
type Input struct {
	Kit       *brand.Kit
	Library   *typeset.Library
	Shaper    *typeset.Shaper
	Placement spec.Placement
	Picture   *photo.Picture           // behind a running frame, nil for a plain ground
	Caption   string                   // the words spoken at the moment
	Spoken    int                      // which of them is being said, from 0
	Call      string                   // what people are to do, "" for the kit's own
	Pictures  map[string]photo.Picture // the kit's, by file: what it may open and close with
}

// frame gathers the parts of one.
type frame struct {
	Input
	safe spec.Rect
	out  *scene.Scene
}

func newFrame(in Input) *frame {
	return &frame{in, in.Placement.SafeBox(), &scene.Scene{W: in.Placement.Width, H: in.Placement.Height}}
}

func (f *frame) fill(r spec.Rect, c colour.RGB, alpha, radius float64, slot string) {
	f.out.Parts = append(f.out.Parts, scene.Part{Slot: slot, Kind: scene.KindShape, Box: r, Fill: c, Alpha: alpha, Radius: radius})
}

// Opening is the settled frame a video opens with, nil when it opens with
// nothing of the brand. A clip is shown by the brand's logo until it plays.
func Opening(in Input) *scene.Scene { return bookend(in, in.Kit.Motion.Opening) }

// Closing is the settled frame a video closes with.
func Closing(in Input) *scene.Scene { return bookend(in, in.Kit.Motion.Closing) }

func bookend(in Input, b brand.Bookend) *scene.Scene {
	if b.From == "none" {
		return nil
	}
	f := newFrame(in)
	if pic, ok := in.Pictures[b.Picture]; ok && b.From == "picture" {
		f.out.Alt = "a picture of the brand"
		f.picture(pic)
		return f.out
	}
	f.out.Alt = "a video frame with the brand's " + b.From
	ground := f.ground()
	f.fill(in.Placement.Canvas(), ground, 0, 0, "ground")
	ink := f.Kit.InkOn(ground)
	safe := f.safe
	switch b.From {
	case "tagline":
		if in.Kit.Tagline != "" {
			f.words(in.Kit.Tagline, brand.Headline, f.middle(), ink, ground, 3)
			return f.out
		}
	case "address":
		words := in.Kit.Website
		if words == "" {
			break
		}
		if f.logo(spec.Rect{X: safe.X, Y: safe.Y, W: safe.W, H: safe.H * 0.56}, 0.42, 0.34, 0.66, ground) {
			f.words(words, brand.Subheading, spec.Rect{X: safe.X, Y: safe.Y + safe.H*0.6, W: safe.W, H: safe.H * 0.12}, ink, ground, 1)
		} else {
			f.words(in.Kit.Name, brand.Headline, spec.Rect{X: safe.X + safe.W*0.1, Y: safe.Y + safe.H*0.3, W: safe.W * 0.8, H: safe.H * 0.24}, ink, ground, 2)
			f.words(words, brand.Subheading, spec.Rect{X: safe.X, Y: safe.Y + safe.H*0.56, W: safe.W, H: safe.H * 0.12}, ink, ground, 1)
		}
		return f.out
	case "callToAction":
		if f.call(ground) {
			return f.out
		}
	}
	// the logo alone, or the name where there is none
	if !f.logo(in.Placement.Canvas(), 0.5, 0.4, 0.5, ground) {
		f.words(in.Kit.Name, brand.Headline, f.middle(), ink, ground, 3)
	}
	return f.out
}

// middle is where words stand that have a frame to themselves.
func (f *frame) middle() spec.Rect {
	return spec.Rect{X: f.safe.X + f.safe.W*0.1, Y: f.safe.Y + f.safe.H*0.25, W: f.safe.W * 0.8, H: f.safe.H * 0.5}
}

// call is what people are to do, on a button under the logo, with the address below it; false
// where nothing is said.
func (f *frame) call(ground colour.RGB) bool {
	words := f.Call
	if words == "" && len(f.Kit.CallsToAction) > 0 {
		words = f.Kit.CallsToAction[0]
	}
	if words == "" {
		return false
	}
	safe := f.safe
	f.logo(spec.Rect{X: safe.X, Y: safe.Y, W: safe.W, H: safe.H * 0.44}, 0.42, 0.3, 0.62, ground)
	button := f.buttonOn(ground)
	under := len(f.out.Parts)
	f.fill(spec.Rect{}, button, 0, 0, "button")
	_, size, said := f.words(words, brand.Subheading, spec.Rect{X: safe.X + safe.W*0.16, Y: safe.Y + safe.H*0.52, W: safe.W * 0.68, H: safe.H * 0.16}, f.Kit.InkOn(button), button, 2)
	if size == 0 {
		f.out.Parts = f.out.Parts[:under]
		return false
	}
	box := said.Box.Inset(-0.75 * size)
	box.X, box.W = box.X-0.5*size, box.W+size
	f.out.Parts[under].Box = box
	if m := f.Kit.Manner; m.Corners != "square" {
		f.out.Parts[under].Radius = 0.3 * size
	}
	if f.Kit.Website != "" {
		f.words(f.Kit.Website, brand.Body, spec.Rect{X: safe.X, Y: box.Bottom() + 0.04*safe.H, W: safe.W, H: safe.H * 0.08}, f.Kit.InkOn(ground), ground, 1)
	}
	return true
}

// buttonOn is the kit's colour for a button on a ground: its accent where that stands out by
// 3:1 (WCAG 2.2, 1.4.11), else what reads best.
func (f *frame) buttonOn(ground colour.RGB) colour.RGB {
	for _, c := range f.Kit.Colours() {
		if c.Role == brand.Accent && colour.Contrast(c.Value, ground) >= 3 {
			return c.Value
		}
	}
	return f.Kit.InkOn(ground)
}

// picture fills the frame with one.
func (f *frame) picture(p photo.Picture) {
	canvas := f.Placement.Canvas()
	f.out.Parts = append(f.out.Parts, scene.Part{Slot: "picture", Kind: scene.KindPicture, Box: canvas, Picture: p.Hash, Crop: p.Crop(canvas.W/canvas.H, p.Focus)})
}

// Running is a frame in the middle of a video: the picture, the corner mark, a
// caption with the word being said set off.
func Running(in Input) *scene.Scene {
	f := newFrame(in)
	f.out.Alt = "a video frame: " + in.Caption
	f.fill(in.Placement.Canvas(), f.ground(), 0, 0, "ground")
	if p := in.Picture; p != nil {
		f.picture(*p)
	}
	f.caption()
	f.mark()
	return f.out
}

// MarkBox is where the corner mark may stand: its middle as a share of the frame
// and its size, kept inside the safe area.
func MarkBox(m brand.Mark, p spec.Placement, aspect float64) (spec.Rect, bool) {
	if m.Place == "none" {
		return spec.Rect{}, false
	}
	safe, canvas := p.SafeBox(), p.Canvas()
	w := m.Size * math.Min(canvas.W, canvas.H)
	h := w / aspect
	if limit := 0.5 * m.Size * math.Min(canvas.W, canvas.H); aspect > 2 && h < limit { // a wide logo is measured by its area
		k := math.Sqrt(limit / h)
		w, h = w*k, h*k
	}
	pad := math.Round(math.Min(canvas.W, canvas.H) * 0.04)
	in := safe.Inset(pad)
	var x, y float64
	switch m.Place {
	case "free":
		x, y = m.At[0]*canvas.W-w/2, m.At[1]*canvas.H-h/2
	default:
		if strings.HasSuffix(m.Place, "right") {
			x = in.Right() - w
		} else {
			x = in.X
		}
		if strings.HasPrefix(m.Place, "bottom") {
			y = in.Y + in.H - h
		} else {
			y = in.Y
		}
	}
	clamp := func(v, lo, hi float64) float64 { return math.Max(lo, math.Min(v, math.Max(lo, hi))) }
	return spec.Rect{X: clamp(x, safe.X, safe.Right()-w), Y: clamp(y, safe.Y, safe.Y+safe.H-h), W: w, H: h}, true
}

// MarkOver are the parts of the corner mark over a running video, none where the kit has
// none: on a plate, as over pictures nothing is known of the ground.
func MarkOver(in Input) []scene.Part {
	f := newFrame(in)
	f.mark()
	return f.out.Parts
}

// MarkOn is the corner mark over a flat ground, in the tone that reads there; nil where it needs
// a plate.
func MarkOn(in Input, ground colour.RGB) []scene.Part {
	f := newFrame(in)
	fit, ok := f.Kit.PickLogo(ground, brand.CompactRoom, "")
	if !ok || fit.Plate {
		return nil
	}
	if box, ok := MarkBox(f.Kit.Motion.Mark, f.Placement, fit.Logo.Art.Aspect()); ok {
		f.place(fit, box.Inset(markInset*math.Min(box.W, box.H)), ground)
	}
	return f.out.Parts
}

// markInset is the room of a mark's plate around it, of its short side.
const markInset = 0.14

func (f *frame) mark() {
	logo := f.compact()
	if logo == nil {
		return
	}
	box, ok := MarkBox(f.Kit.Motion.Mark, f.Placement, logo.Art.Aspect())
	if !ok {
		return
	}
	// over a moving picture nothing is known of the ground: the mark brings its own
	plate := f.Kit.PlateFor(logo)
	inner := box.Inset(markInset * math.Min(box.W, box.H))
	f.fill(box, plate, 0, 0.12*math.Min(box.W, box.H), "plate")
	f.place(brand.LogoFit{Logo: logo}, inner, plate)
}

// compact is the logo that says most in a corner: a symbol or badge, else the
// one nearest to a square; it gets a plate it reads on.
func (f *frame) compact() *brand.Logo {
	var best *brand.Logo
	far := math.Inf(1)
	for i := range f.Kit.Logos {
		l := &f.Kit.Logos[i]
		if l.Art == nil {
			continue
		}
		d := math.Abs(math.Log(l.Art.Aspect()))
		if l.Lockup == "symbol" || l.Lockup == "badge" {
			d -= 2
		}
		if d < far {
			far, best = d, l
		}
	}
	return best
}

// logo puts the logo that reads on a ground into the middle of a box, in shares
// of the safe area at most; false when the kit has none.
func (f *frame) logo(box spec.Rect, wide, high, middle float64, ground colour.RGB) bool {
	fit, ok := f.Kit.PickLogo(ground, brand.WideRoom, "")
	if !ok {
		return false
	}
	w, h := f.safe.W*wide, f.safe.H*high
	if a := fit.Logo.Art.Aspect(); w/h > a {
		w = h * a
	} else {
		h = w / a
	}
	r := spec.Rect{X: box.X + (box.W-w)/2, Y: box.Y + box.H*middle - h/2, W: w, H: h}
	if fit.Plate {
		ground = f.Kit.PlateFor(fit.Logo)
		f.fill(r.Inset(-0.3*h), ground, 0, 0, "plate")
	}
	f.place(fit, r, ground)
	return true
}

func (f *frame) place(fit brand.LogoFit, r spec.Rect, ground colour.RGB) {
	art := fit.Art()
	w, h := r.W, r.W/art.Aspect()
	if h > r.H {
		w, h = r.H*art.Aspect(), r.H
	}
	at := spec.Rect{X: r.X + (r.W-w)/2, Y: r.Y + (r.H-h)/2, W: w, H: h}
	f.out.Parts = append(f.out.Parts, scene.Part{Slot: "logo", Kind: scene.KindLogo, Box: at, Art: art, File: fit.Logo.File, Ground: ground})
}

// ground is the brand's own: the lead, else its first colour that may be one.
func (f *frame) ground() colour.RGB {
	first, found := colour.White, false
	for _, c := range f.Kit.Colours() {
		if c.NeverGround {
			continue
		}
		if c.Role == brand.Lead {
			return c.Value
		}
		if !found {
			first, found = c.Value, true
		}
	}
	return first
}

// words sets text in the middle of a box as large as it fits, at most as large
// as the level is for the frame; it returns the lines and their size.
func (f *frame) words(text string, level brand.Level, box spec.Rect, ink, ground colour.RGB, lines int) (*typeset.Setting, float64, scene.Part) {
	set := f.Kit.TypeSet("")
	style := set.Levels[level]
	face, err := f.Library.Face(style.Family, style.Weight, style.Italic)
	if err != nil {
		return nil, 0, scene.Part{}
	}
	if style.Upper {
		text = strings.ToUpper(text)
	}
	p := f.Shaper.Paragraph(text, typeset.Style{Face: face, Tracking: style.Tracking})
	size := style.SizePx * math.Min(box.W, math.Min(f.safe.W, f.safe.H)*1.2) / 1080 * 1.5
	var s *typeset.Setting
	lead := 1.12
	for ; size > 8; size *= 0.96 {
		if s = p.Narrowest(box.W/size, lines); s != nil && float64(len(s.Lines))*lead*size <= box.H*1.05 {
			break
		}
	}
	if s == nil {
		return nil, 0, scene.Part{}
	}
	part := scene.Part{Slot: string(level), Kind: scene.KindText, Text: text, SizePx: size, Family: style.Family, Weight: face.Weight, Fill: ink, Ground: ground, Contrast: colour.Contrast(ink, ground)}
	y := box.Y + (box.H-float64(len(s.Lines)-1)*lead*size)/2 + face.CapHeight*size/2
	ink2 := typeset.Box{}
	for i, l := range s.Lines {
		at := l.Ink.Scale(size)
		x := box.X + (box.W-(at.X1-at.X0))/2 - at.X0
		part.Lines = append(part.Lines, scene.TextLine{Line: l, X: x, Y: y + float64(i)*lead*size, From: s.Starts[i]})
		ink2 = ink2.Union(at.Shift(x, y+float64(i)*lead*size))
	}
	part.Box = spec.Rect{X: ink2.X0, Y: ink2.Y0, W: ink2.X1 - ink2.X0, H: ink2.Y1 - ink2.Y0}
	f.out.Parts = append(f.out.Parts, part)
	return s, size, part
}
