package layout

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/motif"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// The shapes of a layout that could be anybody's take after the kit's sign: an edge, a corner, a
// window and the lines of an empty ground are curved, slanted or upright as its outlines are, and a
// pattern repeats it. Without a sign they are the house's own.

// What is set by eye on sheets of twelve kits.
const (
	steps      = 3    // of a stepped edge or corner
	notch      = 0.14 // of a window's short side that a stepped corner takes
	flattest   = 20.0 // degrees a slanted shape has at least, whatever the sign
	steepest   = 70.0 // and at most
	repeatSide = 7.0  // units a repeated sign is high
	repeatStep = 2.1  // times that, from one to the next
	repeatMost = 160  // signs in one pattern
	nameSide   = 1.7  // units a repeated name is high
	nameMost   = 16   // letters it has at most
	figureMost = 6    // letters of a figure behind words
)

func (t *trial) family() motif.Family { return t.sign.Family() }

// slope is the angle of slanted shapes, in radians.
func (t *trial) slope() float64 {
	angle := t.sign.Angle
	if angle == 0 {
		angle = 45
	}
	return math.Max(flattest, math.Min(steepest, angle)) * math.Pi / 180
}

// edgeKind is how an edge is drawn that may be any curve: in the sign's family.
func (t *trial) edgeKind(kind string) string {
	if kind != "shore" {
		return kind
	}
	switch t.family() {
	case motif.Curved:
		return "dome"
	case motif.Slanted:
		return "blade"
	case motif.Upright:
		return "steps"
	}
	return kind
}

// stepsPath is a corner at x, y with steps that reach rx and ry px into the flat.
func stepsPath(x, y, rx, ry float64) string {
	p := "M" + num(x) + " " + num(y) + "H" + num(x+rx)
	for i := range steps {
		p += "V" + num(y+ry*float64(i+1)/steps) + "H" + num(x+rx*float64(steps-1-i)/steps)
	}
	return p + "Z"
}

// window is the path of a window for a picture in a box: shape is arch or circle.
func (t *trial) window(shape string, b spec.Rect) string {
	across, right, bottom := b.X+b.W/2, num(b.Right()), num(b.Bottom())
	switch f := t.family(); {
	case f == motif.Slanted && shape == "circle": // a hexagon that stands on a corner
		cut := math.Min(0.4*b.H, b.W/2*math.Tan(math.Min(t.slope(), math.Pi/6)))
		return "M" + num(across) + " " + num(b.Y) + "L" + right + " " + num(b.Y+cut) + "V" + num(b.Bottom()-cut) +
			"L" + num(across) + " " + bottom + "L" + num(b.X) + " " + num(b.Bottom()-cut) + "V" + num(b.Y+cut) + "Z"
	case f == motif.Slanted: // a gable
		rise := math.Min(0.45*b.H, b.W/2*math.Tan(t.slope()))
		return "M" + num(b.X) + " " + bottom + "V" + num(b.Y+rise) + "L" + num(across) + " " + num(b.Y) + "L" + right + " " + num(b.Y+rise) + "V" + bottom + "Z"
	case f == motif.Upright:
		n := math.Round(notch * math.Min(b.W, b.H))
		if shape == "circle" { // a square without its corners
			return "M" + num(b.X+n) + " " + num(b.Y) + "H" + num(b.Right()-n) + "v" + num(n) + "h" + num(n) + "V" + num(b.Bottom()-n) + "h" + num(-n) + "v" + num(n) +
				"H" + num(b.X+n) + "v" + num(-n) + "h" + num(-n) + "V" + num(b.Y+n) + "h" + num(n) + "Z"
		}
		return "M" + num(b.X) + " " + bottom + "V" + num(b.Y+2*n) + "h" + num(n) + "v" + num(-n) + "h" + num(n) + "v" + num(-n) +
			"H" + num(b.Right()-2*n) + "v" + num(n) + "h" + num(n) + "v" + num(n) + "h" + num(n) + "V" + bottom + "Z"
	case shape == "circle":
		return circlePath(across, b.Y+b.H/2, b.W/2)
	}
	rad := math.Min(b.W/2, b.H)
	return "M" + num(b.X) + " " + bottom + "V" + num(b.Y+rad) +
		"A" + num(b.W/2) + " " + num(rad) + " 0 0 1 " + right + " " + num(b.Y+rad) + "V" + bottom + "Z"
}

