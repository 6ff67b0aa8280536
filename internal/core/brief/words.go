package brief

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/typeset"
)

// Words are the finished lines of copy a piece shows, by slot: corrected, the
// kit's defaults filled in, structured fields written out.
type Words map[string]string

// The slots copy can fill, in reading order.
var Slots = []string{"offer", "headline", "subheading", "when", "where", "body", "quote", "lines", "facts", "person", "callToAction", "website", "businessName", "tagline"}

// Words writes out what the card says in a kit. The headline is never empty as
// long as there is anything to say: without one of its own, the piece is led
// by the quote, the offer, the name or the tagline, in this order.
func (c Card) Words(k *brand.Kit) Words {
	w := Words{}
	set := func(slot, s string) {
		if s = typeset.Correct(s); s != "" {
			w[slot] = s
		}
	}
	or := func(s *string, def string) string {
		if s != nil {
			return *s
		}
		return def
	}
	set("headline", or(c.Headline, ""))
	set("shortHeadline", or(c.ShortHeadline, ""))
	set("subheading", or(c.Subheading, ""))
	set("body", or(c.Body, ""))
	action := ""
	if len(k.CallsToAction) > 0 {
		action = k.CallsToAction[0]
	}
	set("callToAction", or(c.CallToAction, action))
	set("website", or(c.Website, k.Website))
	set("businessName", or(c.BusinessName, k.Name))
	set("tagline", or(c.Tagline, ""))
	set("where", or(c.Where, ""))
	set("when", c.When.text())
	set("offer", c.Offer.text())
	if len(c.Lines) > 0 {
		set("lines", strings.Join(c.Lines, "\n"))
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
	if c.Quote != nil && c.Quote.Text != "" {
		set("quote", "“"+strings.Trim(c.Quote.Text, "“”\" ")+"”")
		if w["subheading"] == "" && c.Quote.Source != "" {
			set("subheading", "– "+c.Quote.Source)
		}
	}
	if w["headline"] == "" {
		for _, slot := range []string{"shortHeadline", "quote", "offer", "subheading", "body", "lines", "tagline", "businessName"} {
			if s := w[slot]; s != "" {
				w["headline"] = s
				delete(w, slot)
				break
			}
		}
	}
	return w
}

func (w *When) text() string {
	if w == nil {
		return ""
	}
	var parts []string
	day := w.Weekday
	if d, err := time.Parse(time.DateOnly, w.Date); err == nil {
		day = strings.TrimSpace(day + " " + strconv.Itoa(d.Day()) + " " + d.Month().String())
	}
	if day != "" {
		parts = append(parts, day)
	}
	switch {
	case w.From != "" && w.To != "":
		parts = append(parts, w.From+"–"+w.To)
	case w.From != "":
		parts = append(parts, w.From)
	}
	return strings.Join(parts, ", ")
}

func (o *Offer) text() string {
	if o == nil {
		return ""
	}
	var parts []string
	if o.Percent > 0 {
		parts = append(parts, strconv.FormatFloat(o.Percent, 'f', -1, 64)+" % off")
	}
	if o.Price != "" {
		p := o.Price
		if o.OldPrice != "" {
			p += " instead of " + o.OldPrice
		}
		parts = append(parts, p)
	}
	if o.Code != "" {
		parts = append(parts, "code "+o.Code)
	}
	if d, err := time.Parse(time.DateOnly, o.Until); err == nil {
		parts = append(parts, fmt.Sprintf("until %d %s", d.Day(), d.Month()))
	}
	return strings.Join(parts, " · ")
}
