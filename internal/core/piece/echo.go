package piece

import (
	"fmt"
	"hash/fnv"
	"strings"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/typeset"
)

// Echo is what a page needs to draw letters by itself in the moment they are typed,
// until the real line comes: the glyphs of the face, one by one, without kerning.
type Echo struct {
	Key      string           `json:"key"`      // of the glyphs: they are asked for once
	Size     float64          `json:"size"`     // px
	Tracking float64          `json:"tracking"` // em
	Fill     string           `json:"fill"`
	Align    string           `json:"align"` // start, middle, end
	Upper    bool             `json:"upper"`
	Glyphs   map[string]Glyph `json:"glyphs,omitempty"` // by character, when the page has not got them
}

// Glyph is a letter: its advance and outline.
type Glyph struct {
	Advance float64 `json:"a"` // em, without tracking
	Path    string  `json:"d"` // relative SVG path data, UnitsPerEm units to the em
	Units   float64 `json:"u"`
}

// echoed are the characters an echo has beside those of the words themselves.
var echoed = func() string {
	var b strings.Builder
	for r := rune(' '); r <= '~'; r++ {
		b.WriteRune(r)
	}
	b.WriteString("äöüÄÖÜßàâáãåæçèéêëìíîïñòóôõøœùúûýÿÀÂÁÃÅÆÇÈÉÊËÌÍÎÏÑÒÓÔÕØŒÙÚÛÝ‘’“”–—…·×€£•&")
	return b.String()
}()

// EchoOf is the echo of a part's words; nil for words whose letters depend on their
// neighbours or run from right to left, and for a part that is not set type. have is
// the key of the glyphs the page has.
func EchoOf(s *typeset.Shaper, part *scene.Part, typed, have string) *Echo {
	if part.Style.Face == nil || len(part.Lines) == 0 || joined(typed) {
		return nil
	}
	h := fnv.New64a()
	_, _ = fmt.Fprint(h, part.Family, part.Weight, part.Style.Face.Italic, part.Style.Figures)
	e := &Echo{Key: fmt.Sprintf("%x", h.Sum64()), Size: part.Size(part.Lines[0]), Tracking: part.Style.Tracking, Fill: part.Fill.Hex(), Align: part.Align, Upper: part.Upper}
	if e.Key == have {
		return e
	}
	e.Glyphs = map[string]Glyph{}
	plain := typeset.Style{Face: part.Style.Face, Figures: part.Style.Figures}
	for _, r := range echoed + typed {
		c := string(r)
		if _, ok := e.Glyphs[c]; ok || r == '\n' {
			continue
		}
		if r == ' ' { // a line's advance leaves spaces at its end out
			e.Glyphs[c] = Glyph{Advance: s.Line("n n", plain).Advance - 2*s.Line("n", plain).Advance}
			continue
		}
		l := s.Line(c, plain)
		if l.Paths() != 1 || len(l.Missing) > 0 {
			continue // nothing, or of several faces: the server draws it
		}
		d, upem, x := l.Path(0)
		if x != 0 {
			continue
		}
		e.Glyphs[c] = Glyph{l.Advance, d, upem}
	}
	return e
}

// joined reports whether letters of a text take forms by their neighbours, or run
// from right to left.
func joined(text string) bool {
	for _, r := range text {
		if r >= 0x0590 && r <= 0x08FF || r >= 0x0900 && r <= 0x0DFF || r >= 0xFB1D && r <= 0xFEFC || r >= 0x1F000 || r == 0x200D || r >= 0x0300 && r <= 0x036F {
			return true
		}
	}
	return false
}
