package layout

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// factsPart is facts side by side, each under its icon: in a "row", or as "figures" with their
// numbers set large. Where one has no number they are a row, and where that has no room a list.
type factsPart struct{}

// FactsAs lists how facts may stand.
var FactsAs = []string{"list", "row", "figures"}

// How facts stand side by side, set by eye on contact sheets: in times their size.
const (
	factsMost    = 6   // more are a list
	factsGap     = 1.4 // between columns
	factsRowGap  = 1.3 // between rows
	factsIcon    = 1.9
	factsUnder   = 0.6 // between an icon and what stands under it
	factsFigure  = 2.3 // the number of a figure
	factsWidest  = 9.0 // a column is at most so wide
	factsLeading = 1.22
	factsLines   = 3 // of the words of one
)

func (factsPart) name() string { return "facts" }
func (factsPart) words() bool  { return true }
func (factsPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if !slices.Contains(FactsAs[1:], n.Facts) {
		return fmt.Errorf("%s.facts %q: want one of %v", at, n.Facts, FactsAs[1:])
	}
	return nil
}
func (factsPart) present(t *trial, _ *Node) bool { return t.words("facts") != "" }
func (factsPart) asList(n *Node) *Node           { return &Node{Text: "facts", Lines: n.Lines} }

func (p factsPart) measure(t *trial, n *Node, w float64) (box, bool) {
	if s, ok := t.setFacts(n, w); ok {
		return s.box, true
	}
	return t.measure(p.asList(n), w)
}

func (p factsPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	s, ok := t.setFacts(n, r.W)
	if !ok {
		return textPart{}.place(t, p.asList(n), r, seat)
	}
	t.drawFacts(s, r, seat)
	return true
}

// factsAs is how facts stand in this piece: as a hand said, else as the layout has it; "" for a list.
func (t *trial) factsAs() string {
	as := t.in.Layout.Facts
	if h := t.in.Hands["facts"]; h != nil && h.FactsAs != "" {
		as = h.FactsAs
	}
	if as == FactsAs[0] {
		return ""
	}
	return as
}

// iconForEach reports whether every fact has an icon: in a row one without leaves a hole.
func (t *trial) iconForEach(items int) bool {
	none := func(i Icon) bool { return i.SVG == "" && i.Picture == nil }
	return len(t.in.Icons) >= items && !slices.ContainsFunc(t.in.Icons[:items], none)
}

// factsSetting is facts side by side at the current size in a width.
type factsSetting struct {
	setting
	box   box
	width float64 // px a column may have
	gap   float64 // px between columns
	facts []fact
	rows  []float64 // px from the top at which each row of them begins
	cols  []float64 // px each column has
	icon  float64   // px, 0 for none
}

// fact is one of them, its lines from its top and from the side of its column.
type fact struct{ lines []scene.TextLine }

// telling is the number of a fact that begins with one: "3 bedrooms".
var telling = regexp.MustCompile(`^[\p{Sc}±+~≈]?\p{Nd}[\p{Nd}.,٫٬:–/-]*(?:\p{Sc}|%|\+|°|×)?$`)

// numberOf parts a fact into its number and the rest.
func numberOf(item string) (number, rest string, ok bool) {
	number, rest, ok = strings.Cut(item, " ")
	return number, rest, ok && telling.MatchString(number)
}

// setFacts sets facts in as many columns as a width has room for; false where one of them does
// not fit its column.
func (t *trial) setFacts(n *Node, w float64) (factsSetting, bool) {
	text := t.words("facts")
	items := strings.Split(text, "\n")
	if len(items) < 2 || len(items) > factsMost {
		return factsSetting{}, false
	}
	if h := t.in.Hands["facts"]; h != nil && len(h.Breaks)+len(h.Runs) > 0 { // lines by hand are those of a list
		return factsSetting{}, false
	}
	part := t.partOf("facts")
	s := factsSetting{setting: setting{text: text}}
	s.style, s.face, s.size = t.sized(n, part)
	s.look = typeset.Style{Face: s.face, Tracking: t.tracked("facts", s.style, part.Level, s.size), Figures: typeset.Lining}
	s.gap = factsGap * s.size
	if t.iconForEach(len(items)) {
		s.icon = math.Round(factsIcon * s.size)
	}
	for _, figures := range []bool{true, false} {
		if figures && n.Facts != "figures" {
			continue
		}
		for _, lines := range []int{1, factsLines} { // in fewer columns sooner than in broken lines
			for _, cols := range columnsOf(len(items)) {
				s.width = factsWidest * s.size
				if lines > 1 {
					s.width = math.Min(s.width, (w-float64(cols-1)*s.gap)/float64(cols))
				}
				if s.facts = t.factsIn(items, s, figures, lines); s.facts == nil {
					continue
				}
				if s.stack(cols); s.box.w <= w {
					return s, true
				}
			}
		}
	}
	return s, false
}

// columnsOf is in how many columns so many facts may stand, the most first: rows are full.
func columnsOf(items int) []int {
	return [factsMost + 1][]int{2: {2}, 3: {3}, 4: {4, 2}, 5: {5}, 6: {6, 3, 2}}[items]
}

