package preflight

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/scene"
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

// copyChecks looks at the copy itself.
func copyChecks(in Input, shown func(slot string) bool, add adder) {
	for _, slot := range slices.Sorted(maps.Keys(in.Words)) {
		text := in.Words[slot]
		if !shown(slot) {
			continue
		}
		if Placeholder(text) {
			add("sample", Warning, slot, "a line was left to be filled in: “"+clip(text)+"”", 0, 0, "clear")
		}
		if Shouted(text) && !upper(in.Types, slot) {
			add("capitals", Warning, slot, "capitals typed by hand; the type set has other ways to be loud", 0, 0, "sentenceCase")
		}
		if n, most := len([]rune(text)), long[slot]; most > 0 && n > most {
			add("long", Note, slot, fmt.Sprintf("%d characters are more than people read in passing", n), float64(n), float64(most))
		}
	}
	if in.Card == nil {
		return
	}
	for _, field := range slices.Sorted(maps.Keys(in.Sample)) {
		if v := in.Card.Field(field); v != nil && *v == in.Sample[field] && *v != "" && (shown(field) || field == "shortHeadline" && shown("headline")) {
			add("sample", Warning, field, "this line came with what the brief was made from: “"+clip(*v)+"”", 0, 0, "clear")
		}
	}
	if in.Card.ShortIsStale() && slices.ContainsFunc(in.Scene.Parts, func(p scene.Part) bool { return p.Field == "shortHeadline" }) {
		add("short-stale", Warning, "shortHeadline", "the headline has changed, and the shorter one still says “"+clip(*in.Card.ShortHeadline)+"”", 0, 0, "follow")
	}
	dates(*in.Card, in.Today, shown, add)
}

func clip(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// dates checks that the day is the date's, and that neither is over.
func dates(c brief.Card, today time.Time, shown func(string) bool, add adder) {
	over := func(date string) (time.Time, bool) {
		d, err := time.Parse(time.DateOnly, date)
		return d, err == nil && !today.IsZero() && d.Before(today)
	}
	if w := c.When; w != nil && shown("when") {
		d, past := over(w.Date)
		if past {
			add("past", Warning, "when", "this day is over", 0, 0)
		}
		if w.Date != "" && w.Weekday != "" && !strings.EqualFold(w.Weekday, d.Weekday().String()) && !strings.EqualFold(w.Weekday, d.Weekday().String()[:3]) && english(w.Weekday) {
			add("weekday", Warning, "when", fmt.Sprintf("%d %s %d is a %s, not a %s", d.Day(), d.Month(), d.Year(), d.Weekday(), w.Weekday), 0, 0, "weekday")
		}
		if w.From != "" && w.To != "" && w.To < w.From && w.To > "05:00" {
			add("hours", Note, "when", "it ends before it begins", 0, 0)
		}
	}
	if o := c.Offer; o != nil && shown("offer") {
		if _, past := over(o.Until); past {
			add("past", Warning, "offer", "this offer has ended", 0, 0, "clear")
		}
	}
}

// english reports whether a weekday is written in a language we can check.
func english(day string) bool {
	for d := time.Sunday; d <= time.Saturday; d++ {
		if strings.EqualFold(day, d.String()) || strings.EqualFold(day, d.String()[:3]) {
			return true
		}
	}
	return false
}

// upper reports whether the level a slot is set in has capitals of its own.
func upper(t brand.TypeSet, slot string) bool { return t.Levels[brief.PartOf(slot).Level].Upper }

// Why says in a sentence why a finding matters and what can be done.
func Why(code string) string { return why[code] }

var why = map[string]string{
	"contrast":       "Words need a contrast of 4.5 to 1 against what they stand on (WCAG 2.2), or part of the audience cannot read them. Choose another colour or another ground.",
	"too-small":      "Capitals under 7 px cannot be read on the screen this is seen on. Shorten the words, or let a part go.",
	"small-seen":     "The channel also shows this smaller, in a grid or a list. Nothing has to be done if the picture says enough there.",
	"font-broken":    "The font file is damaged where it matters. Replace it in the kit with a sound copy; until then a shipped font stands in.",
	"frail":          "Thin strokes vanish at this size. Give the level a stand-in face for small sizes in the kit.",
	"missing-glyph":  "No font here has this sign; people would see an empty box.",
	"borrowed-glyph": "The brand's font has no such sign, so a shipped one lends it.",
	"logo-small":     "Under its least width a logo becomes a smudge. A symbol or a stacked version holds better.",
	"logo-crowded":   "The kit asks for clear space around the logo.",
	"enlarged":       "An enlarged picture looks soft. Choose one with more pixels, or a layout with a smaller place for it.",
	"stretched":      "A picture's proportions are not its own here.",
	"subject-cut":    "What the picture is about touches the edge. Move its focus.",
	"clipped":        "Part of it is cut off.",
	"unsafe":         "The channel covers this part with its own controls.",
	"keep-out":       "The channel puts its own signs here.",
	"overlap":        "One part lies on another.",
	"sliver":         "A part that was meant to reach the edge leaves a thin line.",
	"keep-in":        "In the channel's small view only the middle is seen.",
	"short-stale":    "Where room is tight the shorter headline shows. It was written for another headline than the one there now: let it follow, or change it yourself.",
	"no-action":      "An advertisement that asks for nothing gets nothing. The kit's first call to action can be put in.",
	"no-address":     "Every piece should say where to go: an address or a call to action.",
	"left-out":       "Everything larger comes before it here. Shorter words, another look or a larger place make room for it; if the piece says enough without it, leave it.",
	"shortened":      "There was no room for all of it. Write a shorter headline yourself, or leave it.",
	"plain":          "The layout had no room for this copy in this shape, so the plain one stepped in.",
	"no-alt":         "People who cannot see the picture hear its description instead.",
	"never-says":     "The kit's voice never says this.",
	"much-text":      "Advertisements with more than about a fifth of words are shown less. The body text can stay away from advertisements.",
	"font-rights":    "Somebody has to confirm that the brand may use the font.",
	"font-kerning":   "The font's kerning cannot be read, so pairs of letters may stand too far apart.",
	"many-fonts":     "More than three families make a piece restless.",
	"off-kit-font":   "This family is not one of the type set's.",
	"near-miss":      "Two nearly equal colours look like a mistake. Take the kit's, or make this one the kit's.",
	"brief-colour":   "It was chosen for this brief and is not in the kit. Add it there if it is to come again.",
	"off-kit-colour": "Foreign colours make a brand hard to recognise. Take the nearest of the kit's, or add this one to it.",
	"sample":         "A line that was meant to be replaced is still there.",
	"capitals":       "Capitals typed by hand lose their shapes when the case changes, and shout. Sentence case reads faster.",
	"long":           "Fewer words are read by more people.",
	"weekday":        "Somebody will come on the wrong day.",
	"past":           "It says something that is no longer so.",
	"hours":          "Check the hours.",
	"weight":         "The channel refuses heavier files.",
	"cards":          "Pages of one post should look and sign alike.",
	"size":           "No placement of the catalogue has this size.",
	"live-text":      "Words that are still text are shown in whatever font the next machine has.",
	"outside":        "The file asks for something that lies elsewhere.",
}
