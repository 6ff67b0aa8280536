// Package caption makes captions of what is said: broken at phrases, long enough to be
// read, in at most two lines; it reads and writes them as SubRip and WebVTT. It knows no
// files and no sound.
package caption

import (
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Cue is one caption.
type Cue struct {
	From  float64 `json:"from"` // s
	To    float64 `json:"to"`   // s
	Text  string  `json:"text"` // lines end with \n
	Words []Word  `json:"-"`    // when each is said, where that is known
}

// Word is one that is said.
type Word struct {
	Text string
	From float64 // s
	To   float64 // s
}

// What a caption may be (common practice of subtitling; the figures are those of Díaz
// Cintas and Remael, Subtitling: Concepts and Practices, and of Karamitroglou, A Proposed
// Set of Subtitling Standards in Europe, from memory).
const (
	MostLine  = 42        // letters in a line
	MostLines = 2         // lines
	MostSpeed = 17.0      // letters a second
	Least     = 1.0       // s it is seen
	Most      = 7.0       // s
	Gap       = 2.0 / 30  // s between two: two frames
	pause     = 0.6       // s of silence that end a caption
	lead      = 2.0 / 30  // s it comes before what is said
	after     = 0.5       // s it may stay when nothing follows
	epsilon   = 1.0 / 1e6 // s
)

// room is what a caption has.
type room struct {
	line  int // letters
	lines int // 1 or 2
}

// Of makes captions of words that are said, in so many lines (0 for [MostLines]) of at most so
// many letters (0 for [MostLine]).
func Of(words []Word, line, most int) []Cue {
	if line <= 0 || line > MostLine {
		line = MostLine
	}
	if most <= 0 || most > MostLines {
		most = MostLines
	}
	r := room{line, most}
	var out []Cue
	for _, said := range stretches(words) {
		for _, part := range phrases(said, r) {
			out = append(out, Cue{From: part[0].From, To: part[len(part)-1].To, Text: lines(textOf(part), line), Words: part})
		}
	}
	for i := range out { // long enough to be read, as far as there is time
		c := &out[i]
		begin := 0.0
		if i > 0 {
			begin = out[i-1].To + Gap
		}
		c.From = math.Max(math.Min(begin, c.From), c.From-lead)
		end := c.To + after
		if need := c.From + math.Max(Least, letters(c.Text)/MostSpeed); need > end {
			end = need
		}
		if i+1 < len(out) {
			end = math.Min(end, out[i+1].From-lead-Gap)
		}
		c.To = math.Min(math.Max(c.To, end), c.From+Most)
		if i+1 < len(out) && c.To > out[i+1].From-Gap {
			c.To = out[i+1].From - Gap
		}
	}
	return out
}

// Spread are the words of a text as if they were said evenly over a stretch of time, each
// as long as its letters.
func Spread(text string, from, to float64) []Word {
	fields := strings.Fields(text)
	sum := 0.0
	for _, f := range fields {
		sum += letters(f) + 1
	}
	var out []Word
	at := from
	for _, f := range fields {
		d := (to - from) * (letters(f) + 1) / sum
		out = append(out, Word{f, at, at + d})
		at += d
	}
	return out
}

// letters of a text, its breaks left out.
func letters(s string) float64 {
	return float64(utf8.RuneCountInString(strings.ReplaceAll(s, "\n", "")))
}

func textOf(words []Word) string {
	var b strings.Builder
	for i, w := range words {
		if i > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(w.Text)
	}
	return b.String()
}

// stretches are words between pauses, and between sentences that are long enough to stand
// alone.
func stretches(words []Word) (out [][]Word) {
	from := 0
	for i := range words {
		if i+1 == len(words) || words[i+1].From-words[i].To > pause {
			out = append(out, words[from:i+1])
			from = i + 1
		}
	}
	return out
}

// What a break costs.
const (
	another    = 3.0 // one more caption
	impossible = 1e9
)

// breakCost is what it costs to end a caption or a line after a word: least at the end of a
// sentence, most between words that belong together.
func breakCost(word, next string) float64 {
	last, _ := utf8.DecodeLastRuneInString(strings.TrimRight(word, "\"'”’»)"))
	switch {
	case next == "":
		return 0
	case strings.ContainsRune(".!?…。؟", last):
		return 0
	case strings.ContainsRune(",;:–—،؛", last):
		return 1
	case joins[lower(next)]:
		return 2.5
	case binds[lower(word)]:
		return 9
	}
	return 5
}

func lower(w string) string {
	return strings.ToLower(strings.TrimFunc(w, func(r rune) bool { return unicode.IsPunct(r) }))
}

// joins begin a phrase; binds belong to the word after them. English, German, French and
// Spanish.
var (
	joins = set("and or but so because that which who when where while if as than with from for to in on at by of und oder aber denn weil dass wenn als mit von für zu im am et ou mais car que qui quand avec pour dans y o pero porque que cuando con para en")
	binds = set("a an the my your our their his her its this that these those of to in on at by for with from and or is are be not der die das ein eine einen dem den des mein unser und le la les un une des du de el los las una mr mrs dr no")
)

func set(words string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(words) {
		out[w] = true
	}
	return out
}

// phrases breaks words into captions at the least cost.
func phrases(words []Word, r room) [][]Word {
	n := len(words)
	best, from := make([]float64, n+1), make([]int, n+1)
	for j := 1; j <= n; j++ {
		best[j] = math.Inf(1)
		next := ""
		if j < n {
			next = words[j].Text
		}
		for i := j - 1; i >= 0; i-- {
			cost := best[i] + another + breakCost(words[j-1].Text, next) + partCost(words[i:j], r)
			if j-i > 1 && cost >= impossible+best[i] {
				break // longer ones fit no better
			}
			if cost < best[j] {
				best[j], from[j] = cost, i
			}
		}
	}
	var out [][]Word
	for j := n; j > 0; j = from[j] {
		out = append(out, words[from[j]:j])
	}
	slices.Reverse(out)
	return out
}

// partCost is what it costs to show words as one caption.
func partCost(words []Word, r room) float64 {
	text := textOf(words)
	if len(words) > 1 && (!r.fits(text) || words[len(words)-1].To-words[0].From > Most) {
		return impossible
	}
	if n := letters(text); n < float64(r.line)/3 { // a word or two alone flicker
		return 2 * (1 - n/(float64(r.line)/3))
	}
	if upper, below, two := strings.Cut(lines(text, r.line), "\n"); two {
		above, next := strings.Fields(upper), strings.Fields(below)
		return 0.6 * breakCost(above[len(above)-1], next[0])
	}
	return 0
}

// fits reports whether a text stands in the lines there are.
func (r room) fits(text string) bool {
	if letters(text) <= float64(r.line) {
		return true
	}
	two := lines(text, r.line)
	return r.lines > 1 && strings.Contains(two, "\n") && longest(two) <= r.line
}

func longest(text string) int {
	most := 0
	for l := range strings.SplitSeq(text, "\n") {
		most = max(most, utf8.RuneCountInString(l))
	}
	return most
}

// lines breaks a text in two where it is longer than a line: at a phrase, the lines of
// about one length, the upper one rather the shorter.
func lines(text string, line int) string {
	if int(letters(text)) <= line {
		return text
	}
	fields := strings.Fields(text)
	best, least := text, math.Inf(1)
	for i := 1; i < len(fields); i++ {
		upper, below := strings.Join(fields[:i], " "), strings.Join(fields[i:], " ")
		over := math.Max(0, math.Max(letters(upper), letters(below))-float64(line))
		cost := 100*over + breakCost(fields[i-1], fields[i]) + 12*math.Abs(letters(upper)-letters(below))/float64(line)
		if letters(upper) > letters(below) {
			cost++
		}
		if cost < least {
			best, least = upper+"\n"+below, cost
		}
	}
	return best
}

// Fast is how many letters a second a caption has to be read at.
func (c Cue) Fast() float64 {
	return letters(strings.ReplaceAll(c.Text, "\n", " ")) / math.Max(c.To-c.From, epsilon)
}

// Timed are the words of a caption with when each is said: as it is known, else evenly.
func (c Cue) Timed() []Word {
	if len(c.Words) > 0 && textOf(c.Words) == strings.Join(strings.Fields(c.Text), " ") {
		return c.Words
	}
	return Spread(c.Text, c.From, c.To)
}
