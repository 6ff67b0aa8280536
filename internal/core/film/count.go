package film

import (
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/spec"
	"aspenridge/internal/core/typeset"
)

// How numbers count up.
const (
	countFor   = 0.9 // s
	countSteps = 16
	mostCounts = 3   // numbers of a take; more at once are not read
	leastCount = 5.0 // less is not worth counting to
)

// counter sets the numbers on the way.
type counter struct{ shaper *typeset.Shaper }

// number is one that counts: what stands around it does not make it a time, a range or a
// part of a word.
var number = regexp.MustCompile(`(^|[\s\x{a0}\x{202f}(+−€£$])(\d{1,3}(?:[.,'’\x{a0}\x{202f}]\d{3})+|\d+)([.,]\d{1,2})?($|[\s\x{a0}\x{202f})%+€£$.,!?…])`)

// month is a name of one, at the beginning or the end of a text, in the languages most kits are
// in: a number beside it is a day.
var (
	months      = `january|february|march|april|may|june|july|august|september|october|november|december|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec|januar|jänner|februar|märz|mai|juni|juli|oktober|dezember|janvier|février|mars|avril|juin|juillet|août|septembre|octobre|novembre|décembre|enero|febrero|marzo|abril|mayo|junio|julio|agosto|septiembre|octubre|noviembre|diciembre|gennaio|febbraio|aprile|maggio|giugno|luglio|settembre|ottobre|dicembre|januari|februari|maart|mei|augustus`
	monthAfter  = regexp.MustCompile(`(?i)^\.?[\s\x{a0}\x{202f}]*(de[\s\x{a0}])?(` + months + `)\b`)
	monthBefore = regexp.MustCompile(`(?i)\b(` + months + `)[\s\x{a0}\x{202f}]*$`)
)

// uncounted are the slots whose numbers say when and where, or are small print.
var uncounted = []string{"when", "where", "website", "handles", "phone", "address", "terms", "businessName", "caption"}

// counted is a number in a text.
type counted struct {
	from, to int     // runes of the text
	value    float64 // what it counts to
	decimals int
	point    string // before the decimals
	comma    string // between thousands, "" for none
}

// numberIn finds the first number of a text that counts up; false for none.
func numberIn(text string) (c counted, ok bool) {
	for _, m := range number.FindAllStringSubmatchIndex(text, -1) {
		whole, cents := text[m[4]:m[5]], ""
		to := m[5]
		if m[6] >= 0 {
			cents, to = text[m[6]:m[7]], m[7]
		}
		digits := ""
		for _, r := range whole {
			if r >= '0' && r <= '9' {
				digits += string(r)
			} else {
				c.comma = string(r)
			}
		}
		if cents != "" {
			c.point, c.decimals = cents[:1], len(cents)-1
			digits += "." + cents[1:]
		}
		v, err := strconv.ParseFloat(digits, 64)
		year := c.comma == "" && cents == "" && len(whole) == 4 && (v >= 1800 && v < 2200)
		day := monthAfter.MatchString(text[to:]) || monthBefore.MatchString(text[:m[4]])
		if err != nil || v < leastCount || year || day || whole[0] == '0' {
			c = counted{}
			continue
		}
		c.from, c.to, c.value = len([]rune(text[:m[4]])), len([]rune(text[:to])), v
		return c, true
	}
	return c, false
}

// at is the number a step (0-1) on the way.
func (c counted) at(step float64) string {
	v := math.Round(step*c.value*math.Pow10(c.decimals)) / math.Pow10(c.decimals)
	s := strconv.FormatFloat(v, 'f', c.decimals, 64)
	whole, cents, _ := strings.Cut(s, ".")
	if c.comma != "" {
		for i := len(whole) - 3; i > 0; i -= 3 {
			whole = whole[:i] + c.comma + whole[i:]
		}
	}
	if c.decimals > 0 {
		whole += c.point + cents
	}
	return whole
}

