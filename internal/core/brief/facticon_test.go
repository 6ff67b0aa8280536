package brief_test

import (
	"testing"

	"aspenridge/assets"
	"aspenridge/internal/core/brief"
)

func TestIconsOfFacts(t *testing.T) {
	for fact, want := range map[string]string{
		"3 bedrooms":                "bed",
		"2 baths":                   "droplets",
		"Free parking":              "car",
		"95 m² of floor":            "ruler",
		"95m²":                      "ruler",
		"Drei Schlafzimmer":         "bed",
		"Stellplatz vor dem Haus":   "car",
		"Wanderwege vor der Tür":    "mountain",
		"Petit déjeuner compris":    "soup",
		"Aparcamiento":              "car",
		"Livraison en 2 jours":      "truck",
		"Open every day":            "clock",
		"Every Friday":              "calendar",
		"20 % off":                  "percent",
		"Small groups of six":       "users",
		"4.9 stars":                 "star",
		"Something else altogether": "",
		"":                          "",
	} {
		if got := brief.IconFor(fact); got != want {
			t.Errorf("%q has %q, want %q", fact, got, want)
		}
		if _, there := assets.Icons()[want]; want != "" && !there {
			t.Errorf("there is no icon %q", want)
		}
	}
}
