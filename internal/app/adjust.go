package app

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/store"
)

// Write puts words into a field of a card, named by its id ("" for the first), for
// the whole set, a channel or one piece.
func (a Briefs) Write(ctx context.Context, m Member, id ID, c Change, card, field, reach, text string) (int64, error) {
	if !slices.Contains(brief.CopyFields, field) {
		return 0, fmt.Errorf("%w: %q is not a field of copy", ErrInvalid, field)
	}
	if reach == "" || reach == "set" {
		if card == "" {
			s := a.known(m, id)
			if s == nil {
				var err error
				if s, err = a.sets.Set(ctx, m, id); err != nil {
					return 0, err
				}
			}
			card = s.Brief.Cards[0].ID
		}
		c.Op = edit.Op{Path: cardPath(card, field), Value: raw(text)}
		return a.EditBrief(ctx, m, id, c)
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: field, Property: "text", Value: raw(text)})
}

// EditBrief changes a brief. With a headline or a short one it notes which headline
// the short one was written for.
func (a Briefs) EditBrief(ctx context.Context, m Member, id ID, c Change) (int64, error) {
	c.Kind = "brief"
	parts := strings.Split(c.Op.Path, "/")
	if len(parts) != 4 || parts[1] != "cards" || !strings.HasPrefix(parts[2], "@") || parts[3] != "headline" && parts[3] != "shortHeadline" {
		return a.documents.Edit(ctx, m, id, c)
	}
	short := cardPath(parts[2][1:], "shortOf")
	seq, err := a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		c := c
		card, err := s.cardOf(parts[2][1:])
		if err != nil {
			return c, nil
		}
		of := edit.Op{Path: short}
		switch {
		case parts[3] == "shortHeadline" && card.Headline != nil:
			of.Value = raw(*card.Headline)
		case parts[3] == "headline" && card.ShortHeadline != nil && *card.ShortHeadline != "" && card.Headline != nil:
			// with every key, so that the keys of one word are one step of undo
			if of.Value = raw(*card.Headline); card.ShortOf != nil {
				of.Value = raw(*card.ShortOf)
			}
		default:
			return c, nil
		}
		c.Op = edit.Op{All: []edit.Op{of, c.Op}}
		return c, nil
	})
	var conflict *store.Conflict
	if errors.As(err, &conflict) && conflict.Path == short { // somebody writes the other one just now: the words themselves merge
		return a.documents.Edit(ctx, m, id, c)
	}
	return seq, err
}

// MovePicture shows another part of a picture within a reach: crop is [x, y, w, h]
// as fractions of it, slot the part of the piece it fills.
func (a Sets) MovePicture(ctx context.Context, m Member, id ID, c Change, reach, slot string, crop [4]float64) (int64, error) {
	if !slices.Contains(piece.PictureSlots, slot) {
		return 0, fmt.Errorf("%w: %q is not a picture of a piece", ErrInvalid, slot)
	}
	for i, v := range crop {
		crop[i] = math.Round(v*10000) / 10000
	}
	value := raw(crop)
	if _, err := brief.ParseCrop(value); err != nil {
		return 0, fmt.Errorf("%w: %v", ErrInvalid, err)
	}
	if reach == "" {
		reach = "set"
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: slot, Property: "crop", Value: value})
}

// cardPath is where a field of a card stands in a brief's document.
func cardPath(card, field string) string { return "/cards/@" + card + "/" + field }

// cardOf finds a card of a set by its id; "" is the first.
func (s *Set) cardOf(id string) (brief.Card, error) {
	for _, c := range s.Brief.Cards {
		if c.ID == id || id == "" {
			return c, nil
		}
	}
	return brief.Card{}, ErrNotFound
}

// adjust sets a property of a slot within a reach.
func (a *house) adjust(ctx context.Context, m Member, id ID, c Change, adj brief.Adjustment) (int64, error) {
	return a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		c := c
		c.Kind, c.Op = "brief", s.adjustOps(adj)[0]
		return c, nil
	})
}

// Lift takes an adjustment back: "back to the rule".
func (a Sets) Lift(ctx context.Context, m Member, id ID, client, reach, slot, property string) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	at := slices.IndexFunc(s.Brief.Adjustments, func(o brief.Adjustment) bool {
		return o.Reach == reach && o.Slot == slot && o.Property == property
	})
	if at < 0 {
		return 0, ErrNotFound
	}
	return a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: s.Doc.Seq, Op: edit.Op{Path: "/adjustments/@" + s.Brief.Adjustments[at].ID}})
}

// SetLogo chooses the logo for a reach; an empty file gives it back to the
// rule.
func (a Sets) SetLogo(ctx context.Context, m Member, id ID, client, reach, file string) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	c := Change{Kind: "brief", Client: client, Base: s.Doc.Seq}
	if reach == "" || reach == "set" {
		c.Op = edit.Op{Path: "/logo", Value: raw(file)}
		if file == "" {
			c.Op.Value = nil
		}
		return a.documents.Edit(ctx, m, id, c)
	}
	if file == "" {
		return a.Lift(ctx, m, id, client, reach, "logo", "file")
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: "logo", Property: "file", Value: raw(file)})
}