// count has the numbers of a take's words count up: the line with them comes when they are
// there, before it what stands around them and each number on the way.
func (t *Take) count(f *Film) {
	counts := 0
	var out []Layer
	for _, l := range t.Layers {
		p := &l.Drawing.Parts[0]
		if l.Move.Kind == "" || !p.Words() || p.Kind == scene.KindButton || p.Moved != nil || slices.Contains(uncounted, p.Field) || slices.Contains(uncounted, p.Slot) || counts == mostCounts {
			out = append(out, l)
			continue
		}
		steps := f.counts.steps(p)
		end := l.Move.Delay + countFor
		if len(steps) == 0 || end > t.To-t.From-leaveFor {
			out = append(out, l)
			continue
		}
		counts++
		for i, parts := range steps {
			from, to := 0.0, end
			if i > 0 { // the first is what stands around the number
				from, to = end-countFor+float64(i-1)*countFor/countSteps, end-countFor+float64(i)*countFor/countSteps
				if i == 1 {
					from = 0
				}
			}
			for _, part := range parts {
				one := layerOf(part, f.W, f.H)
				one.Slot, one.Move, one.While = l.Slot, l.Move, [2]float64{from, to}
				out = append(out, one)
			}
		}
		l.While = [2]float64{end, t.To - t.From + 1}
		out = append(out, l)
	}
	t.Layers = out
}

// steps are what is drawn of a line of words until its number is there: first what stands
// around the number, then each number on the way; nil for a line without one.
func (c *counter) steps(p *scene.Part) [][]scene.Part {
	for i, l := range p.Lines {
		n, ok := numberIn(l.Line.Text)
		if !ok || slices.ContainsFunc(l.Line.Clusters, func(c typeset.Cluster) bool { return c.RTL }) {
			continue
		}
		runes := []rune(l.Line.Text)
		size := p.Size(l)
		left, right := extent(l.Line, n.from, n.to)
		left, right = l.X+left*size, l.X+right*size
		set := func(text string, x float64) scene.Part {
			one := *p
			line := c.shaper.Line(text, p.Style)
			at := l
			at.Line, at.X, at.Under, at.Marker = line, x, nil, nil
			one.Text, one.Lines = text, []scene.TextLine{at}
			ink := line.Ink.Scale(size).Shift(x, l.Y)
			one.Box = spec.Rect{X: ink.X0, Y: ink.Y0, W: ink.X1 - ink.X0, H: ink.Y1 - ink.Y0}
			return one
		}
		var around []scene.Part
		rest := *p
		rest.Lines = slices.Delete(slices.Clone(p.Lines), i, i+1)
		if len(rest.Lines) > 0 {
			around = append(around, rest)
		}
		if before := strings.TrimRight(string(runes[:n.from]), " "); before != "" {
			at, _ := extent(l.Line, 0, n.from)
			around = append(around, set(before, l.X+at*size))
		}
		after := string(runes[n.to:])
		if text := strings.TrimLeft(after, " "); text != "" {
			at, _ := extent(l.Line, len(runes)-len([]rune(text)), len(runes))
			around = append(around, set(text, l.X+at*size))
		}
		out := [][]scene.Part{around}
		for k := range countSteps {
			text := n.at(ease(float64(k) / countSteps))
			wide := c.shaper.Line(text, p.Style).Advance * size
			x := right - wide // it grows away from what follows
			switch {
			case strings.TrimSpace(after) != "":
			case p.Align == "middle" && n.from == 0:
				x = (left + right - wide) / 2
			case p.Align != "end":
				x = left
			}
			out = append(out, []scene.Part{set(text, x)})
		}
		return out
	}
	return nil
}

// extent is from where to where some runes of a line reach, em from its origin.
func extent(l *typeset.Line, from, to int) (left, right float64) {
	left, right = math.Inf(1), math.Inf(-1)
	for _, c := range l.Clusters {
		if c.Rune >= from && c.Rune < to {
			left, right = math.Min(left, c.X), math.Max(right, c.X+c.Advance)
		}
	}
	return left, right
}
