package layout

import (
	"math"
	"regexp"
	"strings"

	"aspenridge/internal/core/typeset"
)

// amount takes a price or a share apart: what stands before the number, the number, its
// decimals, what stands after it.
var amount = regexp.MustCompile(`^((?:[€$£¥₹₺₽₩]|[A-Z]{2,3}\$?)?)\s?([−-]?\d{1,3}(?:[ .,'’\x{a0}\x{202f}]?\d{3})*)([.,]\d{2})?\s?(%|‰|[€$£¥₹₺₽₩]|[A-Z]{3}|kr|zł|Kč)?$`)

// run is a piece of a lead with a size of its own.
type run struct {
	line *typeset.Line
	size float64 // times the lead's
	from int     // rune index in the lead
	x    float64 // where its origin stands, over the lead's size
	y    float64 // how far its baseline is above the lead's, over the lead's size
}

// What is set by eye on sheets: signs beside a large number, over its size.
const (
	signSize = 0.52
	signGap  = 0.07
)

// plainLead is a lead in one run.
func (t *trial) plainLead(lead string, set typeset.Style) ([]run, float64) {
	l := t.in.Shaper.Line(lead, set)
	if m := amount.FindStringSubmatch(lead); m != nil && m[1] != "" { // its sign stands close
		if near := t.in.Shaper.Line(strings.Replace(lead, " ", "\u202f", 1), set); len(near.Missing) == 0 {
			l = near
		}
	}
	return []run{{line: l, size: 1, x: -l.Ink.X0}}, math.Max(l.Ink.X1-l.Ink.X0, l.Advance)
}

// numeral sets a lead as people who set prices do: the number large, its currency,
// decimals and percent sign smaller, raised to the number's head. Anything else is one
// run. width is its ink's, over the size.
func (t *trial) numeral(lead string, set typeset.Style) (runs []run, width float64) {
	if m := share.FindStringSubmatch(lead); m != nil && !t.rtl {
		return t.fraction(m[1], m[2], m[3], set)
	}
	m := amount.FindStringSubmatchIndex(lead)
	if m == nil || t.rtl || m[3] == m[2] && m[6] < 0 && m[8] < 0 {
		return t.plainLead(lead, set)
	}
	number := t.in.Shaper.Line(lead[m[4]:m[5]], set)
	x := 0.0
	for part := 1; part <= 4; part++ {
		from, to := m[2*part], m[2*part+1]
		if from < 0 || strings.TrimSpace(lead[from:to]) == "" {
			continue
		}
		text := lead[from:to]
		if part == 1 {
			text = strings.TrimSpace(text)
		}
		r := run{line: t.in.Shaper.Line(text, set), size: signSize, from: len([]rune(lead[:from]))}
		if part == 2 {
			r.line, r.size = number, 1
		}
		if x > 0 {
			x += signGap
		}
		ink := r.line.Ink
		r.x = x - ink.X0*r.size
		if r.size < 1 { // heads at one height
			r.y = -number.Ink.Y0 + ink.Y0*r.size
			if part == 3 { // a comma hangs lower than what follows it: by the figures' head
				r.y = -number.Ink.Y0 - r.size*digitHead(t, set)
			}
		}
		x += (ink.X1 - ink.X0) * r.size
		runs = append(runs, r)
	}
	return runs, x
}

// share is a fraction written with a stroke: "1/2".
var share = regexp.MustCompile(`^(\d{1,2})([/⁄])(\d{1,2})$`)

// What is set by eye on sheets: the figures of a fraction, over the size of a whole one, and the
// space on either side of its stroke.
const (
	shareSize = 0.6
	shareGap  = 0.05
)

// fraction sets one as a figure of its own: above a slanting stroke as high as a figure the
// upper number, below it the lower.
func (t *trial) fraction(upper, stroke, lower string, set typeset.Style) (runs []run, width float64) {
	head := digitHead(t, set)
	high := run{line: t.in.Shaper.Line(upper, set), size: shareSize}
	bar := run{line: t.in.Shaper.Line(stroke, set), from: len(upper)}
	low := run{line: t.in.Shaper.Line(lower, set), size: shareSize, from: len(upper) + 1}
	ink := bar.line.Ink
	bar.size = head / (ink.Y1 - ink.Y0)
	bar.y = ink.Y1 * bar.size
	slant := (ink.X1 - ink.X0) * bar.size
	high.x = -high.line.Ink.X0 * shareSize
	high.y = head + high.line.Ink.Y0*shareSize
	// the stroke passes the foot of the upper number, and the head of the lower one passes it
	start := (high.line.Ink.X1-high.line.Ink.X0)*shareSize + shareGap - (1-shareSize)*slant
	bar.x = start - ink.X0*bar.size
	from := start + shareSize*slant + shareGap
	low.x = from - low.line.Ink.X0*shareSize
	end := math.Max(start+slant, from+(low.line.Ink.X1-low.line.Ink.X0)*shareSize)
	return []run{high, bar, low}, end
}

// digitHead is how high a figure stands above the baseline, over the size.
func digitHead(t *trial, set typeset.Style) float64 { return -t.in.Shaper.Line("0", set).Ink.Y0 }
