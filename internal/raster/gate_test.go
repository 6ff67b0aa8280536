package raster

import (
	"context"
	"sync"
	"testing"
	"testing/synctest"
)

// One owner with many waiting does not keep another one out.
func TestTheGateGoesByTurns(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := newGate(1, heavyBytes)
		hold, err := g.enter(t.Context(), 1)
		if err != nil {
			t.Fatal(err)
		}
		var mu sync.Mutex
		var order []string
		var wg sync.WaitGroup
		ask := func(who string) {
			wg.Go(func() {
				leave, err := g.enter(OwnedBy(t.Context(), who), 1)
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

func TestTheGateCountsBytesAndForgetsWhoLeaves(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		g := newGate(4, 100)
		big, err := g.enter(t.Context(), 80)
		if err != nil {
			t.Fatal(err)
		}
		ctx, cancel := context.WithCancel(t.Context())
		gone := make(chan error, 1)
		go func() { _, err := g.enter(ctx, 30); gone <- err }()
		synctest.Wait()
		if len(g.turns) != 1 {
			t.Fatalf("30 bytes went in beside 80 of 100")
		}
		cancel()
		if err := <-gone; err == nil {
			t.Error("somebody who left was let in")
		}
		if leave, err := g.enter(t.Context(), 20); err != nil {
			t.Error(err)
		} else {
			leave()
		}
		big()
		if g.slots != 4 || g.bytes != 100 || len(g.turns) != 0 {
			t.Errorf("at rest there are %d places and %d bytes, %v waiting", g.slots, g.bytes, g.turns)
		}
	})
}
