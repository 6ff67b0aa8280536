package motion

import (
	"math"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// CaptionStyle is a caption's colours with nothing left to decide.
type CaptionStyle struct {
	Ink, Ground, Spoken colour.RGB
	Opacity             float64 // 0-1, raised where the asked one would let a picture through
}

// Captions resolves the kit's caption style: what is not chosen follows the
// brand, and whatever moves behind the ground, the words keep 4.5:1.
func Captions(k *brand.Kit) CaptionStyle {
	c := k.Motion.Captions
	pick := func(token string) (colour.RGB, bool) {
		col, ok := k.Colour(colourway.Token(token))
		return col.Value, ok
	}
	var s CaptionStyle
	ok := false
	if s.Ground, ok = pick(c.Ground); !ok {
		s.Ground = colour.Black
		dark := 0.12
		for _, col := range k.Colours() {
			if l := col.Value.Luminance(); l < dark && !col.NeverGround {
				dark, s.Ground = l, col.Value
			}
		}
	}
	if s.Ink, ok = pick(c.Colour); !ok || colour.Contrast(s.Ink, s.Ground) < colourway.InkContrast {
		s.Ink = k.InkOn(s.Ground)
	}
	if s.Spoken, ok = pick(c.Spoken); !ok || colour.Contrast(s.Spoken, s.Ground) < colourway.InkContrast {
		s.Spoken = s.Ink
		vivid := 0.06
		for _, col := range k.Colours() {
			if o := col.Value.OKLCh(); o.C > vivid && colour.Contrast(col.Value, s.Ground) >= colourway.InkContrast && colour.DeltaE(col.Value, s.Ink) > 10 {
				s.Spoken = col.Value
				if vivid = o.C; col.Role == brand.Accent {
					break
				}
			}
		}
	}
	s.Opacity = math.Max(c.Opacity, leastOpacity(s.Ink, s.Ground))
	s.Opacity = math.Max(s.Opacity, leastOpacity(s.Spoken, s.Ground))
	return s
}

// leastOpacity is the least alpha (0-1) at which ink keeps 4.5:1 on the ground
// over any picture. Luminance of a blend is monotonic towards white and towards
// black, so the two extremes decide; the crossing is found by bisection.
func leastOpacity(ink, ground colour.RGB) float64 {
	holds := func(a float64) bool {
		for _, under := range []colour.RGB{colour.White, colour.Black} {
			mix := func(g, u uint8) uint8 { return uint8(math.Round(a*float64(g) + (1-a)*float64(u))) }
			blend := colour.RGB{R: mix(ground.R, under.R), G: mix(ground.G, under.G), B: mix(ground.B, under.B)}
			if colour.Contrast(ink, blend) < colourway.InkContrast {
				return false
			}
		}
		return true
	}
	lo, hi := 0.0, 1.0
	for range 12 {
		if mid := (lo + hi) / 2; holds(mid) {
			hi = mid
		} else {
			lo = mid
		}
	}
	return math.Ceil(hi*100) / 100
}

// caption draws the words spoken at the moment at the foot of the safe area.
func (f *frame) caption() {
	text := strings.Join(strings.Fields(f.Caption), " ")
	if text == "" {
		return
	}
	style := Captions(f.Kit)
	short := math.Min(f.safe.W, f.safe.H)
	box := spec.Rect{X: f.safe.X + f.safe.W*0.08, W: f.safe.W * 0.84, H: short * 0.2}
	box.Y = f.safe.Y + f.safe.H - box.H - short*0.05
	at := len(f.out.Parts)
	set, size, part := f.words(text, f.Kit.Motion.Captions.Level, box, style.Ink, style.Ground, 2)
	if set == nil {
		return
	}
	pad := size * 0.55
	ground := scene.Part{Slot: "caption", Kind: scene.KindShape, Box: part.Box.Inset(-pad), Fill: style.Ground, Radius: size * 0.25}
	if style.Opacity < 1 {
		ground.Alpha = style.Opacity
	}
	f.out.Parts = append(f.out.Parts[:at], append([]scene.Part{ground}, f.out.Parts[at:]...)...)
	if word, ok := f.spokenWord(part); ok {
		word.Fill, word.Contrast = style.Spoken, colour.Contrast(style.Spoken, style.Ground)
		f.out.Parts = append(f.out.Parts, word)
	}
}

// spokenWord is the word being said, set again over its place in the caption.
func (f *frame) spokenWord(part scene.Part) (scene.Part, bool) {
	words := strings.Fields(part.Text)
	if f.Spoken < 0 || f.Spoken >= len(words) {
		return part, false
	}
	style := f.Kit.TypeSet("").Levels[f.Kit.Motion.Captions.Level]
	face, err := f.Library.Face(style.Family, style.Weight, style.Italic)
	if err != nil {
		return part, false
	}
	set := typeset.Style{Face: face, Tracking: style.Tracking}
	from := len([]rune(strings.Join(words[:f.Spoken], " ")))
	if f.Spoken > 0 {
		from++
	}
	runes := []rune(part.Text)
	for i := len(part.Lines) - 1; i >= 0; i-- {
		l := part.Lines[i]
		if l.From > from {
			continue
		}
		line := f.Shaper.Line(words[f.Spoken], set)
		before := f.Shaper.Line(string(runes[l.From:from])+words[f.Spoken], set).Advance - line.Advance
		out := part
		out.Slot, out.Text = "spoken", words[f.Spoken]
		x := l.X + before*part.SizePx
		out.Lines = []scene.TextLine{{Line: line, X: x, Y: l.Y}}
		ink := line.Ink.Scale(part.SizePx).Shift(x, l.Y)
		out.Box = spec.Rect{X: ink.X0, Y: ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0}
		return out, true
	}
	return part, false
}
