package store

import (
	"context"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

func parseID(s string) (ID, error) { return uuid.Parse(s) }

// File is what is known of an uploaded file.
type File struct {
	Workspace ID
	Hash      string // SHA-256 of the stored bytes
	Kind      string // picture, logo, font
	Name      string
	Type      string // media type
	Bytes     int64
	Facts     []byte // JSON, by kind
	CreatedAt time.Time
}

// PutFile records a file somebody brought; the same content again changes nothing but its name
// and what is known of it.
func (s *Store) PutFile(ctx context.Context, by ID, f File) error {
	return s.tx(ctx, func(tx pgx.Tx) error { return putFiles(ctx, tx, by, []File{f}) })
}

func putFiles(ctx context.Context, tx pgx.Tx, by ID, files []File) error {
	for _, f := range files {
		if by == (ID{}) { // ours: something more is known of it
		} else if _, err := tx.Exec(ctx, `insert into file_people (workspace_id, hash, user_id) values ($1, $2, $3) on conflict do nothing`, f.Workspace, f.Hash, by); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `insert into files (workspace_id, hash, kind, name, type, bytes, facts) values ($1, $2, $3, $4, $5, $6, $7)
			on conflict (workspace_id, kind, hash) do update set name = excluded.name, facts = excluded.facts`, f.Workspace, f.Hash, f.Kind, f.Name, f.Type, f.Bytes, f.Facts)
		if err != nil {
			return err
		}
	}
	return nil
}

// Files finds files of a workspace by kind and content, those that are there.
func (s *Store) Files(ctx context.Context, workspace ID, kind string, hashes []string) (map[string]File, error) {
	rows, err := s.Pool.Query(ctx, `select `+fileColumns+` from files where workspace_id = $1 and kind = $2 and hash = any($3)`, workspace, kind, hashes)
	if err != nil {
		return nil, err
	}
	list, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (File, error) { return scanFile(r) })
	out := make(map[string]File, len(list))
	for _, f := range list {
		out[f.Hash] = f
	}
	return out, err
}

const fileColumns = `workspace_id, hash, kind, name, type, bytes, facts::text, created_at`

func scanFile(row pgx.Row) (f File, err error) {
	var facts string
	err = row.Scan(&f.Workspace, &f.Hash, &f.Kind, &f.Name, &f.Type, &f.Bytes, &facts, &f.CreatedAt)
	f.Facts = []byte(facts)
	return f, notFound(err)
}

// OlderPictures are up to limit pictures of all workspaces that were last looked at
// by a version before the given one.
func (s *Store) OlderPictures(ctx context.Context, version, limit int) ([]File, error) {
	rows, err := s.Pool.Query(ctx, `select `+fileColumns+` from files where kind = 'picture' and coalesce((facts->>'Version')::int, 0) < $1 order by created_at limit $2`, version, limit)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(r pgx.CollectableRow) (File, error) { return scanFile(r) })
}

// IsStill reports whether a file is the frame that stands for a clip of the workspace.
func (s *Store) IsStill(ctx context.Context, workspace ID, hash string) (is bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select from files where workspace_id = $1 and kind = 'clip' and facts->>'still' = $2)`, workspace, hash).Scan(&is)
	return is, err
}

// File finds a file of a workspace by kind and content.
func (s *Store) File(ctx context.Context, workspace ID, kind, hash string) (File, error) {
	return scanFile(s.Pool.QueryRow(ctx, `select `+fileColumns+` from files where workspace_id = $1 and kind = $2 and hash = $3`, workspace, kind, hash))
}

// Unseen are those of some files, by their hashes, that somebody narrowed neither brought nor
// sees in a document that is there for them.
func (r Reader) Unseen(ctx context.Context, m Member, hashes []string) ([]string, error) {
	rows, err := r.q.Query(ctx, `select h from unnest($2::text[]) h
		where not exists (select from file_people p where p.workspace_id = $1 and p.hash = h and p.user_id = $3)
		and not exists (select from documents d where d.workspace_id = $1 and (d.id = any($4) or d.kit_id = any($4) or d.id = any($5)) and strpos(d.doc::text, h) > 0)`,
		r.workspace, hashes, m.ID, append([]ID{}, m.Only...), append([]ID{}, m.Through...))
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}

// Held reports whether any workspace has a file of a hash.
func (s *Store) Held(ctx context.Context, hash string) (held bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select 1 from files where hash = $1)`, hash).Scan(&held)
	return held, err
}

// KindsOf are the kinds of files of a workspace that have some content.
func (s *Store) KindsOf(ctx context.Context, workspace ID, hash string) ([]string, error) {
	rows, err := s.Pool.Query(ctx, `select kind from files where workspace_id = $1 and hash = $2 order by kind`, workspace, hash)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[string])
}
