package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"aspenridge/internal/core/edit"
)

// KitName is a kit in a list of names.
type KitName struct {
	ID   ID
	Name string
}

// KitNames lists the kits of the workspace by name, as far as somebody sees it.
func (s *Store) KitNames(ctx context.Context, workspace ID, in Scope, limit int) ([]KitName, error) {
	rows, err := s.Pool.Query(ctx, `select id, name from documents
		where workspace_id = $1 and kind = 'kit' and archived_at is null and deleted_at is null and ($3::uuid[] is null or id = any($3)) order by lower(name), id limit $2`, workspace, limit, in.kits())
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowToStructByPos[KitName])
}

// KitQuery asks for a page of kits.
type KitQuery struct {
	Find   string // every word of it occurs in the name, in any case
	Sort   string // "name", "new" (latest made first) or "" (latest changed first)
	Offset int
	Limit  int
	In     Scope
}

// kitOrders are the orders a list of kits can have.
var kitOrders = map[string]string{"": "updated_at desc, id", "name": "lower(name), id", "new": "created_at desc, id"}

// FindKits lists a page of kits and says how many there are in all.
func (s *Store) FindKits(ctx context.Context, workspace ID, q KitQuery) (page []Document, total int, err error) {
	order, ok := kitOrders[q.Sort]
	if !ok {
		return nil, 0, fmt.Errorf("sort %q: want name, new or nothing", q.Sort)
	}
	const where = ` from documents where workspace_id = $1 and kind = 'kit' and archived_at is null and deleted_at is null
		and not exists (select from regexp_split_to_table(lower($2), '\s+') w where strpos(lower(name), w) = 0) and ($3::uuid[] is null or id = any($3))`
	if err := s.Pool.QueryRow(ctx, `select count(*)`+where, workspace, q.Find, q.In.kits()).Scan(&total); err != nil {
		return nil, 0, err
	}
	rows, err := s.Pool.Query(ctx, `select `+documentColumns+where+` order by `+order+` limit $4 offset $5`, workspace, q.Find, q.In.kits(), q.Limit, q.Offset)
	if err != nil {
		return nil, 0, err
	}
	page, err = pgx.CollectRows(rows, func(r pgx.CollectableRow) (Document, error) { return scanDocument(r) })
	return page, total, err
}

// DefaultKit is the kit new briefs start with: the chosen one while it is on the
// desk, else the one made first, so that it does not change by itself.
// ErrNotFound when there is none.
func (s *Store) DefaultKit(ctx context.Context, workspace ID) (id ID, err error) {
	err = s.Pool.QueryRow(ctx, defaultKit, workspace).Scan(&id)
	return id, notFound(err)
}

// defaultKit is the kit somebody chose, else the first one.
const defaultKit = `select d.id from documents d join workspaces w on w.id = d.workspace_id
	where d.workspace_id = $1 and d.kind = 'kit' and d.archived_at is null and d.deleted_at is null
	order by d.id is not distinct from w.default_kit desc, d.created_at, d.id limit 1`

// SetDefaultKit chooses the kit new briefs start with.
func (s *Store) SetDefaultKit(ctx context.Context, workspace, kit ID) error {
	tag, err := s.Pool.Exec(ctx, `update workspaces set default_kit = $2 where id = $1
		and exists (select from documents where id = $2 and workspace_id = $1 and kind = 'kit')`, workspace, kit)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	return err
}

// Delete takes a document out of every list, or puts it back.
func (s *Store) Delete(ctx context.Context, workspace, id ID, away bool) error {
	tag, err := s.Pool.Exec(ctx, `update documents set deleted_at = case when $3 then now() end where workspace_id = $1 and id = $2 and kind <> 'channels'`, workspace, id, away)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	return err
}

// family is a kit and every kit that follows it, directly or through others.
const family = `with recursive family as (
	select $2::uuid as id
	union
	select d.id from documents d join family f on d.doc -> '$extensions' -> 'aspenridge' ->> 'parent' = f.id::text
	where d.kind = 'kit' and d.workspace_id = $1) `

// Following says how many briefs follow a kit and how many pieces they list that
// are not finished, those of kits that follow it included. A brief that lists
// none, or all there are, counts with otherwise pieces.
func (s *Store) Following(ctx context.Context, workspace, kit ID, otherwise int) (briefs, pieces int, err error) {
	err = s.Pool.QueryRow(ctx, family+`, open as (
			select id, case json_typeof(doc -> 'placements') when 'array' then json_array_length(doc -> 'placements') else $3::int end as n
			from documents where workspace_id = $1 and kit_id in (select id from family) and archived_at is null and deleted_at is null)
		select count(*), coalesce(sum(greatest(0, n - (select count(*) from finished f where f.brief_id = open.id))), 0) from open`, workspace, kit, otherwise).Scan(&briefs, &pieces)
	return briefs, pieces, err
}

// UseKit gives a brief another kit; the brief counts as changed, and its number
// moves. may is asked before, in the same transaction.
func (s *Store) UseKit(ctx context.Context, by Member, brief, kit ID, may func(r Reader, d Document) error) error {
	workspace := by.Workspace
	return s.changing(ctx, by, []string{brief.String()}, func(tx pgx.Tx) error {
		docs, err := s.lock(ctx, tx, workspace, by, []Change{{ID: brief, Kind: "brief"}})
		if err != nil {
			return err
		}
		d := docs[brief]
		k, err := Reader{tx, workspace}.Document(ctx, kit)
		if err != nil {
			return err
		}
		if k.Kind != "kit" {
			return ErrNotFound
		}
		if err := may(Reader{tx, workspace}, d); err != nil {
			return err
		}
		doc, err := edit.ParseObject(d.Doc)
		if err != nil {
			return err
		}
		d.KitID = &kit
		if err := s.check(ctx, tx, Checked{By: by, Document: d, Before: doc, After: doc}); err != nil {
			return err
		}
		d.Seq++
		if _, err = tx.Exec(ctx, `update documents set seq = $3, kit_id = $4, updated_at = now() where workspace_id = $1 and id = $2`, workspace, brief, d.Seq, kit); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `select pg_notify('document', $1)`, moved(d))
		return err
	})
}

// Link is the token under which a kit's guidelines are read without an account,
// "" for none.
func (s *Store) Link(ctx context.Context, workspace, kit ID) (token string, err error) {
	err = s.Pool.QueryRow(ctx, `select token from links where workspace_id = $1 and kit_id = $2 order by created_at desc limit 1`, workspace, kit).Scan(&token)
	if notFound(err) == ErrNotFound {
		return "", nil
	}
	return token, err
}

// PutLink records a link; EndLinks ends all of a kit.
func (s *Store) PutLink(ctx context.Context, workspace, kit ID, token string) error {
	_, err := s.Pool.Exec(ctx, `insert into links (token, workspace_id, kit_id) select $1, $2, $3
		where exists (select from documents where id = $3 and workspace_id = $2 and kind = 'kit')`, token, workspace, kit)
	return err
}

// EndLinks ends every link of a kit.
func (s *Store) EndLinks(ctx context.Context, workspace, kit ID) error {
	_, err := s.Pool.Exec(ctx, `delete from links where workspace_id = $1 and kit_id = $2`, workspace, kit)
	return err
}

// Linked finds the workspace and kit of a link.
func (s *Store) Linked(ctx context.Context, token string) (workspace, kit ID, err error) {
	err = s.Pool.QueryRow(ctx, `select l.workspace_id, l.kit_id from links l join documents d on d.id = l.kit_id
		where l.token = $1 and d.deleted_at is null`, token).Scan(&workspace, &kit)
	return workspace, kit, notFound(err)
}
