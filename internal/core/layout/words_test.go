package layout_test

import (
	"slices"
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/layout"
	"aspenridge/layouts"
)

// tiny is a layout of one tree, with the words and the parts around them as given.
func tiny(around, words string) (*layout.Layout, error) {
	return layout.Parse([]byte(`{"id": "tiny", "name": "Tiny", "revision": 1, "idea": "words alone", "align": "left", "buttonOn": "ground",
		"areas": {"ground": 1}, "trees": {"square": {"cell": {"seat": "ground", "content": {"stack": [
		{"text": "headline"}, ` + around + `{"words": ` + words + `}]}}}}}`))
}

func TestTheRestIsWhatStandsNowhereElse(t *testing.T) {
	without := func(list []string, out ...string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(s string) bool { return slices.Contains(out, s) })
	}
	for _, c := range []struct {
		around, words string
		want          []string
	}{
		{"", `"rest"`, brief.Rest},
		{"", `"brief"`, brief.RestInBrief},
		{`{"figure": "offer"}, {"text": "when"}, `, `"rest"`, without(brief.Rest, "offer", "when")},
		{`{"sections": 2}, `, `"rest"`, without(brief.Rest, "body")},
		{`{"words": ["terms", "where"]}, `, `["quote", "rest"]`, append([]string{"quote"}, without(brief.Rest, "quote", "terms", "where")...)},
		{"", `["tagline", "brief"]`, append([]string{"tagline"}, brief.RestInBrief...)},
		{"", `["where", "when"]`, []string{"where", "when"}},
	} {
		l, err := tiny(c.around, c.words)
		if err != nil {
			t.Errorf("%s beside %s: %v", c.words, c.around, err)
			continue
		}
		stack := l.Trees["square"].Cell.Content.Stack
		if got := stack[len(stack)-1].Words; !slices.Equal(got, c.want) {
			t.Errorf("%s beside %s is %v, want %v", c.words, c.around, got, c.want)
		}
	}
}

func TestWordsThatAreNoSlotAreRefused(t *testing.T) {
	for _, words := range []string{`["rest", "where"]`, `"others"`, `["ofer"]`, `7`, `[7]`} {
		if _, err := tiny("", words); err == nil || !strings.Contains(err.Error(), "words") {
			t.Errorf("words %s: %v", words, err)
		}
	}
}

// A copy field that a layout does not name must still be shown by it.
func TestEveryLayoutShowsEveryCopyFieldSomewhere(t *testing.T) {
	for _, l := range append(layouts.All(), layout.Plain()) {
		shows := map[string]bool{}
		l.Tree("square").Walk(func(n *layout.Node) {
			for _, slot := range append(slices.Clone(n.Words), n.Text, n.Figure, n.Tiles, n.Table) {
				shows[slot] = true
			}
			shows["body"] = shows["body"] || n.Sections != 0
			shows["website"] = shows["website"] || n.SignOff != ""
		})
		for _, slot := range brief.Rest {
			if !shows[slot] {
				t.Errorf("%s: %q stands nowhere in the square", l.ID, slot)
			}
		}
	}
}
