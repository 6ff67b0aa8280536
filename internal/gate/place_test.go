package gate_test

import (
	"context"
	"testing"

	"aspenridge/internal/gate"
)

// Who waits for something else holds no place, takes one again afterwards, and gives it back once.
func TestAPlaceIsGivenUpWhileOneWaits(t *testing.T) {
	g := gate.New(1, 0)
	ctx, p, err := g.Take(gate.OwnedBy(t.Context(), "one"))
	if err != nil {
		t.Fatal(err)
	}
	taken := func() bool { // by whoever comes next
		ctx, cancel := context.WithCancel(gate.OwnedBy(t.Context(), "one"))
		got := make(chan func(), 1)
		go func() {
			leave, err := g.Enter(ctx, 0)
			if err != nil {
				leave = nil
			}
			got <- leave
		}()
		for g.Waiting() == 0 {
			select {
			case leave := <-got:
				cancel()
				leave()
				return false
			default:
			}
		}
		cancel()
		if leave := <-got; leave != nil {
			leave()
			return false
		}
		return true
	}
	if !taken() {
		t.Error("a place that is held was given away")
	}
	back, inner := gate.Outside(ctx), gate.Outside(ctx)
	if taken() {
		t.Error("who waits holds a place")
	}
	inner()
	if taken() {
		t.Error("who still waits for one of two things holds a place")
	}
	back()
	back()
	if !taken() {
		t.Error("who is back holds none")
	}
	again := gate.Outside(ctx)
	p.Leave()
	again()
	if taken() {
		t.Error("a place that was left for good is taken again")
	}
	p.Leave()
	gate.Outside(t.Context())() // without a place nothing is done
}
