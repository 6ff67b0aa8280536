package preflight

import (
	"regexp"
	"strings"
	"unicode"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
)

// placeholder finds copy that was meant to be replaced: filler text, brackets
// and dummies people leave in.
var placeholder = regexp.MustCompile(`(?i)lorem ipsum|dolor sit amet|\byour (text|headline|name|logo|offer|message|address|website)\b|\b(headline|text|copy|insert .{1,20}) here\b|\[[^\]]{0,30}\]|\{\{?[^}]{0,30}\}?\}|<[a-z ]{2,20}>|\bTODO\b|\bTBD\b|\bTBC\b|\bxx+\b|\?\?\?`)

// Placeholder reports whether copy was left to be filled in.
func Placeholder(s string) bool { return placeholder.MatchString(s) }

// Shouted reports whether somebody typed copy in capitals by hand: two words or
// more, all of them in capitals, at least half of them longer than three
// letters. Abbreviations alone are not shouting.
func Shouted(s string) bool {
	words, long := 0, 0
	for _, w := range strings.FieldsFunc(s, func(r rune) bool { return !unicode.IsLetter(r) && r != '\'' && r != '’' }) {
		if strings.ToUpper(w) != w || strings.ToLower(w) == w {
			return false
		}
		words++
		if len([]rune(w)) > 3 {
			long++
		}
	}
	return words > 1 && 2*long >= words
}

// SentenceCase takes capitals typed by hand back: a capital only where a
// sentence begins.
func SentenceCase(s string) string {
	out := []rune(strings.ToLower(s))
	start := true
	for i, r := range out {
		if start && unicode.IsLetter(r) {
			out[i], start = unicode.ToUpper(r), false
		}
		if strings.ContainsRune(".!?…", r) {
			start = true
		}
	}
	return string(out)
}

// long is how many characters a field holds before it is too much to be read in
// passing (common practice: a headline of up to three lines of 24 characters).
var long = map[string]int{"headline": 72, "subheading": 120, "callToAction": 24, "body": 220}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// upper reports whether the level a slot is set in has capitals of its own.
func upper(t brand.TypeSet, slot string) bool { return t.Levels[brief.PartOf(slot).Level].Upper }
