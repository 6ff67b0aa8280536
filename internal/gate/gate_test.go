package gate

import (
	"context"
	"errors"
	"sync"
	"testing"
	"testing/synctest"
	"time"
)

// One owner with many waiting does not keep another one out.
func TestTheGateGoesByTurns(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := New(1, 1000)
		hold, err := g.Enter(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		var mu sync.Mutex
		var order []string
		var wg sync.WaitGroup
		ask := func(who string) {
			wg.Go(func() {
				leave, err := g.Enter(OwnedBy(t.Context(), who), 1)
				if err != nil {
					t.Error(err)
					return
				}
				mu.Lock()
				order = append(order, who)
				mu.Unlock()
				leave()
			})
			synctest.Wait()
		}
		for range 5 {
			ask("many")
		}
		ask("one")
		hold()
		wg.Wait()
		if len(order) != 6 || order[0] != "many" || order[1] != "one" {
			t.Errorf("let in: %v", order)
		}
	})
}

// Somebody with many large things to do holds half of the places while somebody else is
// about, also between two things of theirs, and all of them when nobody is.
func TestNobodyHoldsAllPlacesBesideOthers(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := New(2, 1000)
		ctx, stop := context.WithCancel(t.Context())
		var wg sync.WaitGroup
		for range 4 {
			wg.Go(func() {
				for {
					leave, err := g.Enter(InBackground(ctx, "large"), 1)
					if err != nil {
						return
					}
					select {
					case <-time.After(5 * time.Second):
					case <-ctx.Done():
					}
					leave()
				}
			})
		}
		synctest.Wait()
		if g.slots != 0 {
			t.Errorf("alone, %d of 2 places stay free", g.slots)
		}
		started := time.Now()
		for range 12 {
			leave, err := g.Enter(InBackground(t.Context(), "small"), 1)
			if err != nil {
				t.Fatal(err)
			}
			time.Sleep(200 * time.Millisecond) // is drawn
			leave()
			time.Sleep(100 * time.Millisecond) // is written down
		}
		if took := time.Since(started); took > 12*300*time.Millisecond+5*time.Second {
			t.Errorf("12 things of 0.3 s took %v", took)
		}
		time.Sleep(time.Second)
		if g.slots != 0 {
			t.Errorf("alone again, %d of 2 places stay free", g.slots)
		}
		stop()
		wg.Wait()
	})
}

// What a hand rests for goes before what is only looked at, whoever else waits.
func TestAKeyGoesAhead(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := New(1, 1000)
		hold, err := g.Enter(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		order := make(chan string, 4)
		var wg sync.WaitGroup
		ask := func(ctx context.Context, what string) {
			wg.Go(func() {
				leave, err := g.Enter(ctx, 1)
				if err != nil {
					t.Error(err)
					return
				}
				order <- what
				leave()
			})
			synctest.Wait()
		}
		many := OwnedBy(t.Context(), "many")
		ask(many, "page")
		ask(many, "page")
		ask(OwnedBy(t.Context(), "one"), "page")
		ask(Ahead(many), "key")
		hold()
		wg.Wait()
		if first := <-order; first != "key" {
			t.Errorf("a %s came first", first)
		}
	})
}

// What waits is bounded, for one owner and for all; what nobody waits for waits on.
func TestTheGateTurnsAway(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := New(1, 1000)
		hold, err := g.Enter(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		var wg sync.WaitGroup
		for range mostOfOwner {
			wg.Go(func() {
				leave, err := g.Enter(OwnedBy(t.Context(), "many"), 1)
				if err != nil {
					t.Error(err)
					return
				}
				leave()
			})
		}
		synctest.Wait()
		if _, err := g.Enter(OwnedBy(t.Context(), "many"), 1); !errors.Is(err, ErrCrowded) {
			t.Errorf("one more than may wait: %v", err)
		}
		in := make(chan string, 2)
		for who, ctx := range map[string]context.Context{"another": OwnedBy(t.Context(), "another"), "the job": InBackground(t.Context(), "many")} {
			wg.Go(func() {
				leave, err := g.Enter(ctx, 1)
				if err != nil {
					t.Errorf("%s: %v", who, err)
					return
				}
				in <- who
				leave()
			})
		}
		synctest.Wait()
		hold()
		wg.Wait()
		if len(in) != 2 {
			t.Errorf("%d of two were let in", len(in))
		}
		if leave, err := g.Enter(OwnedBy(t.Context(), "many"), 1); err != nil {
			t.Errorf("afterwards: %v", err)
		} else {
			leave()
		}
	})
}

func TestTheGateCountsBytesAndForgetsWhoLeaves(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := New(4, 100)
		big, err := g.Enter(t.Context(), 80)
		if err != nil {
			t.Fatal(err)
		}
		ctx, cancel := context.WithCancel(t.Context())
		gone := make(chan error, 1)
		go func() { _, err := g.Enter(ctx, 30); gone <- err }()
		synctest.Wait()
		if len(g.lines[1].turns) != 1 {
			t.Fatalf("30 bytes went in beside 80 of 100")
		}
		cancel()
		if err := <-gone; err == nil {
			t.Error("somebody who left was let in")
		}
		if leave, err := g.Enter(t.Context(), 20); err != nil {
			t.Error(err)
		} else {
			leave()
		}
		big()
		if g.slots != 4 || g.bytes != 100 || len(g.lines[1].turns) != 0 {
			t.Errorf("at rest there are %d places and %d bytes, %v waiting", g.slots, g.bytes, g.lines[1].turns)
		}
	})
}
