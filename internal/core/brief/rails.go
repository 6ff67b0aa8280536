package brief

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// Crossing is something in a brief that goes beyond what its kit leaves to everybody
// ([brand.Rails]).
type Crossing struct {
	Rail  string // one of [brand.RailNames]
	What  string // what crosses it, told apart from all others
	Words string // what is the matter, for people
}

// Crosses lists what in a brief goes beyond the rails of its kit: whatever will be drawn, said or
// written, by whichever way it came into the brief and however it is spelled.
func (b *Brief) Crosses(k *brand.Kit) (out []Crossing) {
	add := func(rail, what, format string, args ...any) {
		if k.Rails.On(rail) {
			out = append(out, Crossing{rail, rail + " " + what, fmt.Sprintf(format, args...)})
		}
	}
	for _, s := range b.Palette {
		if c, err := colour.Parse(s.Hex); err == nil && !ofKit(k, c) {
			add("colours", fmt.Sprint("palette ", c), "%s is none of the kit’s colours", s.Hex)
		}
	}
	for i, l := range b.Looks {
		for _, c := range foreign(k, plain(l)) {
			add("colours", fmt.Sprint("look ", i, " ", c), "%s is none of the kit’s colours", c)
		}
	}
	for _, a := range b.Adjustments {
		b.crossed(k, a, add)
	}
	for i, c := range b.Cards {
		where := cmp.Or(c.ID, fmt.Sprint("card ", i))
		words := c.Words(&brand.Kit{Language: k.Language}, b.Language)
		for _, slot := range slices.Sorted(maps.Keys(words)) {
			checkVoice(k, fmt.Sprint(where, " ", slot), words[slot], add)
		}
		drawn := slices.Collect(maps.Values(words))
		for _, text := range textsOf(c, notWords) { // alternatives, and what stands in files beside
			if !slices.ContainsFunc(drawn, func(d string) bool { return strings.Contains(d, text) }) {
				checkVoice(k, fmt.Sprint(where, " ", text), text, add)
			}
		}
	}
	if b.Video != nil {
		for i, s := range b.Video.Shots {
			for field, text := range map[string]string{"headline": s.Headline, "body": s.Body, "say": s.Say} {
				checkVoice(k, fmt.Sprint("shot ", cmp.Or(s.ID, fmt.Sprint(i)), " ", field), text, add)
			}
		}
		for _, c := range b.Video.Cues {
			checkVoice(k, fmt.Sprint("caption at ", c.From), c.Text, add)
		}
	}
	slices.SortStableFunc(out, func(a, b Crossing) int { return cmp.Compare(a.What, b.What) })
	return out
}

// crossed lists what an adjustment does beyond the rails.
func (b *Brief) crossed(k *brand.Kit, a Adjustment, add func(rail, what, format string, args ...any)) {
	key := a.Key() + " " + string(a.Value)
	if !slices.Contains(notColours, a.Property) {
		for _, c := range foreign(k, plain(a.Value)) {
			add("colours", key, "%s is none of the kit’s colours", c)
		}
	}
	for _, family := range families(a) {
		if !slices.ContainsFunc(k.TypeSets, func(t brand.TypeSet) bool { return t.Sets(family) }) {
			add("faces", key, "%s is none of the kit’s faces", family)
		}
	}
	if a.Slot == "logo" && a.Property != "file" && a.Property != "hidden" && a.Property != "name" && a.Property != "locked" {
		label := a.Property
		if p, ok := PropertyOf(a.Property); ok {
			label = p.Label
		}
		add("logo", key, "the logo stays as it is: its %s is the kit’s to say", label)
	}
	switch d, err := addedOf(a.Value); {
	case a.Property == "text":
		checkVoice(k, a.Key(), a.Text(), add)
	case a.Property == "part" && err == nil:
		checkVoice(k, a.Key(), d.Text, add)
		if k.Rails.Logo && d.File != "" && slices.ContainsFunc(k.Logos, func(l brand.Logo) bool { return l.File == d.File }) {
			add("logo", key, "the logo stands where the layout has it: it is not added once more")
		}
	}
}

func checkVoice(k *brand.Kit, where, text string, add func(rail, what, format string, args ...any)) {
	for _, w := range k.Voice.NeverSaid(text) {
		add("voice", where+" "+w, "the kit never says “%s”", w)
	}
}

// notWords are the members of a card whose texts nobody reads.
var notWords = []string{"id", "file", "clip", "icon", "picture", "date", "from", "to", "until", "shortOf"}

// textsOf are the texts in a value but those of some members.
func textsOf(v any, but []string) (out []string) {
	walk(plain(v), func(member, s string) {
		if s != "" && !slices.Contains(but, member) {
			out = append(out, s)
		}
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// plain is a value as JSON has it; nil for one that is none.
func plain(v any) (out any) {
	if data, err := json.Marshal(v); err == nil {
		_ = json.Unmarshal(data, &out) // what was just written
	}
	return out
}

// notColours are the properties whose values are words or names, which may be those of colours.
var notColours = []string{"text", "name", "group", "family", "file", "frame", "layout", "level", "case", "align", "arrange"}

func ofKit(k *brand.Kit, c colour.RGB) bool {
	return slices.ContainsFunc(k.Colours(), func(own brand.Colour) bool { return own.Value == c })
}

// neutrals are the tokens of colours that are there for every kit, which few have.
var neutrals = map[string]colour.RGB{"neutral.white": colour.White, "neutral.black": colour.Black}

// foreign are the colours in a value, however deep and however spelled, that are none of the
// kit's. Members that hold words, names and files are none of colours.
func foreign(k *brand.Kit, v any) (out []string) {
	walk(v, func(member, s string) {
		if slices.Contains([]string{"text", "word", "family", "name", "file", "id", "layout", "icon", "kind", "typeSet"}, member) {
			return
		}
		c, err := colour.Parse(s)
		if n, ok := neutrals[s]; ok {
			c, err = n, nil
		}
		if err == nil && !ofKit(k, c) {
			out = append(out, s)
		}
	})
	slices.Sort(out)
	return out
}

// families are the families of letters an adjustment names.
func families(a Adjustment) (out []string) {
	if a.Property == "family" {
		return []string{a.Text()}
	}
	if a.Property == "text" {
		return nil
	}
	walk(plain(a.Value), func(member, s string) {
		if member == "family" && s != "" {
			out = append(out, s)
		}
	})
	return out
}

// walk visits every text in a JSON value, with the member it is the value of.
func walk(v any, visit func(member, s string)) {
	switch v := v.(type) {
	case string:
		visit("", v)
	case []any:
		for _, one := range v {
			walk(one, visit)
		}
	case map[string]any:
		for member, one := range v {
			if s, ok := one.(string); ok {
				visit(member, s)
			} else {
				walk(one, visit)
			}
		}
	}
}
