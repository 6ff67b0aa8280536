package film

import (
	"errors"
	"math"
	"strings"

	"aspenridge/internal/core/brief"
)

// ErrCut means that a shot cannot be made two, or two one.
var ErrCut = errors.New("the shots stay as they are")

// Split makes two shots of one: behind the word of its headline at which so many letters are
// over, else in the middle. runs is how long it runs, s, and said what is said in it: words,
// what is said, its recording and its place in the clip are divided there. [ErrCut] for less
// than two words.
func Split(s brief.Shot, letters int, runs float64, said Spoken) ([2]brief.Shot, error) {
	words := strings.Fields(s.Headline)
	if len(words) < 2 {
		return [2]brief.Shot{}, cut("a shot of one word cannot be split")
	}
	first := wordsIn(s.Headline, letters)
	if first <= 0 || first >= len(words) {
		first = (len(words) + 1) / 2
	}
	share := float64(first) / float64(len(words))
	a, b := s, s
	b.ID, b.Role = "", Point
	if s.Role == Call { // what to do stays at the end
		a.Role, b.Role = Point, Call
	}
	a.Headline, b.Headline = strings.Join(words[:first], " "), strings.Join(words[first:], " ")
	a.Body = "" // it stands under the end of the words
	aloud, saidFirst := strings.Fields(s.Say), first
	if len(aloud) > 0 {
		saidFirst = min(max(1, int(math.Round(share*float64(len(aloud))))), len(aloud))
		a.Say, b.Say = strings.Join(aloud[:saidFirst], " "), strings.Join(aloud[saidFirst:], " ")
		if b.Say == "" {
			b.Silent = true
		}
	}
	at := share * runs // s of the shot
	if s.Recording != "" && saidFirst < len(said.Words) {
		a.Till = hundredths(s.Begins + said.Words[saidFirst].From)
		b.Begins = a.Till
		at = sayFrom + said.Words[saidFirst].From
	}
	if s.Seconds > 0 {
		a.Seconds = hundredths(min(max(at, brief.LeastSeconds), max(s.Seconds-brief.LeastSeconds, brief.LeastSeconds)))
		b.Seconds = hundredths(max(s.Seconds-a.Seconds, brief.LeastSeconds))
	}
	if s.Picture != "" {
		b.From = hundredths(s.From + at) // of a photograph it is nothing
	}
	return [2]brief.Shot{a, b}, nil
}

// Join makes one shot of two that follow each other; runs is how long the first one runs, s,
// speaks whether a voice says what is on no recording. [ErrCut] where that would lose what is
// said in one of them.
func Join(a, b brief.Shot, runs float64, speaks bool) (brief.Shot, error) {
	said := Script([]brief.Shot{a, b})
	out := a
	switch {
	case a.Recording != "" && a.Recording == b.Recording:
		out.Till = b.Till
	case a.Recording != "" && b.Recording != "":
		return a, cut("each of the two has a recording, and one shot takes one: take one of them out")
	case a.Recording != "" && speaks && said[1] != "", b.Recording != "" && speaks && said[0] != "":
		return a, cut("one of the two is on a recording and a voice says the other: take the recording out, or what is said")
	case b.Recording != "":
		out.Recording, out.Begins, out.Till = b.Recording, b.Begins, b.Till
	}
	out.Headline, out.Body = joined(a.Headline, b.Headline), joined(a.Body, b.Body)
	out.Silent = a.Silent && b.Silent
	if a.Say != "" || b.Say != "" || a.Silent != b.Silent {
		out.Say = joined(said[0], said[1])
	}
	out.Seconds = 0
	if a.Seconds > 0 && b.Seconds > 0 {
		out.Seconds = min(hundredths(a.Seconds+b.Seconds), brief.MostSeconds)
	}
	if out.Picture == "" {
		out.Picture, out.From, out.Mute, out.Whole = b.Picture, b.From, b.Mute, b.Whole
	} else if a.Picture == b.Picture && a.From != b.From && b.Seconds > 0 && math.Abs(a.From+runs-b.From) < 0.2 {
		out.Seconds = min(hundredths(runs+b.Seconds), brief.MostSeconds) // the clip goes on
	}
	return out, nil
}

func cut(why string) error { return &cutError{why} }

type cutError struct{ why string }

func (e *cutError) Error() string { return e.why }
func (e *cutError) Unwrap() error { return ErrCut }

func joined(a, b string) string { return strings.TrimSpace(a + " " + b) }

// wordsIn is how many words of a text are begun in its first letters (runes).
func wordsIn(text string, letters int) int {
	runes := []rune(text)
	return len(strings.Fields(string(runes[:min(max(letters, 0), len(runes))])))
}
