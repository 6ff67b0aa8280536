package app

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"aspenridge/internal/act"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/colour"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Giving is something somebody hands over without saying where it belongs: a
// file, or words.
type Giving struct {
	Kit, Brief ID     // where it goes; with a zero ID one is made when there is need
	KitOnly    bool   // nothing of it goes into a brief
	Client     string // the tab it comes from
	Name       string // of a file
	Data       []byte // of a file
	Text       string // words, when there is no file
	As         string // what it is, one of Placed.Others; "" to be told by what it holds
}

// Given is what came of it.
type Given struct {
	Kit    ID       `json:"kit"`
	Brief  ID       `json:"brief"`
	Placed []Placed `json:"placed"`
	Left   []Left   `json:"left,omitempty"` // what found no place
}

// Placed is a thing that found its place. It can be taken back.
type Placed struct {
	What   string   `json:"what"`             // in words
	Into   string   `json:"into"`             // in words
	As     string   `json:"as"`               // what it was taken for
	Others []string `json:"others,omitempty"` // what it could be as well
	Doc    ID       `json:"doc"`
	From   int64    `json:"from"` // the document's number before; -1 when all of it was made
	To     int64    `json:"to"`
}

// Left is a thing that found no place, and why.
type Left struct {
	What string `json:"what"`
	Why  string `json:"why"`
}

// What a thing given can be taken for, besides the fields of a card.
const (
	asLogo    = "logo"
	asPicture = "picture"
	asBrand   = "kit picture"
	asName    = "name"
	asTagline = "tagline"
)

// Give puts a thing where it belongs: logos, fonts, colours, addresses and the
// name into the kit, pictures and what is to be said into a brief. Kit and brief
// are made when they are needed. An archive or a kit document becomes a kit of its
// own.
func (a Documents) Give(ctx context.Context, m Member, g Giving) (Given, error) {
	if err := act.MayAll(m, roles.WriteBriefs); err != nil {
		return Given{}, err
	}
	if was, made, err := a.store.Made(ctx, m); err != nil {
		return Given{}, err
	} else if made {
		var out Given
		return out, json.Unmarshal([]byte(was), &out)
	}
	if g.Brief != (ID{}) {
		set, err := a.sets.Set(ctx, m, g.Brief)
		if err != nil {
			return Given{}, err
		}
		if g.Kit == (ID{}) {
			g.Kit = set.Kit.ID
		}
	}
	g.Client = cmp.Or(g.Client, "give")
	r := &receiver{house: a.house, m: m.Sending(""), g: g, out: Given{Kit: g.Kit, Brief: g.Brief}}
	// it is made in several steps, and claimed when all of them are done
	err := r.take(ctx)
	if err != nil && len(r.out.Placed) > 0 { // what is placed stays placed
		r.out.Left, err = append(r.out.Left, Left{cmp.Or(g.Name, "the rest"), plainWords(err)}), nil
	}
	if err != nil {
		return Given{}, err
	}
	return r.out, a.store.Claim(ctx, m, string(raw(r.out)))
}

func plainWords(err error) string { return strings.TrimPrefix(err.Error(), ErrInvalid.Error()+": ") }

// receiver puts one thing given in its place.
type receiver struct {
	*house
	g      Giving
	m      Member
	out    Given
	hidden []ID // documents made for it that are on no list yet
}

func (r *receiver) take(ctx context.Context) error {
	if r.g.Data == nil {
		return r.words(ctx, r.g.Text)
	}
	name := strings.ToLower(path.Ext(r.g.Name))
	switch {
	case bytes.HasPrefix(r.g.Data, []byte("PK")):
		return r.wholeKit(ctx)
	case clipType(r.g.Data) != "":
		return r.inKit(ctx, Placed{What: r.g.Name, Into: "the clips of", As: asBrand}, func(kit ID) error {
			return r.brand.AddBrandPicture(ctx, r.m, kit, r.g.Client, r.g.Name, r.g.Data)
		})
	case raster.Kind(r.g.Data) != "":
		return r.picture(ctx)
	case slices.Contains([]string{".ttf", ".otf", ".woff", ".woff2", ".ttc"}, name):
		return r.font(ctx)
	}
	if len(r.g.Data) > edit.MaxBytes || !utf8.Valid(r.g.Data) {
		return fmt.Errorf("%w: %s is none of what has a place here: pictures (PNG, JPEG, WebP, GIF, SVG), clips (MP4, WebM), fonts (TTF, OTF, WOFF, WOFF2), kits (ZIP, kit.json), palettes (GPL, CSS, tokens) and text", ErrInvalid, r.g.Name)
	}
	doc, err := edit.ParseObject(r.g.Data)
	if err == nil && brand.Own(doc) != nil {
		return r.wholeKit(ctx)
	}
	if err != nil && name == ".json" {
		return fmt.Errorf("%w: %s is broken JSON%s: %v", ErrInvalid, r.g.Name, lineOf(r.g.Data), err)
	}
	if name == ".txt" || name == ".md" || name == "" {
		return r.words(ctx, string(r.g.Data))
	}
	list, err := brand.ReadColours(string(r.g.Data))
	if err != nil {
		return fmt.Errorf("%w: %s: %v", ErrInvalid, r.g.Name, err)
	}
	return r.colours(ctx, list, false)
}

