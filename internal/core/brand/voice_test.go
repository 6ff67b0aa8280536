package brand_test

import (
	"strings"
	"testing"

	"aspenridge/internal/core/brand"
)

func TestVoiceChecksCopy(t *testing.T) {
	v := brand.Voice{NeverSays: []string{"extreme", "cheap"}}
	for text, want := range map[string]string{
		"Extremely quiet water.":            "never says “extreme”",
		"Not nonextreme.":                   "",
		"Come! Now! Quick!":                 "3 exclamation marks",
		"HURRY to the river":                "“HURRY” is typed in capitals",
		"A paddle \U0001F6F6 for you":       "an emoji",
		"NASA and the BBC came":             "",
		"Short. One thought each. Nothing.": "",
		strings.Repeat("word ", 30) + ".":   "a sentence of 31 words",
	} {
		got := strings.Join(v.Check(text), "; ")
		if (want == "") != (got == "") || !strings.HasPrefix(got, want) {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
	v.Emoji = true
	if got := v.Check("A paddle \U0001F6F6"); len(got) != 0 {
		t.Errorf("a voice that uses emoji: %v", got)
	}
}
