package brief

import (
	"cmp"
	"regexp"
	"strconv"
	"strings"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/hyphen"
	"aspenridge/internal/core/phrase"
)

// Words are the finished lines of copy a piece shows, by slot: corrected, the
// kit's defaults filled in, structured fields written out.
type Words map[string]string

// Words writes out what the card says in a kit, in the language it is said to be in (BCP 47),
// or else its own ([Card.Language]). The headline is never empty as long as there is anything
// to say: without one of its own, the piece is led by the quote, the offer, the name or the
// tagline, in this order.
func (c Card) Words(k *brand.Kit, said string) Words {
	w := Words{}
	in := c.In(k, said)
	set := func(slot, s string) {
		if s = in.Correct(s); s != "" {
			w[slot] = s
		}
	}
	defaults := map[string]string{"website": k.Website, "businessName": k.Name}
	if len(k.CallsToAction) > 0 {
		defaults["callToAction"] = k.CallsToAction[0]
	}
	for _, field := range CopyFields {
		if own := c.Field(field); own != nil && field == "website" {
			set(field, brand.BareAddress(*own))
		} else if own != nil {
			set(field, *own)
		} else {
			set(field, defaults[field])
		}
	}
	set("when", c.When.text(in))
	set("offer", c.Offer.text(in))
	if len(c.Lines) > 0 {
		set("lines", strings.Join(c.Lines, "\n"))
	}
	if rows := Openings(c.Hours, in); rows != nil {
		var hours []string
		for _, r := range rows {
			hours = append(hours, strings.Trim(r.Days+"\t"+r.Hours, "\t"))
		}
		w["hours"] = strings.Join(hours, "\n")
	}
	if len(c.Facts) > 0 {
		var facts []string
		for _, f := range c.Facts {
			facts = append(facts, f.Text)
		}
		set("facts", strings.Join(facts, "\n"))
	}
	if c.Person != nil {
		set("person", strings.Trim(c.Person.Name+", "+c.Person.Role, ", "))
	}
	set("rating", c.Rating.text(in))
	if c.Quote != nil && c.Quote.Text != "" {
		set("quote", in.Quote(c.Quote.Text))
		set("source", c.Quote.signed())
	}
	if w["headline"] == "" {
		for _, slot := range leading {
			if s := w[slot]; s != "" {
				w["headline"] = s
				delete(w, slot)
				break
			}
		}
	}
	return w
}

// Stars are those of the card's rating, 0 for none.
func (c Card) Stars() float64 {
	if c.Rating == nil {
		return 0
	}
	return c.Rating.Stars
}

// Language is the one the card's words are in, as BCP 47 has it without a region: as it is
// said or as the kit says, else a guess at what was typed; "" where nothing tells.
func (c Card) Language(k *brand.Kit, said string) string {
	return c.language(k, said, hyphen.Guess)
}

// In is the language what is added to the card's words is in: the same where it is said or
// sure, else English.
func (c Card) In(k *brand.Kit, said string) *phrase.Language {
	return phrase.In(c.language(k, said, hyphen.Surely))
}

func (c Card) language(k *brand.Kit, said string, guess func(string) string) string {
	if said = cmp.Or(said, k.Language); said != "" {
		id, _, _ := strings.Cut(strings.ToLower(said), "-")
		return id
	}
	var all []string
	for _, field := range []string{"headline", "subheading", "body", "callToAction"} {
		if v := c.Field(field); v != nil {
			all = append(all, *v)
		}
	}
	if c.Quote != nil {
		all = append(all, c.Quote.Text)
	}
	for _, f := range c.Facts {
		all = append(all, f.Text)
	}
	return guess(strings.Join(append(all, c.Lines...), " "))
}

// text is a rating, "" where there are no stars.
func (r *Rating) text(in *phrase.Language) string {
	if r == nil || r.Stars <= 0 {
		return ""
	}
	out := in.Number(r.Stars) + " / 5"
	if r.Voices > 0 {
		out += " (" + in.Number(float64(r.Voices)) + ")"
	}
	return out
}

// signed is a quote's source as it stands under it.
func (q *Quote) signed() string {
	if q.Source == "" {
		return ""
	}
	return "– " + q.Source
}

// With says which slots of the card's words belong to another and are not shown
// without it: a source signs its quote and nothing else.
func (c Card) With(words map[string]string) map[string]string {
	if words["quote"] != "" && words["source"] != "" {
		return map[string]string{"source": "quote"}
	}
	return nil
}

