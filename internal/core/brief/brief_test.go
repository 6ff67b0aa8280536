package brief_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/phrase"
)

func parse(t testing.TB, doc string) (*brief.Brief, error) {
	t.Helper()
	o, err := edit.ParseObject([]byte(doc))
	if err != nil {
		t.Fatal(err)
	}
	return brief.Parse(o)
}

var kit = &brand.Kit{Name: "Pellow & Finch", Website: "pellow.example", CallsToAction: []string{"Reserve a basket"}}

func words(t testing.TB, doc string) brief.Words {
	t.Helper()
	b, err := parse(t, doc)
	if err != nil {
		t.Fatal(err)
	}
	return b.Cards[0].Words(kit, "")
}

func TestAbsentIsTheKitsAndEmptyIsNone(t *testing.T) {
	w := words(t, `{"formatVersion":1,"headline":"Morels"}`)
	if w["callToAction"] != "Reserve a basket" || w["website"] != "pellow.example" || w["businessName"] != "Pellow & Finch" {
		t.Errorf("defaults: %v", w)
	}
	if w = words(t, `{"formatVersion":1,"headline":"Morels","website":"https://pellow.example/stall/"}`); w["website"] != "pellow.example/stall" {
		t.Errorf("an address with its scheme is printed as %q", w["website"])
	}
	w = words(t, `{"formatVersion":1,"headline":"Morels","callToAction":"","website":"","businessName":""}`)
	for _, slot := range []string{"callToAction", "website", "businessName"} {
		if _, ok := w[slot]; ok {
			t.Errorf("%s says %q though it was emptied", slot, w[slot])
		}
	}
}

func TestASourceBelongsToItsQuote(t *testing.T) {
	for doc, belongs := range map[string]bool{
		`{"formatVersion":1,"headline":"Ask them","quote":{"text":"It's good","source":"Ida, \"guest\""}}`:    true,
		`{"formatVersion":1,"headline":"Ask them","subheading":"Now","quote":{"text":"Good","source":"Ida"}}`: true,
		`{"formatVersion":1,"quote":{"text":"Good","source":"Ida"}}`:                                          false, // the quote is the headline, which never goes
		`{"formatVersion":1,"headline":"Ask them","quote":{"text":"Good"}}`:                                   false,
	} {
		b, err := parse(t, doc)
		if err != nil {
			t.Fatal(err)
		}
		c := b.Cards[0]
		if got := c.With(c.Words(kit, ""))["source"] == "quote"; got != belongs {
			t.Errorf("%s: %v", doc, got)
		}
	}
}

func TestOneCardMayStandAtTheTop(t *testing.T) {
	a := words(t, `{"formatVersion":1,"headline":"Morels","lines":["one","two"]}`)
	b := words(t, `{"formatVersion":1,"cards":[{"headline":"Morels","lines":["one","two"]}]}`)
	if fmt.Sprint(a) != fmt.Sprint(b) {
		t.Errorf("%v\n%v", a, b)
	}
}

func TestSomethingAlwaysLeads(t *testing.T) {
	for doc, want := range map[string]string{
		`"quote":{"text":"The best hour of my week","source":"Ada"}`: "“The best hour of my week”",
		`"offer":{"percent":20,"until":"2027-05-01"}`:                "20% off · until 1 May",
		`"shortHeadline":"Short"`:                                    "Short",
		`"body":"Only a body"`:                                       "Only a body",
		`"lines":["one","two"]`:                                      "one\ntwo",
		`"headline":"  "`:                                            "Pellow & Finch",
	} {
		if got := words(t, `{"formatVersion":1,`+doc+`}`)["headline"]; got != want {
			t.Errorf("%s is led by %q, want %q", doc, got, want)
		}
	}
}

func TestStructuredFieldsAreWrittenOut(t *testing.T) {
	w := words(t, `{"formatVersion":1,"headline":"x","when":{"date":"2027-05-28","weekday":"Friday","from":"20:30","to":"22:00"},
		"offer":{"price":"18","oldPrice":"24","code":"FINCH"},"person":{"name":"Ada","role":"grower"},"facts":[{"icon":"leaf","text":"No spray"},{"text":"Picked today"}],
		"quote":{"text":"\"Best in town\"","source":"Bo"}}`)
	for slot, want := range map[string]string{
		"when": "Friday 28 May, 20:30–22:00", "offer": "18 instead of 24 · code FINCH", "person": "Ada, grower",
		"facts": "No spray\nPicked today", "quote": "“Best in town”", "source": "– Bo",
	} {
		if w[slot] != want {
			t.Errorf("%s is %q, want %q", slot, w[slot], want)
		}
	}
}

