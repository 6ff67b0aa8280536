package brief

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
)

// Row is a brief as a row of a list has it: what it is for, and what it says.
type Row struct {
	Text    string `json:"text"`    // as it was given
	Purpose string `json:"purpose"` // one of Purposes, guessed where the row does not say
	Guessed bool   `json:"guessed"`

	Headline     string `json:"headline"`
	Subheading   string `json:"subheading"`
	Body         string `json:"body"`
	CallToAction string `json:"callToAction"`
	Website      string `json:"website"`
	Date         string `json:"date"` // ISO 8601
	Quote        *Quote `json:"quote"`
}

// MaxRows is how many briefs are begun at once at most.
const MaxRows = 60

// ErrRows is wrapped by every error of [ReadRows].
var ErrRows = errors.New("list of briefs")

// ReadRows reads a list of briefs: a line each, or rows of a table as spreadsheets copy
// them (cells with tabs between them, the first row may name the columns). Of a line the
// first sentence is the headline and the rest stands below it; a bar parts them as well.
// Empty lines and what numbers a list are left out. Errors name the row.
func ReadRows(text string) ([]Row, error) {
	var rows []Row
	var err error
	if strings.Contains(text, "\t") {
		rows, err = tableRows(text)
	} else {
		for line := range strings.Lines(text) {
			line = strings.TrimSpace(listMark.ReplaceAllString(line, ""))
			if line != "" {
				rows = append(rows, lineRow(line))
			}
		}
	}
	if err != nil {
		return nil, err
	}
	if len(rows) > MaxRows {
		return nil, fmt.Errorf("%w: %d rows; up to %d are begun at once", ErrRows, len(rows), MaxRows)
	}
	for i := range rows {
		r := &rows[i]
		if r.Guessed = r.Purpose == ""; r.Guessed {
			r.Purpose = PurposeOf(r.words())
			if r.Quote != nil {
				r.Purpose = "quote"
			}
		}
		if long := r.tooLong(); long != "" {
			return nil, fmt.Errorf("%w: row %d: %s", ErrRows, i+1, long)
		}
	}
	return rows, nil
}

// Doc is the brief document a row begins, without places.
func (r Row) Doc() *edit.Object {
	card := edit.NewObject()
	for _, f := range []struct{ name, value string }{
		{"headline", r.Headline}, {"subheading", r.Subheading}, {"body", r.Body}, {"callToAction", r.CallToAction}, {"website", r.Website},
	} {
		if f.value != "" {
			card.Set(f.name, f.value)
		}
	}
	if r.Quote != nil {
		q := edit.NewObject()
		q.Set("text", r.Quote.Text)
		q.Set("source", r.Quote.Source)
		card.Set("quote", q)
	}
	if r.Date != "" {
		when := edit.NewObject()
		when.Set("date", r.Date)
		card.Set("when", when)
	}
	doc := edit.NewObject()
	doc.Set("name", "")
	doc.Set("purpose", r.Purpose)
	doc.Set("cards", []any{card})
	return doc
}

func (r Row) words() string {
	out := r.Headline + "\n" + r.Subheading + "\n" + r.Body
	if r.Quote != nil {
		out += "\n" + r.Quote.Text
	}
	return out
}

// tooLong says which of a row's words are more than a brief takes, "" for none.
func (r Row) tooLong() string {
	for _, f := range []struct{ name, value string }{
		{"headline", r.Headline}, {"subheading", r.Subheading}, {"text", r.Body}, {"call to action", r.CallToAction}, {"address", r.Website},
	} {
		if n := utf8.RuneCountInString(f.value); n > MaxCopy {
			return fmt.Sprintf("the %s has %d letters; up to %d fit", f.name, n, MaxCopy)
		}
	}
	return ""
}

// listMark is what stands before the lines of a list.
var listMark = regexp.MustCompile(`^\s*(?:[-*•–—]|\d{1,2}[.)])\s+`)

// quoted is somebody's words in quotation marks, and who said them.
var quoted = regexp.MustCompile(`^["“„«‹](.+)["”“»›]\s*(?:[—–-]\s*)?(.*)$`)

// longestHead is how many letters a first sentence has at most to be a headline.
const longestHead = 80

// longestSub is how many letters stand below a headline; more of them are running text.
const longestSub = 140

func lineRow(line string) Row {
	r := Row{Text: line}
	if q := quoted.FindStringSubmatch(line); q != nil {
		r.Quote = &Quote{Text: strings.TrimSpace(q[1]), Source: strings.TrimSpace(q[2])}
		return r
	}
	// an address at the end goes where addresses stand
	if told := brand.SortWords(line); len(told) == 2 && told[1].Kind == brand.LineWebsite {
		line, r.Website = told[0].Text, brand.BareAddress(told[1].Text)
	}
	if cells := strings.Split(line, "|"); len(cells) > 1 {
		r.fill(cells)
		return r
	}
	head, rest := firstSentence(line)
	r.Headline = head
	if utf8.RuneCountInString(rest) > longestSub {
		r.Body = rest
	} else {
		r.Subheading = rest
	}
	return r
}

