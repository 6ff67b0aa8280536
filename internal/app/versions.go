package app

import (
	"context"
	"fmt"
	"strings"
	"time"

	"aspenridge/internal/cache"
	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/piece"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// quiet is how long nothing changes before a kit's state is kept as a version:
// an afternoon of tuning makes a handful of versions, not one for every key.
const quiet = 10 * time.Minute

// keepQuiet keeps the state a kit is in when the next change comes after a quiet
// while. A kit that was never changed is kept as it was made.
func (a *house) keepQuiet(ctx context.Context, m Member, id ID) error {
	at, kit, changed, err := a.store.QuietSince(ctx, m.Workspace, id)
	if err != nil || !kit || (changed && a.now().Sub(at) < quiet) {
		return err
	}
	_, err = a.keepVersion(ctx, m, id, "")
	return err
}

func (a *house) keepVersion(ctx context.Context, m Member, kit ID, name string) (int64, error) {
	d, s, err := a.kitDocument(ctx, m, kit)
	if err != nil {
		return 0, err
	}
	return a.store.RecordVersion(ctx, m.Workspace, store.Version{Kit: kit, Seq: d.Seq, Name: name, Doc: raw(s.own), Whole: raw(s.whole)})
}

// Version is a kit as it stood, with what has changed in the kit since.
type Version struct {
	store.Version
	Since []brand.Difference
}

// Versions lists a kit's versions, latest first, with what has changed since
// each.
func (a Kits) Versions(ctx context.Context, m Member, kit ID) ([]Version, error) {
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return nil, err
	}
	list, err := a.store.Versions(ctx, m.Workspace, kit, 60)
	if err != nil {
		return nil, err
	}
	var out []Version
	for _, v := range list {
		then, err := a.kitAt(ctx, m, v)
		if err != nil {
			return nil, err
		}
		out = append(out, Version{v, brand.Differences(then.Kit, k.Kit)})
	}
	return out, nil
}

// kitAt is a kit as a version has it, ready to compose with.
func (a *house) kitAt(ctx context.Context, m Member, v store.Version) (*Kit, error) {
	doc, err := edit.ParseObject(v.Whole)
	if err != nil {
		return nil, err
	}
	return a.loadKit(ctx, store.Document{ID: v.Kit, Workspace: m.Workspace, Kind: "kit", Seq: v.Seq}, lineage{own: doc, whole: doc})
}

// KitAt reads a version of a kit: 0 is the kit as it is now.
func (a Kits) KitAt(ctx context.Context, m Member, kit ID, version int64) (*Kit, store.Version, error) {
	now, err := a.Kit(ctx, m, kit)
	if err != nil || version == 0 {
		return now, store.Version{Kit: kit, At: a.now()}, err
	}
	v, err := a.store.Version(ctx, m.Workspace, kit, version)
	if err != nil {
		return nil, v, err
	}
	k, err := a.kitAt(ctx, m, v)
	return k, v, err
}

// NameVersion names a version; 0 keeps the kit as it is now under the name.
func (a Kits) NameVersion(ctx context.Context, m Member, kit ID, version int64, name string) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	if name = strings.TrimSpace(name); len([]rune(name)) > 80 {
		return fmt.Errorf("%w: a name of at most 80 letters", ErrInvalid)
	}
	if version == 0 {
		id, err := a.keepVersion(ctx, m, kit, name)
		if err != nil {
			return err
		}
		version = id
	}
	if err := a.store.NameVersion(ctx, m.Workspace, kit, version, name); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteVersion, kit, "named a version %s", name)
}

// Restore brings a kit back to a version, in one step that can be undone; what
// it was before is kept as a version. What the kit takes over from a parent is
// taken over as it is today.
func (a Kits) Restore(ctx context.Context, m Member, kit ID, client string, version int64) error {
	if err := a.mayOn(ctx, m, roles.WriteKits, kit); err != nil {
		return err
	}
	v, err := a.store.Version(ctx, m.Workspace, kit, version)
	if err != nil {
		return err
	}
	if _, err := a.keepVersion(ctx, m, kit, ""); err != nil {
		return err
	}
	d, now, err := a.kitDocument(ctx, m, kit)
	if err != nil {
		return err
	}
	then, err := edit.ParseObject(v.Doc)
	if err != nil {
		return err
	}
	ops := edit.Diff(now.own, then)
	if len(ops) == 0 {
		return fmt.Errorf("%w: the kit is as that version already", ErrInvalid)
	}
	_, err = a.documents.Edit(ctx, m, kit, Change{Client: client, Base: d.Seq, Op: edit.Op{All: ops}})
	return err
}

// With is the same brief in another state of its kit, for comparing.
func (a Sets) With(s *Set, k *Kit) *Set {
	job := *s.Job
	job.Kit, job.Library = s.Brief.Kit(k.Kit), k.Library
	return &Set{Brief: s.Brief, Doc: s.Doc, Kit: k, Job: &job, Looks: s.Looks, Channels: s.Channels, Look: s.Look, pieces: map[string]*piece.Piece{}, memo: cache.Some[string, any](mostThings)}
}