func TestOldHabitsAreCorrected(t *testing.T) {
	w := words(t, `{"formatVersion":1,"headline":"It's  \"quiet\" water...","subheading":"9 - 12, 3 x 4 m"}`)
	if w["headline"] != "It’s “quiet” water…" {
		t.Errorf("headline %q", w["headline"])
	}
}

func TestRefusals(t *testing.T) {
	cards := strings.Repeat(`{},`, 20) + `{}`
	for doc, says := range map[string]string{
		`{}`:                  "formatVersion 0",
		`{"formatVersion":2}`: "formatVersion 2",
		`{"formatVersion":1,"cards":[` + cards + `]}`:                                "cards has 21 items",
		`{"formatVersion":1,"placements":7}`:                                         "placements",
		`{"formatVersion":1,"placements":[7]}`:                                       "placements[0]",
		`{"formatVersion":1,"purpose":"` + strings.Repeat("b", 41) + `"}`:            "purpose",
		`{"formatVersion":1,"signature":"mine"}`:                                     `signature "mine"`,
		`{"formatVersion":1,"headline":7}`:                                           "headline",
		`{"formatVersion":1,"headline":"` + strings.Repeat("é", 2001) + `"}`:         "2001 characters",
		`{"formatVersion":1,"when":{"date":"2027-02-29"}}`:                           "2027-02-29",
		`{"formatVersion":1,"offer":{"percent":120}}`:                                "120",
		`{"formatVersion":1,"offer":{"until":"soon"}}`:                               "soon",
		`{"formatVersion":1,"pictures":[{"file":"a","focus":[0.5,1.5]}]}`:            "pictures[0].focus",
		`{"formatVersion":1,"pictures":[{"file":"a","focusBox":[0.5,0.5,0.6,0.2]}]}`: "pictures[0].focusBox",
		`{"formatVersion":1,"pictures":[{"file":"a","focusBox":[0.5,0.5,0,0.2]}]}`:   "pictures[0].focusBox",
	} {
		if _, err := parse(t, doc); !errors.Is(err, brief.ErrBrief) || !strings.Contains(err.Error(), says) {
			t.Errorf("%.80s\n%v, want %q", doc, err, says)
		}
	}
}

// TestAPurposeOfALaterVersion is taken as an announcement, and what it was is kept to be told.
func TestAPurposeOfALaterVersion(t *testing.T) {
	b, err := parse(t, `{"formatVersion":1,"purpose":"brag","headline":"We are good"}`)
	if err != nil || b.Purpose != "announce" || b.OtherPurpose != "brag" {
		t.Errorf("%+v, %v", b, err)
	}
}

func TestEveryCopyFieldIsReachable(t *testing.T) {
	for _, name := range brief.CopyFields {
		b, err := parse(t, `{"formatVersion":1,"`+name+`":"mine"}`)
		if err != nil {
			t.Fatal(err)
		}
		if v := b.Cards[0].Field(name); v == nil || *v != "mine" {
			t.Errorf("Field(%q) is %v", name, v)
		}
	}
	if (brief.Card{}).Field("pictures") != nil {
		t.Error("pictures are no field of copy")
	}
}