// fill puts cells where they stand by their order.
func (r *Row) fill(cells []string) {
	for i, to := range []*string{&r.Headline, &r.Subheading, &r.Body, &r.CallToAction} {
		if i < len(cells) {
			*to = strings.TrimSpace(cells[i])
		}
	}
	for _, more := range cells[min(4, len(cells)):] {
		if more = strings.TrimSpace(more); more != "" {
			r.Body = strings.TrimSpace(r.Body + "\n" + more)
		}
	}
}

// firstSentence parts a line after its first sentence, where that is short enough for a
// headline; its full stop goes. A stop after a short word may be of an abbreviation.
func firstSentence(line string) (head, rest string) {
	for i, c := range line {
		if c != '.' && c != '!' && c != '?' && c != '…' {
			continue
		}
		after := i + utf8.RuneLen(c)
		if after >= len(line) || line[after] != ' ' {
			continue
		}
		head = line[:after]
		if utf8.RuneCountInString(head) > longestHead {
			break
		}
		words := strings.Fields(line[:i])
		if c == '.' && (len(words) < 2 || utf8.RuneCountInString(words[len(words)-1]) < 4) {
			continue
		}
		if c == '.' {
			head = line[:i]
		}
		return strings.TrimSpace(head), strings.TrimSpace(line[after:])
	}
	if utf8.RuneCountInString(line) <= longestHead { // a single sentence: without its full stop
		if cut, ok := strings.CutSuffix(line, "."); ok && !strings.HasSuffix(cut, ".") {
			line = cut
		}
	}
	return line, ""
}

// columnNames are what columns are called in the first row of a table, in English, German,
// French, Spanish, Italian and Dutch.
var columnNames = map[string][]string{
	"headline":     {"headline", "title", "heading", "titel", "überschrift", "schlagzeile", "titre", "título", "titolo", "kop"},
	"subheading":   {"subheading", "subtitle", "subline", "second line", "untertitel", "unterzeile", "sous-titre", "subtítulo", "sottotitolo", "ondertitel"},
	"body":         {"text", "body", "copy", "description", "beschreibung", "texte", "texto", "testo", "tekst"},
	"callToAction": {"call to action", "action", "button", "knopf", "aufruf", "bouton", "botón", "pulsante", "knop"},
	"website":      {"website", "link", "url", "address", "web", "adresse", "dirección", "indirizzo"},
	"purpose":      {"purpose", "kind", "type", "zweck", "art", "but", "tipo", "soort"},
	"date":         {"date", "day", "datum", "fecha", "data"},
	"quote":        {"quote", "zitat", "citation", "cita", "citaat"},
	"source":       {"source", "who", "said by", "quelle", "wer", "source", "fuente", "fonte", "bron"},
}

func columnOf(cell string) string {
	cell = strings.ToLower(strings.Trim(cell, " \t:*"))
	for name, words := range columnNames {
		if slices.Contains(words, cell) {
			return name
		}
	}
	return ""
}

func tableRows(text string) ([]Row, error) {
	in := csv.NewReader(strings.NewReader(text))
	in.Comma, in.FieldsPerRecord, in.LazyQuotes = '\t', -1, true
	var rows []Row
	var columns []string
	for n := 1; ; n++ {
		cells, err := in.Read()
		if errors.Is(err, io.EOF) {
			return rows, nil
		}
		if err != nil {
			return nil, fmt.Errorf("%w: row %d: %v", ErrRows, n, err)
		}
		if n == 1 {
			named := make([]string, len(cells))
			for i, c := range cells {
				named[i] = columnOf(c)
			}
			if slices.Contains(named, "headline") || slices.Contains(named, "quote") {
				columns = named
				continue
			}
		}
		r := Row{Text: strings.TrimSpace(strings.Join(cells, "\t"))}
		if r.Text == "" {
			continue
		}
		if columns == nil {
			r.fill(cells)
		} else if err := r.named(columns, cells); err != nil {
			return nil, fmt.Errorf("%w: row %d: %w", ErrRows, n, err)
		}
		rows = append(rows, r)
	}
}

// named puts cells where their columns say.
func (r *Row) named(columns, cells []string) error {
	var quote Quote
	to := map[string]*string{
		"headline": &r.Headline, "subheading": &r.Subheading, "body": &r.Body, "callToAction": &r.CallToAction,
		"website": &r.Website, "quote": &quote.Text, "source": &quote.Source,
	}
	for i, cell := range cells {
		cell = strings.TrimSpace(cell)
		if i >= len(columns) || cell == "" {
			continue
		}
		switch name := columns[i]; name {
		case "":
		case "purpose":
			r.Purpose = strings.ToLower(cell)
			if !slices.Contains(Purposes, r.Purpose) {
				r.Purpose = "" // in words of their own: it is guessed
			}
		case "date":
			d, err := readDate(cell)
			if err != nil {
				return err
			}
			r.Date = d
		default:
			*to[name] = cell
		}
	}
	r.Website = brand.BareAddress(r.Website)
	if quote.Text != "" {
		r.Quote = &quote
	}
	return nil
}

