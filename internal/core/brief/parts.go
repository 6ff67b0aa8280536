package brief

import (
	"slices"

	"aspenridge/internal/core/brand"
)

// Part is a part of the copy a piece can show: everything the house knows about it in
// one place.
type Part struct {
	Slot  string      // where it stands on a piece, and the field of a card it comes from
	Label string      // what people call it
	Level brand.Level // it is set in
	Most  int         // characters of a field of plain words
	Of    func(*Card) **string
	// Of is the card's field where it holds plain words, which can be typed into on a
	// piece; nil where it is written out of something.

	// Drop is when the part is left out where there is no room: the first at 1; 0 never.
	Drop    int
	Divides bool    // its words may be divided; never those of names, addresses, dates
	Weight  float64 // how much it counts of what there is to say
	Leads   int     // its turn to be the headline where there is none; 0 never
	Small   float64 // times the size of its level, 0 for 1

	Own   bool // layouts give it a place by name; it is never among "the rest" of the words
	Brief bool // it is short enough to be read in a strip, beside other words
}

// Parts are the parts of the copy in reading order.
var Parts = []Part{
	{Slot: "offer", Label: "Offer", Level: brand.Subheading, Drop: 15, Weight: 1, Leads: 3, Brief: true},
	{Slot: "headline", Label: "Headline", Level: brand.Headline, Most: MaxCopy, Of: func(c *Card) **string { return &c.Headline }, Divides: true, Weight: 3, Own: true},
	{Slot: "shortHeadline", Label: "Shorter headline", Level: brand.Headline, Most: 300, Of: func(c *Card) **string { return &c.ShortHeadline }, Leads: 1, Own: true},
	{Slot: "subheading", Label: "Subheading", Level: brand.Subheading, Most: MaxCopy, Of: func(c *Card) **string { return &c.Subheading }, Drop: 12, Divides: true, Weight: 1, Leads: 4, Brief: true},
	{Slot: "when", Label: "Date", Level: brand.Subheading, Drop: 14, Weight: 1, Brief: true},
	{Slot: "where", Label: "Place", Level: brand.Subheading, Most: 300, Of: func(c *Card) **string { return &c.Where }, Drop: 13, Weight: 1, Brief: true},
	{Slot: "body", Label: "Body", Level: brand.Body, Most: MaxCopy, Of: func(c *Card) **string { return &c.Body }, Drop: 8, Divides: true, Weight: 1, Leads: 5, Brief: true},
	{Slot: "quote", Label: "Quote", Level: brand.Subheading, Drop: 9, Divides: true, Weight: 1, Leads: 2},
	{Slot: "source", Label: "Source", Level: brand.Caption, Drop: 10, Weight: 0.5},
	{Slot: "lines", Label: "Lines", Level: brand.Body, Drop: 6, Divides: true, Weight: 1, Leads: 6},
	{Slot: "hours", Label: "Opening hours", Level: brand.Body, Drop: 7, Weight: 1},
	{Slot: "facts", Label: "Facts", Level: brand.Body, Drop: 5, Divides: true, Weight: 1},
	{Slot: "person", Label: "Person", Level: brand.Caption, Drop: 11, Weight: 1},
	{Slot: "rating", Label: "Rating", Level: brand.Caption, Drop: 4, Weight: 0.5, Brief: true},
	{Slot: "callToAction", Label: "Call to action", Level: brand.Button, Most: 120, Of: func(c *Card) **string { return &c.CallToAction }, Drop: 17, Weight: 2, Own: true},
	{Slot: "tagline", Label: "Tagline", Level: brand.Caption, Most: 300, Of: func(c *Card) **string { return &c.Tagline }, Drop: 1, Weight: 0.5, Leads: 7},
	{Slot: "website", Label: "Address", Level: brand.Caption, Most: 300, Of: func(c *Card) **string { return &c.Website }, Drop: 2, Weight: 0.5, Brief: true},
	{Slot: "businessName", Label: "Name", Level: brand.Subheading, Most: 200, Of: func(c *Card) **string { return &c.BusinessName }, Leads: 8, Own: true},
	{Slot: "terms", Label: "Small print", Level: brand.Caption, Most: 1000, Of: func(c *Card) **string { return &c.Terms }, Drop: 3, Divides: true, Weight: 0.5, Small: 0.85, Brief: true},
}

// PartOf is a part by its slot; the zero part, set as body, for anything else.
func PartOf(slot string) Part {
	for i := range Parts { // by index: a row is large, and this is asked for every trial
		if Parts[i].Slot == slot {
			return Parts[i]
		}
	}
	return Part{Slot: slot, Label: slot, Level: brand.Body, Weight: 1}
}

// slotsWhere lists the slots of some parts, in the order of a number of theirs where it
// is given.
func slotsWhere(is func(Part) bool, by func(Part) int) []string {
	list := slices.DeleteFunc(slices.Clone(Parts), func(p Part) bool { return !is(p) })
	if by != nil {
		slices.SortStableFunc(list, func(a, b Part) int { return by(a) - by(b) })
	}
	var out []string
	for _, p := range list {
		out = append(out, p.Slot)
	}
	return out
}

var (
	// Slots are what copy can fill on a piece, in reading order.
	Slots = slotsWhere(func(p Part) bool { return p.Slot != "shortHeadline" }, nil)
	// Rest are the slots that stand one below the other wherever a layout gives them no place
	// by name, and RestInBrief those of them that suit a strip, in reading order.
	Rest        = slotsWhere(func(p Part) bool { return !p.Own }, nil)
	RestInBrief = slotsWhere(func(p Part) bool { return !p.Own && p.Brief }, nil)
	// CopyFields are the fields of a card that hold plain words and can be typed into
	// on a piece, in reading order.
	CopyFields = slotsWhere(func(p Part) bool { return p.Of != nil }, nil)
	// DropOrder is what goes first where there is no room, the logo among the copy. The
	// headline never goes.
	DropOrder = withLogo(slotsWhere(func(p Part) bool { return p.Drop > 0 }, func(p Part) int { return p.Drop }))
	// leading are the slots that stand in for a headline, in their turn.
	leading = slotsWhere(func(p Part) bool { return p.Leads > 0 }, func(p Part) int { return p.Leads })
)

// withLogo puts the logo in before the call to action.
func withLogo(drops []string) []string {
	return slices.Insert(drops, slices.Index(drops, "callToAction"), "logo")
}

// Field is one of [CopyFields] as written, nil when it is left to the kit or is no field
// of copy.
func (c Card) Field(name string) *string {
	if p := PartOf(name); p.Of != nil {
		return *p.Of(&c)
	}
	return nil
}
