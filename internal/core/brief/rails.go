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

// Crosses lists what in a brief goes beyond the rails of its kit.
func (b *Brief) Crosses(k *brand.Kit) (out []Crossing) {
	add := func(rail, what, format string, args ...any) {
		if k.Rails.On(rail) {
			out = append(out, Crossing{rail, rail + " " + what, fmt.Sprintf(format, args...)})
		}
	}
	for i, s := range b.Palette {
		if c, err := colour.Parse(s.Hex); err == nil && !ofKit(k, c) {
			add("colours", fmt.Sprint("palette ", s.Hex), "%s is none of the kit’s colours", b.Palette[i].Hex)
		}
	}
	for _, a := range b.Adjustments {
		key := a.Key() + " " + string(a.Value)
		for _, hex := range foreign(k, a.Value) {
			add("colours", key, "%s is none of the kit’s colours", hex)
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
		if a.Property == "text" {
			b.says(k, a.Key(), a.Text(), add)
		}
		if d, err := addedOf(a.Value); a.Property == "part" && err == nil {
			b.says(k, a.Key(), d.Text, add)
		}
	}
	for i, c := range b.Cards {
		words := c.Words(&brand.Kit{})
		for _, slot := range slices.Sorted(maps.Keys(words)) {
			b.says(k, fmt.Sprint(cmp.Or(c.ID, fmt.Sprint("card ", i)), " ", slot), words[slot], add)
		}
	}
	return out
}

func (b *Brief) says(k *brand.Kit, where, text string, add func(rail, what, format string, args ...any)) {
	for _, w := range k.Voice.NeverSaid(text) {
		add("voice", where+" "+w, "the kit never says “%s”", w)
	}
}

func ofKit(k *brand.Kit, c colour.RGB) bool {
	return slices.ContainsFunc(k.Colours(), func(own brand.Colour) bool { return own.Value == c })
}

// foreign are the colours in a value, however deep, that are none of the kit's.
func foreign(k *brand.Kit, value json.RawMessage) (out []string) {
	var v any
	if json.Unmarshal(value, &v) != nil {
		return nil
	}
	walk(v, func(_ string, s string) {
		if c, err := colour.Parse(s); strings.HasPrefix(s, "#") && err == nil && !ofKit(k, c) {
			out = append(out, s)
		}
	})
	return out
}

// families are the families of letters an adjustment names.
func families(a Adjustment) (out []string) {
	if a.Property == "family" {
		return []string{a.Text()}
	}
	var v any
	if a.Property != "runs" || json.Unmarshal(a.Value, &v) != nil {
		return nil
	}
	walk(v, func(member, s string) {
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
