package brand

import (
	"fmt"
	"strings"
	"testing"
)

// A style guide of twenty lines, as people paste it, in English and in German.
func TestStyleGuides(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		want []string // kind, field or level, text
	}{
		"english": {`# Pellow & Finch – Brand guidelines
Tagline: Fresh from the dark

## Colours
Primary: Wine #7A2E3A (RGB 122 46 58, CMYK 0 62 52 52)
Secondary colour: #26432F
- Accent — Chanterelle #E9A23B
Background: Cream #F4ECD8
Text: #1B1A17

## Typography
Headings: Gabarito Bold, 48 px
Body text – Figtree Regular

## Voice
Tone of voice: plain, warm, never loud
We say: basket, morning, stall
Never say: cheap, deal; hurry

Website: https://pellow.example/
Handle: @pellowfinch
Phone: 01632 960118
Address: 4 Mill Lane, Larkmoor
Mission: Mushrooms for everybody within a morning's walk
We always photograph the mushrooms on dark wood.
`, []string{
			"name  Pellow & Finch", "field tagline Fresh from the dark",
			"colours  Wine #7A2E3A lead, #26432F support, Chanterelle #E9A23B accent, Cream #F4ECD8 ground, #1B1A17 ink",
			"font headline Gabarito Bold, 48 px", "font body Figtree Regular",
			"field voice/sounds plain, warm, never loud", "list voice/says [basket morning stall]", "list voice/neverSays [cheap deal hurry]",
			"website  pellow.example", "handle  @pellowfinch", "phone  01632 960118", "field place 4 Mill Lane, Larkmoor",
			"other  Mushrooms for everybody within a morning's walk", "other  We always photograph the mushrooms on dark wood.",
		}},
		"german": {`Marke: Pellow & Fink
Slogan: Frisch aus dem Dunkel
Farben
Hauptfarbe: #7A2E3A
Akzent: Pfifferling #E9A23B
Hintergrund: #F4ECD8
Typografie
Überschriften: Gabarito
Fließtext: Figtree
Zielgruppe: Wer früh aufsteht
Werte: Geduld, Handwerk
`, []string{
			"name  Pellow & Fink", "field tagline Frisch aus dem Dunkel", "colours  #7A2E3A lead, Pfifferling #E9A23B accent, #F4ECD8 ground",
			"font headline Gabarito", "font body Figtree", "field voice/reader Wer früh aufsteht", "list values [Geduld Handwerk]",
		}},
		"no style guide":      {"Chanterelles are in: from Saturday\nText: bring a basket", []string{"words  Chanterelles are in: from Saturday", "copy body bring a basket"}},
		"a label and a value": {"Call to action: Reserve a basket\n#mushrooms", []string{"list callsToAction [Reserve a basket]", "hashtag  #mushrooms"}},
		"under a heading":     {"Never say\ncheap, deal\nhurry\n", []string{"list voice/neverSays [cheap deal]", "list voice/neverSays [hurry]"}},
	} {
		var got []string
		for _, told := range SortWords(c.text) {
			says := told.Text
			switch told.Kind {
			case LineColours:
				var list []string
				for i, c := range told.Colours {
					role := ""
					if i < len(told.Roles) {
						role = string(told.Roles[i])
					}
					list = append(list, strings.TrimSpace(fmt.Sprint(c.Name, " ", c.Colour.Hex(), " ", role)))
				}
				says = strings.Join(list, ", ")
			case LineList:
				says = fmt.Sprint(told.Items)
			}
			got = append(got, fmt.Sprintf("%s %s%s %s", told.Kind, told.Field, told.Level, says))
		}
		for i := range max(len(got), len(c.want)) {
			g, w := "nothing", "nothing"
			if i < len(got) {
				g = got[i]
			}
			if i < len(c.want) {
				w = c.want[i]
			}
			if g != w {
				t.Errorf("%s, %d: %s\nwant %s", name, i, g, w)
			}
		}
	}
}

func TestFamilyIn(t *testing.T) {
	known := []string{"Gabarito", "Figtree", "Noto Sans", "Noto Sans Mono"}
	for text, want := range map[string]string{
		"Gabarito Bold, 48 px": "Gabarito 700", "figtree": "Figtree 0", "Noto Sans Mono Semi Bold": "Noto Sans Mono 600",
		"Noto Sans (400)": "Noto Sans 400", "Gabaritos": " 0", "Something Bold": " 0",
	} {
		family, weight, ok := FamilyIn(text, known)
		if got := fmt.Sprint(family, " ", weight); got != want || ok != (family != "") {
			t.Errorf("%q is %q, want %q", text, got, want)
		}
	}
}
