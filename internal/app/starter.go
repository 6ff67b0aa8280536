package app

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/colourway"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/starter"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Beginning is what a business says of itself before it has anything.
type Beginning struct {
	Name, Does string
	Values     []string
}

// About is all of it as words.
func (b Beginning) About() string { return b.Does + " " + strings.Join(b.Values, " ") }

// callToAction is what the pieces of a beginning ask for, and the kit that comes of it.
const callToAction = "Come by"

// Card is what the pieces of a beginning say: what the business does, and once, as their
// sign-off, what it is called.
func (b Beginning) Card() brief.Card {
	says, asks := cmp.Or(strings.TrimSpace(b.Does), "Come and see what we make"), callToAction
	return brief.Card{Headline: &says, CallToAction: &asks}
}

// starterDocument is the kit document of a direction, without logos.
func starterDocument(b Beginning, d starter.Direction) (*edit.Object, error) {
	main := map[string]any{"$type": "color", "$extensions": map[string]any{"aspenridge": map[string]any{"name": d.Palette}}}
	group, err := edit.ParseObject(raw(main))
	if err != nil {
		return nil, err
	}
	for _, p := range assets.Palettes() {
		if p.Name != d.Palette {
			continue
		}
		for _, c := range p.Colours {
			v, err := colour.Parse(c.Hex)
			if err != nil {
				return nil, err
			}
			name := colour.PlainName(v)
			tok, err := edit.Parse(raw(map[string]any{"$value": brand.ColourValue(v), "$extensions": map[string]any{"aspenridge": map[string]any{"name": capital(name), "role": c.Role}}}))
			if err != nil {
				return nil, err
			}
			group.Set(freeName(tokenName(name), func(s string) bool { return group.Get(s) != nil }), tok)
		}
	}
	doc, colours := edit.NewObject(), edit.NewObject()
	colours.Set("main", group)
	doc.Set("color", colours)
	set := brand.DefaultTypeSet()
	for l, s := range set.Levels {
		s.Family = d.Text
		if l == brand.Headline || (l == brand.Button && d.Head != "Oleo Script" && d.Head != "DM Serif Display") {
			s.Family = d.Head
		}
		s.Weight = nearest(assets.Library().Weights(s.Family), usualWeights[l])
		set.Levels[l] = s
	}
	doc.Set("type", brand.TypeSetGroup(set, "main"))
	own := map[string]any{"formatVersion": 1, "name": b.Name, "values": b.Values, "callsToAction": []string{callToAction}, "manner": d.Manner}
	if b.Does != "" {
		own["voice"] = map[string]any{"text": b.Does}
	}
	ext, err := edit.ParseObject(raw(map[string]any{"aspenridge": own}))
	if err != nil {
		return nil, err
	}
	doc.Set("$extensions", ext)
	return doc, nil
}

// Sample composes the card of a beginning in a direction, before there is a kit of it; it
// returns the job and the look that shows the direction well.
func (a Kits) Sample(b Beginning, d starter.Direction) (*piece.Job, piece.Look, error) {
	doc, err := starterDocument(b, d)
	if err != nil {
		return nil, piece.Look{}, err
	}
	k, err := brand.Parse(doc)
	if err != nil {
		return nil, piece.Look{}, err
	}
	job := a.SampleJob(&Kit{Kit: k, Library: assets.Library()}, b.Card())
	for _, l := range job.Layouts {
		if l.ID == d.Layout {
			return job, piece.Look{Layout: l.Ref(), Seats: colourway.Rank(k.Colours(), l.Needs(), 1)[0].Tokens(), Crops: map[string][2]float64{}}, nil
		}
	}
	return job, job.First(), nil
}