// signLines are lines over a box, a step apart, in the sign's family; they reach over its edges.
// "" where there is no sign.
func (t *trial) signLines(b spec.Rect, step float64) string {
	var p strings.Builder
	switch t.family() {
	case motif.Curved: // circles around a corner
		for r := step; r < math.Hypot(b.W, b.H); r += step {
			p.WriteString(circlePath(b.X, b.Bottom(), r))
		}
	case motif.Slanted:
		rise := math.Tan(t.slope())
		for y := b.Y; y < b.Bottom()+b.W*rise; y += step / math.Cos(t.slope()) {
			p.WriteString("M" + num(b.X) + " " + num(y) + "L" + num(b.Right()) + " " + num(y-b.W*rise))
		}
	case motif.Upright:
		for y := b.Y + step/2; y < b.Bottom(); y += step {
			p.WriteString("M" + num(b.X) + " " + num(y) + "H" + num(b.Right()))
		}
	}
	return p.String()
}

// signWeight is how thick lines a step apart are drawn, px: about as the sign's.
func (t *trial) signWeight(step float64) float64 {
	return step * math.Max(0.08, math.Min(0.45, t.sign.Weight))
}

// repeated is the kit's sign over a box again and again, or its name where it has none, in rows that
// alternate; nil where neither can be drawn so. u is the unit, px.
func (t *trial) repeated(b spec.Rect, u float64) *scene.Part {
	sign, h := t.in.Kit.Symbol(), repeatSide*u
	if sign == nil {
		if name := strings.TrimSpace(t.in.Kit.Name); utf8.RuneCountInString(name) <= nameMost {
			sign, h = t.letters(name), nameSide*u
		}
	}
	if sign == nil || sign.SVG == "" { // a bitmap would stand in the piece as often
		return nil
	}
	part := &scene.Part{Slot: "ornament", Kind: scene.KindShape, Box: b, Art: sign}
	w := h * sign.Aspect()
	across, down := w+(repeatStep-1)*h, 0.87*repeatStep*h
	if n := b.W * b.H / across / down; n > repeatMost {
		grow := math.Sqrt(n / repeatMost)
		w, h, across, down = w*grow, h*grow, across*grow, down*grow
	}
	for row, y := 0, b.Y-h/3; y < b.Bottom(); row, y = row+1, y+down {
		for x := b.X + (across-w)/2 - across/2*float64(row%2); x < b.Right(); x += across {
			part.Tiles = append(part.Tiles, spec.Rect{X: x, Y: y, W: w, H: h})
		}
	}
	return part
}

// giantArt is what stands large behind words: the figure a layout asks for, the kit's sign, else the
// first letter of its name; nil for nothing.
func (t *trial) giantArt() *brand.Art {
	if t.in.Layout.Behind == "figure" {
		for _, slot := range []string{"offer", "when"} {
			if lead := t.in.Figures[slot].Lead; t.words(slot) != "" && lead != "" && utf8.RuneCountInString(lead) <= figureMost {
				return t.letters(lead)
			}
		}
	}
	if sign := t.in.Kit.Symbol(); sign != nil {
		return sign
	}
	for _, r := range t.in.Kit.Name {
		if unicode.IsLetter(r) {
			return t.letters(string(unicode.ToUpper(r)))
		}
	}
	return nil
}

// letters is a text drawn in one colour, in the face of headlines; nil where it has no ink.
func (t *trial) letters(text string) *brand.Art {
	style := t.in.Types.Levels[brand.Headline]
	if style.Upper {
		text = strings.ToUpper(text)
	}
	l := t.in.Shaper.Line(text, typeset.Style{Face: t.face(style), Tracking: style.Tracking, Figures: typeset.Lining})
	if l.Ink.Empty() || len(l.Missing) > 0 {
		return nil
	}
	const em = 1000
	var b strings.Builder
	for i := range l.Paths() {
		data, upem, x := l.Path(i)
		fmt.Fprintf(&b, `<path transform="translate(%s 0) scale(%s)" fill="currentColor" d="M0 0%s"/>`, num(x*em), strconv.FormatFloat(em/upem, 'g', 6, 64), data)
	}
	return &brand.Art{SVG: b.String(), Cut: &brand.Cut{SVG: b.String()}, View: [4]float64{l.Ink.X0 * em, l.Ink.Y0 * em, (l.Ink.X1 - l.Ink.X0) * em, (l.Ink.Y1 - l.Ink.Y0) * em}}
}
