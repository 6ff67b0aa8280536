package adjust

import (
	"math"
	"slices"
	"strings"
	"unicode"

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
)

// How words are set smaller when some of them have grown out of their room: step by step, down
// to a share of their size.
const (
	shrinkStep  = 0.96
	shrinkLeast = 0.5
	usualMargin = 0.06 // of the short side
	roomBetween = 0.25 // em kept to what stands beside
)

// styled sets words of a part that were given a style of their own. Lines keep their side:
// they grow from where they begin, about their middle or from where they end. Where larger
// words do not fit, all of the part is set smaller until they do.
func (a *adjuster) styled(p *scene.Part, h *brief.Hand) {
	if !p.Words() || len(h.Runs) == 0 {
		return
	}
	of := h.RunsOf(p.Text)
	if of == nil {
		return
	}
	room, size, lines := a.roomOf(p), p.SizePx, p.Lines
	for f := 1.0; ; f *= shrinkStep {
		p.SizePx, p.Lines = size*f, shrunk(p, lines, f)
		a.styleLines(p, h, of)
		if f*shrinkStep < shrinkLeast || room.Contains(p.Box, 1) {
			return
		}
	}
}

// levelOf is the level of the kit's a part's words are in.
func (a *adjuster) levelOf(slot string) brand.Level {
	if h := a.Hands[slot]; h != nil && h.Level != "" {
		return brand.Level(h.Level)
	}
	for _, add := range a.Added {
		if add.Slot == slot {
			return brand.Level(add.Level)
		}
	}
	return brief.PartOf(slot).Level
}

// shrunk are lines set so many times as large, from where the first one stands and about the
// side they keep.
func shrunk(p *scene.Part, lines []scene.TextLine, f float64) []scene.TextLine {
	out := slices.Clone(lines)
	begin, end := math.Inf(1), math.Inf(-1)
	for _, l := range lines {
		begin, end = min(begin, l.X), max(end, l.X+l.Line.Advance*p.Size(l)/f) // p is set smaller already
	}
	side := map[string]float64{"middle": (begin + end) / 2, "end": end}
	about, ok := side[p.Align]
	if !ok {
		about = begin
	}
	for i := range out {
		out[i].X = round(about + (out[i].X-about)*f)
		out[i].Y = round(lines[0].Y + (out[i].Y-lines[0].Y)*f)
		if out[i].SizePx > 0 {
			out[i].SizePx *= f
		}
	}
	return out
}

// roomOf is how far words may grow: to the margins the words of the piece keep, to those they
// keep on what they lie on, and to what stands beside them.
func (a *adjuster) roomOf(p *scene.Part) spec.Rect {
	w, h := float64(a.scene.W), float64(a.scene.H)
	margin := func(r, in spec.Rect) float64 {
		return max(0, min(r.X-in.X, r.Y-in.Y, in.Right()-r.Right(), in.Bottom()-r.Bottom()))
	}
	canvas := spec.Rect{W: w, H: h}
	// where short words end tells nothing of the margin
	keeps := func(in spec.Rect) float64 { return min(margin(p.Box, in), usualMargin*a.short) }
	least := keeps(canvas)
	for _, q := range a.scene.Parts {
		if q.Words() {
			least = min(least, margin(q.Box, canvas))
		}
	}
	left, top, right, bottom := least, least, w-least, h-least
	gap := roomBetween * p.SizePx
	for i := range a.scene.Parts {
		q := &a.scene.Parts[i]
		if q == p || q.Unit == p.Unit && p.Unit != "" {
			continue
		}
		b := q.Box
		switch {
		case b.Contains(p.Box, 1):
			in := keeps(b)
			left, top, right, bottom = max(left, b.X+in), max(top, b.Y+in), min(right, b.Right()-in), min(bottom, b.Bottom()-in)
		case b.Y < p.Box.Bottom() && b.Bottom() > p.Box.Y && b.X >= p.Box.Right()-1:
			right = min(right, b.X-gap)
		case b.Y < p.Box.Bottom() && b.Bottom() > p.Box.Y && b.Right() <= p.Box.X+1:
			left = max(left, b.Right()+gap)
		case b.X < p.Box.Right() && b.Right() > p.Box.X && b.Y >= p.Box.Bottom()-1:
			bottom = min(bottom, b.Y-gap/2)
		case b.X < p.Box.Right() && b.Right() > p.Box.X && b.Bottom() <= p.Box.Y+1:
			top = max(top, b.Bottom()+gap/2)
		}
	}
	// what it takes already is never too much
	left, top = min(left, p.Box.X), min(top, p.Box.Y)
	return spec.Rect{X: left, Y: top, W: max(right, p.Box.Right()) - left, H: max(bottom, p.Box.Bottom()) - top}
}

