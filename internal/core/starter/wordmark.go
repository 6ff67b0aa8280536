package starter

import (
	"fmt"
	"strings"

	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/typeset"
)

// Wordmark sets a name as a plain logo, in outlines, as an SVG file: on one line,
// or balanced over two when it is long (over 16 letters in several words).
// accent, when not nil, colours a full stop after the name.
func Wordmark(s *typeset.Shaper, face *typeset.Face, name string, ink colour.RGB, accent *colour.RGB) []byte {
	const size, lead = 100.0, 1.02
	set := typeset.Style{Face: face, Tracking: -0.012}
	lines := []string{name}
	if len([]rune(name)) > 16 && strings.Contains(name, " ") {
		if broken := s.Paragraph(name, set).Break(2); broken != nil {
			lines = lines[:0]
			for _, l := range broken.Lines {
				lines = append(lines, strings.TrimSpace(l.Text))
			}
		}
	}
	var b strings.Builder
	box := typeset.Box{}
	draw := func(text string, x, y float64, c colour.RGB) float64 {
		l := s.Line(text, set)
		for i := range l.Paths() {
			d, upem, dx := l.Path(i)
			fill := c
			if own, ok := l.Paint(i); ok {
				fill = own.Fill
			}
			fmt.Fprintf(&b, `<path fill="%s" transform="translate(%s %s) scale(%g)" d="M0 0%s"/>`, fill.Hex(), typeset.Num(x+dx*size), typeset.Num(y), size/upem, d)
		}
		box = box.Union(l.Ink.Scale(size).Shift(x, y))
		return l.Advance * size
	}
	for i, l := range lines {
		y := float64(i) * lead * size
		x := -s.Line(l, set).Ink.X0 * size // the stems of both lines stand over each other
		end := x + draw(l, x, y, ink)
		if accent != nil && i == len(lines)-1 {
			draw(".", end, y, *accent)
		}
	}
	return fmt.Appendf(nil, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="%s %s %s %s">%s</svg>`,
		typeset.Num(box.X0), typeset.Num(box.Y0), typeset.Num(box.X1-box.X0), typeset.Num(box.Y1-box.Y0), b.String())
}
