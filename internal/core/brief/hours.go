package brief

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"aspenridge/internal/core/phrase"
)

// Opening is a row of opening hours as it is shown.
type Opening struct {
	Days  string // "Monday to Friday", or what was written where it names no days
	Hours string // "9:00–18:00", "closed"
}

// mostHours is how many rows of hours are shown: a week has seven days, holidays are more.
const mostHours = 14

// Openings reads opening hours, a row each as people write them ("Mon-Fri 9-18", "So geschlossen"),
// and writes them out in a language: days by their names, from Monday on, neighbours with the same
// hours in one row. Rows that name no days stand as they were written, after the others. No rows
// is nil.
func Openings(rows []string, in *phrase.Language) []Opening {
	var byDay [7][]string // Monday first
	var others []Opening
	for _, row := range rows[:min(len(rows), mostHours)] {
		days, hours := splitHours(row)
		list := weekdaysIn(days, in)
		if len(list) == 0 || hours == "" {
			if days+hours != "" {
				others = append(others, Opening{days, hours})
			}
			continue
		}
		if closed.MatchString(hours) {
			hours = in.Closed()
		}
		for _, d := range list {
			if at := (int(d) + 6) % 7; !slices.Contains(byDay[at], hours) {
				byDay[at] = append(byDay[at], hours)
			}
		}
	}
	var out []Opening
	for from := 0; from < 7; {
		hours := strings.Join(byDay[from], ", ")
		to := from
		for to+1 < 7 && strings.Join(byDay[to+1], ", ") == hours {
			to++
		}
		if hours != "" {
			out = append(out, Opening{in.Days(time.Weekday((from+1)%7), time.Weekday((to+1)%7)), hours})
		}
		from = to + 1
	}
	return append(out, others...)
}

// closed finds that a day has no hours, in the languages pieces may be in.
var closed = regexp.MustCompile(`(?i)^(?:closed|geschlossen|ruhetag|fermé|fermée|cerrado|gesloten|chiuso|fechado|encerrado|zamknięte|nieczynne|stängt|lukket|stengt|kapalı|suljettu|zavřeno|[-–—x])$`)

// hoursBegin is where the hours of a row begin: a time, or that there are none.
var hoursBegin = regexp.MustCompile(`(?i)\d|\b(?:closed|geschlossen|ruhetag|fermée?|cerrado|gesloten|chiuso|fechado|encerrado|zamknięte|nieczynne|stängt|lukket|stengt|kapalı|suljettu|zavřeno)`)

// span is a dash between two times.
var span = regexp.MustCompile(`(\d)\s*(?:-|–|—|\bto\b|\bbis\b)\s*(\d)`)

func splitHours(row string) (days, hours string) {
	row = strings.Join(strings.Fields(row), " ")
	at := hoursBegin.FindStringIndex(row)
	if at == nil {
		return row, ""
	}
	days = strings.TrimRight(strings.TrimSpace(row[:at[0]]), ":,–-— ")
	return days, span.ReplaceAllString(strings.TrimSpace(row[at[0]:]), "$1–$2")
}

// between parts days that stand for all from one to the other.
var between = regexp.MustCompile(`(?i)\s*(?:-|–|—|\bto\b|\bbis\b|\bau?\b|\btot\b|\bdo\b)\s*`)

// listed parts days that stand one by one.
var listed = regexp.MustCompile(`(?i)\s*(?:,|;|&|\+|/|\band\b|\bund\b|\bet\b|\by\b|\ben\b|\be\b|\bi\b)\s*`)

// weekdaysIn are the days a text names, nil where a part of it is none.
func weekdaysIn(text string, in *phrase.Language) (out []time.Weekday) {
	for _, part := range listed.Split(text, -1) {
		if part == "" {
			continue
		}
		ends := between.Split(part, -1)
		var days []time.Weekday
		for _, end := range ends {
			day, ok := in.WeekdayCalled(end)
			if !ok {
				return nil
			}
			days = append(days, day)
		}
		if len(days) == 2 {
			for d := days[0]; ; d = (d + 1) % 7 {
				out = append(out, d)
				if d == days[1] {
					break
				}
			}
			continue
		}
		out = append(out, days...)
	}
	return out
}

// OverlappingHours are the days for which two rows say different hours that share time, by their
// names; none where rows agree.
func OverlappingHours(rows []string, in *phrase.Language) (out []string) {
	type times struct{ from, to int }
	var byDay [7][]times
	for _, row := range rows {
		days, hours := splitHours(row)
		for _, d := range weekdaysIn(days, in) {
			for _, m := range clock.FindAllStringSubmatch(hours, -1) {
				t := times{minutesOf(m[1]), minutesOf(m[2])}
				if t.to <= t.from {
					t.to += 24 * 60 // past midnight
				}
				if slices.ContainsFunc(byDay[d], func(o times) bool { return t.from < o.to && o.from < t.to }) && !slices.Contains(out, in.Days(d, d)) {
					out = append(out, in.Days(d, d))
				}
				byDay[d] = append(byDay[d], t)
			}
		}
	}
	return out
}

var clock = regexp.MustCompile(`(\d{1,2}(?:[:.]\d{2})?)–(\d{1,2}(?:[:.]\d{2})?)`)
