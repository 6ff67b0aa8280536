// Package store keeps everything in PostgreSQL: people and workspaces, kits and
// briefs as documents with their edit log, and what is known of uploaded files.
// SQL is written out next to the Go that scans it; every query of a workspace's
// things names the workspace (people, sessions and links by their tokens are
// found before it is known); every change of several steps is one transaction.
// The package knows nothing of permissions or pages.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

// ErrNotFound means no such row in the workspace; ErrNothing that there is nothing
// to undo or redo.
var (
	ErrNotFound = errors.New("not found")
	ErrNothing  = errors.New("nothing to take back")
)

// Store is a pool of connections. Safe for concurrent use.
type Store struct {
	Pool *pgxpool.Pool

	// Check is asked before any document changes; nil lets everything through.
	Check Check
}

//go:embed migrations/*.sql
var migrations embed.FS

// Open connects, waiting up to wait for the database to answer.
func Open(ctx context.Context, url string, wait time.Duration) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("database URL: %w", err)
	}
	cfg.MaxConns = 16
	// a database that is away is found away soon, and found again as soon as it is
	// back
	cfg.ConnConfig.ConnectTimeout = 3 * time.Second
	cfg.HealthCheckPeriod = 5 * time.Second
	cfg.ConnConfig.Tracer = tracer{}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	deadline := time.Now().Add(wait)
	for {
		if err = pool.Ping(ctx); err == nil {
			return &Store{Pool: pool}, nil
		}
		if time.Now().After(deadline) || ctx.Err() != nil {
			pool.Close()
			return nil, fmt.Errorf("the database does not answer: %w", err)
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// Close gives the connections back.
func (s *Store) Close() { s.Pool.Close() }

// Migrate brings the schema up to date.
func (s *Store) Migrate(ctx context.Context) error {
	db := stdlib.OpenDBFromPool(s.Pool)
	defer db.Close()
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db, sub)
	if err != nil {
		return err
	}
	if _, err = p.Up(ctx); err != nil {
		return err
	}
	return s.identifyAll(ctx)
}

// tx runs f in a transaction.
func (s *Store) tx(ctx context.Context, f func(pgx.Tx) error) error {
	return pgx.BeginFunc(ctx, s.Pool, f)
}

func notFound(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// ID is a row's identity.
type ID = uuid.UUID
