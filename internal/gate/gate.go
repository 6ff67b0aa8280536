// Package gate lets so many in at a time and has the others wait for their turn: one
// owner after the other, so that somebody with a hundred things to do does not hold up
// somebody with one.
package gate

import (
	"context"
	"errors"
	"slices"
	"sync"
)

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

// Behind reports whether nobody waits in a request for what is done under the context.
func Behind(ctx context.Context) bool { is, _ := ctx.Value(behindKey{}).(bool); return is }

// ErrCrowded means that more waits for its turn than is worth waiting for.
var ErrCrowded = errors.New("too much is being done just now; try again in a moment")

// How many may wait for one owner, and for all together.
const (
	mostOfOwner = 60
	mostOfAll   = 400
)

func ownerOf(ctx context.Context) string { s, _ := ctx.Value(ownerKey{}).(string); return s }

// Gate lets a number of holders with a number of bytes in at once. Safe for concurrent
// use.
type Gate struct {
	mu      sync.Mutex
	slots   int
	bytes   int
	all     int // bytes there are when nobody is in
	waiting map[string][]*waiter
	turns   []string // owners that wait, the next one first
}

type waiter struct {
	bytes int
	in    chan struct{} // closed when let in
}

// New makes a gate.
func New(slots, bytes int) *Gate {
	return &Gate{slots: slots, bytes: bytes, all: bytes, waiting: map[string][]*waiter{}}
}

// Enter waits for a place; leave gives it back. What wants more bytes than there
// are at all counts as wanting all of them. Where too many wait already it is
// [ErrCrowded].
func (g *Gate) Enter(ctx context.Context, bytes int) (leave func(), err error) {
	owner := ownerOf(ctx)
	w := &waiter{min(bytes, g.all), make(chan struct{})}
	g.mu.Lock()
	if !Behind(ctx) && g.full(owner) {
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

// Waiting is how many wait.
func (g *Gate) Waiting() (n int) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for _, list := range g.waiting {
		n += len(list)
	}
	return n
}

// full reports whether an owner has to come again later; g.mu must be held.
func (g *Gate) full(owner string) bool {
	all := 0
	for _, list := range g.waiting {
		all += len(list)
	}
	return all >= mostOfAll || len(g.waiting[owner]) >= mostOfOwner
}

// admit lets in whoever is next as long as there is room; g.mu must be held.
// Nobody passes one who is too large for now, or the large would wait for ever.
func (g *Gate) admit() {
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
func (g *Gate) settle(owner string) {
	if len(g.waiting[owner]) == 0 {
		delete(g.waiting, owner)
		g.turns = slices.DeleteFunc(g.turns, func(o string) bool { return o == owner })
	}
}
