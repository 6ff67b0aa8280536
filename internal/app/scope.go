package app

import (
	"context"
	"fmt"
	"slices"

	"aspenridge/internal/act"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// What somebody sees of a workspace: all of it, or some kits with the briefs of them and some
// briefs with the kits they follow, to be looked at. What they do not see is not there for
// them.

// sees reports whether a brief of a kit is there for somebody.
func sees(m Member, brief, kit ID) bool {
	return !m.Narrowed || slices.Contains(m.Only, brief) || slices.Contains(m.Only, kit)
}

// seesKit reports whether a kit is there for somebody, to be looked at at least.
func seesKit(m Member, kit ID) bool {
	return changesKit(m, kit) || slices.Contains(m.Through, kit)
}

// changesKit reports whether a kit is there for somebody to be changed, if their role lets them.
func changesKit(m Member, kit ID) bool { return !m.Narrowed || slices.Contains(m.Only, kit) }

// mayOn reports whether somebody may do something with a kit or a brief: [ErrNotFound] for one
// that is not there for them, [ErrNotAllowed] for what they may not.
func (a *house) mayOn(ctx context.Context, m Member, c roles.Capability, id ID) error {
	if err := act.May(m, c); err != nil || !m.Narrowed {
		return err
	}
	kind, kit, err := a.store.What(ctx, m.Workspace, id)
	if err != nil {
		return ErrNotFound
	}
	return inScope(m, c, id, kind, kit)
}

// mayWrite reports whether somebody may change a document: what it takes is said by its kind.
func (a *house) mayWrite(ctx context.Context, m Member, id ID) error {
	briefs, kits := m.May(writes["brief"]), m.May(writes["kit"])
	if !briefs && !kits {
		return ErrNotAllowed
	}
	if briefs && kits && !m.Narrowed {
		return nil
	}
	kind, kit, err := a.store.What(ctx, m.Workspace, id)
	if err != nil {
		return ErrNotFound
	}
	if err := inScope(m, roles.Look, id, kind, kit); err != nil {
		return err
	}
	if err := act.May(m, writes[kind]); err != nil {
		return err
	}
	return inScope(m, writes[kind], id, kind, kit)
}

// writes is what it takes to change a document of a kind.
var writes = map[string]roles.Capability{"brief": roles.WriteBriefs, "kit": roles.WriteKits, "channels": roles.WriteKits}

// inScope reports whether a kit or a brief is among what somebody sees, to do something with.
func inScope(m Member, c roles.Capability, id ID, kind string, kit *ID) error {
	switch {
	case !m.Narrowed, kind == "brief" && kit != nil && sees(m, id, *kit), kind == "kit" && changesKit(m, id):
		return nil
	case kind == "kit" && seesKit(m, id):
		if c != roles.Look && c != roles.Comment && c != roles.HandOver {
			return ErrNotAllowed
		}
		return nil
	}
	return ErrNotFound
}

// MayOn reports whether somebody may do something with a kit or a brief.
func (a Documents) MayOn(ctx context.Context, m Member, c roles.Capability, id ID) error {
	return a.mayOn(ctx, m, c, id)
}

// SetScope narrows somebody to some kits and briefs; nil for all. An owner sees everything.
func (a Team) SetScope(ctx context.Context, m Member, person ID, only []ID) error {
	if err := act.May(m, roles.ManagePeople); err != nil {
		return err
	}
	team, err := a.store.Team(ctx, m.Workspace)
	if err != nil {
		return err
	}
	if only != nil && slices.ContainsFunc(team, func(t Teammate) bool { return t.ID == person && t.Role == roles.Owner }) {
		return fmt.Errorf("%w: an owner sees everything: give them another role first", ErrInvalid)
	}
	if only, err = a.scopeOf(ctx, m, only); err != nil {
		return err
	}
	words := "lets %s see everything"
	if only != nil {
		words = "says what %s sees"
	}
	return a.noted(ctx, m, person, a.store.SetScope(ctx, m.Workspace, person, only), words)
}

// mostScope is how many kits and briefs somebody may be narrowed to.
const mostScope = 500

// scopeOf checks what somebody is to be narrowed to.
func (a *house) scopeOf(ctx context.Context, m Member, only []ID) ([]ID, error) {
	if len(only) > mostScope {
		return nil, fmt.Errorf("%w: at most %d kits and briefs can be chosen one by one", ErrInvalid, mostScope)
	}
	for _, id := range only {
		if kind, _, err := a.store.What(ctx, m.Workspace, id); err != nil || kind == "channels" {
			return nil, ErrNotFound
		}
	}
	return only, nil
}

// Named is a kit or a brief by what it is called.
type Named = store.Named

// Names are the kits and briefs that are there for somebody, by what they are called.
func (a Team) Names(ctx context.Context, m Member) ([]Named, error) {
	if err := act.May(m, roles.WriteBriefs); err != nil {
		return nil, err
	}
	return a.store.Names(ctx, m.Workspace, m.Scope, mostScope)
}
