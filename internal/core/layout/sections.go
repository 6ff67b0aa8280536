package layout

import (
	"fmt"
	"math"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// sectionsPart is a longer body under headings, in columns of one height. A body without
// headings is plain text.
type sectionsPart struct{}

// How sections stand, set by eye on sheets of paper: in times the size of their text.
const (
	sectionsMost  = 3   // columns
	columnGap     = 2.2 // between columns
	columnLeast   = 14  // a column is at least so wide, or there is one less
	headingSize   = 1.12
	headingGap    = 0.45 // under a heading
	paragraphGap  = 0.5  // between paragraphs
	sectionGap    = 1.35 // between sections
	headingLetter = 60   // a heading is at most so many letters
	keptTogether  = 2    // so many lines follow their heading
	growsOver     = 0.3  // of the least size: so much above it text is as much larger as its node says
	unevenMost    = 1.25 // times an even column the tallest may be for sections to stay whole
)

func (sectionsPart) name() string { return "sections" }
func (sectionsPart) words() bool  { return true }
func (sectionsPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	if n.Sections < 1 || n.Sections > sectionsMost {
		return fmt.Errorf("%s.sections %d: want 1 to %d columns", at, n.Sections, sectionsMost)
	}
	return nil
}
func (sectionsPart) present(t *trial, _ *Node) bool { return t.words("body") != "" }
func (sectionsPart) asText(n *Node) *Node           { return &Node{Text: "body", Lines: n.Lines} }

func (p sectionsPart) measure(t *trial, n *Node, w float64) (box, bool) {
	if !t.sectioned() {
		return t.measure(p.asText(n), w)
	}
	s := t.setSections(n, w)
	return s.box, s.columns != nil
}

func (p sectionsPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	if !t.sectioned() {
		return textPart{}.place(t, p.asText(n), r, seat)
	}
	s := t.setSections(n, r.W)
	if s.columns == nil || s.box.h > r.H+0.5 {
		return false
	}
	t.drawSections(s, r, seat)
	return true
}

// sectioned reports whether the body is set in sections here: lines ended by hand, and words in
// a style of their own, are those of plain text.
func (t *trial) sectioned() bool {
	h := t.in.Hands["body"]
	return Sections(t.words("body")) && (h == nil || len(h.Breaks)+len(h.Runs) == 0)
}

// Sections reports whether a text is sections: two of its lines at least are headings.
func Sections(text string) bool {
	headings := 0
	for _, p := range paragraphsOf(text) {
		if p.heading {
			headings++
		}
	}
	return headings > 1
}

// paragraph is a line of a longer text as it was typed.
type paragraph struct {
	text    string
	from    int // rune of the text it begins at
	heading bool
}

// paragraphsOf are the lines of a text. A heading is short, ends in no mark but a colon, and has
// something below it that is none.
func paragraphsOf(text string) (out []paragraph) {
	at := 0
	for line := range strings.SplitSeq(text, "\n") {
		if trimmed := strings.TrimSpace(line); trimmed != "" {
			out = append(out, paragraph{text: trimmed, from: at + utf8.RuneCountInString(line[:strings.Index(line, trimmed)])})
		}
		at += utf8.RuneCountInString(line) + 1
	}
	short := func(p paragraph) bool {
		last, _ := utf8.DecodeLastRuneInString(p.text)
		return utf8.RuneCountInString(p.text) <= headingLetter && !strings.ContainsRune(".!?,;)…。！？、؟،؛", last)
	}
	for i := range out[:max(0, len(out)-1)] {
		if short(out[i]) && (strings.HasSuffix(out[i].text, ":") || !short(out[i+1])) {
			out[i].heading = true
			out[i].text = strings.TrimSuffix(out[i].text, ":")
		}
	}
	return out
}

// sectionsSetting is sections at the current size in a width.
type sectionsSetting struct {
	setting
	box     box
	width   float64         // px of a column
	columns [][]sectionLine // nil where a word is wider than a column
}

// sectionLine is a line of a column: Y from the top of it.
type sectionLine struct {
	scene.TextLine
	heading bool
	before  float64 // px between it and the line above, where it does not begin a column
	high    float64 // px from the top of its capitals to its baseline
}

// setSections breaks a longer text for its columns and fills them to one height.
func (t *trial) setSections(n *Node, w float64) sectionsSetting {
	part := t.partOf("body")
	s := sectionsSetting{setting: setting{text: t.words("body")}}
	s.style, s.face, s.size = t.sized(&Node{}, part)
	if n.Scale > 1 { // larger where there is room to spare, never at the cost of being shown at all
		least := seenCap / s.face.CapHeight / t.seen * t.st.shrink
		grow := 1 + (n.Scale-1)*math.Max(0, math.Min(1, (s.size/least-1)/growsOver))
		s.size = math.Round(10*grow*s.size) / 10
	}
	s.look = typeset.Style{Face: s.face, Tracking: t.tracked("body", s.style, part.Level, s.size), Language: t.in.Language}
	columns := n.Sections
	for columns > 1 && (w-float64(columns-1)*columnGap*s.size)/float64(columns) < columnLeast*s.size {
		columns--
	}
	s.width = (w - float64(columns-1)*columnGap*s.size) / float64(columns)
	lines := t.sectionLines(s)
	if lines == nil {
		return s
	}
	total := 0.0
	for _, l := range lines {
		total += l.before + l.high
	}
	s.columns = evened(lines, columns, total, true, s.size)
	if tallest(s.columns) > unevenMost*total/float64(columns) { // a section goes on in the next column
		s.columns = evened(lines, columns, total, false, s.size)
	}
	for _, column := range s.columns {
		last := column[len(column)-1]
		s.box.h = math.Max(s.box.h, last.Y+math.Max(0, last.Line.Ink.Y1)*s.sizeOf(last.TextLine))
	}
	s.box.w = w
	if columns == 1 {
		s.box.w = s.width
	}
	return s
}

// evened are lines in so many columns, as even as they get; whole keeps sections together.
func evened(lines []sectionLine, columns int, total float64, whole bool, size float64) (out [][]sectionLine) {
	for high := total / float64(columns); ; high += size / 2 {
		if out = filled(lines, high, whole); len(out) <= columns {
			return out
		}
	}
}

func tallest(columns [][]sectionLine) (high float64) {
	for _, c := range columns {
		high = math.Max(high, c[len(c)-1].Y)
	}
	return high
}

// sectionLines are the lines of all sections one below the other; nil where a word does not fit.
func (t *trial) sectionLines(s sectionsSetting) (out []sectionLine) {
	head := t.in.Types.Levels[brand.Subheading]
	headLook := typeset.Style{Face: t.face(head), Tracking: head.Tracking, Language: t.in.Language}
	headSize := math.Round(10*headingSize*s.size) / 10
	lead := s.style.LineHeight
	if lead == 0 {
		lead = leading(brand.Body)
	}
	if t.st.tight {
		lead = math.Min(lead, 1.2)
	}
	afterHeading := false
	for i, p := range paragraphsOf(s.text) {
		look, size, capHeight, step := s.look, s.size, s.face.CapHeight, lead
		gap := paragraphGap
		if p.heading {
			look, size, capHeight, step = headLook, headSize, headLook.Face.CapHeight, 1.15
			gap = sectionGap
		} else if afterHeading {
			gap = headingGap
		}
		set := t.in.Shaper.Paragraph(p.text, look).Filled(s.width / size)
		if set == nil {
			return nil
		}
		for k, l := range set.Lines {
			line := sectionLine{TextLine: scene.TextLine{Line: l, From: p.from + set.Starts[k]}, heading: p.heading, high: capHeight * size}
			if p.heading {
				line.SizePx = size
			}
			switch {
			case k > 0:
				line.before = (step - capHeight) * size
			case i > 0:
				line.before = gap*s.size + (lead-s.face.CapHeight)*s.size/2
			}
			out = append(out, line)
		}
		afterHeading = p.heading
	}
	return out
}

// filled are lines in columns of at most a height, px; what follows a heading goes with it, all of
// it where sections stay whole.
func filled(lines []sectionLine, high float64, whole bool) (out [][]sectionLine) {
	var column []sectionLine
	y := 0.0
	for i := 0; i < len(lines); {
		// what has to stand together
		end := i + 1
		for end < len(lines) && (lines[end-1].heading || lines[i].heading && (whole || end-i <= keptTogether) && !lines[end].heading) {
			end++
		}
		need := 0.0
		for _, l := range lines[i:end] {
			need += l.before + l.high
		}
		if len(column) > 0 && y+need > high {
			out, column, y = append(out, column), nil, 0
		}
		for _, l := range lines[i:end] {
			if len(column) > 0 {
				y += l.before
			}
			y += l.high
			l.Y = y
			column = append(column, l)
		}
		i = end
	}
	return append(out, column)
}

// drawSections draws a longer text in its columns.
func (t *trial) drawSections(s sectionsSetting, r spec.Rect, seat colourway.Seat) {
	part := t.wordsOn("body", scene.KindText, s.setting, "left", seat)
	rtl := t.rtl || typeset.RTL(s.text)
	around := spec.Rect{}
	for i, column := range s.columns {
		left := r.X + float64(i)*(s.width+columnGap*s.size)
		if rtl {
			left = r.Right() - s.width - float64(i)*(s.width+columnGap*s.size)
		}
		for _, l := range column {
			size := s.sizeOf(l.TextLine)
			ink := l.Line.Ink.Scale(size)
			l.X = beginsAt(part.Align, spec.Rect{X: left, W: s.width}, ink.X1-ink.X0) - ink.X0
			l.X, l.Y = math.Round(l.X*100)/100, math.Round((r.Y+l.Y)*100)/100
			around = around.Union(t.emphasisedLine(&part, s.setting, l.TextLine))
		}
	}
	part.Box = around
	t.content = append(t.content, part)
}
