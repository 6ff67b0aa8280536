package app

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"aspenridge/internal/act"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/core/roles"
	"aspenridge/internal/store"
)

// TakeBack undoes what came of a thing given, also after other things were done;
// not when what it touched was changed since. A kit or brief that has nothing in
// it any more is deleted; gone are those.
func (a Documents) TakeBack(ctx context.Context, m Member, client string, p Placed, of ...ID) (gone []ID, err error) {
	if err := act.MayAll(m, roles.WriteBriefs); err != nil {
		return nil, err
	}
	client = cmp.Or(client, "give")
	if p.From < 0 {
		return []ID{p.Doc}, a.Delete(ctx, m, p.Doc, true)
	}
	if err := a.unmake(ctx, m, client, p); errors.Is(err, edit.ErrBuiltOn) {
		return nil, fmt.Errorf("%w: it was changed since; undo that first, or change it where it is now", ErrInvalid)
	} else if err != nil {
		return nil, err
	}
	slices.SortFunc(of, func(x, y ID) int { return bytes.Compare(x[:], y[:]) })
	for _, kind := range []string{"brief", "kit"} { // a kit is not empty while a brief uses it
		for _, id := range slices.Compact(of) {
			d, err := a.store.Document(ctx, m.Workspace, id)
			if errors.Is(err, ErrNotFound) || err == nil && d.Kind != kind {
				continue
			}
			empty := false
			if err == nil {
				empty, err = a.blank(ctx, m, d)
			}
			if err == nil && empty {
				err = a.Delete(ctx, m, id, true)
				gone = append(gone, id)
			}
			if err != nil {
				return gone, err
			}
		}
	}
	return gone, nil
}

// unmake takes the steps a client made of a document back.
func (a *house) unmake(ctx context.Context, m Member, client string, p Placed) error {
	d, err := a.store.Document(ctx, m.Workspace, p.Doc)
	if err != nil {
		return err
	}
	doc, err := edit.ParseObject(d.Doc)
	if err != nil {
		return err
	}
	steps, err := a.store.StepsOf(ctx, m.Workspace, p.Doc, client, p.From, p.To)
	if err != nil {
		return err
	}
	var all []edit.Op
	for _, s := range steps {
		ops, err := edit.Unmake(doc, s)
		if err != nil {
			return err
		}
		for _, op := range ops { // the step before it is looked at as it was then
			if _, err := edit.Do(doc, op); err != nil {
				return err
			}
		}
		all = append(all, ops...)
	}
	if len(all) == 0 {
		return ErrNotFound
	}
	_, err = a.documents.Edit(ctx, m, p.Doc, Change{Client: client, Base: d.Seq, Op: edit.Op{All: all}})
	return err
}

// blank reports whether a document says nothing anybody gave it, and is used by
// nothing.
func (a *house) blank(ctx context.Context, m Member, d store.Document) (bool, error) {
	if d.Kind == "kit" {
		if used, err := a.store.BriefsOf(ctx, m.Workspace, d.ID, 1); err != nil || len(used) > 0 {
			return false, err
		}
	}
	doc, err := edit.ParseObject(d.Doc)
	return err == nil && !hasContent(doc), err
}

// hasContent reports whether there is a text, a number or a yes anywhere in a value,
// apart from what every new document has.
func hasContent(v any) bool {
	switch v := v.(type) {
	case *edit.Object:
		for _, k := range v.Keys() {
			if k != "formatVersion" && k != "placements" && k != "id" && k != "$type" && hasContent(v.Get(k)) {
				return true
			}
		}
		return false
	case []any:
		return slices.ContainsFunc(v, hasContent)
	case string:
		return v != ""
	case bool:
		return v
	}
	return v != nil
}
