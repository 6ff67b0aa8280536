package brief_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
)

func TestABriefNamesItself(t *testing.T) {
	for doc, want := range map[string]string{
		`{"name":"May campaign","cards":[{"headline":"Quiet water"}]}`:      "May campaign",
		`{"name":"","cards":[{"headline":"Quiet  water,\nfirst strokes"}]}`: "Quiet water, first strokes",
		`{"cards":[{"headline":"","quote":{"text":"I came to learn"}}]}`:    "I came to learn",
		`{"headline":"At the top"}`:                                         "At the top",
		`{"cards":[{"lines":["One","Two"]}]}`:                               "One",
		`{"cards":[{}]}`:                                                    "",
		`{"cards":[{"headline":"` + strings.Repeat("word ", 30) + `"}]}`:    strings.Repeat("word ", 11) + "word …",
	} {
		o, err := edit.ParseObject([]byte(doc))
		if err != nil {
			t.Fatal(err)
		}
		if got := brief.TitleOf(o); got != want {
			t.Errorf("%.60s is called %q, want %q", doc, got, want)
		}
	}
}

func TestSaidInFindsWordsAndPlacesOnly(t *testing.T) {
	o, err := edit.ParseObject([]byte(`{"name":"May","cards":[{"id":"k3","headline":"Quiet Water","pictures":[{"file":"secret.jpg","alt":"A canoe"}],"facts":[{"icon":"boat","text":"Six boats"}]}],"placements":["story"],"looks":[{"layout":"halves@1"}]}`))
	if err != nil {
		t.Fatal(err)
	}
	got := brief.WordsIn(o)
	for _, want := range []string{"may", "quiet water", "a canoe", "six boats", "story"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is not found in %q", want, got)
		}
	}
	for _, not := range []string{"secret", "halves", "k3", "boat\n"} {
		if strings.Contains(got, not) {
			t.Errorf("%q is found in %q", not, got)
		}
	}
}
