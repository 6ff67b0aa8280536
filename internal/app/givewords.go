package app

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"aspenridge/assets"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/plain"
)

// maxWords is how many bytes of words are taken at once.
const maxWords = 4 * brief.MaxCopy

// words puts lines of words where each belongs.
func (r *receiver) words(ctx context.Context, text string) error {
	if len(text) > maxWords {
		return fmt.Errorf("%w: %d characters at once; a headline, a few lines, an address and colours have a place here, up to %d", ErrInvalid, len([]rune(text)), maxWords)
	}
	list := brand.SortWords(text)
	if r.g.As != "" {
		list = []brand.GivenLine{{Kind: brand.LineWords, Text: strings.TrimSpace(text)}}
	}
	if len(list) == 0 || list[0].Text == "" {
		return fmt.Errorf("%w: there is nothing in it; drop files, paste or type words", ErrInvalid)
	}
	for _, told := range list {
		if err := r.line(ctx, told); err != nil {
			if len(list) == 1 {
				return err
			}
			r.out.Left = append(r.out.Left, Left{told.Text, plainWords(err)})
		}
	}
	if len(r.out.Placed) == 0 && len(r.out.Left) > 0 {
		return fmt.Errorf("%w: %s: %s", ErrInvalid, r.out.Left[0].What, r.out.Left[0].Why)
	}
	return nil
}

// kitLists are lists of the kit that lines join.
var kitLists = map[brand.LineKind][2]string{brand.LineHandle: {"handles", "the handles of"}, brand.LineHashtag: {"hashtags", "the hashtags of"}}

func (r *receiver) line(ctx context.Context, told brand.GivenLine) error {
	switch told.Kind {
	case brand.LineColours:
		var list []brand.Colour
		guessed := false
		for i, c := range told.Colours {
			add := brand.Colour{Name: c.Name, Value: c.Colour}
			if i < len(told.Roles) {
				add.Role = told.Roles[i]
			}
			list = append(list, add)
			guessed = guessed || c.Naive
		}
		return r.colours(ctx, list, guessed)
	case brand.LineHandle, brand.LineHashtag:
		to := kitLists[told.Kind]
		return r.inKit(ctx, Placed{What: told.Text, Into: to[1], As: to[0]}, r.setting(ctx, "kit", "/$extensions/aspenridge/"+to[0]+"/-", told.Text))
	case brand.LineWebsite:
		return r.kitField(ctx, "website", told.Text, "the address of")
	case brand.LinePhone:
		return r.kitField(ctx, "phone", told.Text, "the phone number of")
	case brand.LineField:
		return r.kitField(ctx, told.Field, told.Text, fieldNames[told.Field]+" of")
	case brand.LineList:
		return r.kitList(ctx, told)
	case brand.LineFont:
		return r.fontNamed(ctx, told)
	case brand.LineInk:
		return fmt.Errorf("%w: the number of an ink has no colour of its own on a screen; give its #hex in front of it or in the next line, and the colour is called by it", ErrInvalid)
	case brand.LineOther:
		return fmt.Errorf("%w: a kit has no place for it; what a piece says goes into a brief: give it on the Desk", ErrInvalid)
	case brand.LineCopy:
		if _, _, font := brand.FamilyIn(told.Text, r.families()); font { // "Headline: Gabarito Bold"
			told.Level = map[string]brand.Level{"headline": brand.Headline, "subheading": brand.Subheading, "body": brand.Body}[told.Field]
			return r.fontNamed(ctx, told)
		}
		if r.g.KitOnly {
			return fmt.Errorf("%w: the words of a piece go into a brief: give them on the Desk", ErrInvalid)
		}
		r.g.As = told.Field
		defer func() { r.g.As = "" }()
	}
	as, err := r.placeFor(ctx, told)
	switch {
	case err != nil:
		return err
	case told.Kind == brand.LineName && told.Says, as == asName:
		return r.kitField(ctx, asName, plain.Line(told.Text), "the name of the kit")
	case as == asTagline:
		return r.kitField(ctx, asTagline, told.Text, "the tagline of")
	}
	set, err := r.set(ctx)
	if err != nil {
		return err
	}
	return r.place(ctx, set.Doc.ID, Placed{What: told.Text, Into: "the brief, as its " + strings.ToLower(spaced(as)), As: as, Others: r.otherWords()},
		r.setting(ctx, "brief", cardPath(set.Brief.Cards[0].ID, as), told.Text))
}

// fieldNames are the texts and lists of a kit as people call them.
var fieldNames = map[string]string{
	"tagline": "the tagline", "place": "the place", "voice/sounds": "how it sounds, in the voice", "voice/reader": "the reader, in the voice",
	"voice/sentences": "the sentences, in the voice", "voice/says": "what it says, in the voice", "voice/neverSays": "what it never says, in the voice",
	"values": "the values", "callsToAction": "the calls to action", "hashtags": "the hashtags",
}

