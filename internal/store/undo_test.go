package store

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

// What was changed is told from what lies beside it: held against every pair of paths.
func TestTouchedPaths(t *testing.T) {
	related := func(p, q string) bool { return p == q || strings.HasPrefix(p, q+"/") || strings.HasPrefix(q, p+"/") }
	rng := rand.New(rand.NewPCG(3, 5))
	path := func() string {
		p := ""
		for range rng.IntN(4) {
			p += fmt.Sprintf("/%c", 'a'+rune(rng.IntN(3)))
		}
		return p
	}
	both := [2]int{}
	for range 3000 {
		var changed []string
		for range 1 + rng.IntN(3) {
			changed = append(changed, path())
		}
		one := path()
		in := touched{}
		in.add(changed)
		want := slices.ContainsFunc(changed, func(p string) bool { return related(p, one) })
		if got := in.overlaps([]string{one}); got != want {
			t.Fatalf("%q beside %q: %v, want %v", one, changed, got, want)
		}
		if want {
			both[0]++
		} else {
			both[1]++
		}
	}
	if both[0] < 500 || both[1] < 500 {
		t.Errorf("%d related and %d not", both[0], both[1])
	}
}

// The log is walked once, however long it is: thousands of steps taken back and put back.
func TestStacksOfALongLog(t *testing.T) {
	const n = 5000
	var rows []logRow
	seq := int64(0)
	add := func(kind string, reverts int64) {
		seq++
		r := logRow{seq: seq, actor: ID{1}, kind: kind}
		if reverts > 0 {
			r.reverts = &reverts
		}
		rows = append(rows, r)
	}
	for range n {
		add("do", 0)
	}
	for i := range n {
		add("undo", int64(n-i))
	}
	for i := range n {
		add("redo", int64(2*n-i))
	}
	undo, redo := stacks(rows)
	if len(undo) != n || len(redo) != 0 || undo[n-1].seq != 3*n {
		t.Errorf("%d to take back, %d to put back", len(undo), len(redo))
	}
}
