package film_test

import (
	"math"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/film"
	"aspenridge/internal/core/sound"
)

// TestWithout: a shot without its silences shows the stretches that lie in it, its words with the
// first, in all no longer than it was.
func TestWithout(t *testing.T) {
	s := brief.Shot{ID: "a", Role: film.Hook, Headline: "Listen", Picture: "river.jpg", From: 1}
	got := film.Without(s, 6, []sound.Stretch{{From: 0.2, To: 0.9}, {From: 0.8, To: 2.5}, {From: 3, To: 3.2}, {From: 4, To: 6}, {From: 6.5, To: 9}})
	want := [][2]float64{{1, 1.5}, {4, 2}, {6.5, 0.5}}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	sum := 0.0
	for i, w := range want {
		if math.Abs(got[i].From-w[0]) > 1e-9 || math.Abs(got[i].Seconds-w[1]) > 1e-9 || got[i].Picture != s.Picture {
			t.Errorf("%d: %+v, want %v", i, got[i], w)
		}
		if (got[i].Headline == "") != (i > 0) || (got[i].ID == "") != (i > 0) {
			t.Errorf("%d: its words are %q, its id %q", i, got[i].Headline, got[i].ID)
		}
		sum += got[i].Seconds
	}
	if sum > 6 {
		t.Errorf("%.1f s of 6", sum)
	}
	for _, heard := range [][]sound.Stretch{nil, {{From: 20, To: 30}}} {
		if got := film.Without(s, 6, heard); len(got) != 1 || got[0] != s {
			t.Errorf("with %v heard: %+v", heard, got)
		}
	}
}
