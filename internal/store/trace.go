package store

import (
	"context"
	"strings"
	"sync"

	"github.com/jackc/pgx/v5"
)

// Trace is what was asked of the database on behalf of a request. Safe for concurrent
// use.
type Trace struct {
	mu   sync.Mutex
	list []string
}

type traceKey struct{}

// WithTrace has a context remember the statements it is used for.
func WithTrace(ctx context.Context) (context.Context, *Trace) {
	t := &Trace{}
	return context.WithValue(ctx, traceKey{}, t), t
}

// Statements lists what was asked; the brackets of transactions are no questions.
func (t *Trace) Statements() []string {
	t.mu.Lock()
	defer t.mu.Unlock()
	return append([]string(nil), t.list...)
}

// tracer writes statements down where a context asks for it.
type tracer struct{}

func (tracer) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	if t, ok := ctx.Value(traceKey{}).(*Trace); ok {
		if q.SQL == "begin" || q.SQL == "commit" || q.SQL == "rollback" {
			return ctx
		}
		t.mu.Lock()
		t.list = append(t.list, strings.Join(strings.Fields(q.SQL), " "))
		t.mu.Unlock()
	}
	return ctx
}

func (tracer) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}
