package typeset

import (
	"math"
	"slices"
	"unicode"

	"github.com/go-text/typesetting/segmenter"

	"aspenridge/internal/core/hyphen"
)

// MaxLines is the most lines a paragraph is considered in.
const MaxLines = 14

// Paragraph is shaped copy with its break opportunities (UAX #14).
type Paragraph struct {
	Text   string
	shaper *Shaper
	style  Style
	runes  []rune
	segs   []segment
	sets   map[int]*Setting
	times  []float64 // how many times as large each rune is, nil where all are of one size
	at     []float64 // em each rune advances, where they are not
}

// segment is what stands between two break opportunities.
type segment struct {
	from, to  int     // runes, to excludes trailing spaces
	next      int     // where the next segment starts
	advance   float64 // em, from..to
	full      float64 // em, from..next
	mandatory bool    // a line must end here
	divided   bool    // inside a word: a line that ends here gets a hyphen
}

// Setting is a paragraph in a given number of lines.
type Setting struct {
	Lines  []*Line
	Starts []int     // rune index in the paragraph where each line starts
	Widest float64   // em, the larger of advance and ink of the widest line
	Grown  []float64 // how many times as large the largest words of each line are, nil for once
}

// riseOfGrown is how much room above it a line needs for words that are larger by one em.
const riseOfGrown = 0.72

// Rise is how much more room above it a line needs whose largest words are set so many times
// as large, em of the size of the others.
func Rise(times float64) float64 { return max(0, times-1) * riseOfGrown }

// Paragraph shapes text and finds where it may break. Phrases are glued as
// [Glue] does; the text itself keeps its length in runes.
func (s *Shaper) Paragraph(text string, style Style) *Paragraph {
	key := lineKey{text, style}
	s.mu.RLock()
	p := s.paragraphs[key]
	s.mu.RUnlock()
	if p != nil {
		return p
	}
	p = &Paragraph{Text: text, shaper: s, style: style, runes: []rune(Glue(text)), sets: map[int]*Setting{}}
	p.measure()
	s.mu.Lock()
	defer s.mu.Unlock()
	if have := s.paragraphs[key]; have != nil { // somebody was quicker
		return have
	}
	s.held += 300 + 60*len(p.segs) + 5*len(text)
	s.paragraphs[key] = p
	return p
}

// Sized is the paragraph with some of its runes set larger or smaller: times has a number for
// each. Its lines are shaped in the one size; Widest and Grown say what they take.
func (p *Paragraph) Sized(times []float64) *Paragraph {
	q := &Paragraph{Text: p.Text, shaper: p.shaper, style: p.style, runes: p.runes, sets: map[int]*Setting{}, times: times}
	q.measure()
	return q
}

// measure shapes the whole once and cuts the advances at the opportunities.
func (p *Paragraph) measure() {
	whole := p.shaper.Line(string(p.runes), p.style)
	at := make([]float64, len(p.runes)+1) // logical advance of each rune
	for _, c := range whole.Clusters {
		at[c.Rune] += c.Advance
	}
	if p.times != nil {
		for i := range p.times {
			at[i] *= p.times[i]
		}
		p.at = at
	}
	for _, o := range Opportunities(p.runes) {
		if !o.Mandatory && inShortCompound(p.runes, o.At) {
			continue
		}
		from := 0
		if n := len(p.segs); n > 0 {
			from = p.segs[n-1].next
		}
		to := o.At
		for to > from && breakingSpace(p.runes[to-1]) {
			to--
		}
		if o.At < len(p.runes) && to > from+1 && separates(p.runes, to-1) {
			to--
			for to > from && unicode.IsSpace(p.runes[to-1]) {
				to--
			}
		}
		last := segment{from: from, to: to, next: o.At, mandatory: o.Mandatory && o.At < len(p.runes)}
		for _, n := range p.points(from, to) {
			s := segment{from: last.from, to: from + n, next: from + n, divided: true}
			s.measure(at)
			s.advance += hyphenEm
			p.segs = append(p.segs, s)
			last.from = from + n
		}
		last.measure(at)
		p.segs = append(p.segs, last)
	}
}