// Parts splits a date into what is set small above, large, and small below:
// "Friday", "28", "May" and the hours. ok is false when it says nothing.
func (w *When) Parts(in *phrase.Language) (above, lead string, below []string, ok bool) {
	if w == nil {
		return
	}
	hours := w.hours()
	if d, err := time.Parse(time.DateOnly, w.Date); err == nil {
		above, lead, below = w.Weekday, strconv.Itoa(d.Day()), []string{in.Month(d)}
		if above == "" {
			above = in.Weekday(d)
		}
	} else if w.Weekday != "" {
		lead = w.Weekday
	} else {
		return "", hours, nil, hours != ""
	}
	if hours != "" {
		below = append(below, hours)
	}
	return above, lead, below, true
}

// sharePrice is a price that begins with a fraction: "1/2 price", "½ of it".
var sharePrice = regexp.MustCompile(`^(\d{1,2}[/⁄]\d{1,2}|[½⅓⅔¼¾⅕⅖⅗⅘⅛])\s+(.+)$`)

// Parts splits an offer the same way: "20%" over "off", "1/2" over "price", or the price.
func (o *Offer) Parts(in *phrase.Language) (above, lead string, below []string, ok bool) {
	if o == nil {
		return
	}
	terms := o.terms(in)
	switch {
	case o.Percent > 0:
		lead, below = in.Percent(o.Percent), []string{in.Off()}
		if o.Price != "" {
			below = append(below, o.price(in))
		}
	case o.Price != "":
		lead = o.Price
		if share := sharePrice.FindStringSubmatch(o.Price); share != nil {
			lead, below = share[1], []string{share[2]}
		}
		if o.OldPrice != "" {
			below = append(below, in.InsteadOf(o.OldPrice))
		}
	default:
		return "", strings.Join(terms, " · "), nil, len(terms) > 0
	}
	return "", lead, append(below, terms...), true
}

// Begins and Ends are the hours in minutes after midnight, however their first figure is written
// ("9:00", "09:00"); false and -1 for none that can be read.
func (w *When) Begins() (minutes int, ok bool) { m := minutesOf(w.From); return m, m >= 0 }
func (w *When) Ends() int                      { return minutesOf(w.To) }

func minutesOf(clock string) int {
	h, m, _ := strings.Cut(strings.TrimSpace(strings.ReplaceAll(clock, ".", ":")), ":")
	hours, err := strconv.Atoi(h)
	minutes := 0
	if err == nil && m != "" {
		minutes, err = strconv.Atoi(m)
	}
	if err != nil || hours < 0 || hours > 24 || minutes < 0 || minutes > 59 {
		return -1
	}
	return 60*hours + minutes
}

func (w *When) hours() string {
	switch {
	case w.From != "" && w.To != "":
		return w.From + "–" + w.To
	case w.From != "":
		return w.From
	}
	return ""
}

func (w *When) text(in *phrase.Language) string {
	if w == nil {
		return ""
	}
	var parts []string
	day := w.Weekday
	if d, err := time.Parse(time.DateOnly, w.Date); err == nil {
		day = strings.TrimSpace(day + " " + in.Date(d))
	}
	if day != "" {
		parts = append(parts, day)
	}
	if h := w.hours(); h != "" {
		parts = append(parts, h)
	}
	return strings.Join(parts, ", ")
}

func (o *Offer) text(in *phrase.Language) string {
	if o == nil {
		return ""
	}
	var parts []string
	if o.Percent > 0 {
		parts = append(parts, in.PercentOff(o.Percent))
	}
	if o.Price != "" {
		parts = append(parts, o.price(in))
	}
	return strings.Join(append(parts, o.terms(in)...), " · ")
}

func (o *Offer) price(in *phrase.Language) string {
	if o.OldPrice != "" {
		return o.Price + " " + in.InsteadOf(o.OldPrice)
	}
	return o.Price
}

// terms are the code and the end of an offer.
func (o *Offer) terms(in *phrase.Language) []string {
	var out []string
	if o.Code != "" {
		out = append(out, in.Code(o.Code))
	}
	if d, err := time.Parse(time.DateOnly, o.Until); err == nil {
		out = append(out, in.Until(in.Date(d)))
	}
	return out
}
