// Package gate lets so many in at a time and has the others wait for their turn: one
// owner after the other, none with more than its share of the places while others are
// about, so that somebody with a hundred things to do does not hold up somebody with one.
package gate

import (
	"context"
	"errors"
	"slices"
	"sync"
	"time"
)

type ownerKey struct{}

// How far processes stand back that nobody waits for in a request, by nice(1): those that draw
// files, those that draw for seconds, and those that work on films for minutes on all processors.
const (
	Nice      = 5
	NiceLong  = 8
	NiceFilms = 10
	NiceFar   = 19 // any of them, of somebody who has much more waiting
)

// OwnedBy says for whom what is done under the context is done: a workspace, or
// whatever else shares the machine fairly with others of its kind.
func OwnedBy(ctx context.Context, owner string) context.Context {
	return context.WithValue(ctx, ownerKey{}, owner)
}

// InBackground is [OwnedBy] for what nobody waits for in a request: it takes turns with
// what they do wait for, and is never turned away.
func InBackground(ctx context.Context, owner string) context.Context {
	return OwnedBy(context.WithValue(ctx, behindKey{}, true), owner)
}

type behindKey struct{}

// Behind reports whether nobody waits in a request for what is done under the context.
func Behind(ctx context.Context) bool { is, _ := ctx.Value(behindKey{}).(bool); return is }

type farKey struct{}

// FarBehind marks work of an owner who has much more waiting: it is admitted after the work of
// owners who have not.
func FarBehind(ctx context.Context) context.Context { return context.WithValue(ctx, farKey{}, true) }

// Far reports whether work under the context was marked by [FarBehind].
func Far(ctx context.Context) bool { is, _ := ctx.Value(farKey{}).(bool); return is }

type aheadKey struct{}

// Ahead marks work a user is waiting for before they can go on, as after a key: it is admitted
// before page views.
func Ahead(ctx context.Context) context.Context { return context.WithValue(ctx, aheadKey{}, true) }

// ErrCrowded means that more waits for its turn than is worth waiting for.
var ErrCrowded = errors.New("too much is being done just now; try again in a moment")

// How many may wait for one owner, and for all together.
const (
	mostOfOwner = 60
	mostOfAll   = 400
)

// about is how long the place of an owner who left is kept free for what they do next:
// the next file of a parcel, the next page.
const about = 500 * time.Millisecond

// turn is what takes turns: what people of an owner wait for, and what is done behind it.
type turn struct {
	owner  string
	behind bool
}

func turnOf(ctx context.Context) turn {
	s, _ := ctx.Value(ownerKey{}).(string)
	return turn{s, Behind(ctx)}
}

// Gate lets a number of holders with a number of bytes in at once. Safe for concurrent
// use.
type Gate struct {
	mu     sync.Mutex
	slots  int // free
	places int // all there are
	bytes  int
	all    int                    // bytes there are when nobody is in
	lines  [2]line                // ahead, and the others
	held   map[string]int         // places by owner, of those who hold any
	left   map[string]*time.Timer // owners who hold none and are still about
}

// line is one of the two lines before a gate.
type line struct {
	waiting map[turn][]*waiter
	turns   []turn // those that wait, the next one first
}

type waiter struct {
	bytes int
	in    chan struct{} // closed when let in
}

// New makes a gate.
func New(slots, bytes int) *Gate {
	g := &Gate{slots: slots, places: slots, bytes: bytes, all: bytes, held: map[string]int{}, left: map[string]*time.Timer{}}
	for i := range g.lines {
		g.lines[i].waiting = map[turn][]*waiter{}
	}
	return g
}

// Enter waits for a place; leave gives it back. What wants more bytes than there
// are at all counts as wanting all of them. Where too many wait already it is
// [ErrCrowded].
func (g *Gate) Enter(ctx context.Context, bytes int) (leave func(), err error) {
	return g.enter(ctx, bytes, Behind(ctx))
}