// shortCompound is how many letters either part of a compound has at most that is not broken at
// its hyphen: "long-haul", "X-ray" (set by eye on sheets).
const shortCompound = 5

// inShortCompound reports whether a place in some text lies behind the hyphen of a short compound.
func inShortCompound(runes []rune, at int) bool {
	if at < 2 || at >= len(runes) || runes[at-1] != '-' && runes[at-1] != '\u2010' {
		return false
	}
	before, after := 0, 0
	for i := at - 2; i >= 0 && unicode.IsLetter(runes[i]); i-- {
		before++
	}
	for i := at; i < len(runes) && unicode.IsLetter(runes[i]); i++ {
		after++
	}
	return before > 0 && after > 0 && before <= shortCompound && after <= shortCompound
}

// hyphenEm is about how wide a hyphen is while lines are chosen; the lines chosen are
// measured with theirs.
const hyphenEm = 0.33

func (s *segment) measure(at []float64) {
	for i := s.from; i < s.next; i++ {
		if i < s.to {
			s.advance += at[i]
		}
		s.full += at[i]
	}
}

// points are where the word between two runes may be divided. Words beside marks are;
// those with a mark or a figure in them, and names, are not: in English and the like,
// what has a capital in the middle of a sentence.
func (p *Paragraph) points(from, to int) []int {
	if p.style.Language == "" || p.style.Language == "en" && from > 0 && unicode.IsUpper(p.runes[from]) && !p.capitals() {
		return nil
	}
	word := p.runes[from:to]
	start, end := 0, len(word)
	for start < end && !unicode.IsLetter(word[start]) {
		start++
	}
	for end > start && !unicode.IsLetter(word[end-1]) {
		end--
	}
	points := hyphen.Points(string(word[start:end]), p.style.Language)
	for i := range points {
		points[i] += start
	}
	return points
}

// capitals reports whether the paragraph is set in capitals.
func (p *Paragraph) capitals() bool {
	return !slices.ContainsFunc(p.runes, unicode.IsLower)
}

// separates reports whether the rune is a dot between two phrases, which a line that
// ends there does without.
func separates(runes []rune, i int) bool {
	return runes[i] == '·' && i > 0 && unicode.IsSpace(runes[i-1])
}

func breakingSpace(r rune) bool { return unicode.IsSpace(r) && r != '\u00a0' && r != '\u202f' }

// Opportunity is a place where a line may end, before rune At.
type Opportunity struct {
	At        int
	Mandatory bool
}

// Opportunities finds the line breaks UAX #14 allows.
func Opportunities(runes []rune) []Opportunity {
	var seg segmenter.Segmenter
	seg.Init(runes)
	var out []Opportunity
	for it := seg.LineIterator(); it.Next(); {
		l := it.Line()
		out = append(out, Opportunity{l.Offset + len(l.Text), l.IsMandatoryBreak})
	}
	return out
}

// Break sets the paragraph in exactly k lines, or returns nil when it cannot
// be: the dynamic programme over break opportunities that minimises the
// longest line, plus penalties for a last line under 40% of the longest and
// for a single short word alone on it.
func (p *Paragraph) Break(k int) *Setting {
	p.shaper.mu.RLock()
	set, done := p.sets[k]
	p.shaper.mu.RUnlock()
	if done {
		return set
	}
	set = p.solve(k)
	p.shaper.mu.Lock()
	p.sets[k] = set
	p.shaper.mu.Unlock()
	return set
}

func (p *Paragraph) solve(k int) *Setting {
	ends := p.ends(k)
	if ends == nil {
		return nil
	}
	set := &Setting{}
	from := 0
	for _, j := range ends {
		set.Starts = append(set.Starts, p.segs[from].from)
		text := string(p.runes[p.segs[from].from:p.segs[j-1].to])
		if p.segs[j-1].divided {
			text += "-"
		}
		l := p.shaper.Line(text, p.style)
		set.Lines = append(set.Lines, l)
		wide := math.Max(l.Advance, l.Ink.X1-math.Min(0, l.Ink.X0))
		if p.times != nil {
			grown := 1.0
			for i := p.segs[from].from; i < p.segs[j-1].to; i++ {
				wide, grown = wide+p.at[i]*(1-1/p.times[i]), max(grown, p.times[i])
			}
			set.Grown = append(set.Grown, grown)
		}
		set.Widest = math.Max(set.Widest, wide)
		from = j
	}
	return set
}

