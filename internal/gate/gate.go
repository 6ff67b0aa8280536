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

type aheadKey struct{}

// Ahead says that a hand rests until what is done under the context is done, as with a
// key that was typed: it is let in before whatever is only looked at.
func Ahead(ctx context.Context) context.Context { return context.WithValue(ctx, aheadKey{}, true) }

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
	mu    sync.Mutex
	slots int
	bytes int
	all   int     // bytes there are when nobody is in
	lines [2]line // ahead, and the others
}

// line is one of the two lines before a gate.
type line struct {
	waiting map[string][]*waiter
	turns   []string // owners that wait, the next one first
}

type waiter struct {
	bytes int
	in    chan struct{} // closed when let in
}

// New makes a gate.
func New(slots, bytes int) *Gate {
	g := &Gate{slots: slots, bytes: bytes, all: bytes}
	for i := range g.lines {
		g.lines[i].waiting = map[string][]*waiter{}
	}
	return g
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
	l := g.lineOf(ctx)
	l.join(owner, w)
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
	outside := l.quit(owner, w)
	g.mu.Unlock()
	if !outside {
		leave()
	}
	return nil, ctx.Err()
}

// Waiting is how many wait.
func (g *Gate) Waiting() int {
	g.mu.Lock()
	defer g.mu.Unlock()
	return g.count()
}

// count is how many wait; g.mu must be held.
func (g *Gate) count() (n int) {
	for _, l := range g.lines {
		for _, list := range l.waiting {
			n += len(list)
		}
	}
	return n
}

// full reports whether an owner has to come again later; g.mu must be held.
func (g *Gate) full(owner string) bool {
	own := 0
	for _, l := range g.lines {
		own += len(l.waiting[owner])
	}
	return g.count() >= mostOfAll || own >= mostOfOwner
}

func (g *Gate) lineOf(ctx context.Context) *line {
	if is, _ := ctx.Value(aheadKey{}).(bool); is {
		return &g.lines[0]
	}
	return &g.lines[1]
}

// admit lets in whoever is next as long as there is room; g.mu must be held.
// Nobody passes one who is too large for now, or the large would wait for ever.
func (g *Gate) admit() {
	for i := 0; i < len(g.lines) && g.slots > 0; {
		l := &g.lines[i]
		if len(l.turns) == 0 {
			i++
			continue
		}
		w := l.waiting[l.turns[0]][0]
		if w.bytes > g.bytes {
			return
		}
		g.slots--
		g.bytes -= w.bytes
		l.next()
		close(w.in)
	}
}

func (l *line) join(owner string, w *waiter) {
	if len(l.waiting[owner]) == 0 {
		l.turns = append(l.turns, owner)
	}
	l.waiting[owner] = append(l.waiting[owner], w)
}

// next takes the first one out of the line; its owner comes after the others again.
func (l *line) next() {
	owner := l.turns[0]
	l.waiting[owner] = l.waiting[owner][1:]
	l.turns = append(l.turns[1:], owner)
	l.settle(owner)
}

// quit takes one out who waits no longer; false when it has been let in.
func (l *line) quit(owner string, w *waiter) bool {
	list := l.waiting[owner]
	i := slices.Index(list, w)
	if i < 0 {
		return false
	}
	l.waiting[owner] = slices.Delete(list, i, i+1)
	l.settle(owner)
	return true
}

// settle strikes an owner off who waits for nothing any more.
func (l *line) settle(owner string) {
	if len(l.waiting[owner]) == 0 {
		delete(l.waiting, owner)
		l.turns = slices.DeleteFunc(l.turns, func(o string) bool { return o == owner })
	}
}