func ExampleCard_Words() {
	headline := "Chanterelles are in..."
	card := brief.Card{Headline: &headline, When: &brief.When{Date: "2027-09-04", Weekday: "Saturday", From: "7:00"}}
	w := card.Words(&brand.Kit{Name: "Pellow & Finch", Website: "pellow.example"}, "")
	fmt.Println(w["headline"])
	fmt.Println(w["when"])
	fmt.Println(w["website"])
	// Output:
	// Chanterelles are in…
	// Saturday 4 September, 7:00
	// pellow.example
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(`{"formatVersion":1,"headline":"x","when":{"date":"2027-05-01"}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		o, err := edit.ParseObject(data)
		if err != nil {
			return
		}
		if b, err := brief.Parse(o); err == nil {
			for _, c := range b.Cards {
				if c.Words(kit, "")["headline"] == "" {
					t.Error("nothing leads")
				}
			}
		}
	})
}

// A date and an offer come apart into what is set large and what stands around
// it; 28 May 2027 is a Friday (ISO 8601 calendar).
func TestPartsOfDatesAndOffers(t *testing.T) {
	for text, w := range map[string]*brief.When{
		"Friday|28|May 20:30–22:00": {Date: "2027-05-28", From: "20:30", To: "22:00"},
		"Fr|28|May":                 {Date: "2027-05-28", Weekday: "Fr"},
		"|Saturdays|18:00":          {Weekday: "Saturdays", From: "18:00"},
		"|18:00–19:00|":             {From: "18:00", To: "19:00"},
	} {
		above, lead, below, ok := w.Parts(phrase.In("en"))
		if got := above + "|" + lead + "|" + strings.Join(below, " "); got != text || !ok {
			t.Errorf("%+v: %q, want %q", *w, got, text)
		}
	}
	for text, o := range map[string]*brief.Offer{
		"20%|off|code BEND|until 31 May": {Percent: 20, Code: "BEND", Until: "2027-05-31"},
		"€ 45|instead of € 60":           {Price: "€ 45", OldPrice: "€ 60"},
		"12.5%|off|€ 45":                 {Percent: 12.5, Price: "€ 45"},
		"1/2|price|instead of € 60":      {Price: "1/2 price", OldPrice: "€ 60"},
		"½|the price":                    {Price: "½ the price"},
		"3 for 2":                        {Price: "3 for 2"},
		"code BEND":                      {Code: "BEND"},
	} {
		_, lead, below, ok := o.Parts(phrase.In("en"))
		if got := strings.Join(append([]string{lead}, below...), "|"); got != text || !ok {
			t.Errorf("%+v: %q, want %q", *o, got, text)
		}
	}
	var w *brief.When
	var o *brief.Offer
	if _, _, _, ok := w.Parts(phrase.In("en")); ok {
		t.Error("no date has parts")
	}
	if _, _, _, ok := o.Parts(phrase.In("en")); ok {
		t.Error("no offer has parts")
	}
	if _, _, _, ok := (&brief.When{}).Parts(phrase.In("en")); ok {
		t.Error("an empty date has parts")
	}
}

// Colours of a brief stand beside the kit's, which stays as it is.
func TestABriefsOwnColours(t *testing.T) {
	k := &brand.Kit{Palettes: []brand.Palette{{ID: "main", Colours: []brand.Colour{{Token: "main.river", Value: colour.RGB{R: 15, G: 61, B: 76}}}}}}
	doc, err := edit.ParseObject([]byte(`{"formatVersion":1,"headline":"x","palette":[{"hex":"#f2694b"},{"name":"Moss","hex":"#26432f"}]}`))
	if err != nil {
		t.Fatal(err)
	}
	b, err := brief.Parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	own := b.Kit(k)
	if len(k.Palettes) != 1 || len(own.Palettes) != 2 {
		t.Fatalf("%d and %d palettes", len(k.Palettes), len(own.Palettes))
	}
	// alone they are helped by the kit's grounds and inks where words would not read
	k.Palettes[0].Colours = append(k.Palettes[0].Colours, brand.Colour{Token: "main.sand", Value: colour.RGB{R: 250, G: 245, B: 235}, Role: brand.Ground}, brand.Colour{Token: "main.coral", Value: colour.RGB{R: 240, G: 100, B: 80}, Role: brand.Accent})
	only := *b
	only.OnlyPalette = true
	if alone := only.Kit(k); len(alone.Palettes) != 2 || alone.Palettes[0].ID != "brief" || len(alone.Palettes[1].Colours) != 1 || alone.Palettes[1].Colours[0].Token != "main.sand" {
		t.Errorf("alone: %+v", alone.Palettes)
	}
	only.Palette = []brief.Swatch{{Hex: "#000000"}, {Hex: "#ffffff"}}
	if alone := only.Kit(k); len(alone.Palettes) != 1 {
		t.Errorf("black and white need no help: %+v", alone.Palettes)
	}
	c := own.Palettes[1].Colours
	if c[0].Token != "brief.c1" || c[0].Name == "" || c[1].Name != "Moss" || c[1].Value.Hex() != "#26432F" {
		t.Errorf("%+v", c)
	}
	for _, bad := range []string{`[{"hex":"#zz"}]`, `[{"hex":""}]`, `[` + strings.Repeat(`{"hex":"#123456"},`, 24) + `{"hex":"#123456"}]`} {
		doc, err := edit.ParseObject([]byte(`{"formatVersion":1,"headline":"x","palette":` + bad + `}`))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := brief.Parse(doc); !errors.Is(err, brief.ErrBrief) {
			t.Errorf("%.40s: %v", bad, err)
		}
	}
}

// TestEveryPartIsWhole: whatever is in the table of parts can be written, read and shown:
// a field reads what was written into it, slots and fields agree, and no two parts are
// left out at once.
func TestEveryPartIsWhole(t *testing.T) {
	drops := map[int]string{}
	for _, p := range brief.Parts {
		if p.Label == "" || p.Level == "" {
			t.Errorf("%s has no label or no level", p.Slot)
		}
		if was, ok := drops[p.Drop]; ok && p.Drop > 0 {
			t.Errorf("%s and %s go at once", was, p.Slot)
		}
		drops[p.Drop] = p.Slot
		if p.Of == nil {
			continue
		}
		b, err := parse(t, fmt.Sprintf(`{"formatVersion":1,"cards":[{%q:"Words of %s"}]}`, p.Slot, p.Slot))
		if err != nil {
			t.Fatal(err)
		}
		c := b.Cards[0]
		if got := c.Field(p.Slot); got == nil || *got != "Words of "+p.Slot {
			t.Errorf("%s was written and reads %v", p.Slot, got)
		}
		lead := "Something else"
		if p.Slot != "headline" { // else the words become the headline
			c.Headline = &lead
		}
		if got := c.Words(&brand.Kit{}, "")[p.Slot]; got != "Words of "+p.Slot {
			t.Errorf("%s says %q", p.Slot, got)
		}
	}
}

func TestRatingsInWords(t *testing.T) {
	for text, r := range map[string]*brief.Rating{
		"4.8 / 5 (127)":    {Stars: 4.8, Voices: 127},
		"5 / 5":            {Stars: 5},
		"4 / 5 (1)":        {Stars: 4, Voices: 1},
		"4.5 / 5 (12,040)": {Stars: 4.5, Voices: 12040},
		"":                 {Voices: 9},
	} {
		if got := (brief.Card{Rating: r}).Words(&brand.Kit{}, "")["rating"]; got != text {
			t.Errorf("%+v: %q, want %q", *r, got, text)
		}
	}
	for _, doc := range []string{`{"stars": 5.1}`, `{"stars": -1}`, `{"stars": 4, "voices": -2}`, `{"stars": "many"}`} {
		o, err := edit.ParseObject([]byte(`{"formatVersion": 1, "cards": [{"rating": ` + doc + `}]}`))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := brief.Parse(o); !errors.Is(err, brief.ErrBrief) {
			t.Errorf("%s was taken: %v", doc, err)
		}
	}
}

// TestWhatIsAddedIsInTheBriefsLanguage: the words around a date and an offer, the signs of a
// number and the marks of a quotation follow the brief, then the kit, then what was typed.
func TestWhatIsAddedIsInTheBriefsLanguage(t *testing.T) {
	headline, guessed := "Hafenfest", "Wir laden euch zum Fest an der Brücke ein, und es gibt Kuchen für alle"
	card := brief.Card{
		Headline: &headline,
		When:     &brief.When{Date: "2027-05-28", From: "19 Uhr"},
		Offer:    &brief.Offer{Percent: 12.5, Price: "49 €", OldPrice: "59 €", Until: "2027-05-31", Code: "HAFEN"},
		Quote:    &brief.Quote{Text: "“Wie Urlaub.”"},
		Rating:   &brief.Rating{Stars: 4.5, Voices: 1234},
	}
	want := map[string]string{
		"when": "28. Mai, 19 Uhr", "offer": "12,5\u00a0% Rabatt · 49 € statt 59 € · Code HAFEN · bis 31. Mai", "quote": "„Wie Urlaub.“", "rating": "4,5 / 5 (1.234)",
	}
	byKit := &brand.Kit{Language: "de-CH"}
	typed := card
	typed.Headline = &guessed
	for how, w := range map[string]brief.Words{"the brief": card.Words(&brand.Kit{Language: "en"}, "de"), "the kit": card.Words(byKit, ""), "what was typed": typed.Words(&brand.Kit{}, "")} {
		for slot, text := range want {
			if w[slot] != text {
				t.Errorf("by %s, %s says %q, want %q", how, slot, w[slot], text)
			}
		}
	}
	above, lead, below, _ := card.When.Parts(phrase.In("de"))
	if got := fmt.Sprint(above, "|", lead, "|", strings.Join(below, "|")); got != "Freitag|28|Mai|19 Uhr" {
		t.Errorf("the date in parts: %s", got)
	}
	if w := card.Words(&brand.Kit{}, ""); w["when"] != "28 May, 19 Uhr" {
		t.Errorf("where nothing tells it is %q", w["when"])
	}
}