// lineOf says in which line JSON breaks off, "" where it does not.
func lineOf(data []byte) string {
	var broken *json.SyntaxError
	var v any
	if !errors.As(json.Unmarshal(data, &v), &broken) {
		return ""
	}
	return fmt.Sprintf(" in line %d", 1+bytes.Count(data[:min(int(broken.Offset), len(data))], []byte("\n")))
}

// wholeKit takes a kit in as one of its own; what comes next goes there.
func (r *receiver) wholeKit(ctx context.Context) error {
	id, err := r.kits.BringKit(ctx, r.m, r.g.Name, r.g.Data)
	if err != nil {
		return err
	}
	r.out.Kit = id
	r.out.Placed = append(r.out.Placed, Placed{What: r.g.Name, Into: "a kit of its own", As: "kit", Doc: id, From: -1})
	return nil
}

// kit is the kit things go to, made on no list yet when there is none.
func (r *receiver) kit(ctx context.Context) (*Kit, error) {
	if r.out.Kit == (ID{}) {
		d, err := r.store.CreateDocument(ctx, r.m, store.Document{Workspace: r.m.Workspace, Kind: "kit", Doc: raw(emptyKit("")), Hidden: true}, nil)
		if err != nil {
			return nil, err
		}
		r.out.Kit = d.ID
		r.hidden = append(r.hidden, d.ID)
	}
	return r.kits.Kit(ctx, r.m, r.out.Kit)
}

// set is the brief things go to, likewise.
func (r *receiver) set(ctx context.Context) (*Set, error) {
	if r.out.Brief == (ID{}) {
		k, err := r.kit(ctx)
		if err != nil {
			return nil, err
		}
		if r.out.Brief, err = r.newBrief(ctx, r.m, k.ID, true); err != nil {
			return nil, err
		}
		r.hidden = append(r.hidden, r.out.Brief)
	}
	return r.sets.Set(ctx, r.m, r.out.Brief)
}

// place makes a change to a document and notes what came to be where.
func (r *receiver) place(ctx context.Context, id ID, p Placed, do func(id ID) error) error {
	seq := func() (int64, error) {
		seqs, err := r.store.Seqs(ctx, r.m.Workspace, id)
		return seqs[id], err
	}
	var err error
	if p.From, err = seq(); err != nil {
		return err
	}
	if err := do(id); err != nil {
		return err
	}
	if p.To, err = seq(); err != nil {
		return err
	}
	for _, id := range r.hidden {
		if err := r.store.Show(ctx, r.m, id); err != nil {
			return err
		}
	}
	r.hidden = nil
	p.Doc = id
	r.out.Placed = append(r.out.Placed, p)
	return nil
}

func (r *receiver) inKit(ctx context.Context, p Placed, do func(kit ID) error) error {
	k, err := r.kit(ctx)
	if err != nil {
		return err
	}
	p.Into = strings.TrimSuffix(p.Into, " of")
	if k.Name != "" && p.As != asName {
		p.Into += " of " + k.Name
	}
	return r.place(ctx, k.ID, p, do)
}

// picture takes a picture for a logo or for a photograph, by how it looks unless
// somebody said.
func (r *receiver) picture(ctx context.Context) error {
	as := r.g.As
	svg := raster.Kind(r.g.Data) == "svg"
	var in raster.Imported
	if as == "" {
		as = asPicture
		named := strings.Contains(strings.ToLower(r.g.Name), "logo")
		if svg || named {
			as = asLogo
		} else {
			var err error
			if in, err = raster.Import(ctx, r.g.Data); err != nil {
				return fmt.Errorf("%s: %w", r.g.Name, err)
			}
			if colour.LooksDrawn(in.Thumb) {
				as = asLogo
			}
		}
	}
	if as == asPicture && r.g.KitOnly {
		as = asBrand
	}
	others := []string{asLogo, asBrand}
	if !r.g.KitOnly {
		others = []string{asLogo, asPicture, asBrand}
	}
	switch p := (Placed{What: r.g.Name, As: as, Others: others}); as {
	case asLogo:
		p.Into = "the logos of"
		return r.logo(ctx, p)
	case asBrand:
		p.Into = "the pictures of"
		return r.inKit(ctx, p, func(kit ID) error { return r.brand.AddBrandPicture(ctx, r.m, kit, r.g.Client, r.g.Name, r.g.Data) })
	default:
		p.Into = "the brief, as its picture"
		set, err := r.set(ctx)
		if err != nil {
			return err
		}
		if err := r.place(ctx, set.Doc.ID, p, func(brief ID) error { return r.briefs.AddPicture(ctx, r.m, brief, r.g.Client, "", r.g.Name, r.g.Data) }); err != nil {
			return err
		}
		return r.coloursOfPicture(ctx, in)
	}
}

