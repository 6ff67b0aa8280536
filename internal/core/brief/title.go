package brief

import (
	"strings"
	"unicode"

	"aspenridge/internal/core/edit"
)

// titled are the fields of a first card a brief can be called by, the best first.
var titled = []string{"/headline", "/shortHeadline", "/subheading", "/quote/text", "/lines/0", "/body", "/name"}

// maxTitle is how many letters of a headline make a name.
const maxTitle = 60

// TitleOf is what a brief's document is called: its name, else what it says
// first, "" while it says nothing.
func TitleOf(doc *edit.Object) string {
	if name, _ := doc.Get("name").(string); strings.TrimSpace(name) != "" {
		return strings.TrimSpace(name)
	}
	for _, at := range []string{"/cards/0", ""} { // a single card may stand at the top
		for _, f := range titled {
			if at == "" && f == "/name" {
				continue
			}
			v, _ := edit.Lookup(doc, at+f)
			if s, ok := v.(string); ok && strings.TrimSpace(s) != "" {
				return shorten(strings.Join(strings.Fields(strings.Map(noControl, s)), " "))
			}
		}
	}
	return ""
}

// noControl takes out what turns the direction of text (UAX #9) and what is no letter at all.
func noControl(r rune) rune {
	if unicode.Is(unicode.Bidi_Control, r) || unicode.IsControl(r) && !unicode.IsSpace(r) {
		return -1
	}
	return r
}

// shorten cuts a text at a word.
func shorten(s string) string {
	r := []rune(s)
	if len(r) <= maxTitle {
		return s
	}
	cut := string(r[:maxTitle])
	if i := strings.LastIndexByte(cut, ' '); i > maxTitle/2 {
		cut = cut[:i]
	}
	return strings.TrimRight(cut, " ,;:.-") + " …"
}

// notSaid are parts of a document that are not words of anybody.
var notSaid = map[string]bool{"id": true, "file": true, "looks": true, "adjustments": true, "shown": true, "sample": true, "logo": true, "icon": true, "signature": true, "edge": true, "palette": true}

// WordsIn are all the words of a brief's document, in small letters, for finding it:
// copy of every card, descriptions of pictures, where it goes.
func WordsIn(doc *edit.Object) string {
	var b strings.Builder
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case *edit.Object:
			for _, k := range v.Keys() {
				if !notSaid[k] {
					walk(v.Get(k))
				}
			}
		case []any:
			for _, m := range v {
				walk(m)
			}
		case string:
			if v = strings.TrimSpace(v); v != "" && b.Len() < 20_000 {
				b.WriteString(strings.ToLower(v))
				b.WriteByte('\n')
			}
		}
	}
	walk(doc)
	return b.String()
}
