// Package store keeps everything in PostgreSQL: people and workspaces, kits and
// briefs as documents with their edit log, and what is known of uploaded files.
// SQL is written out next to the Go that scans it; every query of a workspace's
// things names the workspace (people, sessions and links by their tokens are
// found before it is known); every change of several steps is one transaction.
// The package knows nothing of permissions or pages.
package store

import (
	"aspenridge/internal/gate"
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
)

// ErrNotFound means no such row in the workspace; ErrNothing that there is nothing
// to undo or redo.
var (
	ErrNotFound = errors.New("not found")
	ErrNothing  = errors.New("nothing to take back")
)

// Store is a pool of connections. Safe for concurrent use.
type Store struct {
	Pool pool

	turns turns // of those who change the same document

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
	connections, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	deadline := time.Now().Add(wait)
	for {
		if err = connections.Ping(ctx); err == nil {
			return &Store{Pool: pool{connections}}, nil
		}
		if time.Now().After(deadline) || ctx.Err() != nil {
			connections.Close()
			return nil, fmt.Errorf("the database does not answer: %w", err)
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// Close gives the connections back.
func (s *Store) Close() { s.Pool.Close() }

// Migrate brings the schema up to date, that of the queue of jobs with it. Of several
// processes that start at once one does it and the others wait.
func (s *Store) Migrate(ctx context.Context) error {
	return s.alone(ctx, migrating, func() error { return s.migrate(ctx) })
}

func (s *Store) migrate(ctx context.Context) error {
	db := stdlib.OpenDBFromPool(s.Pool.Pool)
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
	queue, err := rivermigrate.New(riverpgxv5.New(s.Pool.Pool), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return err
	}
	if _, err := queue.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return err
	}
	return s.identifyAll(ctx)
}

// Schema tells one schema of the database from another: a hash of all that makes it.
func Schema() string {
	sum := sha256.New()
	err := fs.WalkDir(migrations, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := migrations.ReadFile(path)
		sum.Write(data)
		return err
	})
	if err != nil {
		panic(err) // they are in the program
	}
	queue, err := rivermigrate.New(riverpgxv5.New(nil), nil)
	if err != nil {
		panic(err)
	}
	for _, v := range queue.AllVersions() {
		sum.Write([]byte(v.SQLUp))
	}
	return hex.EncodeToString(sum.Sum(nil))[:16]
}

// migrating is the lock of whoever brings the schema up to date.
const migrating = 0x617370656e // "aspen"

// alone runs f while no other process that asks for the same lock does. It is let go of
// when the connection ends, however that comes.
func (s *Store) alone(ctx context.Context, lock int64, f func() error) error {
	conn, err := s.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, `select pg_advisory_lock($1)`, lock); err != nil {
		return err
	}
	defer func() {
		if _, err := conn.Exec(context.WithoutCancel(ctx), `select pg_advisory_unlock($1)`, lock); err != nil {
			_ = conn.Conn().Close(context.WithoutCancel(ctx))
		}
	}()
	return f()
}

// tx runs f in a transaction.
func (s *Store) tx(ctx context.Context, f func(pgx.Tx) error) error {
	defer gate.Outside(ctx)()
	return pgx.BeginFunc(ctx, s.Pool, f)
}

// inTurn is a transaction once it is the turn of whoever asks with the things it is about, each of
// which is changed by one at a time.
func (s *Store) inTurn(ctx context.Context, things []string, f func(pgx.Tx) error) error {
	defer gate.Outside(ctx)()
	leave, err := s.turns.take(ctx, things)
	if err != nil {
		return err
	}
	defer leave()
	return s.tx(ctx, f)
}

func notFound(err error) error {
	if errors.Is(err, pgx.ErrNoRows) {
		return ErrNotFound
	}
	return err
}

// ID is a row's identity.
type ID = uuid.UUID
