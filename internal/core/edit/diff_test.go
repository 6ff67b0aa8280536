package edit_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"aspenridge/internal/core/edit"
)

// TestDiffTurnsOneIntoTheOther: applied as one change it gives the other
// document, and its inverse gives the first back.
func TestDiffTurnsOneIntoTheOther(t *testing.T) {
	const a, b = `{"name":"A","list":[1,2],"deep":{"keep":true,"change":"x","gone":{"y":1}}}`, `{"name":"B","list":[1,2,3],"deep":{"keep":true,"change":"z","new":{"q":[]}}}`
	from, to := parsed(t, a), parsed(t, b)
	ops := edit.Diff(from, to)
	if len(ops) != 5 {
		t.Errorf("%d changes, want 5: %+v", len(ops), ops)
	}
	inverse, err := edit.Apply(from, edit.Op{All: ops})
	if err != nil {
		t.Fatal(err)
	}
	if rest := edit.Diff(from, to); len(rest) != 0 {
		t.Errorf("still apart by %+v", rest)
	}
	if _, err := edit.Apply(from, inverse); err != nil {
		t.Fatal(err)
	}
	first, _ := edit.ParseObject([]byte(a))
	if rest := edit.Diff(from, first); len(rest) != 0 {
		t.Errorf("undone, still apart by %+v", rest)
	}
}

// TestListsAreComparedByTheirMembers: any list becomes any other, members that stay are named by
// their ids, and two people's changes of different members do not touch one another.
func TestListsAreComparedByTheirMembers(t *testing.T) {
	lists := edit.Lists{"/list"}
	rng := rand.New(rand.NewPCG(5, 6))
	some := func() string {
		var b strings.Builder
		for i, n := range rng.Perm(7)[:1+rng.IntN(6)] {
			if i > 0 {
				b.WriteByte(',')
			}
			fmt.Fprintf(&b, `{"id":"m%d","text":"%d"}`, n, rng.IntN(2))
		}
		return `{"list":[` + b.String() + `]}`
	}
	for range 500 {
		a, b := some(), some()
		from, to := parsed(t, a), parsed(t, b)
		ops := lists.Diff(from, to)
		for _, op := range ops {
			if op.Path == "/list" {
				t.Fatalf("from %s to %s the list goes as a whole", a, b)
			}
		}
		if len(ops) > 0 {
			if _, err := edit.Apply(from, edit.Op{All: ops}); err != nil {
				t.Fatalf("from %s to %s: %v", a, b, err)
			}
		}
		if got, want := string(must(edit.Marshal(from))), string(must(edit.Marshal(to))); got != want {
			t.Fatalf("from %s it became %s; want %s", a, got, want)
		}
	}
	moved := func(from, to string) int {
		return len(lists.Diff(parsed(t, from), parsed(t, to)))
	}
	if n := moved(`{"list":[{"id":"a"},{"id":"b"},{"id":"c"}]}`, `{"list":[{"id":"c"},{"id":"a"},{"id":"b"}]}`); n != 1 {
		t.Errorf("one member that goes to the front is %d changes", n)
	}
}

func parsed(t *testing.T, doc string) *edit.Object {
	t.Helper()
	o, err := edit.ParseObject([]byte(doc))
	if err != nil {
		t.Fatal(err)
	}
	return o
}

func must(b []byte, err error) []byte {
	if err != nil {
		panic(err)
	}
	return b
}

// TestAllOrNothing: several changes of which one does not fit leave no trace.
func TestAllOrNothing(t *testing.T) {
	doc, err := edit.ParseObject([]byte(`{"a":1,"list":[1]}`))
	if err != nil {
		t.Fatal(err)
	}
	_, err = edit.Apply(doc, edit.Op{All: []edit.Op{{Path: "/a", Value: []byte(`2`)}, {Path: "/list/7", Value: []byte(`1`)}}})
	if err == nil {
		t.Fatal("a change past the end of a list was taken")
	}
	if out, _ := edit.Marshal(doc); string(out) != `{"a":1,"list":[1]}` {
		t.Errorf("left behind: %s", out)
	}
}