// factsIn sets every fact in its column, in at most so many lines; nil where one does not fit.
func (t *trial) factsIn(items []string, s factsSetting, figures bool, lines int) (out []fact) {
	head := t.in.Types.Levels[brand.Headline]
	large := typeset.Style{Face: t.face(head), Tracking: head.Tracking, Figures: typeset.Lining}
	largeSize := math.Floor(10*factsFigure*s.size) / 10
	from := 0
	for _, item := range items { // on common lines, by the height of their capitals
		var f fact
		y, words, at := 0.0, item, from
		if s.icon > 0 {
			y = s.icon + factsUnder*s.size
		}
		if figures {
			number, rest, ok := numberOf(item)
			if !ok {
				return nil
			}
			l := t.in.Shaper.Line(number, large)
			if (l.Ink.X1-l.Ink.X0)*largeSize > s.width {
				return nil
			}
			y += large.Face.CapHeight * largeSize
			f.lines = append(f.lines, scene.TextLine{Line: l, Y: y, From: from, SizePx: largeSize})
			y += factsUnder * s.size
			words, at = rest, from+utf8.RuneCountInString(number)+1
		}
		set := t.in.Shaper.Paragraph(words, s.look).Narrowest(s.width/s.size, lines)
		if set == nil {
			return nil
		}
		y += s.face.CapHeight * s.size
		for i, l := range set.Lines {
			f.lines = append(f.lines, scene.TextLine{Line: l, Y: y + float64(i)*factsLeading*s.size, From: at + set.Starts[i]})
		}
		out = append(out, f)
		from += utf8.RuneCountInString(item) + 1
	}
	return out
}

// stack puts rows of so many columns below each other, each column as wide as what stands in it.
func (s *factsSetting) stack(cols int) {
	s.cols, s.rows = make([]float64, cols), nil
	y := 0.0
	for i := 0; i < len(s.facts); i += cols {
		if i > 0 {
			y += factsRowGap * s.size
		}
		s.rows = append(s.rows, y)
		high := 0.0
		for col, f := range s.facts[i:min(len(s.facts), i+cols)] {
			s.cols[col] = math.Max(s.cols[col], s.icon)
			for _, l := range f.lines {
				s.cols[col] = math.Max(s.cols[col], math.Ceil((l.Line.Ink.X1-l.Line.Ink.X0)*s.sizeOf(l)))
			}
			last := f.lines[len(f.lines)-1]
			high = math.Max(high, last.Y+math.Max(0, last.Line.Ink.Y1)*s.sizeOf(last))
		}
		y += high
	}
	s.box = box{s.columnX(cols) - s.gap, y}
}

// columnX is how far from the side of the facts a column begins, px.
func (s *factsSetting) columnX(col int) (x float64) {
	for _, w := range s.cols[:col] {
		x += w + s.gap
	}
	return x
}

// drawFacts draws facts side by side.
func (t *trial) drawFacts(s factsSetting, r spec.Rect, seat colourway.Seat) {
	part := t.wordsOn("facts", scene.KindText, s.setting, t.align(), seat)
	rtl := t.rtl || typeset.RTL(s.text)
	left := beginsAt(part.Align, r, s.box.w)
	around := spec.Rect{}
	for i, f := range s.facts {
		col, row := i%len(s.cols), i/len(s.cols)
		cell := spec.Rect{X: left + s.columnX(col), Y: r.Y + s.rows[row], W: s.cols[col]}
		if rtl {
			cell.X = left + s.box.w - s.columnX(col) - s.cols[col]
		}
		if s.icon > 0 {
			t.drawIcon(i, spec.Rect{X: math.Round(beginsAt(part.Align, cell, s.icon)), Y: math.Round(cell.Y), W: s.icon, H: s.icon}, part.Fill, seat)
		} else if col > 0 && t.in.Manner.Lines != "none" { // a hairline parts it from the one before
			x := cell.X - s.gap/2
			if rtl {
				x = cell.Right() + s.gap/2
			}
			next := s.box.h
			if row+1 < len(s.rows) {
				next = s.rows[row+1] - factsRowGap*s.size
			}
			line := t.lineWidth(0.05 * s.size)
			t.content = append(t.content, scene.Part{Slot: "rule", Kind: scene.KindShape, Fill: t.ruleColour(seat),
				Box: spec.Rect{X: math.Round(x - line/2), Y: math.Round(cell.Y), W: line, H: math.Round(next - s.rows[row])}})
		}
		for _, l := range f.lines {
			ink := l.Line.Ink.Scale(s.sizeOf(l))
			l.X = math.Round((beginsAt(part.Align, cell, ink.X1-ink.X0)-ink.X0)*100) / 100
			l.Y = math.Round((cell.Y+l.Y)*100) / 100
			around = around.Union(t.emphasisedLine(&part, s.setting, l))
		}
	}
	part.Box = around
	t.content = append(t.content, part)
}
