package app

import (
	"context"
	"fmt"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/store"
)

// MaxKept is how many looks a brief keeps at most.
const MaxKept = brief.MaxKept

// keptLooks are the looks of a brief that are written out.
func keptLooks(b *brief.Brief) []piece.Look {
	var out []piece.Look
	for _, v := range b.Looks {
		var l piece.Look
		if edit.Decode(v, &l) == nil && l.Layout != "" {
			out = append(out, l)
		}
	}
	return out
}

// LookName is how people call a kept look: A, B, C in the order they stand; "A"
// also for the one that is proposed before any is kept.
func (s *Set) LookName(id string) string {
	n := max(0, slices.IndexFunc(s.Looks, func(l piece.Look) bool { return l.ID == id }))
	return string(rune('A' + n))
}

// PieceKey tells the pieces of a brief apart: a placement in a kept look.
func PieceKey(look piece.Look, placement string) string {
	if look.ID == "" {
		return placement
	}
	return placement + "@" + look.ID
}

// lookPath is where a kept look stands in a brief's document.
func lookPath(id string) string { return "/looks/@" + id }

// keep is a change that keeps a look under a fresh id; ids are never used again,
// so that what was finished in one look never counts for another.
func keep(look *piece.Look) edit.Op {
	look.ID = store.NewMemberID()
	return edit.Op{Path: lookPath(look.ID), Value: raw(*look)}
}

// show is a change that makes a kept look the one that is worked on.
func show(id string) edit.Op { return edit.Op{Path: "/shown", Value: raw(id)} }

// ChooseLook puts a look in the place of the one that is shown, or keeps it as
// the first.
func (a Sets) ChooseLook(ctx context.Context, m Member, id ID, client string, base int64, look piece.Look) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	op := edit.Op{}
	if s.Look == nil {
		op = keep(&look)
	} else {
		look.ID = s.Look.ID
		op = edit.Op{Path: lookPath(look.ID), Value: raw(look)}
	}
	return a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: base, Op: op})
}

// KeepLook keeps one more look; with show it is the one worked on from now on.
// A look that is kept already is not kept twice. It returns its id.
func (a Sets) KeepLook(ctx context.Context, m Member, id ID, client string, look piece.Look, shown bool) (string, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return "", err
	}
	if j := slices.IndexFunc(s.Job.Layouts, func(l *layout.Layout) bool { return l.Ref() == look.Layout }); j < 0 {
		return "", fmt.Errorf("%w: there is no layout %q", ErrInvalid, look.Layout)
	}
	if i := slices.IndexFunc(s.Looks, func(l piece.Look) bool { return l.Same(look) }); i >= 0 {
		if shown {
			err = a.ShowLook(ctx, m, id, client, s.Looks[i].ID)
		}
		return s.Looks[i].ID, err
	}
	if len(s.Looks) >= MaxKept {
		return "", fmt.Errorf("%w: a brief keeps at most %d looks; let one go first", ErrInvalid, MaxKept)
	}
	ops := []edit.Op{keep(&look)}
	if shown || len(s.Looks) == 0 {
		ops = append(ops, show(look.ID))
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: s.Doc.Seq, Op: edit.Op{All: ops}})
	return look.ID, err
}

// LetLookGo keeps a look no longer. What was finished in it stays as it is.
func (a Sets) LetLookGo(ctx context.Context, m Member, id ID, client, look string) error {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	rest := slices.DeleteFunc(slices.Clone(s.Looks), func(l piece.Look) bool { return l.ID == look })
	if len(rest) == len(s.Looks) {
		return ErrNotFound
	}
	ops := []edit.Op{{Path: lookPath(look)}}
	if s.Brief.Shown == look {
		ops = append(ops, edit.Op{Path: "/shown"})
		if len(rest) > 0 {
			ops[1] = show(rest[0].ID)
		}
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: s.Doc.Seq, Op: edit.Op{All: ops}})
	return err
}

// ShowLook makes a kept look the one that is worked on.
func (a Sets) ShowLook(ctx context.Context, m Member, id ID, client, look string) error {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(s.Looks, func(l piece.Look) bool { return l.ID == look }) {
		return ErrNotFound
	}
	if s.Look != nil && s.Look.ID == look {
		return nil
	}
	_, err = a.documents.Edit(ctx, m, id, Change{Kind: "brief", Client: client, Base: s.Doc.Seq, Op: show(look)})
	return err
}
