package raster

import (
	"context"
	"errors"
	"runtime"
	"slices"
	"sync"
)

// Heavy work (reading files in, drawing) waits at one gate: as many at a time as
// there are processors, and together no more memory than heavyBytes. Whoever
// waits is let in by turns, one owner after the other, so that somebody with a
// hundred files does not hold up somebody with one.

// heavyBytes is how much memory the processes behind the gate may take together,
// by estimate.
const heavyBytes = 1500 << 20

type ownerKey struct{}

// OwnedBy says for whom what is done under the context is done: a workspace, or
// whatever else shares the machine fairly with others of its kind.
func OwnedBy(ctx context.Context, owner string) context.Context {
	return context.WithValue(ctx, ownerKey{}, owner)
}

// InBackground is [OwnedBy] for what nobody waits for in a request: it takes turns with
// what they do wait for, and is never turned away.
func InBackground(ctx context.Context, owner string) context.Context {
	return OwnedBy(context.WithValue(ctx, behindKey{}, true), owner+" in the background")
}

type behindKey struct{}

func behind(ctx context.Context) bool { is, _ := ctx.Value(behindKey{}).(bool); return is }

// ErrCrowded means that more waits for its turn than is worth waiting for.
var ErrCrowded = errors.New("too much is being drawn just now; try again in a moment")

// How many may wait for one owner, and for all together.
const (
	mostOfOwner = 60
	mostOfAll   = 400
)

func ownerOf(ctx context.Context) string { s, _ := ctx.Value(ownerKey{}).(string); return s }

// gate lets a number of holders with a number of bytes in at once.
type gate struct {
	mu      sync.Mutex
	slots   int
	bytes   int
	waiting map[string][]*waiter
	turns   []string // owners that wait, the next one first
}

type waiter struct {
	bytes int
	in    chan struct{} // closed when let in
}

func newGate(slots, bytes int) *gate {
	return &gate{slots: slots, bytes: bytes, waiting: map[string][]*waiter{}}
}

var heavy = sync.OnceValue(func() *gate { return newGate(max(2, runtime.NumCPU()), heavyBytes) })

// enter waits for a place; leave gives it back. What wants more bytes than there
// are at all counts as wanting all of them. Where too many wait already it is
// [ErrCrowded].
func (g *gate) enter(ctx context.Context, bytes int) (leave func(), err error) {
	owner := ownerOf(ctx)
	w := &waiter{min(bytes, heavyBytes), make(chan struct{})}
	g.mu.Lock()
	if !behind(ctx) && g.full(owner) {
		g.mu.Unlock()
		return nil, ErrCrowded
	}
	if len(g.waiting[owner]) == 0 {
		g.turns = append(g.turns, owner)
	}
	g.waiting[owner] = append(g.waiting[owner], w)
	g.admit()
	g.mu.Unlock()
	leave = sync.OnceFunc(func() {
		g.mu.Lock()
		defer g.mu.Unlock()
		g.slots++
		g.bytes += w.bytes
		g.admit()
	})
	select {
	case <-w.in:
		return leave, nil
	case <-ctx.Done():
	}
	g.mu.Lock()
	list := g.waiting[owner]
	i := slices.Index(list, w)
	if i >= 0 { // still outside
		g.waiting[owner] = slices.Delete(list, i, i+1)
		g.settle(owner)
	}
	g.mu.Unlock()
	if i < 0 {
		leave()
	}
	return nil, ctx.Err()
}

// full reports whether an owner has to come again later; g.mu must be held.
func (g *gate) full(owner string) bool {
	all := 0
	for _, list := range g.waiting {
		all += len(list)
	}
	return all >= mostOfAll || len(g.waiting[owner]) >= mostOfOwner
}

// admit lets in whoever is next as long as there is room; g.mu must be held.
// Nobody passes one who is too large for now, or the large would wait for ever.
func (g *gate) admit() {
	for g.slots > 0 && len(g.turns) > 0 {
		owner := g.turns[0]
		w := g.waiting[owner][0]
		if w.bytes > g.bytes {
			return
		}
		g.slots--
		g.bytes -= w.bytes
		g.waiting[owner] = g.waiting[owner][1:]
		g.turns = append(g.turns[1:], owner)
		g.settle(owner)
		close(w.in)
	}
}

// settle strikes an owner off who waits for nothing any more.
func (g *gate) settle(owner string) {
	if len(g.waiting[owner]) == 0 {
		delete(g.waiting, owner)
		g.turns = slices.DeleteFunc(g.turns, func(o string) bool { return o == owner })
	}
}
