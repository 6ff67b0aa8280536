package web

import (
	"net/http"
	"slices"

	"aspenridge/internal/app"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
)

// guidelinesPage is the brand document: what the kit holds, set to be read and
// printed.
type guidelinesPage struct {
	*app.Kit
	Cover  brand.Colour
	Ink    colour.RGB
	Mark   *brand.Art
	Logos  []logoRule
	Colour []colourRule
	Levels []levelRow
	Shelf  []mini
}

// logoRule is a logo on a ground: where it reads, and one where it must not go.
type logoRule struct {
	brand.Logo
	On  []brand.Colour
	Not *brand.Colour // nil when it reads on every colour of the kit
}

// colourRule is a colour with its values and the kit's inks it carries.
type colourRule struct {
	brand.Colour
	Copies  []copyAs
	Carries []carried
}

type carried struct {
	brand.Colour
	Ratio float64
}

func (s *Server) guidelines(w http.ResponseWriter, r *http.Request) {
	k, p, err := s.kitView(r)
	if err != nil {
		s.problem(w, r, err)
		return
	}
	g := guidelinesPage{Kit: k, Levels: p.Levels, Shelf: p.Shelf, Cover: brand.Colour{Value: colour.White}, Ink: colour.Black}
	all := k.Colours()
	for _, c := range all {
		if c.Role == brand.Lead {
			g.Cover = c
			break
		}
	}
	best := 0.0
	for _, c := range append(slices.Clone(all), brand.Colour{Value: colour.White}, brand.Colour{Value: colour.Black}) {
		// the kit's own inks first: white and black only when they are much better
		ratio := colour.Contrast(c.Value, g.Cover.Value)
		if c.Token == "" && best >= 4.5 {
			continue
		}
		if ratio > best {
			best, g.Ink = ratio, c.Value
		}
	}
	if fit, ok := k.PickLogo(g.Cover.Value, brand.WideRoom, ""); ok && !fit.Plate {
		g.Mark = fit.Logo.Art
	}
	grounds := append([]brand.Colour{{Name: "White", Value: colour.White}}, all...)
	for _, l := range k.Kit.Logos {
		if l.Art == nil {
			continue
		}
		rule := logoRule{Logo: l}
		for _, c := range grounds {
			switch fits := l.Fits(c.Value); {
			case fits && len(rule.On) < 3:
				rule.On = append(rule.On, c)
			case !fits && rule.Not == nil:
				rule.Not = &c
			}
		}
		g.Logos = append(g.Logos, rule)
	}
	for _, c := range all {
		rule := colourRule{Colour: c, Copies: slipOf(k.Kit, c).Copies}
		for _, o := range all {
			if ratio := colour.Contrast(o.Value, c.Value); ratio >= 4.5 {
				rule.Carries = append(rule.Carries, carried{o, ratio})
			}
		}
		g.Colour = append(g.Colour, rule)
	}
	title := k.Name
	if title == "" {
		title = "New kit"
	}
	s.show(w, r, "guidelines", frame{Title: title + ", guidelines", Screen: "guidelines", Kit: k, Page: g})
}
