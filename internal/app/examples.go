package app

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"aspenridge/assets"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
)

// FindExamples lists the shipped examples that fit a purpose ("" for any) and
// what somebody typed.
func FindExamples(purpose, query string) []assets.Example {
	var out []assets.Example
	for _, e := range assets.Examples() {
		if (purpose == "" || e.Purpose == purpose) && matches(exampleText(e), query) {
			out = append(out, e)
		}
	}
	return out
}

// Example is the job of a shipped example in the kit and with the pictures of a
// brief, and the look it is shown in.
func (a Briefs) Example(s *Set, e assets.Example) (*piece.Job, piece.Look) {
	var card brief.Card
	if err := json.Unmarshal(e.Card, &card); err != nil {
		panic(fmt.Errorf("example %s: %w", e.ID, err)) // a test reads them all
	}
	card.Pictures = s.Brief.Cards[0].Pictures
	if len(card.Pictures) == 0 {
		for _, p := range s.Kit.Pictures {
			if p.Kind == "picture" && len(card.Pictures) < 4 {
				card.Pictures = append(card.Pictures, brief.Picture{File: p.File, Alt: p.Alt})
			}
		}
	}
	j := a.bareJob(s.Kit, &brief.Brief{FormatVersion: 1, Purpose: e.Purpose, Signature: s.Brief.Signature, Cards: []brief.Card{card}})
	j.Pictures, j.KitPictures = s.Job.Pictures, s.Job.KitPictures
	// neighbours in the gallery differ in colour as they do in layout
	looks := j.LooksFor(piece.Wish{Layout: e.Layout}, 6)
	n := slices.IndexFunc(assets.Examples(), func(o assets.Example) bool { return o.ID == e.ID })
	if len(looks) == 0 {
		return j, j.Looks(1)[0]
	}
	return j, looks[n%len(looks)]
}

// matches reports whether every word typed begins a word of a text.
func matches(text, query string) bool {
	words := strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	for _, q := range strings.Fields(strings.ToLower(query)) {
		if !slices.ContainsFunc(words, func(w string) bool { return strings.HasPrefix(w, q) }) {
			return false
		}
	}
	return true
}

func exampleText(e assets.Example) string {
	return strings.ToLower(e.Name + " " + e.Purpose + " " + strings.Join(e.Words, " ") + " " + string(e.Card))
}

// BeginFrom puts an example's copy, purpose and look into a brief, in place of
// what it says; its pictures stay. The copy is noted as the example's, so that
// preflight finds what is left of it.
func (a Briefs) BeginFrom(ctx context.Context, m Member, id ID, client, example string) error {
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(assets.Examples(), func(e assets.Example) bool { return e.ID == example })
	if i < 0 {
		return ErrNotFound
	}
	e := assets.Examples()[i]
	job, look := a.Example(s, e)
	card, err := edit.ParseObject(e.Card)
	if err != nil {
		return err
	}
	sample := map[string]string{}
	for _, f := range brief.CopyFields {
		if v, ok := card.Get(f).(string); ok {
			sample[f] = v
		}
	}
	doc, err := edit.ParseObject(s.Doc.Doc)
	if err != nil {
		return err
	}
	card.Set("id", s.Brief.Cards[0].ID)
	if pics, ok := edit.Lookup(doc, "/cards/0/pictures"); ok {
		card.Set("pictures", pics)
	} else if list := job.Brief.Cards[0].Pictures; len(list) > 0 {
		var pics []any
		for _, p := range list {
			o := edit.NewObject()
			o.Set("file", p.File)
			o.Set("alt", p.Alt)
			pics = append(pics, o)
		}
		card.Set("pictures", pics)
	}
	inLook := edit.Op{}
	if s.Look != nil {
		look.ID = s.Look.ID
		inLook = edit.Op{Path: lookPath(look.ID), Value: raw(look)}
	} else {
		inLook = keep(&look)
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: s.Doc.Seq, Op: edit.Op{All: []edit.Op{
		{Path: "/cards/@" + s.Brief.Cards[0].ID, Value: raw(card)}, {Path: "/purpose", Value: raw(e.Purpose)}, {Path: "/sample", Value: raw(sample)}, inLook,
	}}})
	return err
}