// styleLines sets the lines of a part in its runs.
func (a *adjuster) styleLines(p *scene.Part, h *brief.Hand, of []int) {
	var out []scene.TextLine
	down := 0.0
	for i := 0; i < len(p.Lines); {
		j := i + 1
		for j < len(p.Lines) && p.Lines[j].Y == p.Lines[i].Y {
			j++
		}
		line, grown := a.styledLine(p, p.Lines[i:j], h.Runs, of)
		if i > 0 {
			down += typeset.Rise(grown) * p.Size(p.Lines[i])
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
		text := []rune(l.Line.Text)
		ways := waysOf(text)
		for i, r := range text {
			at, run := l.From+i, -1
			if at < len(of) {
				run = of[at]
			}
			some = some || run >= 0
			if n := len(list); n > 0 && list[n-1].run == run && list[n-1].of.From == l.From && ways[i] == ways[i-1] {
				list[n-1].text = append(list[n-1].text, r)
				continue
			}
			list = append(list, stretch{[]rune{r}, at, run, l})
		}
	}
	if !some {
		return line, 1
	}
	grown = 1
	widths := make([]float64, len(list))
	for i, s := range list {
		size, look := p.Size(s.of), p.Style
		t := scene.TextLine{Y: s.of.Y, From: s.from, SizePx: s.of.SizePx, Fill: s.of.Fill}
		var run brief.Run
		if s.run >= 0 {
			run = runs[s.run]
			if times := run.Times(a.Types, a.levelOf(p.Slot)); times != 1 {
				size *= times
				t.SizePx = math.Round(size*10) / 10
				size = t.SizePx
				grown = max(grown, times)
			}
			if run.Bold || run.Italic || run.Level != "" {
				style := brand.Style{Family: p.Family, Weight: p.Weight, Italic: run.Italic}
				if level, ok := a.Types.Levels[brand.Level(run.Level)]; ok {
					style.Family, style.Weight, style.Italic = level.Family, level.Weight, run.Italic || level.Italic
					look.Tracking = level.Tracking
				}
				if run.Bold {
					style.Weight = min(900, max(boldLeast, style.Weight+boldMore))
				}
				look.Face = a.Face(style)
			}
			if c, ok := a.Paint(run.Fill); ok {
				t.Fill = &c
			}
		}
		t.Line = a.Shaper.Line(string(s.text), look)
		for _, c := range t.Line.Clusters { // with the space at its end, for what comes after
			widths[i] = max(widths[i], (c.X+c.Advance)*size)
		}
		from, to := worded(t.Line, s.text)
		thick := math.Max(1, math.Round(strokeThick*size))
		under := func(y float64) {
			t.Under = append(t.Under, spec.Rect{X: from * size, Y: round(y), W: (to - from) * size, H: thick})
		}
		if run.Underline {
			under(t.Y + strokeUnder*size)
		}
		if run.Strike {
			under(t.Y - look.Face.XHeight*size/2 - thick/2)
		}
		out = append(out, t)
	}
	x, least, most := 0.0, math.Inf(1), 0.0
	for _, i := range seenOrder(list, typeset.RTL(p.Text)) {
		out[i].X = x
		from, to := worded(out[i].Line, list[i].text)
		least, most = min(least, x+from*p.Size(out[i])), max(most, x+to*p.Size(out[i]))
		x += widths[i]
	}
	shift := aside(p, line, most-least) - least
	for i := range out {
		for u := range out[i].Under {
			out[i].Under[u].X = round(out[i].Under[u].X + out[i].X + shift)
		}
		out[i].X = round(out[i].X + shift)
	}
	return out, grown
}

// worded is from where to where the words of a line go, em, without spaces beside them.
func worded(l *typeset.Line, text []rune) (from, to float64) {
	from = math.Inf(1)
	for _, c := range l.Clusters {
		if c.Rune < len(text) && !unicode.IsSpace(text[c.Rune]) {
			from, to = min(from, c.X), max(to, c.X+c.Advance)
		}
	}
	return min(from, to), to
}

// waysOf tells, of every rune, the way its word runs: 1 from right to left, -1 from left to
// right, 0 either. Spaces go with the words on both sides where these run the same way.
func waysOf(text []rune) []int {
	out := make([]int, len(text))
	space, last := 0, 0 // where the spaces before a word begin, and the way of the word before them
	for i := 0; i < len(text); {
		j := i
		for j < len(text) && !unicode.IsSpace(text[j]) {
			j++
		}
		way := 0
		if word := string(text[i:j]); strings.ContainsFunc(word, unicode.IsLetter) {
			if way = -1; typeset.RTL(word) {
				way = 1
			}
		}
		if way == last {
			i = space
		}
		for ; i < j; i++ {
			out[i] = way
		}
		space, last = j, way
		for i < len(text) && unicode.IsSpace(text[i]) {
			i++
		}
	}
	return out
}

// seenOrder is the order of stretches from left to right, by the rules N1, N2 and L2 of
// Unicode's bidirectional algorithm (UAX 9) for words that each run one way.
func seenOrder(list []stretch, rtl bool) []int {
	base := -1
	if rtl {
		base = 1
	}
	out, ways := make([]int, len(list)), make([]int, len(list))
	for i, s := range list {
		out[i], ways[i] = i, waysOf(s.text)[0]
	}
	beside := func(i, step int) int {
		for i += step; i >= 0 && i < len(ways); i += step {
			if ways[i] != 0 {
				return ways[i]
			}
		}
		return base
	}
	resolved := slices.Clone(ways)
	for i, w := range ways {
		if w != 0 {
			continue
		}
		if resolved[i] = base; beside(i, -1) == beside(i, 1) {
			resolved[i] = beside(i, 1)
		}
	}
	for i := 0; i < len(list); i++ { // what runs against the line is turned around in itself
		j := i
		for j < len(list) && resolved[j] != base {
			j++
		}
		slices.Reverse(out[i:j])
		i = max(i, j-1)
	}
	if rtl {
		slices.Reverse(out)
	}
	return out
}

// aside is where a line that is so wide now begins, px, to keep its side.
func aside(p *scene.Part, was []scene.TextLine, width float64) float64 {
	begin, end := math.Inf(1), math.Inf(-1)
	for _, l := range was {
		begin, end = min(begin, l.X), max(end, l.X+l.Line.Advance*p.Size(l))
	}
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
			box = box.Union(spec.Rect{X: l.X + ink.X0, Y: l.Y + ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0})
		}
		for _, u := range l.Under {
			box = box.Union(u)
		}
	}
	return box
}