// kitList adds several texts to a list of the kit; those it has are left out.
func (r *receiver) kitList(ctx context.Context, told brand.GivenLine) error {
	k, err := r.kit(ctx)
	if err != nil {
		return err
	}
	at := "/$extensions/aspenridge/" + told.Field
	var have []any
	if list, ok := edit.Lookup(k.stands.whole, at); ok {
		have, _ = list.([]any)
	}
	all := slices.Clone(have)
	for _, item := range told.Items {
		if told.Field == "hashtags" {
			item = "#" + strings.TrimPrefix(item, "#")
		}
		if !slices.ContainsFunc(all, func(v any) bool { s, _ := v.(string); return strings.EqualFold(s, item) }) {
			all = append(all, item)
		}
	}
	if len(all) == len(have) {
		return fmt.Errorf("%w: the kit has it already", ErrInvalid)
	}
	return r.inKit(ctx, Placed{What: told.Text, Into: fieldNames[told.Field] + " of", As: told.Field}, func(kit ID) error {
		_, err := r.documents.Edit(ctx, r.m, kit, Change{Kind: "kit", Client: r.g.Client, Base: Latest, Op: edit.Op{Path: at, Value: raw(all)}})
		return err
	})
}

// families are those a kit made of words can be set in.
func (r *receiver) families() []string { return assets.Library().Families() }

// fontNamed sets a level in a family that is named, where it ships or is the kit's own.
func (r *receiver) fontNamed(ctx context.Context, told brand.GivenLine) error {
	k, err := r.kit(ctx)
	if err != nil {
		return err
	}
	family, weight, ok := brand.FamilyIn(told.Text, k.Library.Families())
	if !ok {
		return fmt.Errorf("%w: the font is not here; drop its file (TTF, OTF, WOFF, WOFF2) and it is used", ErrInvalid)
	}
	head, text := family, family
	switch told.Level {
	case brand.Headline, brand.Subheading:
		text = ""
	case brand.Body:
		head = ""
	}
	levels := map[brand.Level]string{brand.Headline: "the type of headlines of", brand.Subheading: "the type of headlines of", brand.Body: "the type of text of", "": "the type of"}
	return r.inKit(ctx, Placed{What: told.Text, Into: levels[told.Level], As: "font"}, func(kit ID) error {
		if err := r.brand.SetFamilies(ctx, r.m, kit, r.g.Client, "", head, text); err != nil {
			return err
		}
		if weight == 0 || told.Level == "" {
			return nil
		}
		return r.brand.SetLevel(ctx, r.m, kit, r.g.Client, "", told.Level, "weight", strconv.Itoa(weight))
	})
}

// spaced writes "callToAction" as words.
func spaced(field string) string {
	var b strings.Builder
	for _, c := range field {
		if c >= 'A' && c <= 'Z' {
			b.WriteByte(' ')
		}
		b.WriteRune(c)
	}
	return b.String()
}

func (r *receiver) otherWords() []string {
	kit := []string{asName, asTagline}
	if r.g.KitOnly {
		return kit
	}
	return append(kit, "headline", "subheading", "body", "callToAction")
}

// placeFor says what a line of words is: what they are called first, then what a
// brief has not yet.
func (r *receiver) placeFor(ctx context.Context, told brand.GivenLine) (string, error) {
	if r.g.As != "" {
		if !slices.Contains(r.otherWords(), r.g.As) {
			return "", fmt.Errorf("%w: words cannot be the %s; want one of %s", ErrInvalid, r.g.As, strings.Join(r.otherWords(), ", "))
		}
		return r.g.As, nil
	}
	var k *Kit
	if r.out.Kit != (ID{}) {
		var err error
		if k, err = r.kit(ctx); err != nil {
			return "", err
		}
	}
	if told.Kind == brand.LineName && (k == nil || k.Name == "") {
		return asName, nil
	}
	if r.g.KitOnly {
		if k == nil || k.Tagline == "" {
			return asTagline, nil
		}
		return "", fmt.Errorf("%w: the kit has a name and a tagline; what a piece says goes into a brief: give it on the Desk", ErrInvalid)
	}
	var c brief.Card
	if r.out.Brief != (ID{}) {
		set, err := r.set(ctx)
		if err != nil {
			return "", err
		}
		c = set.Brief.Cards[0]
	}
	short := len(strings.Fields(told.Text)) <= 4
	for _, f := range []struct {
		name  string
		taken *string
		fits  bool
	}{{"headline", c.Headline, true}, {"callToAction", c.CallToAction, short && c.Subheading != nil}, {"subheading", c.Subheading, true}, {"body", c.Body, true}, {"callToAction", c.CallToAction, short}} {
		if f.fits && (f.taken == nil || *f.taken == "") {
			return f.name, nil
		}
	}
	return "", fmt.Errorf("%w: the brief has a headline, a subheading and a body; change them there, or start another brief", ErrInvalid)
}

// kitField sets a field of who they are.
func (r *receiver) kitField(ctx context.Context, field, text, where string) error {
	var others []string
	if field == asName || field == asTagline {
		others = r.otherWords()
	}
	return r.inKit(ctx, Placed{What: text, Into: where, As: field, Others: others}, r.setting(ctx, "kit", "/$extensions/aspenridge/"+field, text))
}

// setting is the change that sets a text.
func (r *receiver) setting(ctx context.Context, kind, path, text string) func(ID) error {
	return func(id ID) error {
		_, err := r.documents.Edit(ctx, r.m, id, Change{Kind: kind, Client: r.g.Client, Base: Latest, Op: edit.Op{Path: path, Value: raw(text)}})
		return err
	}
}
