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
			if told.Text == "" || told.Kind == ToldColours && len(told.Colours) == 0 {
				t.Errorf("%q gives %+v", text, told)
			}
		}
	})
}
