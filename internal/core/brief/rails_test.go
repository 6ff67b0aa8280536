package brief_test

import (
	"encoding/json"
	"slices"
	"testing"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
)

// TestCrosses: each rail holds what it is about, as deep as it stands in a value, and nothing
// else; one that is down holds nothing.
func TestCrosses(t *testing.T) {
	text := func(s string) *string { return &s }
	kit := &brand.Kit{
		Palettes: []brand.Palette{{ID: "main", Colours: []brand.Colour{{Token: "main.river", Value: colour.RGB{R: 15, G: 61, B: 76}}}}},
		TypeSets: []brand.TypeSet{{ID: "a", Levels: map[brand.Level]brand.Style{brand.Headline: {Family: "Gabarito"}, brand.Body: {Family: "Figtree"}}}},
		Voice:    brand.Voice{NeverSays: []string{"extreme"}},
	}
	adjust := func(slot, property string, value string) brief.Adjustment {
		return brief.Adjustment{Reach: "set", Slot: slot, Property: property, Value: json.RawMessage(value)}
	}
	for name, c := range map[string]struct {
		b    brief.Brief
		want []string
	}{
		"the kit's own": {brief.Brief{
			Cards:       []brief.Card{{Headline: text("Quiet water")}},
			Adjustments: []brief.Adjustment{adjust("headline", "fill", `"main.river"`), adjust("body", "fill", `"#0F3D4C"`), adjust("headline", "family", `"Figtree"`), adjust("logo", "file", `"a.svg"`), adjust("logo", "hidden", "true"), adjust("picture", "rotate", "3")},
		}, nil},
		"a colour":                {brief.Brief{Adjustments: []brief.Adjustment{adjust("headline", "fill", `"#FF0000"`)}}, []string{"colours"}},
		"a colour of a shadow":    {brief.Brief{Adjustments: []brief.Adjustment{adjust("headline", "shadow", `{"fill": "#FF0000", "blur": 0}`)}}, []string{"colours"}},
		"one of words in words":   {brief.Brief{Adjustments: []brief.Adjustment{adjust("headline", "runs", `[{"from": 0, "to": 3, "fill": "#FF0000"}]`)}}, []string{"colours"}},
		"two of a duotone":        {brief.Brief{Adjustments: []brief.Adjustment{adjust("picture", "duotone", `{"dark": "#000000", "light": "#FF0000"}`)}}, []string{"colours", "colours"}},
		"one of the brief's own":  {brief.Brief{Palette: []brief.Swatch{{Hex: "#FF0000"}, {Hex: "#0F3D4C"}}}, []string{"colours"}},
		"of what was added":       {brief.Brief{Adjustments: []brief.Adjustment{adjust("added-1", "part", `{"kind": "shape", "name": "band", "fill": "#FF0000", "at": [0.5, 0.5], "size": [0.2, 0.2]}`)}}, []string{"colours"}},
		"a face":                  {brief.Brief{Adjustments: []brief.Adjustment{adjust("headline", "family", `"Lobster"`)}}, []string{"faces"}},
		"a face of words":         {brief.Brief{Adjustments: []brief.Adjustment{adjust("headline", "runs", `[{"from": 0, "to": 3, "family": "Lobster"}]`)}}, []string{"faces"}},
		"the logo":                {brief.Brief{Adjustments: []brief.Adjustment{adjust("logo", "scale", "2"), adjust("logo", "fill", `"main.river"`)}}, []string{"logo", "logo"}},
		"what is never said":      {brief.Brief{Cards: []brief.Card{{Headline: text("Extreme kayaking")}}}, []string{"voice"}},
		"never said on a piece":   {brief.Brief{Adjustments: []brief.Adjustment{adjust("headline", "text", `"Extremely calm"`)}}, []string{"voice"}},
		"never said in something": {brief.Brief{Adjustments: []brief.Adjustment{adjust("added-2", "part", `{"kind": "words", "text": "extreme", "level": "body", "at": [0.5, 0.5], "size": [0.2, 0.2]}`)}}, []string{"voice"}},
	} {
		kit.Rails = brand.Rails{Colours: true, Faces: true, Logo: true, Voice: true}
		var got []string
		told := map[string]bool{}
		for _, x := range c.b.Crosses(kit) {
			got = append(got, x.Rail)
			if told[x.What+x.Words] || x.Words == "" {
				t.Errorf("%s: %+v is not told apart", name, x)
			}
			told[x.What+x.Words] = true
		}
		slices.Sort(got)
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: crosses %v, want %v", name, got, c.want)
		}
		kit.Rails = brand.Rails{SignOff: true}
		if got := c.b.Crosses(kit); len(got) > 0 {
			t.Errorf("%s: %v with rails down", name, got)
		}
	}
}
