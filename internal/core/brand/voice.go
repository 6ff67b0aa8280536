package brand

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"
)

// NeverSaid lists the words of a text the voice never says, as the kit writes them. Texts are
// compared as readers take them in ([Folded]). A word counts where it starts: "extreme" is found
// in "extremely", not in "nonextreme".
func (v Voice) NeverSaid(text string) []string {
	var out []string
	if len(v.NeverSays) == 0 {
		return nil
	}
	low := Folded(text)
	for _, w := range v.NeverSays {
		find := Folded(w)
		for at := 0; find != ""; {
			i := strings.Index(low[at:], find)
			if i < 0 {
				break
			}
			before, _ := utf8.DecodeLastRuneInString(low[:at+i])
			if at+i == 0 || !unicode.IsLetter(before) {
				out = append(out, w)
				break
			}
			at += i + len(find)
		}
	}
	return out
}

// longSentence is how many words make a sentence hard to follow in passing
// (common practice: 20 to 25).
const longSentence = 24

// Check says what in a text does not go with the voice, in plain words.
func (v Voice) Check(text string) []string {
	var out []string
	for _, w := range v.NeverSaid(text) {
		out = append(out, "never says “"+w+"”")
	}
	rest, state := text, -1
	var sentence string
	for rest != "" {
		sentence, rest, state = uniseg.FirstSentenceInString(rest, state)
		if n := len(strings.Fields(sentence)); n > longSentence {
			out = append(out, fmt.Sprintf("a sentence of %d words: “%s …”", n, strings.Join(strings.Fields(sentence)[:5], " ")))
		}
	}
	if !v.Emoji && strings.ContainsFunc(text, func(r rune) bool { return r >= 0x1F300 && r <= 0x1FAFF || r >= 0x2600 && r <= 0x27BF }) {
		out = append(out, "an emoji; the voice uses none")
	}
	if n := strings.Count(text, "!"); n > 1 {
		out = append(out, fmt.Sprintf("%d exclamation marks", n))
	}
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) }) {
		if len([]rune(w)) > 4 && strings.ToUpper(w) == w && strings.ToLower(w) != w {
			out = append(out, "“"+w+"” is typed in capitals")
		}
	}
	return out
}
