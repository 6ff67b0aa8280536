package browser

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"aspenridge/internal/core/phrase"
)

// TestDatesAsTheBrowserWritesThem: days, months, weekdays and decimals of every language are those
// of Chromium, which takes them from its own copy of the CLDR (through ICU; ECMA-402).
func TestDatesAsTheBrowserWritesThem(t *testing.T) {
	b := openTab(t, "")
	for _, id := range phrase.Languages() {
		tag := map[string]string{"en": "en-GB"}[id]
		if tag == "" {
			tag = id + "-u-nu-latn"
		}
		in := phrase.In(id)
		for m := time.January; m <= time.December; m++ {
			d := time.Date(2027, m, 3+int(m), 12, 0, 0, 0, time.UTC)
			want := eval[[2]string](b, fmt.Sprintf(`((d) => ['day month', 'weekday'].map((what) => new Intl.DateTimeFormat(%q, what === 'weekday'
				? { weekday: 'long', timeZone: 'UTC' } : { day: 'numeric', month: 'long', timeZone: 'UTC' }).format(d)))(new Date(%d))`, tag, d.UnixMilli()))
			if got := in.Date(d); got != want[0] {
				t.Errorf("%s: %q, the browser has %q", id, got, want[0])
			}
			if days := phrase.WeekdaysCalled(want[1]); id != "fi" && (len(days) != 1 || days[0] != d.Weekday()) { // Finnish bends its weekdays
				t.Errorf("%s: %q is %v, want %v", id, want[1], days, d.Weekday())
			}
		}
		if want := eval[string](b, fmt.Sprintf(`new Intl.NumberFormat(%q, { maximumFractionDigits: 2 }).format(12345.5)`, tag)); in.Number(12345.5) != strings.ReplaceAll(want, "\u202f", "\u00a0") { // many faces have no narrow no-break space
			t.Errorf("%s: %q, the browser has %q", id, in.Number(12345.5), want)
		}
	}
}
