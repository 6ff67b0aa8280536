package app

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
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
		list = []brand.Told{{Kind: brand.ToldWords, Text: strings.TrimSpace(text)}}
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
var kitLists = map[brand.ToldKind][2]string{brand.ToldHandle: {"handles", "the handles of"}, brand.ToldHashtag: {"hashtags", "the hashtags of"}}

func (r *receiver) line(ctx context.Context, told brand.Told) error {
	switch told.Kind {
	case brand.ToldColours:
		var list []brand.Colour
		guessed := false
		for _, c := range told.Colours {
			list = append(list, brand.Colour{Name: c.Name, Value: c.Colour})
			guessed = guessed || c.Naive
		}
		return r.colours(ctx, list, guessed)
	case brand.ToldHandle, brand.ToldHashtag:
		to := kitLists[told.Kind]
		return r.inKit(ctx, Placed{What: told.Text, Into: to[1], As: to[0]}, r.setting(ctx, "kit", "/$extensions/aspenridge/"+to[0]+"/-", told.Text))
	case brand.ToldWebsite:
		return r.kitField(ctx, "website", told.Text, "the address of")
	case brand.ToldPhone:
		return r.kitField(ctx, "phone", told.Text, "the phone number of")
	}
	as, err := r.placeFor(ctx, told)
	switch {
	case err != nil:
		return err
	case as == asName:
		return r.kitField(ctx, asName, oneLine(told.Text), "the name of the kit")
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
func (r *receiver) placeFor(ctx context.Context, told brand.Told) (string, error) {
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
	if told.Kind == brand.ToldName && (k == nil || k.Name == "") {
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
