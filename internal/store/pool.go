package store

import (
	"context"
	"slices"
	"sync"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"

	"aspenridge/internal/gate"
)

// pool is connections to the database. Whoever asks one holds no place for computing meanwhile
// ([gate.Outside]), from before they wait for a connection until it is given back.
type pool struct{ *pgxpool.Pool }

func (p pool) Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error) {
	defer gate.Outside(ctx)()
	return p.Pool.Exec(ctx, sql, args...)
}

func (p pool) Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error) {
	back := gate.Outside(ctx)
	rows, err := p.Pool.Query(ctx, sql, args...)
	if err != nil {
		back()
		return rows, err
	}
	return answer{rows, back}, nil
}

func (p pool) QueryRow(ctx context.Context, sql string, args ...any) pgx.Row {
	back := gate.Outside(ctx)
	return line{p.Pool.QueryRow(ctx, sql, args...), back}
}

// answer are rows that give a place back with their connection.
type answer struct {
	pgx.Rows
	back func()
}

func (a answer) Next() bool {
	if a.Rows.Next() {
		return true
	}
	a.back()
	return false
}

func (a answer) Close() {
	a.Rows.Close()
	a.back()
}

type line struct {
	pgx.Row
	back func()
}

func (l line) Scan(into ...any) error {
	defer l.back()
	return l.Row.Scan(into...)
}

// turns has those who change the same thing wait for each other here, where waiting takes nothing:
// in the database each of them would keep a connection from everybody else. Safe for concurrent
// use; the zero value is ready.
type turns struct {
	mu   sync.Mutex
	held map[string]*turnOf
}

type turnOf struct {
	free   chan struct{} // holds one while nobody has it
	wanted int
}

// take waits for the turn with some things, always in the same order.
func (t *turns) take(ctx context.Context, things []string) (leave func(), err error) {
	things = slices.Compact(slices.Sorted(slices.Values(things)))
	var taken []string
	leave = func() {
		for _, name := range taken {
			t.leave(name, true)
		}
	}
	for _, name := range things {
		t.mu.Lock()
		if t.held == nil {
			t.held = map[string]*turnOf{}
		}
		of := t.held[name]
		if of == nil {
			of = &turnOf{free: make(chan struct{}, 1)}
			of.free <- struct{}{}
			t.held[name] = of
		}
		of.wanted++
		t.mu.Unlock()
		select {
		case <-of.free:
			taken = append(taken, name)
		case <-ctx.Done():
			t.leave(name, false)
			leave()
			return nil, ctx.Err()
		}
	}
	return leave, nil
}

func (t *turns) leave(name string, had bool) {
	t.mu.Lock()
	defer t.mu.Unlock()
	of := t.held[name]
	if of.wanted--; of.wanted == 0 {
		delete(t.held, name)
		return
	}
	if had {
		of.free <- struct{}{}
	}
}
