package layout

import (
	"math"

	"aspenridge/internal/core/typeset"
)

// fittedLine is a line set to the full measure: its size and its baseline below the
// top of the setting, in px.
type fittedLine struct{ size, y float64 }

// What is set by eye on sheets of posters: beyond it fitted lines look silly, and the
// headline is set plainly.
const (
	fitUneven = 3.2  // the largest line over the smallest
	fitTall   = 0.34 // of the safe height a line is at most
	fitGap    = 0.12 // of the larger line between two lines' ink
)

// fit sets every line of a paragraph to the width: in as many lines as it takes for
// them to be about size px, since few lines are small and many are large. False where
// the result would be silly: one short word, lines of very different length.
func (t *trial) fit(p *typeset.Paragraph, size, width float64) (setting, bool) {
	floor := size / t.ratio * headlineLeast
	var best setting
	found := false
	for k := 1; k <= 6; k++ {
		set := p.Break(k)
		if set == nil {
			break
		}
		s := setting{set: set, w: width, size: math.Inf(1)}
		largest, y, mean := 0.0, 0.0, 0.0
		for i, l := range set.Lines {
			ink := l.Ink.X1 - l.Ink.X0
			if ink <= 0 {
				return s, false
			}
			one := math.Floor(10*width/ink) / 10
			s.size, largest = math.Min(s.size, one), math.Max(largest, one)
			mean += one / float64(k)
			if i > 0 {
				y += fitGap * math.Max(one, s.fitted[i-1].size)
			}
			y -= l.Ink.Y0 * one
			s.fitted = append(s.fitted, fittedLine{one, y})
			y += math.Max(0, l.Ink.Y1) * one
		}
		s.h = y
		if s.size < floor || largest > fitUneven*s.size || largest > fitTall*t.safe.H || k == 1 && mean > 1.6*size {
			continue
		}
		if mean > size && found {
			break
		}
		best, found = s, true
		if mean > size {
			break
		}
	}
	if found {
		best.top = best.fitted[0].y
		best.leading = best.size
	}
	return best, found
}
