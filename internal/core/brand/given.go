package brand

import (
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"aspenridge/internal/core/colour"
)

// LineKind says what a line of somebody's words is.
type LineKind string

// What lines can be.
const (
	LineColours LineKind = "colours"
	LineWebsite LineKind = "website"
	LineHandle  LineKind = "handle"
	LineHashtag LineKind = "hashtag"
	LinePhone   LineKind = "phone"
	LineName    LineKind = "name"  // short, no sentence: what something is called
	LineInk     LineKind = "ink"   // the number of a printing ink, which has no colour of its own on a screen
	LineWords   LineKind = "words" // anything else that is said
)

// GivenLine is a line of a text with what it is.
type GivenLine struct {
	Kind    LineKind
	Text    string
	Colours []colour.Named // of LineColours
	Roles   []Role         // of them, "" where none is said; nil where none is

	Says  bool     // the line says itself what it is, see labelled.go
	Field string   // where it goes: of a kit, or of a card
	Items []string // of LineList
	Level Level    // of LineFont, "" for all of them
}

var (
	webAddress = regexp.MustCompile(`(?i)^(?:https?://)?(?:[a-z0-9](?:[a-z0-9-]*[a-z0-9])?\.)+[a-z]{2,}(?::\d{1,5})?(?:/\S*)?$`)
	handle     = regexp.MustCompile(`^@[\p{L}\p{N}_.]{1,40}$`)
	hashtag    = regexp.MustCompile(`^#[\p{L}\p{N}_]{1,60}$`)
	telephone  = regexp.MustCompile(`^\+?[\d(][\d\s()/.-]{5,20}\d$`)
	digits     = regexp.MustCompile(`(?:^|\s)\d{5,}(?:\s|$)`)
	// an ink's number ends in what it is printed on, coated or not (common practice)
	ink      = regexp.MustCompile(`(?i)^(?:(?:\p{L}+[ .-]+){0,3}[\d-]{3,8}|(?:\p{L}+ ){0,2}(?:red|blue|green|yellow|orange|violet|purple|black|gr[ae]y|pink|brown))[ -]*(?:c|u|cp|up|tpx|tcx|tpg)$`)
	someDate = regexp.MustCompile(`^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$`)
)

// SortWords tells the lines of a text apart: values of colours, an address, handles,
// hashtags, a telephone number, a name, words. Lines of colours that follow one
// another are one; a line of several handles or hashtags is several; an ink on a line of
// its own names the colour beside it, where that has no name.
//
// A line may say itself what it is, as those of style guides do (labelled.go).
func SortWords(text string) []GivenLine {
	var out []GivenLine
	var guide guideReader
	for line := range strings.Lines(text) {
		line = strings.TrimSpace(line)
		if line == "" {
			continue
		}
		if told, ok := guide.read(line); ok {
			for _, t := range told {
				if n := len(out); n > 0 && t.Kind == LineColours && out[n-1].Kind == LineColours {
					out[n-1].join(t)
					continue
				}
				out = append(out, t)
			}
			continue
		}
		if marks := strings.Fields(line); len(marks) > 1 {
			several := true
			for _, m := range marks {
				several = several && (handle.MatchString(m) || hashtag.MatchString(m) && !isHex(m))
			}
			if several {
				for _, m := range marks {
					out = append(out, classify(m))
				}
				continue
			}
		}
		line, contacts := withoutContacts(line)
		if line == "" {
			out = append(out, contacts...)
			continue
		}
		t := classify(line)
		if under, ok := guide.below(line); ok && (t.Kind == LineWords || t.Kind == LineName) {
			t = under
		}
		if n := len(out); n > 0 && t.Kind == LineColours && out[n-1].Kind == LineColours {
			out[n-1].join(t)
			continue
		}
		if n := len(out); n > 0 && (t.names(&out[n-1]) || out[n-1].names(&t)) {
			if t.Kind == LineColours {
				out[n-1] = t
			}
			continue
		}
		out = append(append(out, t), contacts...)
	}
	if guide.told >= leastGuide {
		for i, t := range out { // what is left of a style guide is nothing a post says
			if t.Kind == LineWords && !t.Says {
				out[i].Kind = LineOther
			}
		}
	}
	return out
}

