package brief_test

import (
	"testing"

	"aspenridge/internal/core/brief"
)

func TestShortForProposesAClause(t *testing.T) {
	for headline, want := range map[string]string{
		"Quiet water": "",
		"Quiet water, first strokes for everyone in May":  "Quiet water",
		"Chanterelles are in from Saturday at the stall":  "Chanterelles are in",
		"Learn to read the river before it reads you":     "Learn to read the river",
		"Donaudampfschifffahrtsgesellschaftskapitän geht": "Donaudampfschifffahrtsgesellschaftskapitän",
		"": "",
	} {
		if got := brief.ShortFor(headline); got != want {
			t.Errorf("%q is shortened to %q, want %q", headline, got, want)
		}
	}
}

func TestAShortHeadlineGoesStale(t *testing.T) {
	p := func(s string) *string { return &s }
	for name, c := range map[string]struct {
		card brief.Card
		want bool
	}{
		"written for this one":   {brief.Card{Headline: p("Quiet  water"), ShortHeadline: p("Quiet"), ShortOf: p("quiet water")}, false},
		"written for another":    {brief.Card{Headline: p("Loud water"), ShortHeadline: p("Quiet"), ShortOf: p("Quiet water")}, true},
		"nobody knows for which": {brief.Card{Headline: p("Loud water"), ShortHeadline: p("Quiet")}, false},
		"there is none":          {brief.Card{Headline: p("Loud water"), ShortHeadline: p(" "), ShortOf: p("Quiet water")}, false},
	} {
		if got := c.card.ShortIsStale(); got != c.want {
			t.Errorf("%s: stale %v", name, got)
		}
	}
}
