package app

import (
	"context"
	"fmt"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
)

// Write puts words into a field of a card, named by its id ("" for the first), for
// the whole set, a channel or one piece.
func (a *App) Write(ctx context.Context, m Member, id ID, c Change, card, field, reach, text string) (int64, error) {
	if !slices.Contains(brief.CopyFields, field) {
		return 0, fmt.Errorf("%w: %q is not a field of copy", ErrInvalid, field)
	}
	if reach == "" || reach == "set" {
		if card == "" {
			s, err := a.Set(ctx, m, id)
			if err != nil {
				return 0, err
			}
			card = s.Brief.Cards[0].ID
		}
		c.Kind, c.Op = "brief", edit.Op{Path: cardPath(card, field), Value: raw(text)}
		return a.Edit(ctx, m, id, c)
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: field, Property: "text", Value: text})
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
func (a *App) adjust(ctx context.Context, m Member, id ID, c Change, adj brief.Adjustment) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	c.Kind, c.Op = "brief", s.adjustOps(adj)[0]
	return a.Edit(ctx, m, id, c)
}

// Lift takes an adjustment back: "back to the rule".
func (a *App) Lift(ctx context.Context, m Member, id ID, client, reach, slot, property string) (int64, error) {
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
	return a.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: s.Doc.Seq, Op: edit.Op{Path: "/adjustments/@" + s.Brief.Adjustments[at].ID}})
}

// SetLogo chooses the logo for a reach; an empty file gives it back to the
// rule.
func (a *App) SetLogo(ctx context.Context, m Member, id ID, client, reach, file string) (int64, error) {
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
		return a.Edit(ctx, m, id, c)
	}
	if file == "" {
		return a.Lift(ctx, m, id, client, reach, "logo", "file")
	}
	return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: "logo", Property: "file", Value: file})
}
