package brand

import (
	"fmt"
	"strings"
	"testing"
)

func TestSortWordsTellsLinesApart(t *testing.T) {
	for text, want := range map[string]string{
		"Pellow & Finch":               "name",
		"pellowfinch.example":          "website",
		"https://pellow.example/stall": "website",
		"@pellowfinch #mushrooms":      "handle hashtag",
		"#fff #0F3D4C":                 "colours",
		"#mushrooms":                   "hashtag",
		"River #0F3D4C\nSand #F6EBD6":  "colours",
		"navy, coral":                  "colours",
		"Coral":                        "name",
		"+44 1632 960 118":             "phone",
		"Chanterelles are in":          "words",
		"The facade opens on 3 May":    "words",
		"We are open from 10 to 6, every day but Monday.":       "words",
		"Fresh from the dark":                                   "words",
		"Müller Söhne":                                          "name",
		"مزرعة الفطر":                                           "name",
		"shop.pellow.example:8443/stall":                        "website",
		"Open day on Saturday, pellow.example, 01632 960118":    "words website phone",
		"Chanterelles are in. pellow.example +44 1632 960 118":  "words website phone",
		"Chanterelles are in · @pellowfinch":                    "words handle",
		"Write to us at pellow.example":                         "words",
		"Ring 01632 960118 for a basket":                        "words",
		"Pellow & Finch\nChanterelles are in\n#7A2E3A\n#26432F": "name words colours",
	} {
		var kinds []string
		for _, told := range SortWords(text) {
			kinds = append(kinds, string(told.Kind))
		}
		if got := strings.Join(kinds, " "); got != want {
			t.Errorf("%q is told as %s, want %s", text, got, want)
		}
	}
	if got := SortWords("River #0F3D4C\nSand #F6EBD6"); len(got[0].Colours) != 2 || fmt.Sprint(got[0].Colours[0].Name) != "River" {
		t.Errorf("two lines of colours are %+v", got)
	}
}

func FuzzSortWords(f *testing.F) {
	f.Add("Pellow & Finch\n@a #b\n#0F3D4C")
	f.Fuzz(func(t *testing.T, text string) {
		for _, told := range SortWords(text) {
			if told.Text == "" || told.Kind == LineColours && len(told.Colours) == 0 {
				t.Errorf("%q gives %+v", text, told)
			}
		}
	})
}

// TestAnInkIsNoName: the number of a printing ink has no colour of its own on a screen and is
// nobody's name; beside a value without a name it is the colour's.
func TestAnInkIsNoName(t *testing.T) {
	for _, line := range []string{"Ember 185 C", "Warm Red U", "Tide 3025 CP", "185 C", "Sand 14-1120 TCX"} {
		if got := SortWords(line); len(got) != 1 || got[0].Kind != LineInk {
			t.Errorf("%q is %+v, want an ink", line, got)
		}
	}
	for _, text := range []string{"Ember 185 C\n#1a2b3c", "#1a2b3c\nEmber 185 C"} {
		got := SortWords(text)
		if len(got) != 1 || len(got[0].Colours) != 1 || got[0].Colours[0].Name != "Ember 185 C" {
			t.Errorf("%q is %+v, want one colour called by its ink", text, got)
		}
	}
	for _, line := range []string{"Studio 54", "Atelier 1890", "Vitamin C", "Me and U", "Room 101"} {
		if got := SortWords(line); got[0].Kind != LineName {
			t.Errorf("%q is %+v, want a name", line, got)
		}
	}
}
