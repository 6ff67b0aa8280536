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
// second at the table's end. One that fills its room has a rule between its rows, and its words
// grow into what is left.
type tablePart struct{}

func (tablePart) name() string { return "table" }
func (tablePart) words() bool  { return true }
func (tablePart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Table != "hours" {
		return fmt.Errorf("%s.table %q: want hours", at, n.Table)
	}
	return nil
}
func (tablePart) present(t *trial, n *Node) bool { return t.words(n.Table) != "" }
func (tablePart) measure(t *trial, n *Node, w float64) (box, bool) {
	if t.runsOn() {
		return t.measure(&Node{Text: n.Table}, w)
	}
	f, ok := t.setTable(n, w, 0)
	return f.box, ok
}
func (tablePart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	if t.runsOn() {
		return t.place(&Node{Text: n.Table}, r, seat)
	}
	room := 0.0
	if n.Fill {
		room = r.H
	}
	f, ok := t.setTable(n, r.W, room)
	if !ok || f.box.h > r.H+0.5 {
		return false
	}
	if n.Ruled && t.in.Manner.Lines != "none" {
		line := t.lineWidth(0.05 * f.least)
		for _, y := range f.rules {
			t.content = append(t.content, scene.Part{Slot: "rule", Kind: scene.KindShape, Fill: t.ruleColour(seat),
				Box: spec.Rect{X: math.Round(r.X), Y: math.Round(r.Y + y - line/2), W: math.Round(r.W), H: line}})
		}
	}
	t.drawFigure(n.Table, f.figureSetting, r, seat)
	return true
}

// What is set by eye on sheets, in times the size.
const (
	tableLeading = 1.42
	tableRuled   = 1.9 // between rows with a rule between them
	tableHigh    = 3.2 // and where they share a room, at most
	tableGap     = 1.4 // between the columns at least
	tableWide    = 4.5 // and at most
	tableUnder   = 1.2 // from days to their hours where they stand below each other
	tableMost    = 0.7 // of what is first, its words are at most
)

// tableSetting is a table and where between its rows rules lie, px from its top.
type tableSetting struct {
	figureSetting
	rules  []float64
	beside bool // both columns stand on one line
}

// setTable sets the lines side by side, or each with its second column below the first where
// that is too wide; as large as a room of a height, px, allows, where that is over 0.
func (t *trial) setTable(n *Node, w, room float64) (tableSetting, bool) {
	if room > 0 {
		for _, times := range tileTimes[:len(tileTimes)-1] {
			if f, ok := t.tableOf(n, w, room, times); ok && f.least <= tableMost*t.headline() && f.box.h <= room {
				return f, true
			}
		}
	}
	for _, times := range tableTimes { // sooner a little smaller than in twice as many lines
		if f, ok := t.tableOf(n, w, room, times); ok && f.beside && f.least >= t.body {
			return f, true
		}
	}
	return t.tableOf(n, w, room, 1)
}

// tableTimes are how much smaller than usual the words of a table are tried.
var tableTimes = []float64{1, 0.9, 0.8, 0.7}

func (t *trial) tableOf(n *Node, w, room, times float64) (f tableSetting, ok bool) {
	part := t.partOf(n.Table)
	f.style, f.face, f.least = t.sized(n, part)
	f.least = math.Round(10*math.Max(times*f.least, t.leastSize(n.Table, f.face))) / 10
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
	f.beside = left+tableGap*f.least+right <= w
	if !f.beside && (times > 1 || math.Max(left, right) > w) {
		return f, false
	}
	at := math.Min(left+tableWide*f.least, w-right)
	at = math.Max(left+tableGap*f.least, math.Min(at, left+2*tableGap*f.least))
	whole := at + right
	switch {
	case !f.beside:
		at, whole = 0, math.Max(left, right)
	case n.Ruled: // from side to side
		at, whole = w-right, w
	}
	leading := tableLeading
	if n.Ruled {
		leading = tableRuled
	}
	capped := f.face.CapHeight * f.least
	pitch := leading * f.least
	if gaps := float64(len(rows) - 1); f.beside && room > 0 && gaps > 0 {
		last := rows[len(rows)-1]
		below := last.left.Ink.Y1
		if last.right != nil {
			below = math.Max(below, last.right.Ink.Y1)
		}
		pitch = math.Max(pitch, math.Min(tableHigh*f.least, (room-capped-math.Max(0, below)*f.least)/gaps))
	}
	y := capped
	add := func(l *typeset.Line, x float64) {
		if f.text != "" {
			f.text += "\n"
		}
		f.lines = append(f.lines, figureLine{scene.TextLine{Line: l, X: x - l.Ink.X0*f.least, Y: y, From: len([]rune(f.text)), SizePx: f.least}, whole})
		f.text += l.Text
		f.box.h = math.Max(f.box.h, y+math.Max(0, l.Ink.Y1)*f.least)
	}
	for i, r := range rows {
		if i > 0 {
			f.rules = append(f.rules, y-(pitch+capped)/2)
		}
		add(r.left, 0)
		if r.right != nil {
			if !f.beside {
				y += tableUnder * f.least
			}
			x := at
			if n.Ruled && f.beside { // its end is the table's
				x = w - wide(r.right)
			}
			add(r.right, x)
		}
		y += pitch
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
