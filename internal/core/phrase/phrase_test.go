package phrase_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/core/phrase"
)

func ExampleIn() {
	in := phrase.In("de-AT")
	day := time.Date(2027, 5, 28, 0, 0, 0, 0, time.UTC)
	fmt.Println(in.Weekday(day), in.Date(day))
	fmt.Println(in.Until(in.Date(day)))
	fmt.Println(in.Quote(`"Wir kommen wieder."`))
	// Output:
	// Freitag 28. Mai
	// bis 28. Mai
	// „Wir kommen wieder.“
}

// TestFormsOfLanguages: percent and decimals are those of the CLDR as golang.org/x/text prints
// them (version 32; our dates are of version 45), with Latin figures everywhere.
func TestFormsOfLanguages(t *testing.T) {
	for id, want := range map[string][2]string{
		"en": {"12.5%", "1,234"}, "de": {"12,5\u00a0%", "1.234"}, "fr": {"12,5\u00a0%", "1\u00a0234"}, "nl": {"12,5%", "1.234"}, "tr": {"%12,5", "1.234"},
	} {
		in := phrase.In(id)
		if got := [2]string{in.Percent(12.5), in.Number(1234)}; got != want {
			t.Errorf("%s: %q, want %q", id, got, want)
		}
	}
	for _, id := range phrase.Languages() {
		in := phrase.In(id)
		for m := time.January; m <= time.December; m++ {
			d := time.Date(2027, m, 9, 0, 0, 0, 0, time.UTC)
			if got := in.Date(d); !strings.Contains(got, "9") || !strings.Contains(got, in.Month(d)) || strings.ContainsAny(got, "'0") {
				t.Errorf("%s: 9 %s is %q", id, m, got)
			}
			if days := phrase.WeekdaysCalled(in.Weekday(d)); !slices.Contains(days, d.Weekday()) {
				t.Errorf("%s: %q is %v, want %v", id, in.Weekday(d), days, d.Weekday())
			}
		}
		for what, said := range map[string]string{"until": in.Until("#"), "instead": in.InsteadOf("#"), "off": in.PercentOff(20), "code": in.Code("#")} {
			if !strings.ContainsAny(said, "#2") || strings.Contains(said, "*") || len(strings.Fields(said)) < 2 && !strings.Contains(said, "\u00a0") {
				t.Errorf("%s, %s: %q", id, what, said)
			}
		}
	}
}

func TestAWeekdayIsKnownInAnyLanguage(t *testing.T) {
	for word, want := range map[string]time.Weekday{"Fri": time.Friday, "freitag": time.Friday, "Fr.": time.Friday, "viernes": time.Friday, "Sábado": time.Saturday, "sobota": time.Saturday} {
		if got := phrase.WeekdaysCalled(word); !slices.Equal(got, []time.Weekday{want}) {
			t.Errorf("%s is %v, want %v", word, got, want)
		}
	}
	for _, word := range []string{"", "F", "every day", "täglich"} {
		if got := phrase.WeekdaysCalled(word); got != nil {
			t.Errorf("%q is %v, want no weekday", word, got)
		}
	}
}