// enter is [Gate.Enter]; who is expected is never turned away.
func (g *Gate) enter(ctx context.Context, bytes int, expected bool) (leave func(), err error) {
	of := turnOf(ctx)
	w := &waiter{min(bytes, g.all), make(chan struct{})}
	g.mu.Lock()
	if !expected && g.full(of) {
		g.mu.Unlock()
		return nil, ErrCrowded
	}
	l := g.lineOf(ctx)
	l.join(of, w)
	g.admit()
	g.mu.Unlock()
	leave = sync.OnceFunc(func() {
		g.mu.Lock()
		defer g.mu.Unlock()
		g.slots++
		g.bytes += w.bytes
		g.release(of.owner)
		g.admit()
	})
	select {
	case <-w.in:
		return leave, nil
	case <-ctx.Done():
	}
	g.mu.Lock()
	outside := l.quit(of, w)
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

// full reports whether somebody has to come again later; g.mu must be held.
func (g *Gate) full(of turn) bool {
	own := 0
	for _, l := range g.lines {
		own += len(l.waiting[of])
	}
	return g.count() >= mostOfAll || own >= mostOfOwner
}

func (g *Gate) lineOf(ctx context.Context) *line {
	if is, _ := ctx.Value(aheadKey{}).(bool); is {
		return &g.lines[0]
	}
	return &g.lines[1]
}

// admit lets the next in turn enter as long as there is room; g.mu must be held.
// Nobody passes one who is too large for now, or the large would wait for ever.
func (g *Gate) admit() {
	most := g.share()
	for i := 0; i < len(g.lines) && g.slots > 0; {
		l := &g.lines[i]
		next := slices.IndexFunc(l.turns, func(t turn) bool { return g.held[t.owner] < most })
		if next < 0 {
			i++
			continue
		}
		of := l.turns[next]
		w := l.waiting[of][0]
		if w.bytes > g.bytes {
			return
		}
		g.slots--
		g.bytes -= w.bytes
		g.hold(of.owner)
		l.next(next)
		close(w.in)
	}
}

// share is how many places one owner may hold: all of them where nobody else is about, and
// one at least; g.mu must be held.
func (g *Gate) share() int {
	there := map[string]bool{}
	for owner := range g.held {
		there[owner] = true
	}
	for owner := range g.left {
		there[owner] = true
	}
	for _, l := range g.lines {
		for _, t := range l.turns {
			there[t.owner] = true
		}
	}
	return max(1, g.places/max(1, len(there)))
}

// hold notes a place as an owner's; g.mu must be held.
func (g *Gate) hold(owner string) {
	g.held[owner]++
	if t := g.left[owner]; t != nil {
		t.Stop()
		delete(g.left, owner)
	}
}

// release notes that an owner has a place less, and has them stay about for a while after
// the last one; g.mu must be held.
func (g *Gate) release(owner string) {
	if g.held[owner]--; g.held[owner] > 0 {
		return
	}
	delete(g.held, owner)
	var t *time.Timer
	t = time.AfterFunc(about, func() {
		g.mu.Lock()
		defer g.mu.Unlock()
		if g.left[owner] == t { // they have not come again
			delete(g.left, owner)
			g.admit()
		}
	})
	g.left[owner] = t
}

func (l *line) join(of turn, w *waiter) {
	if len(l.waiting[of]) == 0 {
		l.turns = append(l.turns, of)
	}
	l.waiting[of] = append(l.waiting[of], w)
}

// next takes the first one of a turn out of the line; it comes after the others again.
func (l *line) next(i int) {
	of := l.turns[i]
	l.waiting[of] = l.waiting[of][1:]
	l.turns = append(slices.Delete(l.turns, i, i+1), of)
	l.settle(of)
}

// quit takes one out who waits no longer; false when it has been let in.
func (l *line) quit(of turn, w *waiter) bool {
	list := l.waiting[of]
	i := slices.Index(list, w)
	if i < 0 {
		return false
	}
	l.waiting[of] = slices.Delete(list, i, i+1)
	l.settle(of)
	return true
}

// settle strikes off who waits for nothing any more.
func (l *line) settle(of turn) {
	if len(l.waiting[of]) == 0 {
		delete(l.waiting, of)
		l.turns = slices.DeleteFunc(l.turns, func(t turn) bool { return t == of })
	}
}
