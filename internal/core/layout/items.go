package layout

import (
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// Icon is the sign beside a fact: a drawing in "currentColor", or a picture.
// The zero Icon is none.
type Icon struct {
	View    [4]float64 // x, y, width, height of the drawing
	SVG     string
	Picture *photo.Picture
}

// indent is the room before the items of a list, in px: for a fact's icon, or
// for the mark of one of several lines.
func (t *trial) indent(slot, text string, size float64) float64 {
	if !strings.Contains(text, "\n") && (slot != "facts" || len(t.in.Icons) == 0) || typeset.RTL(text) {
		return 0
	}
	switch {
	case strings.Contains(text, " · "): // run together on a ribbon
		return 0
	case slot == "facts" && len(t.in.Icons) > 0:
		return math.Round(1.75 * size)
	case slot == "lines" || slot == "facts":
		if t.align() == "center" {
			return 0
		}
		return math.Round(1.1 * size)
	}
	return 0
}

// listItems notes which lines start an item and gives the items air.
func (t *trial) listItems(s *setting, n *Node, slot string) {
	if slot != "lines" && slot != "facts" || !strings.Contains(s.text, "\n") && s.indent == 0 {
		return
	}
	runes := []rune(s.text)
	s.items = map[int]bool{}
	for i, from := range s.set.Starts {
		if from == 0 || runes[from-1] == '\n' {
			s.items[i] = true
		}
	}
	s.itemGap, s.ruled = 0.28*s.size, n.Ruled && t.in.Manner.Lines != "none"
	if n.Ruled {
		s.itemGap = 1.1 * s.size
	}
	if slot == "facts" && len(t.in.Icons) > 0 {
		s.itemGap = math.Max(s.itemGap, 0.4*s.size)
	}
	s.h += float64(len(s.items)-1) * s.itemGap
}

// drawItems draws what stands before and between items and returns where their
// words go: a list is set to the left, as a block, also where all else is
// centred.
func (t *trial) drawItems(s setting, r spec.Rect, align string, seat colourway.Seat) (spec.Rect, string) {
	if align == "center" {
		if s.indent == 0 && !s.ruled {
			return r, align
		}
		if !s.ruled {
			r = spec.Rect{X: r.X + (r.W-s.w)/2, Y: r.Y, W: s.w, H: r.H}
		}
	}
	ink := t.inkFor(s.style, seat)
	caps := s.face.CapHeight * s.size
	y, item := r.Y+s.top, 0
	for i := range s.set.Lines {
		if i > 0 && s.items[i] {
			if s.ruled {
				line := t.lineWidth(0.05 * s.size)
				// in the middle of what is free between the two items
				at := (y - s.leading + math.Max(0, s.set.Lines[i-1].Ink.Y1)*s.size + y + s.itemGap - caps) / 2
				t.content = append(t.content, scene.Part{Slot: "rule", Kind: scene.KindShape, Fill: t.ruleColour(seat),
					Box: spec.Rect{X: math.Round(r.X), Y: math.Round(at), W: math.Round(r.W), H: line}})
			}
			y += s.itemGap
		}
		if s.items[i] && s.indent > 0 {
			at := spec.Rect{X: r.X, Y: y - caps, W: s.indent, H: caps}
			if t.rtl {
				at.X = r.Right() - s.indent
			}
			t.drawItemMark(item, s, at, ink, seat)
		}
		if s.items[i] {
			item++
		}
		y += s.leading
	}
	if t.rtl {
		return spec.Rect{X: r.X, Y: r.Y, W: r.W - s.indent, H: r.H}, "left"
	}
	return spec.Rect{X: r.X + s.indent, Y: r.Y, W: r.W - s.indent, H: r.H}, "left"
}

// drawItemMark puts an icon, or a short stroke, beside an item's capitals.
func (t *trial) drawItemMark(i int, s setting, caps spec.Rect, ink colour.RGB, seat colourway.Seat) {
	if len(t.in.Icons) == 0 {
		h, w := math.Max(2, math.Round(0.12*s.size)), math.Round(0.62*s.size)
		t.content = append(t.content, scene.Part{Slot: "rule", Kind: scene.KindShape, Fill: t.ruleColour(seat),
			Box: spec.Rect{X: math.Round(t.besideItem(caps, w)), Y: math.Round(caps.Y + (caps.H-h)/2), W: w, H: h}})
		return
	}
	d := math.Round(1.28 * s.size)
	t.drawIcon(i, spec.Rect{X: math.Round(t.besideItem(caps, d)), Y: math.Round(caps.Y + (caps.H-d)/2), W: d, H: d}, ink, seat)
}

// drawIcon draws the icon of a fact, if it has one.
func (t *trial) drawIcon(i int, at spec.Rect, ink colour.RGB, seat colourway.Seat) {
	if i >= len(t.in.Icons) {
		return
	}
	part := scene.Part{Slot: "icon", Kind: scene.KindIcon, Box: at, Ground: t.colour(seat)}
	switch ic := t.in.Icons[i]; {
	case ic.Picture != nil:
		part.Picture, part.Crop = ic.Picture.Hash, ic.Picture.Crop(1, [2]float64{0.5, 0.5})
	case ic.SVG != "":
		part.Art = &brand.Art{View: ic.View, SVG: strings.ReplaceAll(ic.SVG, "currentColor", ink.Hex())}
	default:
		return
	}
	t.content = append(t.content, part)
}

// Where a stroke under words stands and how thick it is, over their size.
const (
	underlineAt    = 0.1
	underlineThick = 0.07
)

// emphasises reports whether a text has words that are to stand out.
func (t *trial) emphasises(text string) bool {
	low := strings.ToLower(text)
	return slices.ContainsFunc(t.in.Emphasis, func(phrase string) bool { return strings.Contains(low, strings.ToLower(typeset.Correct(phrase))) })
}

// underlines are the strokes under the marked runes of a line, in px.
func underlines(l scene.TextLine, mark []bool, size float64) (out []spec.Rect) {
	h := math.Max(1, math.Round(underlineThick*size))
	y := math.Round(l.Y + underlineAt*size)
	ink := l.Line.Ink.Scale(size).Shift(l.X, l.Y)
	for _, c := range l.Line.Clusters {
		if c.Rune >= len(mark) || !mark[c.Rune] {
			continue
		}
		x0, x1 := math.Max(ink.X0, l.X+c.X*size), math.Min(ink.X1, l.X+(c.X+c.Advance)*size)
		if n := len(out); n > 0 && x0-out[n-1].Right() < 0.5*size { // a space between marked words goes with them
			out[n-1].W = x1 - out[n-1].X
		} else {
			out = append(out, spec.Rect{X: x0, Y: y, W: x1 - x0, H: h})
		}
	}
	return out
}

// wholly reports whether all letters of a text are marked.
func wholly(text string, mark []bool) bool {
	for i, r := range []rune(text) {
		if !mark[i] && (unicode.IsLetter(r) || unicode.IsDigit(r)) {
			return false
		}
	}
	return true
}

// behind are the strokes of a marker behind the marked words of a line, for capitals of a height in
// sizes.
func behind(l scene.TextLine, mark []bool, size, capital float64) []spec.Rect {
	out := underlines(l, mark, size)
	top, bottom := math.Round(l.Y-(capital+markerOver)*size), math.Round(l.Y+markerBelow*size)
	for i := range out {
		out[i].X, out[i].W = out[i].X-markerBeside*size, out[i].W+2*markerBeside*size
		out[i].Y, out[i].H = top, bottom-top
	}
	return out
}

// How far a marker reaches beyond words, in type sizes, and how far its colour is from what it
// stands on (CIEDE2000): set by eye.
const (
	markerOver   = 0.1
	markerBelow  = 0.16
	markerBeside = 0.08
	markerApart  = 20
)

// markerOn is the colour of a kit an ink reads on that is told apart from a ground, the accent
// before others; false where there is none.
func (t *trial) markerOn(ink, ground colour.RGB) (colour.RGB, bool) {
	return t.farthest(ground, markerApart, func(c brand.Colour) bool {
		return !c.NeverGround && colour.Contrast(c.Value, ink) >= colourway.InkContrast
	})
}

// farthest is of the kit's colours that will do the one farthest from another, the accent before
// all; false where none is so far (CIEDE2000).
func (t *trial) farthest(from colour.RGB, least float64, do func(brand.Colour) bool) (found colour.RGB, ok bool) {
	best := -1.0
	for _, c := range t.in.Kit.Colours() {
		d := colour.DeltaE(c.Value, from)
		if d < least || !do(c) {
			continue
		}
		if c.Role == brand.Accent {
			d += 1000
		}
		if d > best {
			best, found = d, c.Value
		}
	}
	return found, best > 0
}

// besideItem is where a mark w px wide stands in the room before an item: at its outer
// side.
func (t *trial) besideItem(room spec.Rect, w float64) float64 {
	if t.rtl {
		return room.Right() - w
	}
	return room.X
}

// emphasised has words of a line stand out: cut into runs, in another ink of the kit; of a loud
// brand, where no ink does or where lines run from right to left by a marker behind them, and where
// that cannot be by a stroke under them.
func (t *trial) emphasised(part *scene.Part, s setting, l scene.TextLine) []scene.TextLine {
	if len(t.in.Emphasis) == 0 || part.Kind == scene.KindButton {
		return []scene.TextLine{l}
	}
	runes := []rune(l.Line.Text)
	mark := make([]bool, len(runes))
	all := t.emphasis(s.text)
	copy(mark, all[min(l.From, utf8.RuneCountInString(s.text)):])
	if !slices.Contains(mark, true) {
		return []scene.TextLine{l}
	}
	size := s.sizeOf(l)
	ink, inked := t.secondInk(part.Fill, part.Ground)
	inked = inked && !typeset.RTL(s.text)
	pen, marked := t.markerOn(part.Fill, part.Ground)
	switch {
	case !inked && wholly(s.text, all): // beside nothing it cannot stand out more than it does
		return []scene.TextLine{l}
	case marked && (!inked || t.in.Manner.Contrast == "loud"):
		part.Contrast = math.Min(part.Contrast, colour.Contrast(part.Fill, pen))
		l.Marker = &scene.Marker{Fill: pen, Behind: behind(l, mark, size, s.face.CapHeight)}
		return []scene.TextLine{l}
	case !inked: // never silently plain
		l.Under = underlines(l, mark, size)
		return []scene.TextLine{l}
	}
	part.Contrast = math.Min(part.Contrast, colour.Contrast(ink, part.Ground))
	at := map[int]float64{}
	for _, c := range l.Line.Clusters {
		at[c.Rune] = c.X
	}
	var out []scene.TextLine
	for i := 0; i < len(runes); {
		j := i + 1
		for j < len(runes) && (mark[j] == mark[i] || runes[j] == ' ') {
			j++
		}
		x, ok := at[i]
		if !ok { // inside a ligature
			return []scene.TextLine{l}
		}
		run := scene.TextLine{Line: t.in.Shaper.Line(string(runes[i:j]), s.look), X: math.Round((l.X+x*size)*100) / 100, Y: l.Y, From: l.From + i, SizePx: l.SizePx}
		if mark[i] {
			run.Fill = &ink
		}
		out = append(out, run)
		i = j
	}
	return out
}

// emphasis marks the runes of a text that stand in an emphasised phrase where it comes first, also in
// one that goes on in the next line.
func (t *trial) emphasis(text string) []bool {
	flat := func(s string) []rune { return []rune(strings.ToLower(strings.ReplaceAll(s, "\n", " "))) }
	low := flat(text)
	mark := make([]bool, utf8.RuneCountInString(text))
	if len(low) != len(mark) {
		return mark
	}
	for _, phrase := range t.in.Emphasis {
		want := flat(typeset.Correct(phrase))
		for i := 0; len(want) > 0 && i+len(want) <= len(low); i++ {
			if slices.Equal(low[i:i+len(want)], want) && wordEdge(low, i) && wordEdge(low, i+len(want)) {
				for j := i; j < i+len(want); j++ {
					mark[j] = true
				}
				break // said again it is no news
			}
		}
	}
	return mark
}

func wordEdge(s []rune, i int) bool {
	letter := func(r rune) bool {
		return r != '\'' && r != '’' && !strings.ContainsRune(" \n,.;:!?–—-·“”()", r)
	}
	return i == 0 || i == len(s) || !letter(s[i-1]) || !letter(s[i])
}

// secondInk is a kit colour that reads on a ground and is told apart from the
// first ink: the accent if it can be, else the most different one.
func (t *trial) secondInk(ink, ground colour.RGB) (colour.RGB, bool) {
	return t.farthest(ink, inkApart, func(c brand.Colour) bool { return colour.Contrast(c.Value, ground) >= colourway.InkContrast })
}

// inkApart is how far two inks are from each other to be told apart (CIEDE2000).
const inkApart = 15
