package layout

import (
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// setting is a slot's words at the current size in a width.
type setting struct {
	set     *typeset.Setting
	style   brand.Style
	face    *typeset.Face
	size    float64 // px
	leading float64 // px
	w, h    float64 // px, ink
	top     float64 // px from the box' top to the first baseline
	text    string

	fitted  []fittedLine // where each line has a size of its own, nil for one size
	look    typeset.Style
	items   map[int]bool // lines that start an item of a list, nil for running text
	indent  float64      // px kept free before items
	itemGap float64      // px between items
	ruled   bool         // hairlines between items
}

// set breaks a slot's words for a width; false when they do not fit.
func (t *trial) setText(n *Node, slot string, width float64) (setting, bool) {
	text := t.words(slot)
	hand := t.in.Hands[slot]
	part := t.partOf(slot)
	level := part.Level
	style, face, size := t.sized(n, part)
	tracking := t.tracked(slot, style, level, size)
	indent := t.indent(slot, text, size)
	width -= indent
	look := typeset.Style{Face: face, Tracking: tracking}
	switch {
	case slot == "lines" || slot == "facts":
		look.Figures = typeset.Tabular // hours and prices stand below each other
	case style.Upper:
		look.Figures = typeset.Lining
	}
	if t.st.hyphens && part.Divides {
		look.Language = t.in.Language
	}
	broken, _ := hand.Broken(text)
	p := t.in.Shaper.Paragraph(broken, look)
	if n.Fit && level == brand.Headline {
		if s, ok := t.fit(p, size, width); ok {
			s.style, s.face, s.text, s.look = style, face, text, look
			return s, true
		}
	}
	if times := hand.TimesOf(broken, t.in.Types, level); times != nil {
		p = p.Sized(times)
	}
	lines := t.maxLines(n, level)
	if broken != text {
		lines = max(lines, strings.Count(broken, "\n")+1)
	}
	set := p.Narrowest(width/size, lines)
	if level == brand.Headline && broken == text && set != nil && len(set.Lines) > 2 && (t.st.breaks == evenLines && ragged(set) || t.st.breaks >= freeLines && stranded(set)) {
		return setting{}, false
	}
	if set == nil && t.st.emergency {
		set = p.Emergency(width/size, lines)
	}
	if set == nil {
		return setting{}, false
	}
	s := setting{set: set, style: style, face: face, size: size, text: text, w: set.Widest*size + indent, look: look, indent: indent}
	t.space(&s, level)
	t.listItems(&s, n, slot)
	return s, true
}

// mostBroken is how many lines words may take that were given a width by hand.
const mostBroken = 60

// broken is a setting broken anew for a width, px, at its size; where a word is wider than
// that, for the width it needs.
func (t *trial) broken(slot string, s setting, width float64) setting {
	hand, level := t.in.Hands[slot], t.partOf(slot).Level
	text, _ := hand.Broken(s.text)
	p := t.in.Shaper.Paragraph(text, s.look)
	if times := hand.TimesOf(text, t.in.Types, level); times != nil {
		p = p.Sized(times)
	}
	const wider = 1.04
	for w := width / s.size; ; w *= wider {
		if set := p.Narrowest(w, mostBroken); set != nil {
			s.set, s.w = set, set.Widest*s.size
			t.space(&s, level)
			return s
		}
		if w > s.set.Widest {
			return s
		}
	}
}

// tracked is how far letters of a size, px, stand apart, em.
func (t *trial) tracked(slot string, style brand.Style, level brand.Level, size float64) float64 {
	switch {
	case style.Tracking != 0 || t.in.Hands[slot].Reach("tracking") != "":
		return style.Tracking
	case style.Upper:
		return 0.05
	case level == brand.Headline:
		return -0.008
	case size*t.seen < 14:
		return 0.01
	}
	return 0
}

// sized is the style, the face and the size, px, of a part's words.
func (t *trial) sized(n *Node, part brief.Part) (brand.Style, *typeset.Face, float64) {
	level := part.Level
	hand := t.in.Hands[part.Slot]
	style := hand.Style(t.in.Types.Levels[level])
	size := t.body * t.in.Types.Ratio(level)
	if level == brand.Headline {
		size = t.body * t.ratio
	}
	if level == brand.Subheading { // never a second headline
		size = math.Max(t.body, math.Min(size, subheadingMost*t.headline()))
	}
	if t.isSecond(part.Slot) && level != brand.Headline && t.class != spec.Ribbon && !t.tiny && !t.in.Placement.Advertisement() {
		least, most := secondLeast, secondMost
		switch t.in.Manner.Contrast {
		case "quiet":
			least, most = quietSecond, secondMost
		case "loud":
			most = loudSecond
		}
		size = math.Max(size, math.Min(least*t.body, most*t.headline()))
	}
	if n.Scale > 0 && level == brand.Body {
		size *= n.Scale
	}
	if part.Small > 0 {
		size *= part.Small
	}
	if style.Small != nil && size*t.seen < 16 {
		style = *style.Small
	}
	face := t.face(style)
	size = math.Max(size, t.leastSize(part.Slot, face))
	size = math.Round(size*10) / 10
	return style, face, size
}

// What is of the second rank is at least secondLeast times the body, where that is at most
// secondMost of what is first (common practice; craft.md).
const (
	secondLeast = 1.5
	secondMost  = 0.7
	quietSecond = 1.7  // times the body in a kit of quiet contrasts
	loudSecond  = 0.55 // of what is first in one of loud ones
)

// space sets the lines of a setting apart, and measures how high they are.
func (t *trial) space(s *setting, level brand.Level) {
	set, style := s.set, s.style
	lead := style.LineHeight
	if lead == 0 || t.st.tight {
		lead = leading(level)
		if t.st.tight {
			lead = math.Min(lead, 1.12)
		}
	}
	first, last := set.Lines[0], set.Lines[len(set.Lines)-1]
	for i := 1; i < len(set.Lines); i++ { // neighbours never touch, whatever their accents
		lead = math.Max(lead, set.Lines[i-1].Ink.Y1-set.Lines[i].Ink.Y0+0.03)
	}
	s.leading = lead * s.size
	s.top = math.Max(-first.Ink.Y0, s.face.XHeight) * s.size
	rise := 0.0
	for i, times := range set.Grown {
		if rise += typeset.Rise(times) * s.size; i == 0 {
			s.top += rise
			rise = 0
		}
	}
	drop := math.Max(0, last.Ink.Y1)
	if len(t.in.Emphasis) > 0 && t.emphasises(s.text) {
		drop = math.Max(drop, math.Max(markerBelow, underlineAt+underlineThick)+1/s.size)
	}
	s.h = s.top + float64(len(set.Lines)-1)*s.leading + rise + drop*s.size
}

// ragged reports whether a line is much shorter than the widest.
func ragged(set *typeset.Setting) bool {
	for _, l := range set.Lines {
		if l.Advance < 0.62*set.Widest {
			return true
		}
	}
	return false
}

// stranded reports whether a line is a short word alone.
func stranded(set *typeset.Setting) bool {
	return slices.ContainsFunc(set.Lines, func(l *typeset.Line) bool {
		return utf8.RuneCountInString(strings.TrimSpace(l.Text)) <= 3
	})
}

// leading is the line height of a level where the type set says nothing.
func leading(l brand.Level) float64 {
	switch l {
	case brand.Headline:
		return 1.0
	case brand.Subheading, brand.Button:
		return 1.22
	}
	return 1.38
}

// longHeadline is from how many letters on a headline may take as many lines as a text.
const longHeadline = 110

// textLines are how many a headline may take that is a text, fullHeadline is from how many letters
// it may take more than four.
const (
	textLines    = 18
	fullHeadline = 60
)

// firstLong reports whether what is seen first has more than so many letters.
func (t *trial) firstLong(letters int) bool {
	return utf8.RuneCountInString(t.words(t.first)) > letters
}

// quoteLines are how many lines a quote may take where it is seen first.
const quoteLines = 6

func (t *trial) maxLines(n *Node, l brand.Level) int {
	if n.Lines > 0 {
		return n.Lines
	}
	ribbon := t.class == spec.Ribbon
	switch {
	case l == brand.Headline && !ribbon && t.firstLong(longHeadline):
		return textLines // no headline any more, but a text: nothing is cut while there is room
	case l == brand.Headline && !ribbon && t.first == "quote":
		return quoteLines
	case l == brand.Headline && !ribbon && t.firstLong(fullHeadline):
		return 6
	case l == brand.Headline && t.class == spec.Tower:
		return 5
	case l == brand.Headline && ribbon:
		return 2
	case l == brand.Headline:
		return 4
	case ribbon && t.safe.H*t.seen < 120:
		return 1
	case ribbon:
		return 2
	case l == brand.Body:
		return 9
	case l == brand.Caption:
		return 2
	}
	return 4
}
