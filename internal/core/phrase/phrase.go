// Package phrase has what the program itself adds to copy, in the languages pieces may
// be in: days and months, "until", "instead of", percent, decimals, quote marks. Dates
// and marks are those of the Unicode CLDR 45 (cldr.json, from the npm packages
// cldr-dates-modern and cldr-misc-modern, Unicode License v3); the few words are ours.
//
//	phrase.In("de").Date(time.Date(2027, 5, 28, …)) // "28. Mai"
//	phrase.In("de").Until("28. Mai")                // "bis 28. Mai"
package phrase

import (
	_ "embed"
	"encoding/json"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"

	"aspenridge/internal/core/typeset"
)

//go:embed cldr.json
var cldr []byte

// dates are the forms of a language as CLDR has them.
type dates struct {
	Day      string    `json:"day"`      // day and month: a pattern of UTS 35 with d, MMMM and 'words'
	Months   []string  `json:"months"`   // as they stand beside a day, January first
	Weekdays []string  `json:"weekdays"` // as they stand alone, Sunday first
	Quotes   [2]string `json:"quotes"`   // before and after what is quoted
}

var load = sync.OnceValue(func() map[string]dates {
	m := map[string]dates{}
	if err := json.Unmarshal(cldr, &m); err != nil {
		panic(err) // it ships with the program
	}
	return m
})

// Language is a language a piece may be in.
type Language struct {
	id    string
	dates dates
	words words
	print *message.Printer
}

var known sync.Map // *Language by id

// In is a language by its tag (BCP 47, the region does not count); English for one that
// is not here.
func In(tag string) *Language {
	id, _, _ := strings.Cut(strings.ToLower(tag), "-")
	if id == "no" || id == "nn" {
		id = "nb"
	}
	if _, ok := ours[id]; !ok {
		id = "en"
	}
	if l, ok := known.Load(id); ok {
		return l.(*Language)
	}
	l, _ := known.LoadOrStore(id, &Language{id, load()[id], ours[id], message.NewPrinter(language.MustParse(id + "-u-nu-latn"))})
	return l.(*Language)
}

// Languages are the tags [In] knows.
func Languages() []string {
	var out []string
	for id := range ours {
		out = append(out, id)
	}
	return out
}

// Date is a day and its month in words: "28 May", "28. Mai", "28 de mayo".
func (l *Language) Date(d time.Time) string {
	var b strings.Builder
	quoted := false
	for rest := l.dates.Day; rest != ""; {
		switch {
		case rest[0] == '\'':
			quoted, rest = !quoted, rest[1:]
		case !quoted && strings.HasPrefix(rest, "MMMM"):
			b.WriteString(l.Month(d))
			rest = rest[4:]
		case !quoted && rest[0] == 'd':
			b.WriteString(strconv.Itoa(d.Day()))
			rest = rest[1:]
		default:
			b.WriteByte(rest[0])
			rest = rest[1:]
		}
	}
	return b.String()
}

// Month is a date's month as it stands beside or under its day.
func (l *Language) Month(d time.Time) string { return l.dates.Months[d.Month()-1] }

// Weekday is a date's weekday, with the capital of a word that begins a line.
func (l *Language) Weekday(d time.Time) string { return capital(l.dates.Weekdays[d.Weekday()]) }

// WeekdaysCalled are the days a word names in any language, whole or by its first letters, two
// at least ("Fri", "Fr.", "viernes"): several where languages disagree; nil for what is no weekday.
func WeekdaysCalled(word string) []time.Weekday {
	word = strings.ToLower(strings.TrimRight(strings.TrimSpace(word), "."))
	if utf8.RuneCountInString(word) < 2 {
		return nil
	}
	called := func(says func(day, word string) bool) (out []time.Weekday) {
		for d := time.Sunday; d <= time.Saturday; d++ {
			for _, l := range load() {
				if says(strings.ToLower(l.Weekdays[d]), word) {
					out = append(out, d)
					break
				}
			}
		}
		return out
	}
	whole := func(day, word string) bool { return day == word }
	if out := called(whole); out != nil { // Turkish Sunday begins as its Monday does
		return out
	}
	return called(strings.HasPrefix)
}

// WeekdayCalled is the day a word names: in this language where it names one there, else in any.
func (l *Language) WeekdayCalled(word string) (time.Weekday, bool) {
	short := strings.ToLower(strings.TrimRight(strings.TrimSpace(word), "."))
	if utf8.RuneCountInString(short) >= 2 {
		for d := time.Sunday; d <= time.Saturday; d++ {
			if strings.HasPrefix(strings.ToLower(l.dates.Weekdays[d]), short) {
				return d, true
			}
		}
	}
	list := WeekdaysCalled(word)
	if len(list) == 0 {
		return 0, false
	}
	return list[0], true
}

func capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// Until, InsteadOf and Code put what they are about into their words.
func (l *Language) Until(date string) string { return strings.Replace(l.words.until, "*", date, 1) }

// Closed says that a day has no opening hours.
func (l *Language) Closed() string { return l.words.closed }

// Days names the days from one to another: "Monday–Friday".
func (l *Language) Days(from, to time.Weekday) string {
	name := func(d time.Weekday) string { return capital(l.dates.Weekdays[d]) }
	if from == to {
		return name(from)
	}
	return name(from) + "–" + name(to)
}

func (l *Language) InsteadOf(price string) string {
	return strings.Replace(l.words.instead, "*", price, 1)
}
func (l *Language) Code(code string) string { return l.words.code + " " + code }

// Off is the word for a reduction that stands with a percentage.
func (l *Language) Off() string { return l.words.off }

// PercentOff is a reduction in one line: "20% off".
func (l *Language) PercentOff(percent float64) string {
	if l.words.offFirst {
		return l.words.off + " " + l.Percent(percent)
	}
	return l.Percent(percent) + " " + l.words.off
}

// Percent is a percentage, 0-100, as figures: "20%", "12,5 %".
func (l *Language) Percent(v float64) string {
	return l.print.Sprint(number.Percent(v/100, number.MaxFractionDigits(2)))
}

// Number is a number with the decimal sign and the grouping of the language.
func (l *Language) Number(v float64) string {
	return l.print.Sprint(number.Decimal(v, number.MaxFractionDigits(2)))
}

// quoteMarks are those a quotation may stand between already.
const quoteMarks = "“”„«»‹›‟\"\u00a0\u202f "

// Quote puts words between the marks of the language, in place of those they have.
func (l *Language) Quote(text string) string {
	air := ""
	if l.id == "fr" {
		air = "\u00a0"
	}
	return l.dates.Quotes[0] + air + strings.Trim(text, quoteMarks) + air + l.dates.Quotes[1]
}

// Correct is [typeset.Correct] with the quote marks of the language where the copy has
// straight ones.
func (l *Language) Correct(s string) string {
	out := typeset.Correct(s)
	if l.dates.Quotes == [2]string{"“", "”"} || !strings.Contains(s, `"`) || strings.ContainsAny(s, "“”„«»") {
		return out
	}
	return strings.NewReplacer("“", l.dates.Quotes[0], "”", l.dates.Quotes[1]).Replace(out)
}
