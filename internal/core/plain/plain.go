// Package plain makes what people typed safe to stand in a line beside other words, in a list, a
// record or a mail: no control characters, nothing that turns the direction of what follows,
// nothing a mail program makes a link of.
//
//	plain.Line("Nell\nTarn")             // "Nell Tarn"
//	plain.Quoted("see https://x.example") // “see https[:]/ /x[.]example”
package plain

import (
	"regexp"
	"strings"
	"unicode"
)

// Line is a text without breaks, and without the signs [Text] leaves out.
func Line(s string) string { return strings.Join(strings.Fields(Text(s)), " ") }

// Text is a text without control characters and without the signs of Unicode that turn
// the direction of what follows (UAX #9: embeddings, overrides and isolates).
func Text(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		if r != '\n' && Misleads(r) {
			return -1
		}
		return r
	}, strings.ReplaceAll(s, "\r\n", "\n")))
}

// Misleads reports whether a character is a control or turns the direction of what follows.
func Misleads(r rune) bool {
	return unicode.IsControl(r) || r >= '\u202a' && r <= '\u202e' || r >= '\u2066' && r <= '\u2069'
}

// Short is the beginning of a text that is longer than 60 characters.
func Short(s string) string {
	if r := []rune(s); len(r) > 60 {
		return strings.TrimSpace(string(r[:58])) + " …"
	}
	return s
}

// Quoted is the name of a person or a thing as a mail says it: in one line, in quotation marks,
// short, without links.
func Quoted(s string) string {
	s = Unlinked(Short(Line(s)))
	return "“" + strings.NewReplacer("“", "‘", "”", "’", `"`, "'").Replace(s) + "”"
}

// linkish is what programs that show mail take for an address: a scheme, or names with dots
// between them.
var linkish = regexp.MustCompile(`(?i)[a-z][a-z0-9+.-]*://|(mailto|tel|sms|data|javascript|xmpp|geo):|[\pL\pN_@-](\.|。|．|｡)\pL`)

// Unlinked is a text in which nothing is taken for an address.
func Unlinked(s string) string {
	for linkish.MatchString(s) {
		next := linkish.ReplaceAllStringFunc(s, func(m string) string {
			if strings.Contains(m, ":") {
				return strings.NewReplacer("://", "[:]/ /", ":", "[:]").Replace(m)
			}
			return strings.NewReplacer(".", "[.]", "。", "[.]", "．", "[.]", "｡", "[.]").Replace(m)
		})
		if next == s {
			break
		}
		s = next
	}
	return s
}
