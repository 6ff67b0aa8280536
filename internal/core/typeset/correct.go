package typeset

import (
	"regexp"
	"strings"
	"unicode"
)

// Correct applies the typographer's corrections to plain copy: curly quotes
// and apostrophes, an ellipsis for three dots, an en dash between spaces and
// in ranges, a multiplication sign between numbers, single spaces.
func Correct(s string) string {
	s = strings.ReplaceAll(s, "\r\n", "\n")
	s = spaces.ReplaceAllString(s, " ")
	s = strings.TrimSpace(s)
	s = strings.ReplaceAll(s, "...", "…")
	s = strings.ReplaceAll(s, " -- ", " – ")
	s = strings.ReplaceAll(s, " - ", " – ")
	s = rangeDash.ReplaceAllString(s, "$1–$2")
	s = times.ReplaceAllString(s, "$1×$2")
	return quotes(s)
}

var (
	spaces    = regexp.MustCompile(`[ \t]+`)
	rangeDash = regexp.MustCompile(`\b(\d{1,2}(?::\d\d)?)-(\d{1,2}(?::\d\d)?)\b`)
	times     = regexp.MustCompile(`(\d ?)x( ?\d)`)
)

func quotes(s string) string {
	if !strings.ContainsAny(s, `"'`) {
		return s
	}
	rs := []rune(s)
	for i, r := range rs {
		if r != '"' && r != '\'' {
			continue
		}
		before, after := ' ', ' '
		if i > 0 {
			before = rs[i-1]
		}
		if i+1 < len(rs) {
			after = rs[i+1]
		}
		opens := unicode.IsSpace(before) || strings.ContainsRune("([{–—/“‘", before)
		if r == '\'' && opens && unicode.IsDigit(after) {
			opens = false // '26: an apostrophe for what was left out
		}
		switch {
		case r == '"' && opens:
			rs[i] = '“'
		case r == '"':
			rs[i] = '”'
		case opens:
			rs[i] = '‘'
		default:
			rs[i] = '’'
		}
	}
	return string(rs)
}

// monthsOf are the months of languages that say them after the day, as CLDR writes them.
const monthsOf = `Januar|Februar|März|Mai|Juni|Juli|Oktober|Dezember|Jänner|janvier|février|mars|avril|mai|juin|juillet|août|septembre|octobre|novembre|décembre|` +
	`gennaio|febbraio|marzo|aprile|maggio|giugno|luglio|agosto|settembre|ottobre|novembre|dicembre|januari|februari|maart|april|mei|juni|juli|augustus|september|oktober|november|december|` +
	`stycznia|lutego|marca|kwietnia|maja|czerwca|lipca|sierpnia|września|października|listopada|grudnia|` +
	`de (?:enero|febrero|marzo|abril|mayo|junio|julio|agosto|septiembre|octubre|noviembre|diciembre|janeiro|fevereiro|março|maio|junho|julho|setembro|outubro|novembro|dezembro)`

// units follow their figure: signs of money (ISO 4217 and what shops write), of measures (SI and
// common practice), of hours in some languages.
const units = `€|£|\$|¥|EUR|USD|GBP|CHF|PLN|SEK|NOK|DKK|zł|kr|Kč|Ft|Euro|` +
	`m|m²|qm|km|km/h|cm|mm|g|kg|l|dl|cl|ml|W|kW|kWh|°|°C|°F|Uhr|Std\.|Min\.|Stk\.|Pers\.|h|hrs?|min|uur|godz\.|px|%|‰|MB|GB`

const months = `January|February|March|April|May|June|July|August|September|October|November|December|Jan|Feb|Mar|Apr|Jun|Jul|Aug|Sept?|Oct|Nov|Dec`

// glued are the phrases a line must not break inside.
var glued = []*regexp.Regexp{
	regexp.MustCompile(`\b(\d{1,2}(?:st|nd|rd|th)?) ((?:` + months + `)\b)`),
	regexp.MustCompile(`\b((?:` + months + `)) (\d{1,2}\b)`),
	regexp.MustCompile(`(\d) ((?:am|pm|a\.m\.|p\.m\.|km|kg|cm|mm|ml|px|min|hrs?|h|%)(?:\W|$))`),
	regexp.MustCompile(`\b((?:No|Nr|Dr|Mr|Mrs|Ms|St|Prof)\.) (\S)`),
	regexp.MustCompile(`\b(\p{Lu}\.) (\p{Lu})`),
	regexp.MustCompile(`(\S) ([–&·] )`),
	regexp.MustCompile(`([€£$]) (\d)`),
	regexp.MustCompile(`(\d\.?) ((?:` + monthsOf + `)(?:[^\pL]|$))`),
	regexp.MustCompile(`(\d) ((?:` + units + `)(?:[^\pL\d]|$))`),
	regexp.MustCompile(`(\d) (\d{3}(?:\D|$))`),        // thousands
	regexp.MustCompile(`(\d\x{a0}?[–-]) (\d)`),        // ranges
	regexp.MustCompile(`(\S) ([.,;:!?…](?:\s|\d|$))`), // a mark stays with what it ends
	regexp.MustCompile(`\b((?:Tel|Fon|Str|Hs|c/o|z|d|u|i|e|bzw|ca)\.) (\S)`),
	regexp.MustCompile(`(\S) ([` + pictographs + `])`),
	regexp.MustCompile(`((?:^|\n)\d?[` + pictographs + `\x{FE0F}\x{200D}\x{20E3}]+) (\S)`),
}

// pictographs are where Unicode has most signs that are shown in colour.
const pictographs = `\x{1F000}-\x{1FAFF}\x{2600}-\x{27BF}\x{2B50}\x{2B55}`

// Glue ties the phrases that belong on one line, "3 May", "6 pm", "No. 4",
// initials, a dash or a pictograph to the word before it, one that starts a line to the
// word after it, with no-break spaces.
func Glue(s string) string {
	for _, g := range glued {
		// what was tied may begin the next of a row: "J. S. Bach", "1 000 000"
		for t := ""; t != s; {
			t, s = s, g.ReplaceAllString(s, "$1\u00a0$2")
		}
	}
	return s
}
