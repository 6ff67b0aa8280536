package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// NewColour is a colour on its way into a kit; without a name it gets the plain
// word for what it looks like, without a role the one the palette lacks most.
type NewColour struct {
	Name  string
	Value colour.RGB
	Role  brand.Role

	proposed bool // its name was
	Guessed  bool // made up, until a given one does as well
}

// KeepColours puts colours into the kit's first palette, all of them or none,
// in one step of undo. Colours that are there already are left out; when that
// leaves none, the error says so.
func (a Brand) KeepColours(ctx context.Context, m Member, kit ID, client string, list ...NewColour) error {
	return a.AddColours(ctx, m, kit, client, IntoPalette{}, list...)
}

// IntoPalette says which palette colours go into: the first one, one of the kit by
// its id, or a new one.
type IntoPalette struct {
	ID  string // of a palette that is there; "" for the first
	New string // shown name of one that is made for them
}

// AddColours is [App.KeepColours] for a palette of one's choice.
func (a Brand) AddColours(ctx context.Context, m Member, kit ID, client string, to IntoPalette, list ...NewColour) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	d, op, err := a.coloursOp(ctx, m, kit, to, list)
	if err != nil {
		return err
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: d.Seq, Op: op})
	return err
}

// StartPalette puts a shipped starter palette into the kit: as its palette
// while it has none, else as one more.
func (a Brand) StartPalette(ctx context.Context, m Member, kit ID, client, name string) error {
	for _, p := range assets.Palettes() {
		if p.Name != name {
			continue
		}
		var list []NewColour
		for _, c := range p.Colours {
			v, err := colour.Parse(c.Hex)
			if err != nil {
				return err
			}
			list = append(list, NewColour{Value: v, Role: brand.Role(c.Role)})
		}
		return a.AddColours(ctx, m, kit, client, IntoPalette{New: p.Name}, list...)
	}
	return fmt.Errorf("%w: there is no starter palette %q", ErrInvalid, name)
}

// coloursOp is the change that adds colours to a palette.
func (a *house) coloursOp(ctx context.Context, m Member, kit ID, to IntoPalette, list []NewColour) (d store.Document, op edit.Op, err error) {
	if len(list) > brand.MaxColours {
		return d, op, fmt.Errorf("%w: %d colours at once: a palette holds at most %d", ErrInvalid, len(list), brand.MaxColours)
	}
	d, stands, err := a.kitDocument(ctx, m, kit)
	if err != nil {
		return d, op, err
	}
	doc := stands.own
	k, err := stands.kit()
	if err != nil {
		return d, op, err
	}
	pal, err := to.palette(k, stands)
	if err != nil {
		return d, op, err
	}
	group := doc.Object("color").Object(pal.ID)
	var ops []edit.Op // the colours alone, where the palette is there
	var named []edit.Op
	fresh := group == nil
	if fresh {
		group = paletteGroup(to.New)
	}
	roles := map[brand.Role]int{}
	for _, c := range pal.Colours {
		roles[c.Role]++
	}
	have := pal.Colours
	var known string
	added := 0
next:
	for _, c := range list {
		for _, o := range have {
			if o.Value == c.Value && c.Name != "" && o.Token != "" && namedByUs(o) && !strings.EqualFold(c.Name, o.Name) {
				named = append(named, edit.Op{Path: colourPath(o.Token) + "/$extensions/aspenridge/name", Value: raw(capital(c.Name))})
				continue next // it keeps the name it is given
			}
			if o.Value == c.Value {
				known = fmt.Sprintf("%s is in the kit already, as %s", c.Value.Hex(), o.Name)
				continue next
			}
		}
		if c.Name == "" {
			c.Name = plainName(c.Value, have)
			c.proposed = true
		}
		if c.Role == "" {
			c.Role = proposeRole(c.Value, roles)
		}
		roles[c.Role]++
		token := freeName(tokenName(c.Name), func(s string) bool {
			return group.Get(s) != nil || stands.whole.Object("color").Object(pal.ID).Get(s) != nil
		})
		value, err := colourToken(c)
		if err != nil {
			return d, op, err
		}
		group.Set(token, value)
		ops = append(ops, edit.Op{Path: "/color/" + edit.Escape(pal.ID) + "/" + edit.Escape(token), Value: raw(value)})
		have = append(have, brand.Colour{Value: c.Value, Name: c.Name})
		added++
	}
	if added+len(named) == 0 {
		if known == "" {
			known = "no colour was given"
		}
		return d, op, fmt.Errorf("%w: %s", ErrInvalid, known)
	}
	if fresh && added > 0 {
		ops = []edit.Op{{Path: "/color/" + edit.Escape(pal.ID), Value: raw(group)}}
		if len(named) == 0 {
			return d, ops[0], nil
		}
	}
	return d, edit.Op{All: append(ops, named...)}, nil
}

// colourPath is where a colour stands in a kit's document.
func colourPath(token string) string {
	palette, name, _ := strings.Cut(token, ".")
	return "/color/" + edit.Escape(palette) + "/" + edit.Escape(name)
}

// namedByUs reports whether a colour's name is one that was proposed for it.
func namedByUs(c brand.Colour) bool {
	return c.Name == c.Proposed || c.Proposed == "" && strings.EqualFold(endNumber.ReplaceAllString(c.Name, ""), colour.PlainName(c.Value))
}

