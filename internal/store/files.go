package store

import (
	"context"
	"time"

	"github.com/google/uuid"
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

// PutFile records a file; the same content again changes nothing but its name.
func (s *Store) PutFile(ctx context.Context, f File) error {
	_, err := s.Pool.Exec(ctx, `insert into files (workspace_id, hash, kind, name, type, bytes, facts) values ($1, $2, $3, $4, $5, $6, $7)
		on conflict (workspace_id, kind, hash) do update set name = excluded.name`, f.Workspace, f.Hash, f.Kind, f.Name, f.Type, f.Bytes, f.Facts)
	return err
}

// File finds a file of a workspace by kind and content.
func (s *Store) File(ctx context.Context, workspace ID, kind, hash string) (f File, err error) {
	var facts string
	err = s.Pool.QueryRow(ctx, `select workspace_id, hash, kind, name, type, bytes, facts::text, created_at from files
		where workspace_id = $1 and kind = $2 and hash = $3`, workspace, kind, hash).
		Scan(&f.Workspace, &f.Hash, &f.Kind, &f.Name, &f.Type, &f.Bytes, &facts, &f.CreatedAt)
	f.Facts = []byte(facts)
	return f, notFound(err)
}