// StartFrom makes a kit of a direction: its palette with roles, its type, and
// the name as a plain wordmark for light grounds, for dark ones and in one
// colour.
func (a Kits) StartFrom(ctx context.Context, m Member, b Beginning, direction string) (ID, error) {
	if err := act.MayAll(m, roles.WriteKits); err != nil {
		return ID{}, err
	}
	if b.Name = strings.TrimSpace(b.Name); b.Name == "" || len([]rune(b.Name)) > 80 {
		return ID{}, fmt.Errorf("%w: say what the business is called, in up to 80 letters", ErrInvalid)
	}
	d, ok := starter.Find(direction)
	if !ok {
		return ID{}, fmt.Errorf("%w: there is no direction %q", ErrInvalid, direction)
	}
	doc, err := starterDocument(b, d)
	if err != nil {
		return ID{}, err
	}
	k, err := brand.Parse(doc)
	if err != nil {
		return ID{}, err
	}
	style := k.TypeSets[0].Levels[brand.Headline]
	face, err := assets.Library().Face(style.Family, style.Weight, false)
	if err != nil {
		return ID{}, err
	}
	light, dark := (&Kit{Kit: k}).Extremes()
	lead, accent := dark, (*colour.RGB)(nil)
	for _, c := range k.Colours() {
		switch {
		case c.Role == brand.Lead && colour.Contrast(c.Value, light) >= 4.5:
			lead = c.Value
		case c.Role == brand.Accent && colour.Contrast(c.Value, light) >= 2.2 && colour.Contrast(c.Value, dark) >= 2.2:
			accent = &c.Value
		}
	}
	var logos []any
	var files []store.File
	for _, v := range []struct {
		tone   string
		ink    colour.RGB
		accent *colour.RGB
	}{{"for-light", lead, accent}, {"for-dark", light, accent}, {"one-colour", dark, nil}} {
		svg := starter.Wordmark(a.shaper, face, b.Name, v.ink, v.accent)
		_, f, err := a.storeLogo(ctx, m, "wordmark-"+v.tone+".svg", svg)
		if err != nil {
			return ID{}, err
		}
		files = append(files, f)
		logo := map[string]any{"file": refOf(f), "lockup": "wordmark", "tone": v.tone}
		if len(logos) == 0 {
			logo["lead"] = true
		}
		o, err := edit.Parse(raw(logo))
		if err != nil {
			return ID{}, err
		}
		logos = append(logos, o)
	}
	ownOf(doc).Set("logos", logos)
	// what was shown of the direction is the first look of the kit
	_, look, err := a.Sample(b, d)
	if err != nil {
		return ID{}, err
	}
	kept, err := edit.Parse(raw([]any{brand.KeptColourway{Name: capital(d.Words), Seats: look.Seats, Layout: d.Layout}}))
	if err != nil {
		return ID{}, err
	}
	ownOf(doc).Set("colourways", kept)
	return a.putKit(ctx, m, doc, files...)
}

// FromLogo makes a kit of the logo it has: its colours with roles, neutrals where
// no two carry text, and type that goes with its colours and shapes.
func (a Kits) FromLogo(ctx context.Context, m Member, kit ID, client string) error {
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	if len(k.Logos) == 0 || k.Logos[0].Art == nil {
		return fmt.Errorf("%w: the kit has no logo yet", ErrInvalid)
	}
	var list []NewColour
	for _, o := range k.Offers {
		list = append(list, NewColour{Value: o.Colour})
	}
	whole := &brand.Kit{Palettes: []brand.Palette{{ID: "main"}}}
	whole.Palettes[0].Colours = append(k.Colours(), toColours(list)...)
	for _, n := range whole.Neutrals() {
		list = append(list, NewColour{Value: n, Guessed: true})
	}
	like := starter.Nearest(character(k.Logos[0].Art))[0]
	d, families, err := a.levelsOp(ctx, m, kit, "", inFamilies(like.Head, like.Text))
	if err != nil {
		return err
	}
	ops := []edit.Op{families, {Path: guessedTypePath, Value: raw(like.Head + "/" + like.Text)}}
	if len(list) > 0 {
		_, colours, err := a.coloursOp(ctx, m, kit, IntoPalette{}, list)
		if err != nil {
			return err
		}
		if ops = append(ops, colours); colours.All != nil {
			ops = append(ops[:2], colours.All...)
		}
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: d.Seq, Op: edit.Op{All: ops}})
	return err
}

func toColours(list []NewColour) []brand.Colour {
	var out []brand.Colour
	for _, c := range list {
		out = append(out, brand.Colour{Value: c.Value})
	}
	return out
}

// guessedTypePath is where a kit notes which families were chosen for it: while it has them, a
// given one outranks them.
const guessedTypePath = "/$extensions/aspenridge/guessedType"

// character places a logo by its colours and shapes, each from -1 to 1: warm by
// the hue of its inks, loud by their chroma, new by how few they are, soft by
// how much of its outline is curved.
func character(art *brand.Art) (warm, loud, new, soft float64) {
	chroma := 0.0
	for _, f := range art.Inks {
		o := f.Colour.OKLab()
		warm += 6 * (o.A*0.6 + o.B) * f.Share
		chroma += f.Colour.OKLCh().C * f.Share
	}
	clamp := func(v float64) float64 { return math.Max(-1, math.Min(1, v)) }
	return clamp(warm), clamp((chroma - 0.09) * 8), clamp(0.6 - 0.3*float64(len(art.Inks))), raster.Roundness(art)
}
