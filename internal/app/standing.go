package app

import (
	"context"
	"errors"

	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// known is the set of a brief as it was last seen, nil for none: what stands in the
// database may have moved on.
func (a *house) known(m Member, id ID) *Set {
	s, ok := a.seenSets.Get(id)
	if !ok || s.Doc.Workspace != m.Workspace {
		return nil
	}
	return s
}

// document reads a brief that has come as far as seq: what this process wrote itself
// last needs no reading.
func (a *house) document(ctx context.Context, workspace, id ID, seq int64) (store.Document, error) {
	if d, ok := a.written.Get(id); ok && d.Seq == seq && d.Workspace == workspace {
		return d, nil
	}
	return a.store.Document(ctx, workspace, id)
}

// channelsAt are the channels of a workspace that have come as far as their document
// says, or are there at all.
func (a *house) channelsAt(ctx context.Context, workspace ID, at store.Progress) (*Channels, error) {
	if c, ok := a.where.Get(workspace); ok && c.Doc.Seq == at.Channels && (c.Doc.ID != ID{}) == at.OwnChannels {
		return c, nil
	}
	c, err := a.channels(ctx, workspace)
	if err == nil {
		a.where.Put(workspace, c)
	}
	return c, err
}

// fromSet makes a change up from the set of a brief as it was last seen, and once more
// from how it stands where that is not the same any more.
func (a *house) fromSet(ctx context.Context, m Member, id ID, compose func(*Set) (Change, error)) (int64, error) {
	if err := a.mayOn(ctx, m, roles.WriteBriefs, id); err != nil {
		return 0, err
	}
	if s := a.known(m, id); s != nil {
		c, err := compose(s)
		if err == nil {
			c.Seen = &s.Doc.Seq
			seq, err := a.documents.Edit(ctx, m, id, c)
			if !errors.Is(err, store.ErrMoved) {
				return seq, err
			}
		}
	}
	s, err := a.sets.Set(ctx, m, id)
	if err != nil {
		return 0, err
	}
	c, err := compose(s)
	if err != nil {
		return 0, err
	}
	return a.documents.Edit(ctx, m, id, c)
}
