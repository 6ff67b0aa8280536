package brand

import (
	"regexp"
	"strings"
	"unicode"

	"aspenridge/internal/core/colour"
)

// ToldKind says what a line of somebody's words is.
type ToldKind string

// What lines can be.
const (
	ToldColours ToldKind = "colours"
	ToldWebsite ToldKind = "website"
	ToldHandle  ToldKind = "handle"
	ToldHashtag ToldKind = "hashtag"
	ToldPhone   ToldKind = "phone"
	ToldName    ToldKind = "name"  // short, no sentence: what something is called
	ToldWords   ToldKind = "words" // anything else that is said
)

// Told is a line of a text with what it is.
type Told struct {
	Kind    ToldKind
	Text    string
	Colours []colour.Named // of ToldColours
}

var (
	webAddress = regexp.MustCompile(`(?i)^(?:https?://)?(?:[a-z0-9](?:[a-z0-9-]*[a-z0-9])?\.)+[a-z]{2,}(?:/\S*)?$`)
	handle     = regexp.MustCompile(`^@[\p{L}\p{N}_.]{1,40}$`)
	hashtag    = regexp.MustCompile(`^#[\p{L}\p{N}_]{1,60}$`)
	telephone  = regexp.MustCompile(`^\+?[\d(][\d\s()/.-]{5,20}\d$`)
	someDate   = regexp.MustCompile(`^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$`)
)

// SortWords tells the lines of a text apart: values of colours, an address, handles,
// hashtags, a telephone number, a name, words. Lines of colours that follow one
// another are one; a line of several handles or hashtags is several.
func SortWords(text string) []Told {
	var out []Told
	for line := range strings.Lines(text) {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		if marks := strings.Fields(line); len(marks) > 1 {
			several := true
			for _, m := range marks {
				several = several && (handle.MatchString(m) || hashtag.MatchString(m) && !isHex(m))
			}
			if several {
				for _, m := range marks {
					out = append(out, tell(m))
				}
				continue
			}
		}
		t := tell(line)
		if n := len(out); n > 0 && t.Kind == ToldColours && out[n-1].Kind == ToldColours {
			out[n-1].Text += "\n" + t.Text
			out[n-1].Colours = append(out[n-1].Colours, t.Colours...)
			continue
		}
		out = append(out, t)
	}
	return out
}

func isHex(s string) bool { _, err := colour.Parse(s); return err == nil }

// tell says what a line is.
func tell(line string) Told {
	if list := coloursOf(line); len(list) > 0 {
		return Told{ToldColours, line, list}
	}
	kind := ToldWords
	switch {
	case webAddress.MatchString(line):
		kind = ToldWebsite
	case handle.MatchString(line):
		kind = ToldHandle
	case hashtag.MatchString(line):
		kind = ToldHashtag
	case telephone.MatchString(line) && !someDate.MatchString(line):
		kind = ToldPhone
	case isName(line):
		kind = ToldName
	}
	return Told{Kind: kind, Text: line}
}

// coloursOf are the colours of a line that is about colours: values with a few
// words beside each, or several names of CSS. One name alone is a word.
func coloursOf(line string) []colour.Named {
	list, _, err := colour.ReadList(line)
	if err != nil || len(list) == 0 {
		return nil
	}
	beside := 0
	for _, c := range list {
		beside += len(strings.Fields(c.Name))
	}
	valued := strings.ContainsAny(line, "#(0123456789")
	if beside > 4*len(list) || !valued && len(list) < 2 || len(strings.Fields(line)) > beside+8*len(list) {
		return nil
	}
	return list
}

// isName reports whether a line is what something is called rather than a
// sentence: at most five words and 40 letters, capitals at the first, no full
// stop at the end.
func isName(line string) bool {
	words := strings.Fields(line)
	if len(words) > 5 || len([]rune(line)) > 40 || strings.ContainsAny(line[len(line)-1:], ".!?:,;") {
		return false
	}
	// of a name most words carry a capital; of a sentence only the first does
	capitals := 0
	for _, w := range words {
		r := []rune(w)[0]
		if unicode.IsUpper(r) || unicode.IsDigit(r) || !unicode.IsLetter(r) || !unicode.IsUpper(unicode.ToUpper(r)) {
			capitals++
		}
	}
	return 2*capitals > len(words)
}
