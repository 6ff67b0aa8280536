package web

import (
	"html/template"
	"strings"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
)

// mannerRow is a step of the kit's manner with its choices.
type mannerRow struct {
	origin
	Name, Path string
	Label      string // as people call it
	Said       bool   // by the kit; else it is the rule's
	Choices    []mannerChoice
}

type mannerChoice struct {
	Value string
	On    bool
	Icon  template.HTML // 24 x 16, drawn with the ink of the page
}

func mannerRows(k *app.Kit, now brand.Manner) []mannerRow {
	var out []mannerRow
	for _, s := range brand.MannerSteps {
		path := "/$extensions/aspenridge/manner/" + s.Name
		r := mannerRow{origin: originOf(k, path), Name: s.Name, Label: strings.ReplaceAll(s.Name, "edgeColour", "its colour"), Path: path, Said: s.Of(k.Manner) != ""}
		for _, c := range s.Choices {
			icon := mannerIcons[s.Name+" "+c]
			if s.Name == "edgeColour" {
				of, ok := k.OfRole(brand.Role(c))
				if !ok {
					continue
				}
				icon = template.HTML(`<rect x="3" y="3" width="18" height="10" fill="` + of.Value.Hex() + `"/>`)
			}
			r.Choices = append(r.Choices, mannerChoice{c, s.Of(now) == c, icon})
		}
		out = append(out, r)
	}
	return out
}

const box = `<rect x="2" y="1.5" width="20" height="13" fill="none" stroke="currentColor"/>`

var mannerIcons = map[string]template.HTML{
	"corners sharp":    `<rect x="3" y="3" width="18" height="10"/>`,
	"corners soft":     `<rect x="3" y="3" width="18" height="10" rx="2.5"/>`,
	"corners round":    `<rect x="3" y="3" width="18" height="10" rx="5"/>`,
	"density airy":     box + `<rect x="7" y="5" width="10" height="1.5"/><rect x="7" y="9.5" width="7" height="1.5"/>`,
	"density even":     box + `<rect x="5" y="4" width="14" height="2"/><rect x="5" y="7.5" width="12" height="1.5"/><rect x="5" y="10.5" width="7" height="1.5"/>`,
	"density packed":   box + `<rect x="3.5" y="3" width="17" height="4"/><rect x="3.5" y="8" width="17" height="2"/><rect x="3.5" y="11" width="14" height="2"/>`,
	"contrast quiet":   `<rect x="3" y="4" width="18" height="3"/><rect x="3" y="9.5" width="15" height="2"/>`,
	"contrast clear":   `<rect x="3" y="3" width="18" height="5"/><rect x="3" y="10.5" width="14" height="2"/>`,
	"contrast loud":    `<rect x="3" y="1.5" width="18" height="9"/><rect x="3" y="13" width="10" height="1.2"/>`,
	"pictures plain":   `<rect x="2" y="1.5" width="20" height="13" opacity=".35"/><path d="M2 14.5l7-7 5 4 3-2.5 5 5.500z"/>`,
	"pictures framed":  box + `<path d="M5 12l5-5 4 3 2-1.5 3 3.500z"/>`,
	"pictures toned":   `<rect x="2" y="1.5" width="20" height="13"/><path d="M2 14.5l7-7 5 4 3-2.5 5 5.500z" fill="var(--gold)"/>`,
	"lines none":       `<rect x="3" y="4" width="18" height="2.5" opacity=".5"/><rect x="3" y="10" width="12" height="2.5" opacity=".5"/>`,
	"lines fine":       `<rect x="3" y="3" width="18" height="2.5" opacity=".5"/><rect x="3" y="7.75" width="18" height=".6"/><rect x="3" y="11" width="12" height="2.5" opacity=".5"/>`,
	"lines bold":       `<rect x="3" y="2.5" width="18" height="2.5" opacity=".5"/><rect x="3" y="7" width="18" height="2.5"/><rect x="3" y="11.5" width="12" height="2.5" opacity=".5"/>`,
	"edge none":        box,
	"edge fine":        `<rect x="2.5" y="2" width="19" height="12" fill="none" stroke="currentColor" stroke-width="1.4"/>`,
	"edge bold":        `<rect x="3.5" y="3" width="17" height="10" fill="none" stroke="currentColor" stroke-width="3.4"/>`,
	"ornament none":    box,
	"ornament pattern": box + `<circle cx="6" cy="5" r="1"/><circle cx="12" cy="5" r="1"/><circle cx="18" cy="5" r="1"/><circle cx="9" cy="8" r="1"/><circle cx="15" cy="8" r="1"/><circle cx="6" cy="11" r="1"/><circle cx="12" cy="11" r="1"/><circle cx="18" cy="11" r="1"/>`,
	"ornament cut":     box + `<path d="M22 14.500h-9a9 9 0 0 1 9-9z"/>`,
}
