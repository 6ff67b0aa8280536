package app

import (
	"context"
	"errors"
	"fmt"
	"math"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/brief"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/plain"
	"aspenridge/internal/store"
)

// Change is a change to a document on behalf of somebody.
type Change struct {
	Kind   string // what the document must be, "" for any
	Op     edit.Op
	Base   int64
	Client string
	Typing bool
	Files  []store.File // it brings along
	Seen   *int64       // the seq it was made up from, nil for any
	// Named says that the paths are somebody's own words: only those of the table of what is
	// edited that way are taken ([brand.Named], [brief.Named]).
	Named bool
}

// Latest as a base means the change is meant whatever stands there now.
const Latest = math.MaxInt64

// Edit changes a kit or a brief. A change that would leave a document that
// cannot be read, or a kit that follows it, is refused with ErrInvalid.
func (a Documents) Edit(ctx context.Context, m Member, id ID, c Change) (int64, error) {
	if err := c.named(); err != nil {
		if _, _, gone := a.store.What(ctx, m.Workspace, id); gone != nil { // what is not there has no paths
			err = gone
		}
		return 0, err
	}
	docs, err := a.edit(ctx, m, c.of(m, id))
	if err != nil {
		return 0, err
	}
	return docs[0].Seq, nil
}

// named refuses a path somebody named that is not in the table of its document.
func (c Change) named() error {
	if !c.Named {
		return nil
	}
	in := map[string]func(path string) bool{"kit": brand.Named, "brief": brief.Named}[c.Kind]
	ops := c.Op.All
	if len(ops) == 0 {
		ops = []edit.Op{c.Op}
	}
	for _, op := range ops {
		if in == nil || len(op.All) > 0 || !in(op.Path) {
			return fmt.Errorf("%w: %.80q is not edited by its path", ErrInvalid, op.Path)
		}
	}
	return nil
}

func (c Change) of(m Member, id ID) store.Change {
	return store.Change{ID: id, Kind: c.Kind, Op: c.Op, Base: c.Base, Client: c.Client, By: m, Typing: c.Typing, Files: c.Files, Seen: c.Seen}
}

// edit makes changes to several documents as one.
func (a *house) edit(ctx context.Context, m Member, changes ...store.Change) ([]store.Document, error) {
	for _, c := range changes {
		if err := a.mayWrite(ctx, m, c.ID); err != nil {
			return nil, err
		}
		if c.Kind == "brief" { // only kits keep versions
			continue
		}
		if err := a.keepQuiet(ctx, m, c.ID); err != nil {
			return nil, err
		}
	}
	docs, err := a.store.Edit(ctx, m.Workspace, changes...)
	var rail *Railed
	if why, asks := m.Asks(); asks && errors.As(err, &rail) && rail.Ask && len(changes) == 1 {
		return nil, a.ask(ctx, m, changes[0], plain.Line(why), rail)
	}
	for _, d := range docs {
		if err == nil && d.Kind == "brief" {
			a.written.Put(d.ID, d)
		}
	}
	return docs, invalid(err)
}

// invalid says of an operation that does not fit its document that it cannot be
// used.
func invalid(err error) error {
	if errors.Is(err, edit.ErrPath) && !errors.Is(err, ErrInvalid) {
		return fmt.Errorf("%w: %w", ErrInvalid, err)
	}
	return err
}

// Undo takes back the last change somebody made of a document, or with redo puts back the
// last one they took back; what others changed since stays. It returns the path that
// changed.
func (a Documents) Undo(ctx context.Context, m Member, id ID, client string, redo bool) (string, int64, error) {
	if err := a.mayWrite(ctx, m, id); err != nil {
		return "", 0, err
	}
	path, seq, err := a.store.Revert(ctx, m.Workspace, id, store.Reverting{By: m, Client: client, Redo: redo})
	return path, seq, invalid(err)
}

// Mend brings a document that cannot be read back to the last state that can;
// ErrNotFound when there is none.
func (a Documents) Mend(ctx context.Context, m Member, id ID) error {
	if err := a.mayWrite(ctx, m, id); err != nil {
		return err
	}
	return a.store.Mend(ctx, m.Workspace, id, m, "mend", func(ctx context.Context, r store.Reader, d store.Document, doc *edit.Object) error {
		return a.readable(ctx, r, d, doc)
	})
}

// Archive takes a kit or brief off the desk, or puts it back.
func (a Documents) Archive(ctx context.Context, m Member, id ID, away bool) error {
	if err := a.mayWrite(ctx, m, id); err != nil {
		return err
	}
	if err := a.store.Archive(ctx, m.Workspace, id, away); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteAway, id, "%s", map[bool]string{true: "archived it", false: "restored it"}[away])
}

// Delete takes a kit or brief away for good, or takes that back. What uses a
// deleted kit keeps it.
func (a Documents) Delete(ctx context.Context, m Member, id ID, away bool) error {
	if err := a.mayWrite(ctx, m, id); err != nil {
		return err
	}
	if err := a.store.Delete(ctx, m.Workspace, id, away); err != nil {
		return err
	}
	return a.noteOf(ctx, m, noteAway, id, "%s", map[bool]string{true: "deleted it", false: "restored it"}[away])
}
