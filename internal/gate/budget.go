package gate

import (
	"context"
	"errors"
	"os"
	"sync/atomic"
	"time"
)

// ErrBudget means that something took more of the processor's time than it may.
var ErrBudget = errors.New("it takes more of the processor's time than there is for it")

type budgetKey struct{}

// WithBudget gives all children that are run under the context so much of the processor's time
// together.
func WithBudget(ctx context.Context, d time.Duration) context.Context {
	left := &atomic.Int64{}
	left.Store(int64(d))
	return context.WithValue(ctx, budgetKey{}, left)
}

// Spent takes what a child used off the budget of its context, where there is one; [ErrBudget]
// where nothing is left of it. A child that was not started used nothing.
func Spent(ctx context.Context, p *os.ProcessState) error {
	left, ok := ctx.Value(budgetKey{}).(*atomic.Int64)
	if !ok || p == nil {
		return nil
	}
	if left.Add(-int64(p.UserTime()+p.SystemTime())) < 0 {
		return ErrBudget
	}
	return nil
}