// readDate reads a date whose order of day and month is beyond doubt.
func readDate(s string) (string, error) {
	for _, form := range []string{time.DateOnly, "2.1.2006", "2 January 2006", "2 Jan 2006", "January 2, 2006", "Jan 2, 2006"} {
		if d, err := time.Parse(form, s); err == nil {
			return d.Format(time.DateOnly), nil
		}
	}
	return "", fmt.Errorf("the date %q can be read in two ways or in none; write it like 2027-05-01 or 1 May 2027", s)
}

// purposeWords find what a text is for, in English, German, French and Spanish; the first
// that fits counts.
var purposeWords = []struct {
	purpose string
	words   *regexp.Regexp
}{
	{"testimonial", regexp.MustCompile(`(?i)\breviews?\b|\b(?:five|5) stars?\b|★|\bbewertung|\bavis\b|\breseñas?\b`)},
	{"offer", regexp.MustCompile(`(?i)\d\s?%|\b(?:sale|discounts?|\d+ off|save (?:up to )?[£€$]?\d+|half price|vouchers?|coupons?|deals?|free (?:of charge|with)|two for one|2 for 1)\b|\brabatt|\bsonderpreis|\bgutschein|\breduziert|\bpromotion\b|\bremise\b|\bsoldes\b|\brebajas?\b|\bdescuento|\boferta\b`)},
	{"hiring", regexp.MustCompile(`(?i)\b(?:we are|we're|now) hiring\b|\bwanted:|\bjoin our team\b|\bvacanc|\bstellenangebot|\bwir suchen\b|\bon recrute\b|\bnous recrutons\b|\bse busca\b|\bbuscamos\b`)},
	{"hours", regexp.MustCompile(`(?i)\bopening (?:hours|times)\b|öffnungszeiten\b|\bhoraires\b|\bhorario`)},
	{"shopfront", regexp.MustCompile(`(?i)\bopening hours\b|\b(?:we are|we're|now) (?:open|closed)\b|\bclosed (?:on|for|until)\b|öffnungszeiten\b|\b(?:geöffnet|geschlossen)\b|\bhoraires\b|\bhorario`)},
	{"event", regexp.MustCompile(`(?i)\b(?:mon|tues|wednes|thurs|fri|satur|sun)days?\b|\b(?:montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonntag)s?\b|\b(?:lundi|mardi|mercredi|jeudi|vendredi|samedi|dimanche)\b|\b(?:lunes|martes|miércoles|jueves|viernes|sábado|domingo)\b|\b\d{1,2}[:.]\d{2}\b|\b\d{1,2}\s?(?:am|pm)\b|\b\d{1,2} uhr\b|\b\d{1,2}(?:st|nd|rd|th)? (?:of )?(?:january|february|march|april|may|june|july|august|september|october|november|december)\b|\b(?:january|february|march|april|may|june|july|august|september|october|november|december) \d{1,2}\b|\b\d{1,2}\. (?:januar|februar|märz|april|mai|juni|juli|august|september|oktober|november|dezember)\b|\b(?:open day|workshop|concert|festival|konzert|atelier|taller)\b`)},
	{"tips", regexp.MustCompile(`(?i)\btips?\b|\bhow to\b|\b(?:\d|three|five|seven|ten) (?:ways|things|reasons|steps|mistakes)\b|\btipps?\b|\bso (?:geht|gelingt)\b|\bastuces?\b|\bcomment\b|\bconsejos?\b|\bcómo\b`)},
	{"thanks", regexp.MustCompile(`(?i)\bthank(?:s| you)\b|\bdanke\b|\bmerci\b|\bgracias\b`)},
	{"hello", regexp.MustCompile(`(?i)^(?:hello|hi|hey|meet|welcome)\b|\bwho we are\b|^(?:hallo|willkommen|wir sind)\b|^(?:bonjour|bienvenue)\b|^(?:hola|bienvenid)`)},
	{"product", regexp.MustCompile(`(?i)\bnew (?:in|here|from)\b|^(?:new|introducing|just in|neu|nouveau|nouvelle|nuevo|nueva)\b|[€£$]\s?\d|\d\s?[€£$]|\bback in stock\b`)},
}

// PurposeOf guesses what words are for: one of [Purposes], "announce" where nothing tells.
func PurposeOf(words string) string {
	for _, p := range purposeWords {
		if p.words.MatchString(words) {
			return p.purpose
		}
	}
	return "announce"
}
