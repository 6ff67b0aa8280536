package app

import (
	"context"
	"fmt"
	"slices"

	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/layout"
	"aspenridge/internal/core/piece"
)

// MaxKept is how many looks a brief keeps at most.
const MaxKept = 12

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

// LookName is how people call a kept look: A, B, C in the order they were kept.
func LookName(id string) string {
	if id == "" {
		return "A"
	}
	return string(id[0] - 'a' + 'A')
}

// PieceKey tells the pieces of a brief apart: a placement in a kept look.
func PieceKey(look piece.Look, placement string) string {
	if look.ID == "" {
		return placement
	}
	return placement + "@" + look.ID
}

// freeID is an id no kept look has: none for the first, then b, c and so on.
func freeID(kept []piece.Look) string {
	for c := 'a'; c <= 'z'; c++ {
		id := string(c)
		if c == 'a' {
			id = ""
		}
		if !slices.ContainsFunc(kept, func(l piece.Look) bool { return l.ID == id }) {
			return id
		}
	}
	return "z"
}

func (a *App) setLooks(ctx context.Context, m Member, id ID, client string, base int64, kept []piece.Look, shown string) (int64, error) {
	ops := []edit.Op{{Path: "/looks", Value: raw(kept)}, {Path: "/shown", Value: raw(shown)}}
	if shown == "" {
		ops[1].Value = nil
	}
	return a.Edit(ctx, m, id, Change{Client: client, Base: base, Op: edit.Op{All: ops}})
}

// ChooseLook puts a look in the place of the one that is shown, or keeps it as
// the first.
func (a *App) ChooseLook(ctx context.Context, m Member, id ID, client string, base int64, look piece.Look) (int64, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	kept := slices.Clone(s.Kept)
	if s.Look == nil {
		look.ID = ""
		kept = append(kept, look)
	}
	for i := range kept {
		if s.Look != nil && kept[i].ID == s.Look.ID {
			look.ID = s.Look.ID
			kept[i] = look
		}
	}
	// only the looks change: another tab may go on with something else
	return a.Edit(ctx, m, id, Change{Client: client, Base: base, Op: edit.Op{Path: "/looks", Value: raw(kept)}})
}

// KeepLook keeps one more look; with show it is the one worked on from now on.
// A look that is kept already is not kept twice. It returns its id.
func (a *App) KeepLook(ctx context.Context, m Member, id ID, client string, look piece.Look, show bool) (string, error) {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return "", err
	}
	if j := slices.IndexFunc(s.Job.Layouts, func(l *layout.Layout) bool { return l.Ref() == look.Layout }); j < 0 {
		return "", fmt.Errorf("%w: there is no layout %q", ErrInvalid, look.Layout)
	}
	shown := s.Brief.Shown
	if i := slices.IndexFunc(s.Kept, func(l piece.Look) bool { return l.Same(look) }); i >= 0 {
		look.ID = s.Kept[i].ID
		if show && look.ID != shown {
			_, err = a.setLooks(ctx, m, id, client, Latest, s.Kept, look.ID)
		}
		return look.ID, err
	}
	if len(s.Kept) >= MaxKept {
		return "", fmt.Errorf("%w: a brief keeps at most %d looks; let one go first", ErrInvalid, MaxKept)
	}
	look.ID = freeID(s.Kept)
	if show || len(s.Kept) == 0 {
		shown = look.ID
	}
	_, err = a.setLooks(ctx, m, id, client, Latest, append(slices.Clone(s.Kept), look), shown)
	return look.ID, err
}

// LetLookGo keeps a look no longer. What was finished in it stays as it is.
func (a *App) LetLookGo(ctx context.Context, m Member, id ID, client, look string) error {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	kept := slices.DeleteFunc(slices.Clone(s.Kept), func(l piece.Look) bool { return l.ID == look })
	if len(kept) == len(s.Kept) {
		return ErrNotFound
	}
	shown := s.Brief.Shown
	if shown == look {
		shown = ""
		if len(kept) > 0 {
			shown = kept[0].ID
		}
	}
	_, err = a.setLooks(ctx, m, id, client, Latest, kept, shown)
	return err
}

// ShowLook makes a kept look the one that is worked on.
func (a *App) ShowLook(ctx context.Context, m Member, id ID, client, look string) error {
	s, err := a.Set(ctx, m, id)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(s.Kept, func(l piece.Look) bool { return l.ID == look }) {
		return ErrNotFound
	}
	_, err = a.setLooks(ctx, m, id, client, Latest, s.Kept, look)
	return err
}
