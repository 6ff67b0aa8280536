package brand

import (
	"strings"
	"unicode"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Folded is a text as a reader takes it in, however it was typed: in one form of compatibility
// (NFKC, Unicode Standard Annex #15), without what is not seen (default ignorables, UAX #44),
// without regard to capitals (case folding), white space as single spaces, and letters of Greek
// and Cyrillic that look like Latin ones as those (a few of Unicode Technical Standard #39).
func Folded(text string) string {
	text = norm.NFKC.String(strings.Map(func(r rune) rune {
		if ignorable(r) {
			return -1
		}
		return r
	}, text))
	text = cases.Fold().String(text)
	text = strings.Map(func(r rune) rune {
		switch {
		case ignorable(r):
			return -1
		case r == '‐' || r == '‑' || r == '–' || r == '—' || r == '−':
			return '-'
		case r == '’' || r == '‘' || r == 'ʼ':
			return '\''
		}
		if like, ok := lookalikes[r]; ok {
			return like
		}
		return r
	}, norm.NFKC.String(text))
	return strings.Join(strings.Fields(text), " ")
}

// ignorable reports whether a character is not seen: soft hyphens, joiners, marks of direction,
// variation selectors, fillers, tags.
func ignorable(r rune) bool {
	switch {
	case r == '\u00ad', r == '\u034f', r == '\u115f', r == '\u1160', r == '\u17b4', r == '\u17b5', r == '\u3164', r == '\uffa0':
		return true
	case r >= '\u180b' && r <= '\u180f', r >= '\ufe00' && r <= '\ufe0f', r >= 0xE0000 && r <= 0xE0FFF:
		return true
	case r == '\n', r == '\t':
		return false
	}
	return unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Cc, r)
}

// lookalikes are small letters that are drawn like Latin ones.
var lookalikes = map[rune]rune{
	'а': 'a', 'е': 'e', 'о': 'o', 'р': 'p', 'с': 'c', 'у': 'y', 'х': 'x', 'і': 'i', 'ј': 'j', 'ѕ': 's', 'һ': 'h', 'ԁ': 'd', 'ԛ': 'q', 'ԝ': 'w', 'ӏ': 'l', 'ь': 'b', 'к': 'k', 'м': 'm', 'т': 't', 'в': 'b', 'н': 'h',
	'ο': 'o', 'α': 'a', 'ν': 'v', 'ρ': 'p', 'ι': 'i', 'κ': 'k', 'τ': 't', 'υ': 'u', 'χ': 'x', 'ϲ': 'c', 'ϳ': 'j',
	'ı': 'i', 'ɑ': 'a', 'ɡ': 'g', 'ⅼ': 'l',
}