// names gives a colour that stands alone the ink's name; false where that is not what the two are.
func (t GivenLine) names(c *GivenLine) bool {
	if t.Kind != LineInk || c.Kind != LineColours || len(c.Colours) != 1 || c.Colours[0].Name != "" {
		return false
	}
	c.Colours[0].Name = t.Text
	return true
}

// leastGuide is how many lines of a text say what they are, or are headings, for all of it to be a
// style guide.
const leastGuide = 4

// join puts colours behind others.
func (t *GivenLine) join(o GivenLine) {
	t.Text += "\n" + o.Text
	for len(t.Roles) < len(t.Colours) {
		t.Roles = append(t.Roles, "")
	}
	t.Colours = append(t.Colours, o.Colours...)
	t.Roles = append(t.Roles, o.Roles...)
}

// BareAddress is a web address as people read it: without the scheme and the slash at its end.
func BareAddress(s string) string {
	for _, scheme := range []string{"https://", "http://"} {
		if len(s) > len(scheme) && strings.EqualFold(s[:len(scheme)], scheme) {
			return strings.TrimSuffix(s[len(scheme):], "/")
		}
	}
	return s
}

// longestContact is how many bytes an address in a line of words has at most.
const longestContact = 120

// betweenContacts are signs that stand between words and how to reach somebody.
const betweenContacts = " \t,;|/·•–—-"

// withoutContacts parts a line from the addresses, numbers and handles at its end, where a
// sign of punctuation stands before them: "Open day on Saturday, larkmoor.example, 01632 960118".
// Of a sentence they belong to ("write to us at …") they stay a part.
func withoutContacts(line string) (words string, contacts []GivenLine) {
	words = line
	var found []GivenLine
	for rest := line; rest != ""; {
		at := -1
		var last GivenLine
		for i := len(rest) - 1; i >= max(0, len(rest)-longestContact); i-- { // a telephone number has several words
			if before, _ := utf8.DecodeLastRuneInString(rest[:i]); i > 0 && !strings.ContainsRune(betweenContacts, before) || !utf8.RuneStart(rest[i]) {
				continue
			}
			switch t := classify(strings.TrimRight(rest[i:], ".!")); t.Kind {
			case LineWebsite, LinePhone, LineHandle:
				at, last = i, t
			}
		}
		if at < 0 {
			break
		}
		found = append([]GivenLine{last}, found...)
		before := strings.TrimRight(rest[:at], " \t")
		rest = strings.TrimRight(before, betweenContacts)
		if rest == "" || rest != before || strings.ContainsAny(rest[len(rest)-1:], ".!?:)") {
			words, contacts = rest, found
		}
	}
	return words, contacts
}

func isHex(s string) bool { _, err := colour.Parse(s); return err == nil }

// classify says what a line is.
func classify(line string) GivenLine {
	if list := coloursOf(line); len(list) > 0 {
		return GivenLine{Kind: LineColours, Text: line, Colours: list}
	}
	kind := LineWords
	switch {
	case webAddress.MatchString(line):
		kind = LineWebsite
	case handle.MatchString(line):
		kind = LineHandle
	case hashtag.MatchString(line):
		kind = LineHashtag
	case telephone.MatchString(line) && !someDate.MatchString(line):
		kind = LinePhone
	case ink.MatchString(line):
		kind = LineInk
	case isName(line):
		kind = LineName
	}
	return GivenLine{Kind: kind, Text: line}
}

// coloursOf are the colours of a line that is about colours: values with a few
// words beside each, or several names of CSS. One name alone is a word.
func coloursOf(line string) []colour.Named {
	if digits.MatchString(line) && !strings.ContainsAny(line, "#(") {
		return nil // a number of somebody, though six digits could be a colour
	}
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
