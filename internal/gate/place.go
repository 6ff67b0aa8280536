package gate

import (
	"context"
	"sync"
)

// Place is a place at a gate that is given up while its holder waits for something else, and
// taken again afterwards. Safe for concurrent use.
type Place struct {
	gate *Gate
	ctx  context.Context // whose turn it is

	mu      sync.Mutex
	leave   func() // nil while it is given up
	waiting int    // for other things
	over    bool
}

type placeKey struct{}

// Take waits for a place like [Gate.Enter]. What is done under the context it returns says with
// [Outside] when it waits for something else.
func (g *Gate) Take(ctx context.Context) (context.Context, *Place, error) {
	leave, err := g.Enter(ctx, 0)
	if err != nil {
		return ctx, nil, err
	}
	p := &Place{gate: g, ctx: ctx, leave: leave}
	return context.WithValue(ctx, placeKey{}, p), p, nil
}

// Leave gives the place back for good.
func (p *Place) Leave() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.over = true
	p.giveUp()
}

// giveUp gives the place back; p.mu must be held.
func (p *Place) giveUp() {
	if p.leave != nil {
		p.leave()
		p.leave = nil
	}
}

// Outside gives up the place of the context, if there is one, while its holder waits for a database,
// a file, somebody else; back takes one again, waiting for it. Whoever stood in the line once is
// not turned away.
func Outside(ctx context.Context) (back func()) {
	p, ok := ctx.Value(placeKey{}).(*Place)
	if !ok {
		return func() {}
	}
	p.mu.Lock()
	p.waiting++
	p.giveUp()
	p.mu.Unlock()
	return sync.OnceFunc(p.back)
}

func (p *Place) back() {
	p.mu.Lock()
	p.waiting--
	again := p.waiting == 0 && !p.over
	p.mu.Unlock()
	if !again {
		return
	}
	leave, err := p.gate.enter(p.ctx, 0, true)
	if err != nil { // nobody waits for the answer any more
		return
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.over || p.waiting > 0 || p.leave != nil { // meanwhile
		leave()
		return
	}
	p.leave = leave
}
