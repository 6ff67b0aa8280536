package brief_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/phrase"
)

func TestOpeningHoursAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		language string
		rows     []string
		want     string
	}{
		{"en", []string{"Mon-Fri 9-18", "Sat 10:00 - 14:00", "Sun closed"}, "Monday–Friday|9–18 Saturday|10:00–14:00 Sunday|closed"},
		{"de", []string{"Mo–Fr 9 bis 12, 14 bis 18", "Sa, So geschlossen"}, "Montag–Freitag|9–12, 14–18 Samstag–Sonntag|geschlossen"},
		{"fr", []string{"lundi au vendredi 9:00-18:00", "dimanche fermé"}, "Lundi–Vendredi|9:00–18:00 Dimanche|fermé"},
		{"en", []string{"Tue 9-12", "Wed 9-12", "Thu 9-13"}, "Tuesday–Wednesday|9–12 Thursday|9–13"},
		{"en", []string{"Fri-Mon 20-2"}, "Monday|20–2 Friday–Sunday|20–2"},
		{"en", []string{"Mon 9-12", "Mon 14-18"}, "Monday|9–12, 14–18"},
		{"en", []string{"Sat 9-12", "24 December 9-12", "Bank holidays: closed"}, "Saturday|9–12 |24 December 9–12 Bank holidays|closed"},
		{"en", []string{"Sat"}, "Sat|"},
		{"en", []string{"", "  "}, ""},
	} {
		var got []string
		for _, o := range brief.Openings(c.rows, phrase.In(c.language)) {
			got = append(got, o.Days+"|"+o.Hours)
		}
		if all := strings.Join(got, " "); all != c.want {
			t.Errorf("%q in %s: %q, want %q", c.rows, c.language, all, c.want)
		}
	}
	rows := make([]string, 40)
	for i := range rows {
		rows[i] = "Some day " + strings.Repeat("x", i) + " 9-12"
	}
	if n := len(brief.Openings(rows, phrase.In("en"))); n != 14 {
		t.Errorf("%d rows of forty are shown", n)
	}
}

func TestOverlappingHours(t *testing.T) {
	for _, c := range []struct {
		rows []string
		want string
	}{
		{[]string{"Mon-Fri 9-18", "Fri 17:30-20"}, "Friday"},
		{[]string{"Mon 9-12", "Mon 12-18"}, ""},
		{[]string{"Sat 20-2", "Sat 23-24"}, "Saturday"},
		{[]string{"Sat 20-2", "Sat 9-12"}, ""},
		{[]string{"closed", "Mon x"}, ""},
	} {
		if got := strings.Join(brief.OverlappingHours(c.rows, phrase.In("en")), ","); got != c.want {
			t.Errorf("%q: %q, want %q", c.rows, got, c.want)
		}
	}
}
