package brand

import (
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/colour"
)

// Difference is one thing that is not the same in two kits, in words.
type Difference struct {
	What          string // "Coral", "headline", "tagline"
	Before, After string // what it was and is; empty when it was not there
	Colours       [2]*colour.RGB
}

// Differences compares two kits as people would tell them apart.
func Differences(a, b *Kit) []Difference {
	var out []Difference
	add := func(what, before, after string) {
		if before != after {
			out = append(out, Difference{What: what, Before: before, After: after})
		}
	}
	add("name", a.Name, b.Name)
	add("tagline", a.Tagline, b.Tagline)
	add("address", a.Website, b.Website)
	add("phone", a.Phone, b.Phone)
	add("place", a.Place, b.Place)
	for _, l := range []struct {
		what string
		a, b []string
	}{
		{"calls to action", a.CallsToAction, b.CallsToAction}, {"handles", a.Handles, b.Handles}, {"hashtags", a.Hashtags, b.Hashtags},
		{"values", a.Values, b.Values}, {"says", a.Voice.Says, b.Voice.Says}, {"never says", a.Voice.NeverSays, b.Voice.NeverSays},
	} {
		add(l.what, strings.Join(l.a, ", "), strings.Join(l.b, ", "))
	}
	add("sounds", a.Voice.Sounds, b.Voice.Sounds)
	add("reader", a.Voice.Reader, b.Voice.Reader)
	add("sentences", a.Voice.Sentences, b.Voice.Sentences)
	add("voice", a.Voice.Text, b.Voice.Text)
	for _, s := range MannerSteps {
		add(s.Name, s.Of(a.Manner), s.Of(b.Manner))
	}
	out = append(out, colourDifferences(a, b)...)
	for _, t := range b.TypeSets {
		was := typeSetOf(a, t.ID)
		for _, l := range Levels {
			what := string(l)
			if len(b.TypeSets) > 1 {
				what = t.Name + ", " + what
			}
			if was == nil {
				add(what, "", describe(t.Levels[l]))
			} else {
				add(what, describe(was.Levels[l]), describe(t.Levels[l]))
			}
		}
	}
	for _, t := range a.TypeSets {
		if typeSetOf(b, t.ID) == nil {
			add("type set "+t.Name, "there", "")
		}
	}
	for _, l := range a.Logos {
		i := slices.IndexFunc(b.Logos, func(o Logo) bool { return o.File == l.File })
		if i < 0 {
			add("logo "+logoName(l), "there", "")
			continue
		}
		add("logo "+logoName(l), logoWords(l), logoWords(b.Logos[i]))
	}
	for _, l := range b.Logos {
		if !slices.ContainsFunc(a.Logos, func(o Logo) bool { return o.File == l.File }) {
			add("logo "+logoName(l), "", logoWords(l))
		}
	}
	return out
}

func colourDifferences(a, b *Kit) []Difference {
	var out []Difference
	words := func(c Colour) string {
		s := fmt.Sprintf("%s %s, %s", c.Name, c.Value.Hex(), c.Role)
		if c.NeverGround {
			s += ", never as a ground"
		}
		return s
	}
	for _, p := range a.Palettes {
		for _, c := range p.Colours {
			now, ok := b.Colour(c.Token)
			switch {
			case !ok:
				out = append(out, Difference{What: c.Name, Before: words(c), Colours: [2]*colour.RGB{&c.Value}})
			case words(c) != words(now):
				out = append(out, Difference{What: c.Name, Before: words(c), After: words(now), Colours: [2]*colour.RGB{&c.Value, &now.Value}})
			}
		}
	}
	for _, p := range b.Palettes {
		for _, c := range p.Colours {
			if _, ok := a.Colour(c.Token); !ok {
				out = append(out, Difference{What: c.Name, After: words(c), Colours: [2]*colour.RGB{nil, &c.Value}})
			}
		}
	}
	return out
}

func typeSetOf(k *Kit, id string) *TypeSet {
	for i := range k.TypeSets {
		if k.TypeSets[i].ID == id {
			return &k.TypeSets[i]
		}
	}
	return nil
}

func describe(s Style) string {
	out := fmt.Sprintf("%s %d, %.4g px", s.Family, s.Weight, s.SizePx)
	if s.LineHeight > 0 {
		out += fmt.Sprintf(", line %.3g", s.LineHeight)
	}
	if s.Tracking != 0 {
		out += fmt.Sprintf(", tracking %.3g", s.Tracking)
	}
	if s.Upper {
		out += ", capitals"
	}
	if s.Italic {
		out += ", italic"
	}
	if s.Role != "" {
		out += ", in " + string(s.Role)
	}
	if s.Small != nil {
		out += ", small in " + s.Small.Family
	}
	return out
}

func logoName(l Logo) string {
	_, base, ok := strings.Cut(l.File, "/")
	if !ok {
		base = l.File
	}
	return base
}

func logoWords(l Logo) string {
	out := l.Lockup + ", " + l.Tone
	if l.Lead {
		out += ", leads"
	}
	if l.ClearSpace > 0 {
		out += fmt.Sprintf(", clear space %.2g", l.ClearSpace)
	}
	if l.MinWidth > 0 {
		out += fmt.Sprintf(", from %.4g px", l.MinWidth)
	}
	if l.OwnColours {
		out += ", in its own colours alone"
	}
	return out
}
