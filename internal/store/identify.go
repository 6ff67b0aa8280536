package store

import (
	"context"

	"github.com/jackc/pgx/v5"

	"aspenridge/internal/core/edit"
)

// identifyAll gives the members of lists in documents from before they had any
// their ids, once. A document that cannot be read stays as it is.
func (s *Store) identifyAll(ctx context.Context) error {
	for {
		n, err := s.identifySome(ctx, 200)
		if n == 0 || err != nil {
			return err
		}
	}
}

func (s *Store) identifySome(ctx context.Context, limit int) (n int, err error) {
	err = s.tx(ctx, func(tx pgx.Tx) error {
		rows, err := tx.Query(ctx, `select `+documentColumns+` from documents where not identified limit $1 for update skip locked`, limit)
		if err != nil {
			return err
		}
		list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
		if err != nil {
			return err
		}
		n = len(list)
		for _, d := range list {
			data := d.Doc
			if doc, err := edit.ParseDeep(d.Doc); err == nil && lists[d.Kind].Identify(doc, NewMemberID) {
				if data, err = edit.Marshal(doc); err != nil {
					return err
				}
				if err := renameFirstLook(ctx, tx, d, doc); err != nil {
					return err
				}
			}
			if _, err := tx.Exec(ctx, `update documents set doc = $3, identified = true, seq = seq + 1 where workspace_id = $1 and id = $2`, d.Workspace, d.ID, data); err != nil {
				return err
			}
		}
		return nil
	})
	return n, err
}

// renameFirstLook gives pieces finished in the first look, which had no id, the
// one it has now.
func renameFirstLook(ctx context.Context, tx pgx.Tx, d Document, doc *edit.Object) error {
	looks, _ := doc.Get("looks").([]any)
	before, err := edit.ParseDeep(d.Doc)
	if err != nil {
		return err
	}
	old, _ := before.Get("looks").([]any)
	for i := range looks {
		o, ok := looks[i].(*edit.Object)
		was, _ := old[i].(*edit.Object)
		if !ok || was.Get("id") != nil {
			continue
		}
		_, err := tx.Exec(ctx, `update finished set placement = placement || '@' || $3 where workspace_id = $1 and brief_id = $2 and strpos(placement, '@') = 0`, d.Workspace, d.ID, o.Get("id"))
		return err
	}
	return nil
}
