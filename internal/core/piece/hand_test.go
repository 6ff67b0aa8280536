package piece_test

import (
	"encoding/json"
	"slices"
	"testing"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/preflight"
	"aspenridge/internal/core/spec"
)

// What was changed by hand and finds nothing to hold on to any more is said, what is
// unreadable, off the canvas or overlapping by hand is pointed out; none of it is an
// error, and all of it can be lifted.
func TestHandWorkIsPointedOut(t *testing.T) {
	p, _ := spec.Find("feed-square")
	for code, doc := range map[string]string{
		"colour-gone": `{"reach":"set","slot":"headline","property":"highlight","value":"color.main.gone"}`,
		"hand-lost":   `{"reach":"class:square","slot":"headline","property":"breaks","value":[{"after":1,"word":"Nowhere"}]}`,
		"added-gone":  `{"reach":"set","slot":"added-a","property":"part","value":{"kind":"picture","file":"gone.png","at":[0.5,0.5],"size":[0.2,0.2]}}`,
		"contrast":    `{"reach":"set","slot":"headline","property":"highlight","value":"#777777"}`,
		"clipped":     `{"reach":"class:square","slot":"headline","property":"offset","value":[0.6,0]}`,
		"overlap":     `{"reach":"class:square","slot":"subheading","property":"offset","value":[0,-0.2]}`,
		"too-small":   `{"reach":"class:square","slot":"headline","property":"scale","value":0.05}`,
	} {
		j := testJob(t)
		var adj brief.Adjustment
		if err := json.Unmarshal([]byte(doc), &adj); err != nil {
			t.Fatal(err)
		}
		if err := adj.Check(); err != nil {
			t.Fatal(err)
		}
		look := j.Looks(1)[0]
		if before := j.Compose(look, p, 0).Findings; slices.ContainsFunc(before, func(f preflight.Finding) bool { return f.Code == code }) {
			t.Fatalf("%s is found before anything was changed: %+v", code, before)
		}
		j.Brief.Adjustments = []brief.Adjustment{adj}
		found := j.Compose(look, p, 0).Findings
		i := slices.IndexFunc(found, func(f preflight.Finding) bool { return f.Code == code })
		if i < 0 {
			t.Errorf("%s is not found: %+v", code, found)
			continue
		}
		if code != "added-gone" && !slices.Contains(found[i].Fixes, "lift") {
			t.Errorf("%s cannot be lifted: %+v", code, found[i])
		}
		if slices.ContainsFunc(found, func(f preflight.Finding) bool { return f.Severity == preflight.Error }) {
			t.Errorf("%s by hand is an error: %+v", code, found)
		}
		if preflight.Why(code) == "" {
			t.Errorf("nobody says why %s matters", code)
		}
	}
}