// ends are the segments that k lines end before, nil where there are no such lines.
func (p *Paragraph) ends(k int) []int {
	n := len(p.segs)
	if n == 0 || k < 1 || k > n || k > MaxLines {
		return nil
	}
	m := p.measured()
	ideal := m.sum[n] / float64(k)
	prev := make([]breakAt, n+1)
	for i := range prev {
		prev[i].longest = never
	}
	prev[0] = breakAt{}
	back := make([][]int, k)
	for line := range k {
		next := make([]breakAt, n+1)
		back[line] = make([]int, n+1)
		for j := range next {
			next[j].longest = never
			if j >= line+1 && n-j >= k-line-1 {
				next[j] = m.best(prev, line, j, k, ideal)
			}
			back[line][j] = next[j].from
		}
		prev = next
	}
	if prev[n].longest == never {
		return nil
	}
	ends := make([]int, k)
	for line, j := k-1, n; line >= 0; line-- {
		ends[line] = j
		j = back[line][j]
	}
	return ends
}

// breakAt is the best way to have come to a break: the longest line first, evenness
// second.
type breakAt struct {
	longest, uneven float64
	from            int
}

const never = math.MaxFloat64

func (a breakAt) better(b breakAt) bool {
	if math.Abs(a.longest-b.longest) > 1e-9 {
		return a.longest < b.longest
	}
	return a.uneven < b.uneven
}

// sums are the advances of a paragraph's segments, and the mandatory breaks, before each.
type sums struct {
	*Paragraph
	sum  []float64
	hard []int
}

func (p *Paragraph) measured() sums {
	n := len(p.segs)
	m := sums{p, make([]float64, n+1), make([]int, n+1)}
	for i, s := range p.segs {
		m.sum[i+1], m.hard[i+1] = m.sum[i]+s.full, m.hard[i]
		if s.mandatory {
			m.hard[i+1]++
		}
	}
	return m
}

// width is that of segments i..j-1 on one line; +Inf over a mandatory break.
func (m sums) width(i, j int) float64 {
	if m.hard[j-1] > m.hard[i] {
		return math.Inf(1)
	}
	return m.sum[j-1] - m.sum[i] + m.segs[j-1].advance
}

// best is the best line of k, the line-th, to end before segment j.
func (m sums) best(prev []breakAt, line, j, k int, ideal float64) breakAt {
	out := breakAt{longest: never}
	for i := j - 1; i >= line; i-- {
		if prev[i].longest == never {
			continue
		}
		w := m.width(i, j)
		if math.IsInf(w, 1) {
			break
		}
		cost := w
		if line == k-1 && k > 1 {
			cost += m.lastLinePenalty(i, j, w, ideal)
		}
		if m.segs[j-1].divided {
			cost += dividedCost * ideal
		}
		c := breakAt{math.Max(prev[i].longest, cost), prev[i].uneven + (w-ideal)*(w-ideal), i}
		if c.better(out) {
			out = c
		}
	}
	return out
}

// dividedCost is how much longer, as a share of the ideal line, the longest line has to
// be for a word to be divided instead: a third.
const dividedCost = 1.0 / 3

// lastLinePenalty is added to the last line's width, in em.
func (p *Paragraph) lastLinePenalty(i, j int, w, ideal float64) float64 {
	penalty := 0.0
	if w < 0.4*ideal {
		penalty = ideal * 1.1 // as bad as a line a tenth longer than the ideal
	}
	if j-i == 1 && p.segs[i].to-p.segs[i].from <= 4 {
		penalty = math.Max(penalty, ideal*1.15)
	}
	return penalty
}

// Narrowest is the fewest lines in which every line fits width em, with its
// setting; nil when even [MaxLines] lines do not.
func (p *Paragraph) Narrowest(width float64, maxLines int) *Setting {
	for k := 1; k <= min(maxLines, len(p.segs), MaxLines); k++ {
		if set := p.Break(k); set != nil && set.Widest <= width+1e-9 {
			return set
		}
	}
	return nil
}
