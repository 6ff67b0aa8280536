package piece

import (
	"sort"
	"unicode/utf16"

	"github.com/rivo/uniseg"

	"aspenridge/internal/core/scene"
	"aspenridge/internal/core/typeset"
)

// Stop is a place the caret can stand while words are typed on a piece: before
// UTF-16 unit At of the text as typed, at X px between Top and Bottom px, where the
// words were solved: what was moved by hand takes its carets along ([scene.Part.Moved]).
type Stop struct {
	At     int     `json:"i"`
	X      float64 `json:"x"`
	Top    float64 `json:"t"`
	Bottom float64 `json:"b"`
}

// Stops lists the caret's places for the text as typed, which may differ from
// what is shown: quotes are curled, spaces folded, dots joined, capitals set.
func Stops(part *scene.Part, typed string) []Stop {
	shown := len([]rune(part.Text))
	runes := []rune(typed)
	out := make([]Stop, 0, len(runes)+1)
	unit := 0
	for i := 0; i <= len(runes); i++ {
		// as many runes are shown before the caret as correcting what stands
		// before it leaves
		d := min(shown, len([]rune(typeset.Correct(string(runes[:i])))))
		if i > 0 && runes[i-1] == ' ' && d < shown {
			d = min(shown, d+1) // a space just typed is held back by correcting
		}
		out = append(out, stopAt(part, d, unit))
		if i < len(runes) {
			unit += len(utf16.Encode(runes[i : i+1]))
		}
	}
	return out
}

// stopAt is the caret before rune d of the text shown.
func stopAt(part *scene.Part, d, unit int) Stop {
	n := len(part.Lines)
	if n == 0 {
		return Stop{At: unit, X: part.Box.X, Top: part.Box.Y, Bottom: part.Box.Bottom()}
	}
	li := sort.Search(n, func(i int) bool { return part.Lines[i].From > d }) - 1
	l := part.Lines[max(0, li)]
	s := Stop{At: unit, Top: round(l.Y - 0.8*part.Size(l)), Bottom: round(l.Y + 0.22*part.Size(l))}
	x, best := l.Line.Advance, -1
	for _, c := range l.Line.Clusters {
		at := l.From + c.Rune
		switch {
		case at <= d && d < at+c.Runes:
			in := within(part.Text, at, c.Runes, d)
			if c.RTL {
				in = 1 - in
			}
			x, best = c.X+in*c.Advance, at
		case best < 0 && at+c.Runes <= d && c.RTL && c.X < x:
			x = c.X // after the last cluster of a right-to-left line
		}
	}
	s.X = round(l.X + x*part.Size(l))
	return s
}

// within is how much of a cluster of n runes stands before rune d, 0-1: letters that are
// drawn as one share its width, marks stay with their letter.
func within(text string, at, n, d int) float64 {
	if d == at {
		return 0
	}
	letters, before := 0, 0
	all := uniseg.NewGraphemes(string([]rune(text)[at : at+n]))
	for end := at; all.Next(); letters++ {
		if end += len(all.Runes()); end <= d {
			before++
		}
	}
	return float64(before) / float64(letters)
}
