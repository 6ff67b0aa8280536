package motion

import (
	"math"
	"strings"
	"unicode"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/caption"
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

// How captions stand on a frame, in shares of the safe area.
const (
	captionWide  = 0.92
	captionFoot  = 0.04 // of its short side, under the ground
	captionLead  = 1.18
	captionPad   = 0.5  // of the size, around the words
	fewestInLine = 22   // letters: the size goes down until as many fit
	wideLetter   = 0.52 // of the size: the mean advance of a letter
)

// CaptionLine is how many letters stand in a line of a caption, at most
// [caption.MostLine].
func CaptionLine(in Input) int {
	size := in.captionSize()
	return min(caption.MostLine, int(captionWide*in.Placement.SafeBox().W/(wideLetter*size)))
}

// CaptionLines is how many lines a caption has at most.
func CaptionLines(in Input) int {
	if in.Kit.Motion.Captions.Lines == 1 {
		return 1
	}
	return caption.MostLines
}

// atHead reports whether captions stand at the head of the frame, not at its foot.
func (in Input) atHead() bool { return in.Kit.Motion.Captions.Place == "head" }

// CaptionRoom is what captions may cover: the foot of the safe area, or its head, clear of what the
// channel covers.
func CaptionRoom(in Input) spec.Rect {
	safe := in.Placement.SafeBox()
	size := in.captionSize()
	h := (captionLead*float64(CaptionLines(in)-1) + 1 + 2*captionPad) * size
	edge := captionFoot * math.Min(safe.W, safe.H)
	room := spec.Rect{X: safe.X, Y: safe.Bottom() - edge - h, W: safe.W, H: h}
	if in.atHead() {
		room.Y = safe.Y + edge
	}
	for _, k := range in.Placement.KeepOuts() {
		room = in.beside(room, k, edge)
	}
	return room
}

// beside is a room for captions that keeps out of what the channel covers: as much narrower as
// that takes where enough is left, else further from its edge of the frame.
func (in Input) beside(room, covered spec.Rect, edge float64) spec.Rect {
	if !room.Overlaps(covered, 0) {
		return room
	}
	left, right := room, room
	left.W = covered.X - edge - room.X
	right.X = covered.Right() + edge
	right.W = room.Right() - right.X
	if right.W > left.W {
		left = right
	}
	if left.W >= captionLeast*room.W {
		return left
	}
	if room.Y = covered.Y - edge - room.H; in.atHead() {
		room.Y = covered.Bottom() + edge
	}
	return room
}

// captionLeast is the least share (0-1) of its width a room for captions keeps beside what the channel
// covers.
const captionLeast = 0.7

// captionSize is the size of captions, px: as the level has it, and small enough for lines
// of some length.
func (in Input) captionSize() float64 {
	safe := in.Placement.SafeBox()
	style := in.Kit.TypeSet("").Levels[in.Kit.Motion.Captions.Level]
	size := math.Min(style.SizePx, 72) / 1080 * 1.25 * math.Min(float64(in.Placement.Width), float64(in.Placement.Height))
	return math.Min(math.Max(size, 24), captionWide*safe.W/(fewestInLine*wideLetter))
}

// Captioned is a caption on a frame.
type Captioned struct {
	Ground scene.Part
	Words  scene.Part
	Spoken []scene.Part // each word again, as it is set off while it is said
}

// Caption sets the words of a caption where captions stand, in as many lines as they have; ok
// is false where there are none, or they cannot be set.
func Caption(in Input) (c Captioned, ok bool) {
	f := newFrame(in)
	style := Captions(in.Kit)
	set := in.Kit.TypeSet("").Levels[in.Kit.Motion.Captions.Level]
	face, err := in.Library.Face(set.Family, set.Weight, set.Italic)
	text := in.Caption
	if err != nil || strings.TrimSpace(text) == "" {
		return c, false
	}
	if set.Upper {
		text = strings.ToUpper(text)
	}
	room := CaptionRoom(in)
	one := typeset.Style{Face: face, Tracking: set.Tracking}
	p := in.Shaper.Paragraph(text, one)
	size := in.captionSize()
	if CaptionLines(in) == 1 {
		text = strings.Join(strings.Fields(text), " ")
	}
	most := max(CaptionLines(in), 1+strings.Count(strings.TrimSpace(text), "\n"))
	var lines *typeset.Setting
	for ; size > 8; size *= 0.96 {
		if lines = p.Narrowest(captionWide*room.W/size, most); lines != nil && float64(len(lines.Lines)-1)*captionLead*size+size <= room.H {
			break
		}
	}
	if lines == nil {
		return c, false
	}
	part := scene.Part{Slot: "caption", Kind: scene.KindText, Text: text, SizePx: size, Family: set.Family, Weight: face.Weight, Fill: style.Ink, Ground: style.Ground, Contrast: colour.Contrast(style.Ink, style.Ground)}
	low := room.Bottom() - captionPad*size - 0.22*size // the last line stands here, whatever hangs below
	if in.atHead() {
		low = room.Y + (captionPad+0.78+float64(len(lines.Lines)-1)*captionLead)*size
	}
	ink := typeset.Box{}
	for i, l := range lines.Lines {
		y := low - float64(len(lines.Lines)-1-i)*captionLead*size
		at := l.Ink.Scale(size)
		x := room.X + (room.W-(at.X1-at.X0))/2 - at.X0
		part.Lines = append(part.Lines, scene.TextLine{Line: l, X: x, Y: y, From: lines.Starts[i]})
		ink = ink.Union(at.Shift(x, y))
	}
	part.Box = spec.Rect{X: ink.X0, Y: ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0}
	c.Words = part
	// the ground is as high as its lines, so that it does not jump with every letter
	top := low - float64(len(lines.Lines)-1)*captionLead*size - 0.78*size
	box := spec.Rect{X: part.Box.X, Y: top, W: part.Box.W, H: low + 0.22*size - top}.Inset(-captionPad * size)
	c.Ground = scene.Part{Slot: "caption", Kind: scene.KindShape, Box: box, Fill: style.Ground, Radius: size * 0.25}
	if style.Opacity < 1 {
		c.Ground.Alpha = style.Opacity
	}
	c.Spoken = f.spokenWords(part, one, style)
	return c, true
}

// caption draws the words spoken at the moment.
func (f *frame) caption() {
	c, ok := Caption(f.Input)
	if !ok {
		return
	}
	f.out.Parts = append(f.out.Parts, c.Ground, c.Words)
	if f.Spoken >= 0 && f.Spoken < len(c.Spoken) {
		f.out.Parts = append(f.out.Parts, c.Spoken[f.Spoken])
	}
}

// spokenWords are the words of a caption, each set again over its place.
func (f *frame) spokenWords(part scene.Part, style typeset.Style, look CaptionStyle) []scene.Part {
	var out []scene.Part
	runes := []rune(part.Text)
	for i, l := range part.Lines {
		to := len(runes)
		if i+1 < len(part.Lines) {
			to = part.Lines[i+1].From
		}
		from := l.From
		for from < to {
			if unicode.IsSpace(runes[from]) {
				from++
				continue
			}
			end := from
			for end < to && !unicode.IsSpace(runes[end]) {
				end++
			}
			word := string(runes[from:end])
			line := f.Shaper.Line(word, style)
			left := math.Inf(1)
			for _, c := range l.Line.Clusters {
				if at := l.From + c.Rune; at >= from && at < end {
					left = math.Min(left, c.X)
				}
			}
			one := part
			one.Slot, one.Text, one.Fill, one.Contrast = "spoken", word, look.Spoken, colour.Contrast(look.Spoken, look.Ground)
			x := l.X + left*part.SizePx
			one.Lines = []scene.TextLine{{Line: line, X: x, Y: l.Y}}
			ink := line.Ink.Scale(part.SizePx).Shift(x, l.Y)
			one.Box = spec.Rect{X: ink.X0, Y: ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0}
			out = append(out, one)
			from = end
		}
	}
	return out
}
