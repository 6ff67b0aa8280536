// Package hyphen divides words: the algorithm of F. M. Liang (Word Hy-phen-a-tion by
// Com-put-er, Stanford 1983) over the patterns of a language, and a guess at the
// language of a text.
package hyphen

import (
	"embed"
	"strings"
	"sync"
	"unicode"
)

//go:embed patterns/*.txt
var files embed.FS

// Languages are those there are patterns for, by their ISO 639-1 codes.
var Languages = []string{"de", "en", "es", "fr", "it", "nl", "pl", "pt", "sv"}

// least letters before and after a hyphen. Dictionaries allow two of each; large type
// wants more (common practice).
const least = 3

// patterns are the weights of a language by the letters they go with.
type patterns struct {
	weights map[string][]byte // one more than letters: before each, and after
	longest int               // letters
}

var (
	mu     sync.Mutex
	loaded = map[string]*patterns{}
)

func load(language string) *patterns {
	mu.Lock()
	defer mu.Unlock()
	if p, ok := loaded[language]; ok {
		return p
	}
	var p *patterns
	if data, err := files.ReadFile("patterns/" + language + ".txt"); err == nil {
		p = &patterns{weights: map[string][]byte{}}
		for line := range strings.Lines(string(data)) {
			var letters []rune
			weights := []byte{0}
			for _, r := range strings.TrimSpace(line) {
				if r >= '0' && r <= '9' {
					weights[len(weights)-1] = byte(r - '0')
					continue
				}
				letters, weights = append(letters, r), append(weights, 0)
			}
			p.weights[string(letters)] = weights
			p.longest = max(p.longest, len(letters))
		}
	}
	loaded[language] = p
	return p
}

// Points are where a word of a language may be divided: after how many of its
// letters, ascending. A word with anything but letters in it, or of a language
// nothing is known of, is not divided.
func Points(word, language string) []int {
	letters := []rune(strings.ToLower(word))
	if len(letters) < 2*least || len(letters) != len([]rune(word)) {
		return nil
	}
	for _, r := range letters {
		if !unicode.IsLetter(r) {
			return nil
		}
	}
	p := load(language)
	if p == nil {
		return nil
	}
	dotted := append(append([]rune{'.'}, letters...), '.')
	at := make([]byte, len(dotted)+1)
	for i := range dotted {
		for j := i + 1; j <= min(len(dotted), i+p.longest); j++ {
			for k, w := range p.weights[string(dotted[i:j])] {
				at[i+k] = max(at[i+k], w)
			}
		}
	}
	var out []int
	for n := least; n <= len(letters)-least; n++ {
		if at[n+1]%2 == 1 { // one more for the dot in front
			out = append(out, n)
		}
	}
	return out
}

// hints tell languages apart: little words that are often there count thrice, letters
// and groups of them once.
var hints = map[string]struct{ words, parts string }{
	"de": {"der die das und ist für mit ein eine im am zum zur von bei auf nicht wir sie ihr jeden jetzt dein deine", "sch ch ung keit heit ä ö ü ß tz ck ei eu"},
	"en": {"the and is for with your you our are on at to of in this that from we it be", "th wh ing tion sh ow ght oo"},
	"es": {"el la los las y es para con una un del en por tu su que nuestro", "ción ñ ll á í ó ú ue ¿ ¡"},
	"fr": {"le la les et est pour avec une un des du en dans vous votre nos sur au aux", "eau ou eux tion é è ê ç œ à ai oi"},
	"it": {"il lo la gli le e è per con una un del della in di che nostro tuo", "zione gli cch ò à ù tt zz gn"},
	"nl": {"de het een en is voor met van op in bij je jouw onze niet te", "ij aa ee oo uu oe sch heid"},
	"pl": {"i w z na do się jest dla nie twój nasz od po to", "sz cz rz ł ą ę ś ż ź ć ó w"},
	"pt": {"o a os as e é para com uma um do da em no na seu sua que", "ção ão õe lh nh ç ã ê"},
	"sv": {"och är för med en ett på i av till vi din ditt det som", "å ä ö sk tt ck ning"},
}

// Guess is the language a text is most likely in, of those there are patterns for;
// "" where nothing speaks for any. A wrong guess costs a hyphen; what is to be added to the
// text in its language takes [Surely].
func Guess(text string) string {
	l, _, _ := likeliest(text)
	return l
}

// Surely is the language a text is in where much speaks for it, and twice as much as for any
// other; "" else.
func Surely(text string) string {
	if l, most, second := likeliest(text); most >= enough && most >= 2*second {
		return l
	}
	return ""
}

// enough is two little words, what has to speak for a language at least.
const enough = 6

// likeliest is the language most speaks for, with how much that is, and how much speaks for
// the next one.
func likeliest(text string) (best string, most, second int) {
	text = strings.ToLower(text)
	words := map[string]int{}
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) }) {
		words[w]++
	}
	for _, l := range Languages {
		n := 0
		for _, w := range strings.Fields(hints[l].words) {
			n += 3 * words[w]
		}
		for _, p := range strings.Fields(hints[l].parts) {
			n += strings.Count(text, p)
		}
		if n > most {
			best, most, second = l, n, most
		} else if n > second {
			second = n
		}
	}
	return best, most, second
}
