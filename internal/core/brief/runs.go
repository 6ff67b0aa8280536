package brief

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
)

// Break is where a line ends: after so many words. With the word it is after, it stays
// with that word when others come or go.
type Break struct {
	After int    `json:"after"`
	Word  string `json:"word"`
}

// UnmarshalJSON reads a break, or the number of words alone.
func (b *Break) UnmarshalJSON(data []byte) error {
	if json.Unmarshal(data, &b.After) == nil {
		return nil
	}
	type plain Break
	return json.Unmarshal(data, (*plain)(b))
}

// mostBreaks is how many lines may be ended by hand.
const mostBreaks = 20

func breaksOf(h *Hand, v json.RawMessage) error {
	const want = "a list of numbers of words after which a line ends"
	var list []Break
	if err := value(&list, v, want); err != nil {
		return err
	}
	if len(list) > mostBreaks {
		return fmt.Errorf("%d breaks: want at most %d", len(list), mostBreaks)
	}
	last := 0
	for _, b := range list {
		if b.After <= last || b.After > 2000 {
			return fmt.Errorf("%d after %d: want %s, growing", b.After, last, want)
		}
		last = b.After
	}
	h.Breaks = list
	return nil
}

// Run is a stretch of words with a style of its own: from one word to before another,
// counted from 0. With the words it is of it stays with them when others come or go.
type Run struct {
	From      int     `json:"from"`
	To        int     `json:"to"`
	Words     string  `json:"words,omitempty"`
	Bold      bool    `json:"bold,omitempty"`
	Italic    bool    `json:"italic,omitempty"`
	Underline bool    `json:"underline,omitempty"`
	Strike    bool    `json:"strike,omitempty"`
	Scale     float64 `json:"scale,omitempty"` // times; 0 for 1
	Level     string  `json:"level,omitempty"` // of the kit's levels; "" for the one of the words around it
	Fill      string  `json:"fill,omitempty"`
}

// mostRuns is how many stretches of a text have a style of their own.
const mostRuns = 40

func runsOf(h *Hand, v json.RawMessage) error {
	var list []Run
	if err := value(&list, v, "a list of runs with from, to and a style"); err != nil {
		return err
	}
	if len(list) > mostRuns {
		return fmt.Errorf("%d runs: want at most %d", len(list), mostRuns)
	}
	for _, r := range list {
		if r.From < 0 || r.To <= r.From || r.To > 2000 {
			return fmt.Errorf("from %d to %d: want words counted from 0, from before to", r.From, r.To)
		}
		if r.Scale != 0 && (r.Scale < 0.3 || r.Scale > 4) {
			return fmt.Errorf("scale %v: want 0.3 to 4 times", r.Scale)
		}
		if r.Level != "" && !slices.Contains(brand.Levels, brand.Level(r.Level)) {
			return fmt.Errorf("level %q: want one of %v", r.Level, brand.Levels)
		}
		if r.Fill != "" {
			raw, _ := json.Marshal(r.Fill)
			if err := paint(&r.Fill, raw); err != nil {
				return fmt.Errorf("fill: %w", err)
			}
		}
	}
	h.Runs = list
	return nil
}

// RunsOf tells of every rune of a text which run it is of, -1 for none; nil where no run
// finds its words.
func (h *Hand) RunsOf(text string) []int {
	runes := []rune(text)
	words, ends := wordsOf(runes)
	out := make([]int, len(runes))
	for i := range out {
		out[i] = -1
	}
	some := false
	for n, r := range h.Runs {
		from, to, ok := r.place(words)
		if !ok {
			continue
		}
		some = true
		for i := ends[from] - len([]rune(words[from])); i < ends[to-1]; i++ {
			out[i] = n
		}
	}
	if !some {
		return nil
	}
	return out
}

// Times is how many times as large as the words around it a run is set, in words of a level.
func (r Run) Times(types brand.TypeSet, around brand.Level) float64 {
	times := 1.0
	if level := brand.Level(r.Level); r.Level != "" && types.Ratio(around) > 0 && types.Ratio(level) > 0 {
		times = types.Ratio(level) / types.Ratio(around)
	}
	if r.Scale > 0 {
		times *= r.Scale
	}
	return times
}

// TimesOf is how many times as large as the others each rune of a text in a level is set by its
// runs, nil where all are of one size.
func (h *Hand) TimesOf(text string, types brand.TypeSet, level brand.Level) []float64 {
	if h == nil || !slices.ContainsFunc(h.Runs, func(r Run) bool { return r.Times(types, level) != 1 }) {
		return nil
	}
	of := h.RunsOf(text)
	if of == nil {
		return nil
	}
	out := make([]float64, len(of))
	for i, n := range of {
		if out[i] = 1; n >= 0 {
			out[i] = h.Runs[n].Times(types, level)
		}
	}
	return out
}

// LostRuns is how many runs have no words to be of in a text.
func (h *Hand) LostRuns(text string) (lost int) {
	if h == nil {
		return 0
	}
	words, _ := wordsOf([]rune(text))
	for _, r := range h.Runs {
		if _, _, ok := r.place(words); !ok {
			lost++
		}
	}
	return lost
}

// place is which words a run is of now: its own, the nearest where they come several times.
func (r Run) place(words []string) (from, to int, ok bool) {
	own := strings.Fields(r.Words)
	if len(own) == 0 {
		return r.From, min(r.To, len(words)), r.From < len(words)
	}
	best := -1
	for i := 0; i+len(own) <= len(words); i++ {
		if slices.EqualFunc(words[i:i+len(own)], own, strings.EqualFold) && (best < 0 || abs(i-r.From) < abs(best-r.From)) {
			best = i
		}
	}
	return best, best + len(own), best >= 0
}

// wordsOf are the words of a text, and where each ends.
func wordsOf(runes []rune) (words []string, ends []int) {
	space := func(r rune) bool { return r == ' ' || r == '\n' }
	for i := 0; i < len(runes); {
		from := i
		for i < len(runes) && !space(runes[i]) {
			i++
		}
		if i > from {
			words, ends = append(words, string(runes[from:i])), append(ends, i)
		}
		for i < len(runes) && space(runes[i]) {
			i++
		}
	}
	return words, ends
}

// Broken is a text with its lines ended where they were by hand, and how many of the
// breaks apply no more since their word is gone.
func (h *Hand) Broken(text string) (broken string, lost int) {
	if h == nil || len(h.Breaks) == 0 {
		return text, 0
	}
	runes := []rune(text)
	words, ends := wordsOf(runes)
	for _, b := range h.Breaks {
		at := b.place(words)
		if at <= 0 || at >= len(words) {
			lost++
			continue
		}
		runes[ends[at-1]] = '\n'
	}
	return string(runes), lost
}

// place is after how many words a break stands now: after its word, the one nearest to
// where it was; 0 where that is gone.
func (b Break) place(words []string) int {
	if b.Word == "" || b.After <= len(words) && strings.EqualFold(words[b.After-1], b.Word) {
		return b.After
	}
	best := 0
	for i, w := range words {
		if strings.EqualFold(w, b.Word) && (best == 0 || abs(i+1-b.After) < abs(best-b.After)) {
			best = i + 1
		}
	}
	return best
}

func abs(n int) int { return max(n, -n) }
