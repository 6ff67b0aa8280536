package typeset

import "math"

// Filled fills line after line as far as width em goes, as longer text is set; nil where what
// cannot be parted is wider. It has no limit of lines.
func (p *Paragraph) Filled(width float64) *Setting {
	m := p.measured()
	set := &Setting{}
	for i := 0; i < len(p.segs); {
		j := i + 1
		for j < len(p.segs) && m.width(i, j+1) <= width {
			j++
		}
		for j > i+1 && p.segs[j-1].divided && m.width(i, j-1) >= (1-fillSlack)*width { // whole words, where that leaves few gaps
			j--
		}
		if m.width(i, j) > width+1e-9 {
			return nil
		}
		text := string(p.runes[p.segs[i].from:p.segs[j-1].to])
		if p.segs[j-1].divided {
			text += "-"
		}
		l := p.shaper.Line(text, p.style)
		set.Starts, set.Lines = append(set.Starts, p.segs[i].from), append(set.Lines, l)
		set.Widest = math.Max(set.Widest, l.Advance)
		i = j
	}
	if len(set.Lines) == 0 {
		return nil
	}
	return set
}

// fillSlack is which share of a line may stay free before a word is divided to fill it.
const fillSlack = 0.2

// Emergency breaks inside words where it must, cluster by cluster, so that no
// line is wider than width em; nil if that takes more than maxLines or if one
// cluster alone is too wide.
func (p *Paragraph) Emergency(width float64, maxLines int) *Setting {
	set := &Setting{}
	from := 0
	for from < len(p.runes) {
		if len(set.Lines) == maxLines {
			return nil
		}
		for from < len(p.runes) && breakingSpace(p.runes[from]) {
			from++
		}
		fit, soft := from, from
		for to := from + 1; to <= len(p.runes); to++ {
			if p.runes[to-1] == '\n' {
				soft = to
				break
			}
			if l := p.shaper.Line(string(p.runes[from:to]), p.style); math.Max(l.Advance, l.Ink.X1-math.Min(0, l.Ink.X0)) > width {
				break
			}
			fit = to
			for _, s := range p.segs {
				if !s.divided && (s.next == to || s.to == to) {
					soft = to
				}
			}
		}
		end := fit
		if soft > from && (end < len(p.runes)) {
			end = soft
		}
		if end == from {
			return nil
		}
		to := end
		for to > from && breakingSpace(p.runes[to-1]) {
			to--
		}
		l := p.shaper.Line(string(p.runes[from:to]), p.style)
		set.Starts = append(set.Starts, from)
		set.Lines = append(set.Lines, l)
		set.Widest = math.Max(set.Widest, math.Max(l.Advance, l.Ink.X1-math.Min(0, l.Ink.X0)))
		from = end
	}
	if len(set.Lines) == 0 {
		return nil
	}
	return set
}
