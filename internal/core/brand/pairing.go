package brand

import (
	"fmt"
	"math"
	"slices"

	"aspenridge/internal/core/typeset"
)

// Candidate is a family that may be paired: what its heavy and its text weight
// look like.
type Candidate struct {
	Family      string
	Own         bool // the kit's own font
	Heavy, Text typeset.Character
}

// Pair is a headline family with a body family and why they go together.
type Pair struct {
	Head, Text string
	Reasons    []string
	score      float64
}

// MinTextPx is the size in px as seen a body face has to survive.
const MinTextPx = 13

// Pairings proposes up to n pairs, best first; every headline family comes at
// most twice and every body family at most three times, so that there is a
// choice. What counts: x-heights that agree (within 6%; they sit side by side in
// a piece), structures that are told apart or one family in two weights (common
// practice: contrast or concord, never almost the same), a step in the stems,
// and a body that survives small. The kit's own fonts come before shipped ones.
func Pairings(list []Candidate, n int) []Pair {
	var all []Pair
	for _, h := range list {
		for _, t := range list {
			if p, ok := pair(h, t); ok {
				all = append(all, p)
			}
		}
	}
	slices.SortStableFunc(all, func(a, b Pair) int {
		switch {
		case a.score > b.score:
			return -1
		case a.score < b.score:
			return 1
		}
		return 0
	})
	heads, texts := map[string]int{}, map[string]int{}
	var out []Pair
	for _, p := range all {
		if len(out) == n {
			break
		}
		if heads[p.Head] == 2 || texts[p.Text] == 3 {
			continue
		}
		heads[p.Head]++
		texts[p.Text]++
		out = append(out, p)
	}
	return out
}

func pair(h, t Candidate) (Pair, bool) {
	p := Pair{Head: h.Family, Text: t.Family}
	small := t.Text.SmallestPx()
	if small > MinTextPx || t.Text.Structure == typeset.ScriptStructure {
		return p, false // no body to read
	}
	say := func(score float64, format string, args ...any) {
		p.score += score
		p.Reasons = append(p.Reasons, fmt.Sprintf(format, args...))
	}
	same := h.Family == t.Family
	hs, ts := h.Heavy.Structure, t.Text.Structure
	switch {
	case same && h.Heavy.Stem > 1.35*t.Text.Stem:
		say(2, "one family in two weights: nothing can clash")
	case same:
		return p, false // no heavier weight to tell the levels apart
	case hs != ts:
		say(2.4, "%s over %s: told apart at a glance", article(hs), article(ts))
	case math.Abs(h.Heavy.Width-t.Text.Width) > 0.12:
		say(1.2, "both %s, but one runs wider", hs)
	default:
		return p, false // almost the same: it looks like a mistake
	}
	if !same {
		apart := math.Abs(h.Heavy.XHeight/t.Text.XHeight - 1)
		if apart > 0.16 && hs != typeset.ScriptStructure {
			return p, false
		}
		p.score -= 8 * apart
		if apart < 0.06 {
			say(1, "x-heights agree: %.2f and %.2f em", h.Heavy.XHeight, t.Text.XHeight)
		}
	}
	if step := h.Heavy.Stem / t.Text.Stem; step > 1.35 && !same {
		say(math.Min(step-1, 1), "stems step from %.2f to %.2f em", h.Heavy.Stem, t.Text.Stem)
	}
	if small <= 11 {
		say(0.4, "the body holds down to %.0f px", small)
	}
	if h.Own {
		p.score += 3
	}
	if t.Own {
		p.score += 3
	}
	return p, true
}

func article(s typeset.Structure) string { return "a " + string(s) }
