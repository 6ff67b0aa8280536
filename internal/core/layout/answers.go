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

// answersPart is the answers to a question, each in a frame: two side by side or in two columns
// where they are short, else one below the other.
type answersPart struct{}

func (answersPart) name() string { return "answers" }
func (answersPart) words() bool  { return true }
func (answersPart) lint(_ *checker, n *Node, at string, _ colourway.Seat, _ bool) error {
	return fmt.Errorf("%s.answers %q: a layout lists the slot among its words", at, n.Answers)
}
func (answersPart) present(t *trial, n *Node) bool { return t.words(n.Answers) != "" }
func (answersPart) measure(t *trial, n *Node, w float64) (box, bool) {
	if s, ok := t.setAnswers(n, w); ok {
		return s.box, true
	}
	return t.measure(&Node{Text: n.Answers}, w)
}
func (answersPart) place(t *trial, n *Node, r spec.Rect, seat colourway.Seat) bool {
	s, ok := t.setAnswers(n, r.W)
	if !ok {
		return t.place(&Node{Text: n.Answers}, r, seat)
	}
	if s.box.h > r.H+0.5 {
		return false
	}
	from := spec.Rect{X: t.startX(r, s.box.w), Y: r.Y, W: s.box.w, H: s.box.h}
	for _, f := range s.frames {
		f.X, f.Y = f.X+from.X, f.Y+from.Y
		t.content = append(t.content, scene.Part{
			Slot: "answer", Kind: scene.KindShape, Box: f, Path: roundedPath(f, t.radius(f.H)), Stroke: s.stroke, Fill: t.colour(colourway.InkOn(seat)),
		})
	}
	t.drawFigure(n.Answers, s.figureSetting, from, seat)
	return true
}

// answersMost are more than a question has; more are a list.
const answersMost = 4

// What is set by eye on sheets, in times the size.
const (
	answerPadX  = 0.9
	answerPadY  = 0.62
	answerGap   = 0.55
	answerLines = 3
)

type answersSetting struct {
	figureSetting
	frames []spec.Rect
	stroke float64 // px
}

// setAnswers sets them; false for one alone, for more than [answersMost] and where one does not fit.
func (t *trial) setAnswers(n *Node, w float64) (s answersSetting, ok bool) {
	items := strings.Split(t.words(n.Answers), "\n")
	if len(items) < 2 || len(items) > answersMost {
		return s, false
	}
	part := t.partOf(n.Answers)
	s.style, s.face, s.least = t.sized(n, part)
	s.stroke = math.Max(1, math.Round(s.least/14))
	for _, columns := range []int{2, 1} {
		if columns == 2 && len(items) == 3 {
			continue
		}
		if s.inColumns(t, n, part.Slot, items, w, columns) {
			return s, true
		}
	}
	return s, false
}

// inColumns sets the answers in so many columns; false where one takes too many lines.
func (s *answersSetting) inColumns(t *trial, n *Node, slot string, items []string, w float64, columns int) bool {
	size := s.least
	set := typeset.Style{Face: s.face, Tracking: t.tracked(slot, s.style, t.partOf(slot).Level, size), Figures: typeset.Lining}
	wide := (w - float64(columns-1)*answerGap*size) / float64(columns)
	most := answerLines
	switch {
	case columns > 1 && t.st.tight:
		most = 2
	case columns > 1: // sooner one below the other than broken
		most = 1
	}
	var broken []*typeset.Setting
	tall := 0
	for _, item := range items {
		p := t.in.Shaper.Paragraph(item, set).Narrowest((wide-2*answerPadX*size)/size, most)
		if p == nil {
			return false
		}
		broken = append(broken, p)
		tall = max(tall, len(p.Lines))
	}
	capped, leading := s.face.CapHeight*size, 1.24*size
	high := capped + float64(tall-1)*leading + 2*answerPadY*size
	s.lines, s.frames, s.text = nil, nil, ""
	for i, p := range broken {
		column, row := i%columns, i/columns
		if t.rtl {
			column = columns - 1 - column
		}
		f := spec.Rect{X: float64(column) * (wide + answerGap*size), Y: float64(row) * (high + answerGap*size), W: wide, H: high}
		s.frames = append(s.frames, f)
		top := f.Y + (high-capped-float64(len(p.Lines)-1)*leading)/2 + capped
		for k, l := range p.Lines {
			if s.text != "" {
				s.text += "\n"
			}
			s.lines = append(s.lines, figureLine{scene.TextLine{
				Line: l, X: f.X + (wide-(l.Ink.X1-l.Ink.X0)*size)/2 - l.Ink.X0*size, Y: top + float64(k)*leading, From: len([]rune(s.text)), SizePx: size,
			}, w})
			s.text += l.Text
		}
	}
	last := s.frames[len(s.frames)-1]
	s.box = box{w, last.Y + last.H}
	return true
}
