package layout

import (
	"fmt"
	"math"
	"strings"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// tablePart is a slot whose lines have two columns, days and hours: both on one line each, the
// second at the table's end.
type tablePart struct{}

func (tablePart) name() string { return "table" }
func (tablePart) words() bool  { return true }
func (tablePart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	return fmt.Errorf("%s.table %q: a layout lists the slot among its words", at, n.Table)
}
func (tablePart) present(t *trial, n *Node) bool { return t.words(n.Table) != "" }
func (tablePart) measure(t *trial, n *Node, w float64) (box, bool) {
	f, ok := t.setTable(n, w)
	return f.box, ok
}
func (tablePart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	f, ok := t.setTable(n, r.W)
	if ok && f.box.h <= r.H+0.5 {
		t.drawFigure(n.Table, f, r, seat)
		return true
	}
	return false
}

// What is set by eye on sheets, in times the size.
const (
	tableLeading = 1.42
	tableGap     = 1.4 // between the columns at least
	tableWide    = 4.5 // and at most
	tableUnder   = 1.2 // from days to their hours where they stand below each other
)

// setTable sets the lines side by side, or each with its second column below the first where
// that is too wide.
func (t *trial) setTable(n *Node, w float64) (f figureSetting, ok bool) {
	part := t.partOf(n.Table)
	f.style, f.face, f.least = t.sized(n, part)
	set := typeset.Style{Face: f.face, Tracking: t.tracked(n.Table, f.style, part.Level, f.least), Figures: typeset.Tabular}
	type row struct{ left, right *typeset.Line }
	var rows []row
	left, right := 0.0, 0.0
	wide := func(l *typeset.Line) float64 {
		if l == nil {
			return 0
		}
		return (l.Ink.X1 - l.Ink.X0) * f.least
	}
	for _, line := range strings.Split(t.words(n.Table), "\n") {
		days, hours, _ := strings.Cut(line, "\t")
		r := row{left: t.in.Shaper.Line(days, set)}
		if hours != "" {
			r.right = t.in.Shaper.Line(hours, set)
		}
		rows = append(rows, r)
		left, right = math.Max(left, wide(r.left)), math.Max(right, wide(r.right))
	}
	beside := left+tableGap*f.least+right <= w
	if !beside && math.Max(left, right) > w {
		return f, false
	}
	at := math.Min(left+tableWide*f.least, w-right)
	at = math.Max(left+tableGap*f.least, math.Min(at, left+2*tableGap*f.least))
	whole := at + right
	if !beside {
		at, whole = 0, math.Max(left, right)
	}
	y := f.face.CapHeight * f.least
	add := func(l *typeset.Line, x float64) {
		if f.text != "" {
			f.text += "\n"
		}
		f.lines = append(f.lines, figureLine{scene.TextLine{Line: l, X: x - l.Ink.X0*f.least, Y: y, From: len([]rune(f.text)), SizePx: f.least}, whole})
		f.text += l.Text
		f.box.h = math.Max(f.box.h, y+math.Max(0, l.Ink.Y1)*f.least)
	}
	for _, r := range rows {
		add(r.left, 0)
		if r.right != nil {
			if !beside {
				y += tableUnder * f.least
			}
			add(r.right, at)
		}
		y += tableLeading * f.least
	}
	if t.rtl {
		for i := range f.lines {
			l := &f.lines[i]
			ink := l.Line.Ink.Scale(f.least)
			l.X = whole - (l.X + ink.X1) - ink.X0
		}
	}
	f.box.w = whole
	return f, true
}
