package store

import (
	"context"

	"github.com/jackc/pgx/v5"
)

// Scope is what of a workspace somebody sees. The zero value is all of it.
type Scope struct {
	Narrowed bool
	Only     []ID // kits, with the briefs of them, and briefs
	Through  []ID // kits of those briefs: to be looked at
}

// briefs are the ids of which a brief, or its kit, has to be one; nil for any.
func (s Scope) briefs() []ID {
	if !s.Narrowed {
		return nil
	}
	return append([]ID{}, s.Only...)
}

// kits are the ids a kit has to be one of, nil for any.
func (s Scope) kits() []ID {
	if !s.Narrowed {
		return nil
	}
	return append(s.briefs(), s.Through...)
}

// scope is how far a membership m reaches, as columns.
const scope = `m.narrowed,
	case when m.narrowed then array(select s.document_id from member_scopes s where s.workspace_id = m.workspace_id and s.user_id = m.user_id) end,
	case when m.narrowed then array(select d.kit_id from member_scopes s join documents d on d.id = s.document_id where s.workspace_id = m.workspace_id and s.user_id = m.user_id and d.kit_id is not null) end`

// SetScope narrows a person of a workspace to some kits and briefs of it; nil for all.
func (s *Store) SetScope(ctx context.Context, workspace, user ID, only []ID) error {
	return s.tx(ctx, func(tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `update members set narrowed = $3 where workspace_id = $1 and user_id = $2`, workspace, user, only != nil)
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrNotFound
		}
		if err != nil {
			return err
		}
		if err := putScope(ctx, tx, workspace, user, only); err != nil {
			return err
		}
		return tellPerson(ctx, tx, user)
	})
}

func putScope(ctx context.Context, tx pgx.Tx, workspace, user ID, only []ID) error {
	if _, err := tx.Exec(ctx, `delete from member_scopes where workspace_id = $1 and user_id = $2`, workspace, user); err != nil {
		return err
	}
	_, err := tx.Exec(ctx, `insert into member_scopes (workspace_id, user_id, document_id) select $1, $2, id from documents where workspace_id = $1 and id = any($3) and kind <> 'channels'`, workspace, user, only)
	return err
}

// What is what a document is: its kind, and the kit of a brief.
func (s *Store) What(ctx context.Context, workspace, id ID) (kind string, kit *ID, err error) {
	err = s.Pool.QueryRow(ctx, `select kind, kit_id from documents where workspace_id = $1 and id = $2`, workspace, id).Scan(&kind, &kit)
	return kind, kit, notFound(err)
}

// Named are kits and briefs by what they are called.
type Named struct {
	ID   ID
	Kind string
	Name string
}

// Names are the kits and briefs of a workspace that are on the desk, as far as somebody sees
// them, kits first, by name.
func (s *Store) Names(ctx context.Context, workspace ID, in Scope, most int) ([]Named, error) {
	rows, err := s.Pool.Query(ctx, `select id, kind, name from documents where workspace_id = $1 and kind in ('kit', 'brief') and archived_at is null and deleted_at is null and ($3::uuid[] is null or id = any($3) or kit_id = any($3)) order by kind desc, lower(name), id limit $2`, workspace, most, in.briefs())
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Named])
}