// DropGuesses lets go of colours that were made up for want of others, once the rest carry
// text without them.
func (a Brand) DropGuesses(ctx context.Context, m Member, kit ID, client string) error {
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return err
	}
	given := &brand.Kit{Palettes: []brand.Palette{{ID: "main", Colours: slices.DeleteFunc(k.Colours(), func(c brand.Colour) bool { return c.Guessed })}}}
	if len(given.Palettes[0].Colours) == len(k.Colours()) || len(given.Palettes[0].Colours) == 0 || len(given.Neutrals()) > 0 {
		return nil
	}
	var ops []edit.Op
	for _, c := range k.Colours() {
		if c.Guessed {
			ops = append(ops, edit.Op{Path: colourPath(c.Token)})
		}
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Kind: "kit", Client: client, Base: Latest, Op: edit.Op{All: ops}})
	return err
}

// palette is where colours go: a new one, one that is there, the first one, or the main
// one of a kit that has none.
func (to IntoPalette) palette(k *brand.Kit, stands lineage) (brand.Palette, error) {
	pal := brand.Palette{ID: "main"}
	switch {
	case to.New != "" && len(k.Palettes) > 0:
		pal.ID = freeName(tokenName(to.New), func(s string) bool { return stands.whole.Object("color").Object(s) != nil })
	case to.ID != "":
		n := slices.IndexFunc(k.Palettes, func(p brand.Palette) bool { return p.ID == to.ID })
		if n < 0 {
			return pal, fmt.Errorf("palette %q: %w", to.ID, ErrNotFound)
		}
		pal = k.Palettes[n]
	case len(k.Palettes) > 0:
		pal = k.Palettes[0]
	}
	return pal, nil
}

// paletteGroup is a palette without colours as documents write it.
func paletteGroup(name string) *edit.Object {
	group := edit.NewObject()
	group.Set("$type", "color")
	if name != "" {
		ext, own := edit.NewObject(), edit.NewObject()
		own.Set("name", name)
		ext.Set("aspenridge", own)
		group.Set("$extensions", ext)
	}
	return group
}

// colourToken is a colour as documents write it.
func colourToken(c NewColour) (any, error) {
	own := map[string]any{"name": capital(c.Name), "role": c.Role}
	if c.Guessed {
		own["guessed"] = c.Value.Hex()
	}
	if c.proposed {
		own["proposedName"] = capital(c.Name)
	}
	return edit.Parse(raw(map[string]any{"$value": brand.ColourValue(c.Value), "$extensions": map[string]any{"aspenridge": own}}))
}

// plainName is a plain word for a colour, numbered where another has it.
func plainName(c colour.RGB, have []brand.Colour) string {
	name := freeName(colour.PlainName(c), func(name string) bool {
		return slices.ContainsFunc(have, func(o brand.Colour) bool { return strings.EqualFold(o.Name, strings.ReplaceAll(name, "-", " ")) })
	})
	return strings.ReplaceAll(name, "-", " ")
}

// tokenName turns a name into a token: lower-case letters, digits and dashes.
func tokenName(name string) string {
	words := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return (r < 'a' || r > 'z') && (r < '0' || r > '9') })
	if len(words) == 0 {
		return "colour"
	}
	return strings.Join(words, "-")
}

// freeName numbers a name until it is not taken.
func freeName(name string, taken func(string) bool) string {
	free := name
	for n := 2; taken(free); n++ {
		free = fmt.Sprintf("%s-%d", name, n)
	}
	return free
}

func capital(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

func proposeRole(c colour.RGB, have map[brand.Role]int) brand.Role {
	o := c.OKLCh()
	switch {
	case o.L > 0.92 || (o.L > 0.86 && o.C < 0.05):
		return brand.Ground
	case o.L < 0.27 && o.C < 0.05:
		return brand.Ink
	case have[brand.Lead] == 0:
		return brand.Lead
	case have[brand.Accent] == 0 && o.C > 0.1:
		return brand.Accent
	}
	return brand.Support
}

// anotherColour is how far (CIEDE2000) a colour is changed until the name that was proposed for
// it is proposed anew.
const anotherColour = 12

// SetColour changes a colour's value in place; value is in any notation. Of c,
// the base, the client and whether it is one of many quick changes count.
func (a Brand) SetColour(ctx context.Context, m Member, kit ID, c Change, token, value string) (int64, error) {
	v, err := colour.Parse(value)
	if err != nil {
		return 0, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	k, err := a.kits.Kit(ctx, m, kit)
	if err != nil {
		return 0, err
	}
	was, ok := k.Colour(token)
	if !ok {
		return 0, fmt.Errorf("colour %q: %w", token, ErrNotFound)
	}
	c.Op = edit.Op{Path: colourPath(token) + "/$value", Value: raw(brand.ColourValue(v))}
	if !c.Typing && namedByUs(was) && colour.DeltaE(was.Value, v) > anotherColour {
		others := slices.DeleteFunc(k.Colours(), func(o brand.Colour) bool { return o.Token == token })
		name, own := raw(capital(plainName(v, others))), colourPath(token)+"/$extensions/aspenridge/"
		c.Op = edit.Op{All: []edit.Op{c.Op, {Path: own + "name", Value: name}, {Path: own + "proposedName", Value: name}}}
	}
	return a.documents.Edit(ctx, m, kit, c)
}

// Decline notes that an offered colour is not wanted.
func (a Brand) Decline(ctx context.Context, m Member, kit ID, client string, c colour.RGB) error {
	_, err := a.documents.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: edit.Op{Path: "/$extensions/aspenridge/declinedColours/-", Value: raw(c.Hex())}})
	return err
}
