package layout

import (
	"math"

	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/spec"
)

// stackPart is nodes one below the other.
type stackPart struct{}

func (stackPart) name() string { return "stack" }
func (stackPart) words() bool  { return false }
func (stackPart) lint(c *checker, n *Node, at string, seat colourway.Seat, bare bool) error {
	return c.each(n.Stack, at+".stack", seat, bare)
}
func (stackPart) present(t *trial, n *Node) bool { return t.some(n.Stack) }

func (stackPart) measure(t *trial, n *Node, w float64) (b box, ok bool) {
	children := t.expand(n.Stack)
	for i, c := range children {
		s, ok := t.measure(c, w)
		if !ok {
			return b, false
		}
		b.w = math.Max(b.w, s.w)
		b.h += s.h + t.gap(n, children, i)
	}
	return b, true
}

func (stackPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	return t.placeStack(n, r, seat)
}

// expand turns a words node into one text node per slot that has words.
func (t *trial) expand(list []*Node) []*Node {
	out := make([]*Node, 0, len(list)+4)
	for _, c := range list {
		switch {
		case !t.present(c):
		case c.Words != nil:
			texts, ok := t.texts[c]
			if !ok {
				texts = t.wordsOf(c)
				t.texts[c] = texts
			}
			out = append(out, texts...)
		default:
			out = append(out, c)
		}
	}
	return out
}

// Gaps between words listed together, in units: of one rank, of the second rank, which is read as
// one, and between that and the rest (craft.md: groups stand twice as far apart).
const (
	wordsGap  = 1.6
	secondGap = 0.9
	groupGap  = 2.0
	ruledGap  = 1.2 // on either side of a rule between them
)

// wordsOf are the texts of a node that lists slots, those with words.
func (t *trial) wordsOf(c *Node) (out []*Node) {
	last := ""
	for _, s := range t.ranked(c.Words) {
		if t.words(s) == "" {
			continue
		}
		before := wordsGap
		if len(out) > 0 && out[len(out)-1].Beside == "" && t.isSecond(s) == t.isSecond(last) && t.isSecond(s) {
			before = secondGap
		} else if len(out) > 0 && t.isSecond(last) {
			before = groupGap
		}
		last = s
		list := []*Node{{Text: s, Lines: c.Lines, Before: before}}
		if beside := t.wordsBeside(s, before); beside != nil {
			list = []*Node{beside}
		}
		if as := t.factsAs(); s == "facts" && as != "" {
			list = []*Node{{Facts: as, Lines: c.Lines, Before: before}}
		}
		switch {
		case s == "hours":
			list = []*Node{{Table: s, Before: before}}
		case s == "lines" && t.in.Purpose == "question":
			list = []*Node{{Tiles: s, Framed: true, Lines: c.Lines, Before: before}}
		}
		if s == "rating" && t.in.Stars > 0 { // its stars stand over what is said of them
			list = []*Node{{Rating: ratingStars, Before: before}, {Text: s, Lines: c.Lines, Before: 0.8}}
		}
		if len(out) == 0 {
			list[0].Before = c.Before
		} else if c.Ruled && t.in.Manner.Lines != "none" {
			out = append(out, &Node{Rule: &Rule{Width: 1, Thickness: ruleThick}, Before: ruledGap})
			list[0].Before = ruledGap
		}
		out = append(out, list...)
	}
	return out
}

func (t *trial) placeStack(n *Node, r spec.Rect, seat colourway.Seat) bool {
	children := t.expand(n.Stack)
	sizes := make([]box, len(children))
	total, grow := 0.0, -1
	for i, c := range children {
		s, ok := t.measure(c, r.W)
		if !ok {
			return false
		}
		sizes[i] = s
		total += s.h + t.gap(n, children, i)
		if c.Frame != nil || c.Fill {
			grow = i
		}
	}
	if total > r.H+0.5 {
		return false
	}
	spare := math.Max(0, r.H-total)
	y := r.Y
	if grow < 0 && n.Fill {
		switch n.V {
		case "center":
			y += spare / 2
		case "end":
			y += spare
		}
	}
	for i, c := range children {
		y += t.gap(n, children, i)
		h := sizes[i].h
		switch {
		case i == grow:
			h += spare
		case grow < 0 && n.V == "spread" && i == len(children)-1 && i > 0:
			y += spare
		}
		at := spec.Rect{X: r.X, Y: y, W: r.W, H: h}
		if c.Frame != nil {
			t.place(c, at, seat)
		} else if !t.placeAligned(c, at, sizes[i], seat, c.V) {
			return false
		}
		y += h
	}
	return true
}
