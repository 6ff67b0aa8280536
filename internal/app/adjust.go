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
// the whole set, a channel or one piece; or into a part that was added, named by its slot.
func (a Briefs) Write(ctx context.Context, m Member, id ID, c Change, card, field, reach, text string) (int64, error) {
	if strings.HasPrefix(field, brief.AddedSlot) {
		return a.writeAdded(ctx, m, id, c, field, text)
	}
	if !slices.Contains(brief.CopyFields, field) {
		return 0, fmt.Errorf("%w: %q is not a field of copy", ErrInvalid, field)
	}
	if reach != "" && reach != "set" {
		return a.adjust(ctx, m, id, c, brief.Adjustment{Reach: reach, Slot: field, Property: "text", Value: raw(text)})
	}
	return a.words(ctx, m, id, c, func(s *Set) edit.Op {
		at := card
		if at == "" {
			at = s.Brief.Cards[0].ID
		}
		return s.asShown(s.withShort(edit.Op{Path: cardPath(at, field), Value: raw(text)}))
	})
}

// mostAddedText is how many letters what is added says at most.
const mostAddedText = 300

// writeAdded says something else in a part that was added, wherever it is. A part with words always
// says something: nothing is refused.
func (a Briefs) writeAdded(ctx context.Context, m Member, id ID, c Change, slot, text string) (int64, error) {
	if n := len([]rune(text)); n > mostAddedText || strings.TrimSpace(text) == "" {
		return 0, fmt.Errorf("%w: what is added says 1 to %d letters, this is %d", ErrInvalid, mostAddedText, n)
	}
	c.Kind = "brief"
	return a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		var ops []edit.Op
		for _, adj := range s.Brief.Adjustments {
			if adj.Slot == slot && adj.Property == "part" {
				ops = append(ops, edit.Op{Path: "/adjustments/@" + adj.ID + "/value/text", Value: raw(text)})
			}
		}
		c := c
		switch len(ops) {
		case 0:
			return c, fmt.Errorf("%w: %q is not on the piece any more", ErrInvalid, slot)
		case 1:
			c.Op = ops[0]
		default:
			c.Op = edit.Op{All: ops}
		}
		return c, nil
	})
}

// EditBrief changes a brief. With a headline or a short one it notes which headline
// the short one was written for.
func (a Briefs) EditBrief(ctx context.Context, m Member, id ID, c Change) (int64, error) {
	if _, _, ok := headlineAt(c.Op.Path); !ok {
		c.Kind = "brief"
		return a.documents.Edit(ctx, m, id, c)
	}
	return a.words(ctx, m, id, c, func(s *Set) edit.Op { return s.withShort(c.Op) })
}

// words makes a change of what a brief says up from its set.
func (a Briefs) words(ctx context.Context, m Member, id ID, c Change, op func(*Set) edit.Op) (int64, error) {
	c.Kind = "brief"
	var last edit.Op
	seq, err := a.fromSet(ctx, m, id, func(s *Set) (Change, error) {
		last = op(s)
		c := c
		c.Op = last
		return c, nil
	})
	var conflict *store.Conflict
	if n := len(last.All); n > 0 && errors.As(err, &conflict) && strings.HasSuffix(conflict.Path, "/shortOf") { // somebody writes the other one just now: the words themselves merge
		c.Op = last.All[n-1]
		return a.documents.Edit(ctx, m, id, c)
	}
	return seq, err
}

// headlineAt tells the path of a card's headline or short headline: the card's id, and
// which of the two.
func headlineAt(path string) (card, field string, ok bool) {
	parts := strings.Split(path, "/")
	if len(parts) != 4 || parts[1] != "cards" || !strings.HasPrefix(parts[2], "@") || parts[3] != "headline" && parts[3] != "shortHeadline" {
		return "", "", false
	}
	return parts[2][1:], parts[3], true
}

// withShort is a change of a headline or a short one with what it makes of the headline
// the short one was written for; the change itself comes last. Others stay as they are.
func (s *Set) withShort(op edit.Op) edit.Op {
	id, field, ok := headlineAt(op.Path)
	if !ok {
		return op
	}
	card, err := s.cardOf(id)
	if err != nil {
		return op
	}
	of := edit.Op{Path: cardPath(id, "shortOf")}
	switch {
	case field == "shortHeadline" && card.Headline != nil:
		of.Value = raw(*card.Headline)
	case field == "headline" && card.ShortHeadline != nil && *card.ShortHeadline != "" && card.Headline != nil:
		// with every key, so that the keys of one word are one step of undo
		if of.Value = raw(*card.Headline); card.ShortOf != nil {
			of.Value = raw(*card.ShortOf)
		}
	default:
		return op
	}
	return edit.Op{All: []edit.Op{of, op}}
}

// asShown is a change made on pieces that show a look nobody has kept: it keeps that
// look, where a picture would have the looks ranked anew, and pieces change their layout
// under the hand. The change itself comes last.
func (s *Set) asShown(op edit.Op) edit.Op {
	if s.Look != nil || !slices.ContainsFunc(s.Brief.Cards, func(c brief.Card) bool { return len(c.Pictures) > 0 }) {
		return op
	}
	look := s.CurrentLook()
	if op.All == nil {
		return edit.Op{All: []edit.Op{keep(&look), op}}
	}
	return edit.Op{All: append([]edit.Op{keep(&look)}, op.All...)}
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
		c.Kind, c.Op = "brief", s.asShown(s.adjustOps(adj)[0])
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
