package app

import (
	"regexp"
	"strings"
)

// What people call themselves and what they make stands in mails of ours: quoted, in one line,
// and so that no program that shows the mail makes a link of it.

// named is the name of a person or a thing as a mail says it.
func named(s string) string {
	s = unlinked(short(oneLine(s)))
	return "“" + strings.NewReplacer("“", "‘", "”", "’", `"`, "'").Replace(s) + "”"
}

// linkish is what programs that show mail take for an address: a scheme, or names with dots
// between them.
var linkish = regexp.MustCompile(`(?i)[a-z][a-z0-9+.-]*://|(mailto|tel|sms|data|javascript|xmpp|geo):|[\pL\pN_@-](\.|。|．|｡)\pL`)

// unlinked is a text in which nothing is taken for an address.
func unlinked(s string) string {
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
