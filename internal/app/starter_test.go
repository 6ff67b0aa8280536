package app_test

import (
	"errors"
	"maps"
	"testing"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/starter"
)

// TestAKitFromNothing: every direction makes a kit with roles, type and a
// wordmark in three tones, each readable where it is meant to go.
func TestAKitFromNothing(t *testing.T) {
	a, m, _, _ := open(t)
	for _, d := range starter.Directions() {
		id, err := a.Kits.StartFrom(t.Context(), m, app.Beginning{Name: "Pellow & Finch", Does: "A mushroom farm", Values: []string{"patience"}}, d.ID)
		if err != nil {
			t.Fatalf("%s: %v", d.ID, err)
		}
		k, err := a.Kits.Kit(t.Context(), m, id)
		if err != nil {
			t.Fatal(err)
		}
		if m := a.Kits.Manner(k); m.Corners != d.Manner.Corners || m.Density != d.Manner.Density || m.Contrast != d.Manner.Contrast || m.Lines != d.Manner.Lines || m.Ornament != d.Manner.Ornament {
			t.Errorf("%s: the kit builds with %s", d.ID, m)
		}
		roles := map[brand.Role]bool{}
		for _, c := range k.Colours() {
			roles[c.Role] = true
		}
		if !roles[brand.Lead] || !roles[brand.Ground] || !roles[brand.Ink] || len(k.Neutrals) > 0 || k.TypeSets[0].Levels[brand.Headline].Family != d.Head || k.Values[0] != "patience" {
			t.Errorf("%s: roles %v, neutrals %v", d.ID, roles, k.Neutrals)
		}
		if len(k.Logos) != 3 || !k.Logos[0].Lead {
			t.Fatalf("%s: %d logos", d.ID, len(k.Logos))
		}
		light, dark := k.Extremes()
		for i, on := range []colour.RGB{light, dark, light} {
			if l := k.Logos[i]; !l.Fits(on) || l.Art.SVG == "" {
				t.Errorf("%s: the wordmark %s does not read on %s", d.ID, l.Tone, on.Hex())
			}
		}
	}
	// what was shown is what its first look is
	for _, d := range starter.Directions() {
		b := app.Beginning{Name: "Pellow & Finch", Does: "A mushroom farm"}
		job, shown, err := a.Kits.Sample(b, d)
		if err != nil {
			t.Fatal(err)
		}
		id, err := a.Kits.StartFrom(t.Context(), m, b, d.ID)
		if err != nil {
			t.Fatal(err)
		}
		k := kitOf(t, a, m, id)
		if first := a.Kits.SampleJob(k, b.Card()).First(); first.Layout != shown.Layout || !maps.Equal(first.Seats, shown.Seats) {
			t.Errorf("%s was shown as %s %v, its first look is %s %v", d.ID, shown.Layout, shown.Seats, first.Layout, first.Seats)
		}
		asked, asks := job.Brief.Cards[0].Words(job.Kit, "")["callToAction"], (brief.Card{}).Words(k.Kit, "")["callToAction"]
		if asked == "" || asks != asked {
			t.Errorf("%s asked %q where it was shown, the kit asks %q", d.ID, asked, asks)
		}
	}
	for name, direction := range map[string]string{"": "oven", "Finch": "nowhere"} {
		if _, err := a.Kits.StartFrom(t.Context(), m, app.Beginning{Name: name}, direction); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("%q in %q: %v", name, direction, err)
		}
	}
}

// TestAKitFromALogo: the logo's colours with roles, a neutral, and round faces
// for a round mark, straight ones for a straight one.
func TestAKitFromALogo(t *testing.T) {
	a, m, _, _ := open(t)
	soft := func(svg string) float64 {
		t.Helper()
		id, err := a.Kits.NewKit(t.Context(), m, "")
		if err != nil {
			t.Fatal(err)
		}
		if err := a.Kits.FromLogo(t.Context(), m, id, "tab"); !errors.Is(err, app.ErrInvalid) {
			t.Errorf("without a logo: %v", err)
		}
		if err := a.Brand.AddLogo(t.Context(), m, id, "tab", "mark.svg", []byte(svg)); err != nil {
			t.Fatal(err)
		}
		if err := a.Kits.FromLogo(t.Context(), m, id, "tab"); err != nil {
			t.Fatal(err)
		}
		k, err := a.Kits.Kit(t.Context(), m, id)
		if err != nil {
			t.Fatal(err)
		}
		if k.BestContrast() < brand.SmallText || len(k.Offers) > 0 || len(k.Colours()) < 2 {
			t.Errorf("contrast %.1f, %d offers left, %d colours", k.BestContrast(), len(k.Offers), len(k.Colours()))
		}
		for _, d := range starter.Directions() {
			if d.Head == k.TypeSets[0].Levels[brand.Headline].Family && d.Text == k.TypeSets[0].Levels[brand.Body].Family {
				return d.Soft
			}
		}
		t.Fatal("the type is of no direction")
		return 0
	}
	round := soft(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" fill="#B0684A"/></svg>`)
	straight := soft(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><path d="M1 1L9 1L9 4L4 9L1 9Z" fill="#B0684A"/></svg>`)
	if round <= straight {
		t.Errorf("a disc leads to softness %.1f, a plate with corners to %.1f", round, straight)
	}
}

func ptr(s string) *string { return &s }
