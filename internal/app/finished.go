package app

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"slices"

	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/core/scene"
	"aspenridge/internal/raster"
	"aspenridge/internal/store"
)

// Frozen is a finished piece, and how it would look now.
type Frozen struct {
	store.Finished
	Set   *Set
	Now   *piece.Piece
	Moved bool // it would look different now
}

// drawing tells two drawings of a scene apart, pictures by their content.
func drawing(s *scene.Scene) string {
	svg := s.SVG(scene.Options{Scale: 1, Href: func(r scene.PictureRef) string { return string(raw(r)) }})
	sum := sha256.Sum256([]byte(svg))
	return hex.EncodeToString(sum[:])
}

// freeze makes a piece of a set ready to be kept as it is.
func (a *house) freeze(ctx context.Context, s *Set, pc *piece.Piece, version int64) (store.Finished, error) {
	svg, err := a.studio.SVG(ctx, pc.Scene, raster.Output{Format: "svg"})
	if err != nil {
		return store.Finished{}, err
	}
	hash, err := a.blobs.Put(ctx, []byte(svg))
	return store.Finished{
		Brief: s.Doc.ID, Kit: s.Kit.ID, Placement: PieceKey(pc.Look, pc.Placement.ID), KitVersion: &version, Hash: drawing(pc.Scene),
		Look: raw(pc.Look), SVG: hash, Report: raw(pc.Report()),
	}, err
}

// Finish freezes the pieces of a brief that are chosen, by their [PieceKey], and
// not finished yet; without any, those of the look that is shown. From then on
// they stay as they are until somebody brings them forward. It returns how many
// were frozen.
func (a Sets) Finish(ctx context.Context, m Member, brief ID, keys ...string) (int, error) {
	if len(keys) == 0 {
		s, err := a.Set(ctx, m, brief)
		if err != nil {
			return 0, err
		}
		if s.Look == nil { // what is finished is finished in a look that is kept
			if _, err := a.KeepLook(ctx, m, brief, "finish", s.CurrentLook(), true); err != nil {
				return 0, err
			}
			if s, err = a.Set(ctx, m, brief); err != nil {
				return 0, err
			}
		}
		for _, p := range s.Placements() {
			keys = append(keys, PieceKey(s.CurrentLook(), p.ID))
		}
	}
	return a.freezeAll(ctx, m, brief, func(key string, done bool) bool { return !done && slices.Contains(keys, key) })
}

// BringForward freezes finished pieces anew, as they look now; without
// placements, all of the brief.
func (a Sets) BringForward(ctx context.Context, m Member, brief ID, placements ...string) (int, error) {
	return a.freezeAll(ctx, m, brief, func(id string, done bool) bool {
		return done && (len(placements) == 0 || slices.Contains(placements, id))
	})
}

func (a *house) freezeAll(ctx context.Context, m Member, brief ID, which func(placement string, done bool) bool) (int, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, brief); err != nil {
		return 0, err
	}
	s, err := a.sets.Set(ctx, m, brief)
	if err != nil {
		return 0, err
	}
	done, err := a.sets.Finished(ctx, m, brief)
	if err != nil {
		return 0, err
	}
	version, err := a.keepVersion(ctx, m, s.Kit.ID, "")
	if err != nil {
		return 0, err
	}
	var list []store.Finished
	for _, pc := range s.PiecesIn(s.AllLooks()...) {
		key := PieceKey(pc.Look, pc.Placement.ID)
		_, is := done[key]
		if !which(key, is) {
			continue
		}
		f, err := a.freeze(ctx, s, pc, version)
		if err != nil {
			return 0, err
		}
		list = append(list, f)
	}
	if err := a.store.Finish(ctx, m.Workspace, list...); err != nil || len(list) == 0 {
		return 0, err
	}
	return len(list), a.noteOf(ctx, m, noteFinished, brief, "finished %d pieces", len(list))
}

// Reopen lets finished pieces of a brief follow again: those of some keys
// ([PieceKey]), or all.
func (a Sets) Reopen(ctx context.Context, m Member, brief ID, keys ...string) error {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, brief); err != nil {
		return err
	}
	return a.store.Reopen(ctx, m.Workspace, brief, keys...)
}

// Finished are the finished pieces of a brief by [PieceKey].
func (a Sets) Finished(ctx context.Context, m Member, brief ID) (map[string]Frozen, error) {
	s, err := a.Set(ctx, m, brief)
	if err != nil {
		return nil, err
	}
	return a.FinishedOf(ctx, m, s)
}

// FinishedOf is [Sets.Finished] of a set that is at hand.
func (a Sets) FinishedOf(ctx context.Context, m Member, s *Set) (map[string]Frozen, error) {
	list, err := a.store.FinishedOf(ctx, m.Workspace, s.Doc.ID)
	if err != nil {
		return nil, err
	}
	out := map[string]Frozen{}
	for _, f := range list {
		out[f.Placement] = s.frozen(f)
	}
	return out, nil
}

// frozen compares a finished piece with the one the set would make now; a place
// the set goes to no more has none.
func (s *Set) frozen(f store.Finished) Frozen {
	out := Frozen{Finished: f, Set: s}
	for _, look := range s.AllLooks() {
		for _, p := range s.Placements() {
			if PieceKey(look, p.ID) == f.Placement {
				out.Now = s.Piece(look, p)
				out.Moved = drawing(out.Now.Scene) != f.Hash
			}
		}
	}
	return out
}

// FinishedWith lists the finished pieces made with a kit, or with one that
// follows it.
func (a Sets) FinishedWith(ctx context.Context, m Member, kit ID) ([]Frozen, error) {
	if err := a.mayOn(ctx, m, roles.Look, kit); err != nil {
		return nil, err
	}
	list, err := a.store.FinishedWith(ctx, m.Workspace, kit)
	if err != nil {
		return nil, err
	}
	var out []Frozen
	for _, f := range list {
		s, err := a.Set(ctx, m, f.Brief)
		if err != nil {
			return nil, err
		}
		out = append(out, s.frozen(f))
	}
	return out, nil
}

// FrozenSVG is the file of a finished piece.
func (a Sets) FrozenSVG(ctx context.Context, m Member, brief ID, placement string) ([]byte, error) {
	if err := a.mayOn(ctx, m, roles.Look, brief); err != nil {
		return nil, err
	}
	list, err := a.store.FinishedOf(ctx, m.Workspace, brief)
	if err != nil {
		return nil, err
	}
	for _, f := range list {
		if f.Placement == placement {
			return a.blobs.Get(ctx, f.SVG)
		}
	}
	return nil, ErrNotFound
}

// file draws a piece of a set as a file: a finished one as it was finished.
func (a *house) file(ctx context.Context, done map[string]Frozen, pc *piece.Piece, o raster.Output) ([]byte, error) {
	f, ok := done[PieceKey(pc.Look, pc.Placement.ID)]
	if !ok || !f.Moved { // an unmoved one is drawn the same, with selectable words in a PDF
		return a.studio.Render(ctx, pc.Scene, o)
	}
	svg, err := a.blobs.Get(ctx, f.SVG)
	if err != nil {
		return nil, err
	}
	return a.studio.Draw(ctx, string(svg), o)
}
