package app_test

import (
	"encoding/json"
	"errors"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/edit"
)

// A brief made again has the same looks, pictures and places; its words are
// pointed out while nobody has written others. The next of a series counts on.
func TestABriefIsMadeAgain(t *testing.T) {
	a, m, kit, _ := open(t)
	id, err := a.Briefs.ImportBrief(t.Context(), m, kit, []byte(`{"formatVersion":1,"name":"Tip 9","cards":[{"headline":"Tip 9: read the eddy line","subheading":"Part 9 of 10","body":"Boats for 3","shortHeadline":"Tip 9","emphasis":["eddy"],"when":{"date":"2026-12-29","weekday":"Tuesday"},"offer":{"percent":10,"until":"2026-12-31"}}],
		"placements":["story","feed-square"],"adjustments":[{"reach":"piece:story","slot":"headline","property":"text","value":"Read it"},{"reach":"set","slot":"logo","property":"file","value":""}]}`))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := a.Sets.Turn(t.Context(), m, id, "tab", app.Step{What: "layout", By: 1}); err != nil {
		t.Fatal(err)
	}
	was := setOf(t, a, m, id)

	same, err := a.Briefs.MakeAgain(t.Context(), m, id, app.OtherWords)
	if err != nil {
		t.Fatal(err)
	}
	s := setOf(t, a, m, same)
	if s.Title() != "Tip 10" || len(s.Looks) != len(was.Looks) || !s.CurrentLook().Same(was.CurrentLook()) || len(s.Brief.Placements) != 2 {
		t.Errorf("made again: %q with %d looks and %d places", s.Title(), len(s.Looks), len(s.Brief.Placements))
	}
	if c := s.Brief.Cards[0]; c.ShortHeadline != nil || len(c.Emphasis) != 0 || len(s.Brief.Adjustments) != 1 {
		t.Errorf("of the words there were, it keeps %v, %v and %+v", c.ShortHeadline, c.Emphasis, s.Brief.Adjustments)
	}
	left := func(s *app.Set) (n int) {
		for _, matter := range s.Findings(s.Pieces()) {
			if matter.Code == "sample" {
				n++
			}
		}
		return n
	}
	if left(s) == 0 {
		t.Error("nobody says that the words are still those of the one before")
	}
	card := s.Brief.Cards[0].ID
	for _, f := range []string{"headline", "subheading", "body"} {
		text, err := json.Marshal("Something else for the " + f)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := a.Documents.Edit(t.Context(), m, same, app.Change{Base: app.Latest, Op: edit.Op{Path: "/cards/@" + card + "/" + f, Value: text}}); err != nil {
			t.Fatal(err)
		}
	}
	if n := left(setOf(t, a, m, same)); n != 0 {
		t.Errorf("%d lines are said to be left in after all are written anew", n)
	}

	twin, err := a.Briefs.MakeAgain(t.Context(), m, id, app.ToTry)
	if err != nil {
		t.Fatal(err)
	}
	if c := setOf(t, a, m, twin); c.Title() == was.Title() || len(c.Brief.Adjustments) != len(was.Brief.Adjustments) || *c.Brief.Cards[0].Headline != *was.Brief.Cards[0].Headline || left(c) != 0 {
		t.Errorf("the copy is %q, adjusted %d times, and says %q", c.Title(), len(c.Brief.Adjustments), *c.Brief.Cards[0].Headline)
	}

	next, err := a.Briefs.MakeAgain(t.Context(), m, id, app.NextInSeries)
	if err != nil {
		t.Fatal(err)
	}
	s = setOf(t, a, m, next)
	c := s.Brief.Cards[0]
	if text(c.Headline) != "Tip 10: read the eddy line" || text(c.Subheading) != "Part 10 of 10" || text(c.Body) != "Boats for 3" {
		t.Errorf("the next says %q, %q, %q", text(c.Headline), text(c.Subheading), text(c.Body))
	}
	if c.When.Date != "2027-01-05" || c.When.Weekday != "Tuesday" || c.Offer.Until != "2027-01-07" || s.Brief.Name != "Tip 10" {
		t.Errorf("the next is %q on %s, %s, until %s", s.Brief.Name, c.When.Weekday, c.When.Date, c.Offer.Until)
	}
	if n := len(s.Brief.Adjustments); n != 1 {
		t.Errorf("%d adjustments, want the logo's alone", n)
	}
	if _, err := a.Briefs.MakeAgain(t.Context(), m, id, "backwards"); !errors.Is(err, app.ErrInvalid) {
		t.Errorf("made again backwards: %v", err)
	}
}

// Briefs are found by what they say, by their kit and by where they go.
func TestBriefsAreFound(t *testing.T) {
	a, m, kit, first := open(t)
	other, err := a.Briefs.ImportBrief(t.Context(), m, kit, []byte(`{"formatVersion":1,"cards":[{"headline":"Chanterelles are in","facts":[{"text":"Six baskets left"}]}],"placements":["ad-728x90"]}`))
	if err != nil {
		t.Fatal(err)
	}
	for words, want := range map[string][]app.ID{
		"":                   {other, first},
		"chanterelles":       {other},
		"BASKETS larkmoor":   {other},
		"story":              {first},
		"quiet water":        {first},
		"larkmoor":           {other, first},
		"chanterelles story": nil,
		"headline":           nil, // a field's name is not what it says
		"%' or true --":      nil,
	} {
		sets, unread, more, err := a.Briefs.FindBriefs(t.Context(), m, words, 0)
		if err != nil {
			t.Fatalf("%q: %v", words, err)
		}
		ok := len(sets) == len(want) && !more && len(unread) == 0
		for i := range sets {
			ok = ok && sets[i].Doc.ID == want[i]
		}
		if !ok {
			t.Errorf("%q finds %d (more: %v), want %d", words, len(sets), more, len(want))
		}
	}
	if sets, _, more, err := a.Briefs.FindBriefs(t.Context(), m, "", 1); err != nil || len(sets) != 1 || more || sets[0].Doc.ID != first {
		t.Errorf("from the second on: %d, more: %v, %v", len(sets), more, err)
	}
}

func setOf(t *testing.T, a *app.App, m app.Member, id app.ID) *app.Set {
	t.Helper()
	s, err := a.Sets.Set(t.Context(), m, id)
	if err != nil {
		t.Fatal(err)
	}
	return s
}
