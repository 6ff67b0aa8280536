package adjust

import (
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// boldest is how heavy words are that were made bold: at least so much, and so much more
// than the words around them.
const (
	boldLeast = 700
	boldMore  = 200
)

// Strokes under and through words, in em.
const (
	strokeThick = 0.06
	strokeUnder = 0.1
	riseOfRoom  = 0.72 // how much of what words grow by a line needs above it
)

// styled sets words of a part that were given a style of their own. Lines keep their side:
// they grow from where they begin, about their middle or from where they end. What runs
// from right to left stays as it is.
func (a *adjuster) styled(p *scene.Part, h *brief.Hand) {
	if !p.Words() || len(h.Runs) == 0 || typeset.RTL(p.Text) {
		return
	}
	of := h.RunsOf(p.Text)
	if of == nil {
		return
	}
	var out []scene.TextLine
	down := 0.0
	for i := 0; i < len(p.Lines); {
		j := i + 1
		for j < len(p.Lines) && p.Lines[j].Y == p.Lines[i].Y {
			j++
		}
		line, grown := a.styledLine(p, p.Lines[i:j], h.Runs, of)
		if i > 0 {
			down += (grown - 1) * riseOfRoom * p.Size(p.Lines[i])
		}
		for k := range line {
			line[k].Y = round(line[k].Y + down)
			for u := range line[k].Under {
				line[k].Under[u].Y += down
			}
		}
		out = append(out, line...)
		i = j
	}
	p.Lines = out
	p.Box = inkOf(p)
}

// piece of a line in one style.
type stretch struct {
	text []rune
	from int // rune index in the part's text
	run  int // -1 for none
	of   scene.TextLine
}

// styledLine sets one line in its runs, and tells how many times its largest words have
// grown.
func (a *adjuster) styledLine(p *scene.Part, line []scene.TextLine, runs []brief.Run, of []int) (out []scene.TextLine, grown float64) {
	var list []stretch
	some := false
	for _, l := range line {
		for i, r := range []rune(l.Line.Text) {
			at, run := l.From+i, -1
			if at < len(of) {
				run = of[at]
			}
			some = some || run >= 0
			if n := len(list); n > 0 && list[n-1].run == run && list[n-1].of.From == l.From {
				list[n-1].text = append(list[n-1].text, r)
				continue
			}
			list = append(list, stretch{[]rune{r}, at, run, l})
		}
	}
	if !some {
		return line, 1
	}
	grown, x := 1, 0.0
	for _, s := range list {
		size, look := p.Size(s.of), p.Set
		t := scene.TextLine{X: x, Y: s.of.Y, From: s.from, SizePx: s.of.SizePx, Fill: s.of.Fill}
		var run brief.Run
		if s.run >= 0 {
			run = runs[s.run]
			if run.Scale > 0 {
				size *= run.Scale
				t.SizePx = math.Round(size*10) / 10
				size = t.SizePx
				grown = max(grown, run.Scale)
			}
			if run.Bold || run.Italic {
				weight := p.Weight
				if run.Bold {
					weight = min(900, max(boldLeast, weight+boldMore))
				}
				look.Face = a.Face(brand.Style{Family: p.Family, Weight: weight, Italic: run.Italic})
			}
			if c, ok := a.Paint(run.Fill); ok {
				t.Fill = &c
			}
		}
		t.Line = a.Shaper.Line(string(s.text), look)
		width := 0.0 // with the space at its end, for what comes after
		for _, c := range t.Line.Clusters {
			width = max(width, c.X+c.Advance)
		}
		ink := spec.Rect{X: x, W: t.Line.Advance * size}
		thick := math.Max(1, math.Round(strokeThick*size))
		if run.Underline {
			t.Under = append(t.Under, spec.Rect{X: ink.X, Y: round(t.Y + strokeUnder*size), W: ink.W, H: thick})
		}
		if run.Strike {
			t.Under = append(t.Under, spec.Rect{X: ink.X, Y: round(t.Y - look.Face.XHeight*size/2 - thick/2), W: ink.W, H: thick})
		}
		x += width * size
		out = append(out, t)
	}
	last := out[len(out)-1]
	shift := aside(p, line, last.X+last.Line.Advance*p.Size(last))
	for i := range out {
		out[i].X = round(out[i].X + shift)
		for u := range out[i].Under {
			out[i].Under[u].X = round(out[i].Under[u].X + shift)
		}
	}
	return out, grown
}

// aside is where a line that is so wide now begins, px, to keep its side.
func aside(p *scene.Part, was []scene.TextLine, width float64) float64 {
	first, last := was[0], was[len(was)-1]
	begin, end := first.X, last.X+last.Line.Advance*p.Size(last)
	switch p.Align {
	case "middle":
		return (begin+end)/2 - width/2
	case "end":
		return end - width
	}
	return begin
}

// inkOf is the ink of a part's lines.
func inkOf(p *scene.Part) spec.Rect {
	box := spec.Rect{}
	for _, l := range p.Lines {
		if ink := l.Line.Ink.Scale(p.Size(l)); !l.Line.Ink.Empty() {
			box = Union(box, spec.Rect{X: l.X + ink.X0, Y: l.Y + ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0})
		}
		for _, u := range l.Under {
			box = Union(box, u)
		}
	}
	return box
}
