package film_test

import (
	"errors"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/film"
)

// TestSplitDividesWhatIsSaid: nothing of a shot is in both of the two it becomes, and joined they
// are what it was.
func TestSplitDividesWhatIsSaid(t *testing.T) {
	s := brief.Shot{ID: "a", Role: "point", Headline: "Six calm Saturdays on the river", Say: "Six Saturdays, all of them calm, on the river by the old mill", Recording: "abc/me.flac", Picture: "def/film.mp4", From: 4, Seconds: 6, Body: "From May"}
	said := film.Recorded(s.Say, 5.2)
	two, err := film.Split(s, len("Six calm Satur"), 6, said)
	if err != nil {
		t.Fatal(err)
	}
	a, b := two[0], two[1]
	if a.Headline != "Six calm Saturdays" || b.Headline != "on the river" || b.ID != "" || a.ID != "a" {
		t.Errorf("the words: %q and %q", a.Headline, b.Headline)
	}
	if a.Say+" "+b.Say != s.Say || len(strings.Fields(a.Say)) < 5 || len(strings.Fields(b.Say)) < 5 {
		t.Errorf("what is said: %q and %q", a.Say, b.Say)
	}
	if a.Begins != 0 || a.Till != b.Begins || b.Till != 0 || a.Till < 1.5 || a.Till > 3.7 {
		t.Errorf("of the recording %v to %v and %v to %v", a.Begins, a.Till, b.Begins, b.Till)
	}
	if a.From != 4 || b.From < 4+a.Seconds-0.5 || b.From > 4+a.Seconds+0.5 || a.Seconds+b.Seconds < 5.9 || a.Seconds+b.Seconds > 6.1 {
		t.Errorf("of the clip from %v for %v and from %v for %v", a.From, a.Seconds, b.From, b.Seconds)
	}
	one, err := film.Join(a, b, a.Seconds, false)
	if err != nil {
		t.Fatal(err)
	}
	if one != s {
		t.Errorf("joined again it is %+v, it was %+v", one, s)
	}
	if _, err := film.Split(brief.Shot{Headline: "River"}, 3, 2, film.Spoken{}); !errors.Is(err, film.ErrCut) {
		t.Errorf("one word: %v", err)
	}
}

// TestJoinLosesNothing: what is said in either of two is said in the one, or they stay two.
func TestJoinLosesNothing(t *testing.T) {
	rec := func(file string) brief.Shot {
		return brief.Shot{Role: "point", Headline: "One " + file, Recording: file}
	}
	if _, err := film.Join(rec("a"), rec("b"), 3, false); !errors.Is(err, film.ErrCut) {
		t.Errorf("two recordings: %v", err)
	}
	if _, err := film.Join(rec("a"), brief.Shot{Role: "point", Headline: "Two"}, 3, true); !errors.Is(err, film.ErrCut) {
		t.Errorf("a recording and a voice: %v", err)
	}
	if got, err := film.Join(brief.Shot{Headline: "One"}, rec("b"), 3, false); err != nil || got.Recording != "b" {
		t.Errorf("the second's recording: %+v, %v", got, err)
	}
	got, err := film.Join(brief.Shot{Headline: "One", Say: "Number one"}, brief.Shot{Headline: "Two"}, 3, true)
	if err != nil || got.Headline != "One Two" || !strings.Contains(got.Say, "Number one") || !strings.Contains(got.Say, "Two") {
		t.Errorf("%+v, %v", got, err)
	}
	got, err = film.Join(brief.Shot{Headline: "One", Silent: true}, brief.Shot{Headline: "Two"}, 3, true)
	if err != nil || got.Silent || got.Say != "Two" {
		t.Errorf("a silent one and one that is said: %+v, %v", got, err)
	}
}
