package app

import (
	"cmp"
	"context"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"time"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
)

// Again is how a brief is made from one that is there.
type Again string

const (
	// OtherWords keeps looks, pictures and places; the words stand until they are
	// written anew, and are looked at while they do.
	OtherWords Again = "words"
	// NextInSeries counts numbers and dates on, and keeps the rest.
	NextInSeries Again = "next"
	// ToTry keeps everything, to try things on.
	ToTry Again = "copy"
)

// MakeAgain copies a brief. Nothing of the copy is finished.
func (a Briefs) MakeAgain(ctx context.Context, m Member, id ID, how Again) (ID, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil {
		return ID{}, err
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return ID{}, err
	}
	doc, err := edit.ParseObject(s.Doc.Doc)
	if err != nil {
		return ID{}, err
	}
	named, _ := doc.Get("name").(string)
	switch how {
	case OtherWords:
		doc.Set("sample", sampleOf(s.Brief))
		withoutWordsOfOne(doc, "text", "breaks", "runs")
		cards, _ := doc.Get("cards").([]any)
		for _, c := range cards {
			if card, ok := c.(*edit.Object); ok { // what was chosen for the words there were
				for _, f := range []string{"emphasis", "shortHeadline", "shortOf"} {
					card.Delete(f)
				}
			}
		}
		if named != "" {
			doc.Set("name", a.freeBriefName(ctx, m, named))
		}
	case NextInSeries:
		countOn(doc, named)
	case ToTry:
		doc.Set("name", a.freeBriefName(ctx, m, cmp.Or(named, s.Title())))
	default:
		return ID{}, fmt.Errorf("%w: a brief is made again with other words, as the next of a series or as a copy, not %q", ErrInvalid, how)
	}
	return a.putBrief(ctx, m, s.Kit.ID, newBrief{doc: doc, like: &id})
}

// sampleOf is the copy of the first card by field, as words that are not yet the
// brief's own.
func sampleOf(b *brief.Brief) *edit.Object {
	out := edit.NewObject()
	for _, f := range []string{"headline", "shortHeadline", "subheading", "body"} {
		if v := b.Cards[0].Field(f); v != nil && *v != "" {
			out.Set(f, *v)
		}
	}
	return out
}

var endNumber = regexp.MustCompile(` (\d{1,4})$`)

// freeBriefName numbers a name until no brief has it.
func (a *house) freeBriefName(ctx context.Context, m Member, name string) string {
	stem, n := name, 2
	if at := endNumber.FindStringSubmatchIndex(name); at != nil {
		stem = name[:at[0]]
		n, _ = strconv.Atoi(name[at[2]:at[3]])
		n++
	}
	docs, err := a.store.Documents(ctx, m.Workspace, "brief", 1000)
	if err != nil {
		return fmt.Sprintf("%s %d", stem, n)
	}
	taken := map[string]bool{}
	for _, d := range docs {
		taken[d.Name] = true
	}
	for taken[fmt.Sprintf("%s %d", stem, n)] {
		n++
	}
	return fmt.Sprintf("%s %d", stem, n)
}

// numbered finds the number of one of a series: "Tip 3", "No. 3", "#3", "Part 3 of
// 10", "3/10", "Week 3:".
var numbered = regexp.MustCompile(`(?i)((?:\b(?:tip|no|nr|number|part|week|day|episode|chapter|lesson|step|teil|woche|tag|folge|tipp)\b\.?\s*|#\s?))(\d{1,3})\b|^(\d{1,3})(\s?/\s?\d{1,3}|[.):])`)

// nextNumber counts the first number of a series in a text on.
func nextNumber(text string) (string, bool) {
	at := numbered.FindStringSubmatchIndex(text)
	if at == nil {
		return text, false
	}
	from, to := at[4], at[5]
	if from < 0 {
		from, to = at[6], at[7]
	}
	n, err := strconv.Atoi(text[from:to])
	if err != nil {
		return text, false
	}
	return text[:from] + strconv.Itoa(n+1) + text[to:], true
}

// seriesDays is how long after one of a series the next is: a week, as posts of a
// weekday are planned (common practice).
const seriesDays = 7

// countOn makes a brief's document that of the next in its series: numbers in its
// words go up by one, its dates on by a week.
func countOn(doc *edit.Object, named string) {
	if next, ok := nextNumber(named); ok {
		doc.Set("name", next)
	} else if at := endNumber.FindStringSubmatchIndex(named); at != nil {
		n, _ := strconv.Atoi(named[at[2]:at[3]])
		doc.Set("name", named[:at[2]]+strconv.Itoa(n+1))
	} else if named != "" {
		doc.Set("name", named+" 2")
	}
	cards, _ := doc.Get("cards").([]any)
	for _, c := range cards {
		card, ok := c.(*edit.Object)
		if !ok {
			continue
		}
		for _, f := range brief.CopyFields {
			if v, ok := card.Get(f).(string); ok {
				if next, ok := nextNumber(v); ok {
					card.Set(f, next)
				}
			}
		}
		for _, at := range [][2]string{{"when", "date"}, {"offer", "until"}} {
			o, _ := card.Get(at[0]).(*edit.Object)
			if o == nil {
				continue
			}
			if v, ok := o.Get(at[1]).(string); ok {
				if d, err := time.Parse(time.DateOnly, v); err == nil {
					o.Set(at[1], d.AddDate(0, 0, seriesDays).Format(time.DateOnly))
				}
			}
		}
	}
	withoutWordsOfOne(doc, "text")
}

// withoutWordsOfOne lets changes by hand go that are about the words of the brief a copy is of.
func withoutWordsOfOne(doc *edit.Object, properties ...string) {
	adjustments, _ := doc.Get("adjustments").([]any)
	doc.Set("adjustments", slices.DeleteFunc(slices.Clone(adjustments), func(v any) bool {
		o, ok := v.(*edit.Object)
		if !ok {
			return false
		}
		p, _ := o.Get("property").(string)
		return slices.Contains(properties, p)
	}))
}