// logo takes a logo in; a kit without colours gets the logo's, and type that goes
// with it.
func (r *receiver) logo(ctx context.Context, p Placed) error {
	if err := r.inKit(ctx, p, func(kit ID) error { return r.brand.AddLogo(ctx, r.m, kit, r.g.Client, r.g.Name, r.g.Data) }); err != nil {
		return err
	}
	k, err := r.kit(ctx)
	if err != nil {
		return err
	}
	if n := k.OwnFiles("logos"); n > 0 && len(k.Logos[n-1].Lost) > 0 {
		r.out.Left = append(r.out.Left, Left{"Of " + r.g.Name, strings.Join(k.Logos[n-1].Lost, "; ")})
	}
	if len(k.Colours()) > 0 || len(k.Logos) == 0 || k.Logos[0].Art == nil {
		return nil
	}
	return r.inKit(ctx, Placed{What: "Its colours, and type that goes with its shapes", Into: "the palette and type of", As: "from the logo"}, func(kit ID) error {
		return r.kits.FromLogo(ctx, r.m, kit, r.g.Client)
	})
}

// coloursOfPicture gives a kit without colours those of a photograph.
func (r *receiver) coloursOfPicture(ctx context.Context, in raster.Imported) error {
	k, err := r.kit(ctx)
	if err != nil || len(k.Colours()) > 0 || in.Data == nil {
		return err
	}
	list, err := pictureColours(ctx, in)
	if err != nil {
		return err
	}
	return r.inKit(ctx, Placed{What: "Its colours, until you have others", Into: "the palette of", As: "from the picture"}, func(kit ID) error {
		return r.brand.KeepColours(ctx, r.m, kit, r.g.Client, list...)
	})
}

// font takes a font in. The first one a kit gets sets its headlines, the next
// family its body.
func (r *receiver) font(ctx context.Context) error {
	k, err := r.kit(ctx)
	if err != nil {
		return err
	}
	p := Placed{What: r.g.Name, Into: "the fonts of", As: "font"}
	now := k.TypeSet("").Levels
	guess, _ := edit.Lookup(k.stands.own, guessedTypePath)
	untouched := k.stands.own.Get("type") == nil || guess == now[brand.Headline].Family+"/"+now[brand.Body].Family
	return r.inKit(ctx, p, func(kit ID) error {
		if err := r.brand.AddFont(ctx, r.m, kit, r.g.Client, r.g.Name, r.g.Data); err != nil {
			return err
		}
		k, err := r.kits.Kit(ctx, r.m, kit)
		if err != nil {
			return err
		}
		family := k.Fonts[k.OwnFiles("fonts")-1].Family
		set := k.TypeSet("")
		head, text := set.Levels[brand.Headline].Family, set.Levels[brand.Body].Family
		switch {
		case family == "" || family == head:
			return nil
		case untouched:
			return r.brand.SetFamilies(ctx, r.m, kit, r.g.Client, "", family, "")
		case family == text:
			return nil
		case ownFamily(k, head) && !ownFamily(k, text):
			return r.brand.SetFamilies(ctx, r.m, kit, r.g.Client, "", "", family)
		}
		return nil
	})
}

// ownFamily reports whether a family came with a font of the kit.
func ownFamily(k *Kit, family string) bool {
	return slices.ContainsFunc(k.Fonts, func(f brand.Font) bool { return f.Family == family })
}

// colours takes colours in; guessed ones are of inks, as no profile was given.
func (r *receiver) colours(ctx context.Context, list []brand.Colour, guessed bool) error {
	var add []NewColour
	naming := make([]string, len(list))
	for i, c := range list {
		add = append(add, NewColour{Name: c.Name, Value: c.Value, Role: c.Role})
		naming[i] = c.Value.Hex()
	}
	what := strings.Join(naming[:min(4, len(naming))], ", ")
	if n := len(naming); n > 4 {
		what = fmt.Sprintf("%s and %d more", what, n-4)
	}
	if guessed {
		what += ", turned from inks into screen colours without a profile (check them against a print)"
	}
	return r.inKit(ctx, Placed{What: what, Into: "the colours of", As: "colours"}, func(kit ID) error {
		if err := r.brand.KeepColours(ctx, r.m, kit, r.g.Client, add...); err != nil {
			return err
		}
		return r.brand.DropGuesses(ctx, r.m, kit, r.g.Client)
	})
}
