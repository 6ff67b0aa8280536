package piece

import (
	"path"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/photo"
	"aspenridge/internal/core/spec"
)

// figures are the card's date and offer with their telling part apart; words
// written by hand for this placement are split at their first number.
func (j *Job) figures(c brief.Card, p spec.Placement) map[string]layout.Figure {
	out := map[string]layout.Figure{}
	in := c.In(j.Kit, j.Brief.Language)
	put := func(slot, above, lead string, below []string, ok bool) {
		if v, _, by := j.Brief.Adjusted(p, slot, "text"); by {
			above, lead, below, ok = "", in.Correct(v), nil, v != ""
			words := strings.Fields(lead)
			for i, w := range words {
				if len(words) > 1 && strings.ContainsAny(w, "0123456789") {
					above, lead = strings.Join(words[:i], " "), w
					if i+1 < len(words) {
						below = []string{strings.Join(words[i+1:], " ")}
					}
					break
				}
			}
		}
		if ok {
			out[slot] = layout.Figure{Above: above, Lead: lead, Below: below}
		}
	}
	above, lead, below, ok := c.When.Parts(in)
	put("when", above, lead, below, ok)
	above, lead, below, ok = c.Offer.Parts(in)
	put("offer", above, lead, below, ok)
	return out
}

// icons are the signs of the card's facts, the kit's before the shipped ones;
// nil when no fact has one.
func (j *Job) icons(c brief.Card) []layout.Icon {
	some := false
	out := make([]layout.Icon, len(c.Facts))
	for i, f := range c.Facts {
		out[i] = j.icon(f.Icon)
		some = some || out[i] != layout.Icon{}
	}
	if !some {
		return nil
	}
	return out
}

// IconFile is the picture of the kit an icon of a name is; "" for one that ships, and for none.
func (j *Job) IconFile(name string) string {
	for _, p := range j.Kit.Pictures {
		base := path.Base(p.File)
		if p.Kind == brand.Icon && (strings.EqualFold(strings.TrimSuffix(base, path.Ext(base)), name) || strings.EqualFold(p.Alt, name) || p.File == name) {
			if _, ok := j.KitPictures[p.File]; ok {
				return p.File
			}
		}
	}
	return ""
}

func (j *Job) icon(name string) layout.Icon {
	if name == "" {
		return layout.Icon{}
	}
	if pic, ok := j.KitPictures[j.IconFile(name)]; ok {
		pic.Focus = [2]float64{0.5, 0.5}
		return layout.Icon{Picture: &pic}
	}
	if svg, ok := j.Icons[name]; ok {
		return layout.Icon{View: [4]float64{0, 0, 24, 24}, SVG: `<g fill="none" stroke="currentColor" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">` + svg + `</g>`}
	}
	return layout.Icon{}
}

// pattern is the kit's own patterned ground, nil for none.
func (j *Job) pattern() *photo.Picture {
	for _, p := range j.Kit.Pictures {
		if pic, ok := j.KitPictures[p.File]; ok && p.Kind == brand.Pattern {
			pic.Focus = [2]float64{0.5, 0.5}
			return &pic
		}
	}
	return nil
}
