package caption

import (
	"errors"
	"fmt"
	"html"
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

// ErrFile means captions cannot be read, or are none.
var ErrFile = errors.New("captions")

// MostCues is how many captions a file may have.
const MostCues = 2000

// LongestCue is how many letters one may have.
const LongestCue = 400

// SRT are captions as SubRip has them.
func SRT(cues []Cue) []byte {
	var b strings.Builder
	for i, c := range cues {
		fmt.Fprintf(&b, "%d\n%s --> %s\n%s\n\n", i+1, clock(c.From, ","), clock(c.To, ","), c.Text)
	}
	return []byte(b.String())
}

// VTT are captions as WebVTT (W3C) has them.
func VTT(cues []Cue) []byte {
	var b strings.Builder
	b.WriteString("WEBVTT\n\n")
	for i, c := range cues {
		fmt.Fprintf(&b, "%d\n%s --> %s\n%s\n\n", i+1, clock(c.From, "."), clock(c.To, "."), escaped.Replace(c.Text))
	}
	return []byte(b.String())
}

var escaped = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")

func clock(t float64, point string) string {
	ms := int(math.Round(1000 * math.Max(0, t)))
	return fmt.Sprintf("%02d:%02d:%02d%s%03d", ms/3600000, ms/60000%60, ms/1000%60, point, ms%1000)
}

var (
	arrow = regexp.MustCompile(`^\s*(-?[\d:.,]+)\s+-->\s+(-?[\d:.,]+)(\s.*)?$`)
	stamp = regexp.MustCompile(`^(?:(\d{1,3}):)?(\d{1,2}):(\d{1,2})(?:[.,](\d{1,3}))?$`)
	tags  = regexp.MustCompile(`(?i)</?(?:i|b|u|s|font|c|v|lang|ruby|rt|[\d:.]+)(?:[\s.][^>]*)?>|\{\\[^}]*\}`)
)

// Read reads SubRip or WebVTT. Captions come back in order of time; those that overlap are
// shortened to where the next begins, empty ones are left out. Errors name the line.
func Read(data []byte) ([]Cue, error) {
	text := strings.TrimPrefix(string(data), "\ufeff")
	if !utf8.ValidString(text) {
		return nil, fmt.Errorf("%w: the file is not text in UTF-8; save it as UTF-8", ErrFile)
	}
	lines := strings.Split(strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text), "\n")
	var out []Cue
	for i := 0; i < len(lines); i++ {
		if !strings.Contains(lines[i], "-->") {
			continue
		}
		c, err := times(lines[i])
		if err != nil {
			return nil, fmt.Errorf("%w: line %d: %w", ErrFile, i+1, err)
		}
		var said []string
		at := i + 1
		for i++; i < len(lines) && strings.TrimSpace(lines[i]) != "" && !strings.Contains(lines[i], "-->"); i++ {
			said = append(said, strings.TrimSpace(html.UnescapeString(tags.ReplaceAllString(lines[i], ""))))
		}
		if i < len(lines) && strings.Contains(lines[i], "-->") { // no empty line between: its number belongs to the next
			said = said[:max(0, len(said)-1)]
			i--
		}
		if c.Text = strings.TrimSpace(strings.Join(said, "\n")); c.Text == "" {
			continue
		}
		if n := utf8.RuneCountInString(c.Text); n > LongestCue {
			return nil, fmt.Errorf("%w: line %d: a caption of %d letters; at most %d", ErrFile, at+1, n, LongestCue)
		}
		if out = append(out, c); len(out) > MostCues {
			return nil, fmt.Errorf("%w: more than %d captions", ErrFile, MostCues)
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("%w: none found; want SubRip (.srt) or WebVTT (.vtt), with times like 00:00:01,000 --> 00:00:03,500", ErrFile)
	}
	return InOrder(out), nil
}

// InOrder sorts captions by time and lets none reach into the next.
func InOrder(cues []Cue) []Cue {
	slices.SortStableFunc(cues, func(a, b Cue) int {
		switch {
		case a.From < b.From:
			return -1
		case a.From > b.From:
			return 1
		}
		return 0
	})
	for i := range len(cues) - 1 {
		if c := &cues[i]; c.To > cues[i+1].From {
			c.To = math.Max(c.From, cues[i+1].From)
		}
	}
	return slices.DeleteFunc(cues, func(c Cue) bool { return c.To-c.From < epsilon })
}

// times reads the line that says when a caption is seen.
func times(line string) (c Cue, err error) {
	m := arrow.FindStringSubmatch(line)
	if m == nil {
		return c, fmt.Errorf("%.60q: want two times like 00:00:01,000 --> 00:00:03,500", strings.TrimSpace(line))
	}
	if c.From, err = seconds(m[1]); err == nil {
		c.To, err = seconds(m[2])
	}
	if err == nil && c.To <= c.From {
		err = fmt.Errorf("it ends (%s) before it begins (%s)", m[2], m[1])
	}
	return c, err
}

func seconds(s string) (float64, error) {
	m := stamp.FindStringSubmatch(s)
	if m == nil {
		return 0, fmt.Errorf("time %.30q: want hours, minutes, seconds and thousandths like 00:01:02,345", s)
	}
	n := func(s string) (v float64) {
		for _, r := range s {
			v = 10*v + float64(r-'0')
		}
		return v
	}
	if n(m[2]) > 59 || n(m[3]) > 59 {
		return 0, fmt.Errorf("time %q: minutes and seconds go to 59", s)
	}
	return 3600*n(m[1]) + 60*n(m[2]) + n(m[3]) + n((m[4] + "000")[:3])/1000, nil
}
