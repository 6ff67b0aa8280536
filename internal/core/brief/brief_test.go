package brief_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
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
	return b.Cards[0].Words(kit)
}

func TestAbsentIsTheKitsAndEmptyIsNone(t *testing.T) {
	w := words(t, `{"formatVersion":1,"headline":"Morels"}`)
	if w["callToAction"] != "Reserve a basket" || w["website"] != "pellow.example" || w["businessName"] != "Pellow & Finch" {
		t.Errorf("defaults: %v", w)
	}
	w = words(t, `{"formatVersion":1,"headline":"Morels","callToAction":"","website":"","businessName":""}`)
	for _, slot := range []string{"callToAction", "website", "businessName"} {
		if _, ok := w[slot]; ok {
			t.Errorf("%s says %q though it was emptied", slot, w[slot])
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
		"facts": "No spray\nPicked today", "quote": "“Best in town”", "subheading": "– Bo",
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
		`{"formatVersion":1,"cards":[` + cards + `]}`:                        "21 cards",
		`{"formatVersion":1,"placements":7}`:                                 "placements",
		`{"formatVersion":1,"placements":[7]}`:                               "placements[0]",
		`{"formatVersion":1,"purpose":"brag"}`:                               `purpose "brag"`,
		`{"formatVersion":1,"signature":"mine"}`:                             `signature "mine"`,
		`{"formatVersion":1,"headline":7}`:                                   "headline",
		`{"formatVersion":1,"headline":"` + strings.Repeat("é", 2001) + `"}`: "2001 characters",
		`{"formatVersion":1,"when":{"date":"2027-02-29"}}`:                   "2027-02-29",
		`{"formatVersion":1,"offer":{"percent":120}}`:                        "120",
		`{"formatVersion":1,"offer":{"until":"soon"}}`:                       "soon",
		`{"formatVersion":1,"pictures":[{"file":"a","focus":[0.5,1.5]}]}`:    "pictures[0].focus",
	} {
		if _, err := parse(t, doc); !errors.Is(err, brief.ErrBrief) || !strings.Contains(err.Error(), says) {
			t.Errorf("%.80s\n%v, want %q", doc, err, says)
		}
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
	w := card.Words(&brand.Kit{Name: "Pellow & Finch", Website: "pellow.example"})
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
				if c.Words(kit)["headline"] == "" {
					t.Error("nothing leads")
				}
			}
		}
	})
}
