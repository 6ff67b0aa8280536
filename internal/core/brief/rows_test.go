package brief_test

import (
	"errors"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
)

func TestRowsOfLines(t *testing.T) {
	rows, err := brief.ReadRows("- Lantern paddle on Friday. Bring a torch and a friend.\n\n" +
		"2) Half price for the first ten boards!\n" +
		"“The calmest hour of my week.” — Maren, Tuesday group\n" +
		"How to fall in well | Three tips from Nell | Bend your knees\n" +
		"Book your board, https://larkmoor.example/book\n" +
		"Meet Dr. Lang at the pier. She answers everything.\n")
	if err != nil {
		t.Fatal(err)
	}
	want := []brief.Row{
		{Headline: "Lantern paddle on Friday", Subheading: "Bring a torch and a friend.", Purpose: "event"},
		{Headline: "Half price for the first ten boards!", Purpose: "offer"},
		{Quote: &brief.Quote{Text: "The calmest hour of my week.", Source: "Maren, Tuesday group"}, Purpose: "quote"},
		{Headline: "How to fall in well", Subheading: "Three tips from Nell", Body: "Bend your knees", Purpose: "tips"},
		{Headline: "Book your board", Website: "larkmoor.example/book", Purpose: "announce"},
		{Headline: "Meet Dr. Lang at the pier", Subheading: "She answers everything.", Purpose: "hello"},
	}
	if len(rows) != len(want) {
		t.Fatalf("%d rows, want %d: %+v", len(rows), len(want), rows)
	}
	for i, w := range want {
		g := rows[i]
		if g.Headline != w.Headline || g.Subheading != w.Subheading || g.Body != w.Body || g.Website != w.Website || g.Purpose != w.Purpose || !g.Guessed {
			t.Errorf("row %d: %+v, want %+v", i, g, w)
		}
		if (g.Quote == nil) != (w.Quote == nil) || g.Quote != nil && *g.Quote != *w.Quote {
			t.Errorf("row %d says %+v, want %+v", i, g.Quote, w.Quote)
		}
		if b, err := brief.Parse(g.Doc()); err != nil && !strings.Contains(err.Error(), "formatVersion") || b != nil && b.Purpose != w.Purpose {
			t.Errorf("row %d makes no brief: %v", i, err)
		}
	}
}

// Cells as spreadsheets copy them: tabs between them, quotes about one with a line break.
func TestRowsOfATable(t *testing.T) {
	rows, err := brief.ReadRows("Title\tText\tDate\tWho cares\tPurpose\tLink\n" +
		"Open day\t\"Two lines\nof text\"\t1 May 2027\tx\tevent\thttps://larkmoor.example/\n" +
		"\t\t\t\t\t\nNew boards\t\t2027-06-02\t\tsomething\t\n")
	if err != nil {
		t.Fatal(err)
	}
	if len(rows) != 2 {
		t.Fatalf("%d rows, want 2: %+v", len(rows), rows)
	}
	if r := rows[0]; r.Headline != "Open day" || r.Body != "Two lines\nof text" || r.Date != "2027-05-01" || r.Purpose != "event" || r.Guessed || r.Website != "larkmoor.example" {
		t.Errorf("first: %+v", r)
	}
	if r := rows[1]; r.Date != "2027-06-02" || r.Purpose != "product" || !r.Guessed {
		t.Errorf("second: %+v", r)
	}
	if rows, err := brief.ReadRows("Calm water\tCome by\tEvery day\n"); err != nil || rows[0].Subheading != "Come by" || rows[0].Body != "Every day" {
		t.Errorf("without names: %+v %v", rows, err)
	}
}

func TestRowsRefused(t *testing.T) {
	for name, c := range map[string]struct{ text, says string }{
		"a date in two ways": {"title\tdate\nOpen day\t05/01/2027\n", "row 2"},
		"too many":           {strings.Repeat("one\n", brief.MaxRows+1), "61 rows"},
		"too long":           {"short\n" + strings.Repeat("a", brief.MaxCopy+1), "row 2"},
	} {
		_, err := brief.ReadRows(c.text)
		if !errors.Is(err, brief.ErrRows) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want it to name %q", name, err, c.says)
		}
	}
	if rows, err := brief.ReadRows(" \n\n"); err != nil || len(rows) != 0 {
		t.Errorf("nothing: %v %v", rows, err)
	}
}

func TestPurposes(t *testing.T) {
	for words, want := range map[string]string{
		"20 % off every wetsuit":                   "offer",
		"20% Rabatt auf alles":                     "offer",
		"Soldes jusqu’à dimanche":                  "offer",
		"Frühstück am Samstag ab 9 Uhr":            "event",
		"Concert au port":                          "event",
		"Taller de remo el sábado":                 "event",
		"Yoga on the pier, 7:30":                   "event",
		"Five ways to stay dry":                    "tips",
		"So gelingt der Einstieg":                  "tips",
		"Thank you for a wonderful season":         "thanks",
		"Merci à tous":                             "thanks",
		"Neu: das leichte Brett":                   "product",
		"The light board, £ 390":                   "product",
		"We are closed until spring":               "shopfront",
		"Neue Öffnungszeiten":                      "hours",
		"Hello, we are Larkmoor":                   "hello",
		"4.9 of 5, from 212 reviews":               "testimonial",
		"The season begins":                        "announce",
		"Office party? We have room for the whole": "announce",
	} {
		if got := brief.PurposeOf(words); got != want {
			t.Errorf("%q is for %q, want %q", words, got, want)
		}
	}
}
