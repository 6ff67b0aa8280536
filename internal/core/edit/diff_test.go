package edit_test

import (
	"testing"

	"aspenridge/internal/core/edit"
)

// TestDiffTurnsOneIntoTheOther: applied as one change it gives the other
// document, and its inverse gives the first back.
func TestDiffTurnsOneIntoTheOther(t *testing.T) {
	const a, b = `{"name":"A","list":[1,2],"deep":{"keep":true,"change":"x","gone":{"y":1}}}`, `{"name":"B","list":[1,2,3],"deep":{"keep":true,"change":"z","new":{"q":[]}}}`
	from, err := edit.ParseObject([]byte(a))
	if err != nil {
		t.Fatal(err)
	}
	to, err := edit.ParseObject([]byte(b))
	if err != nil {
		t.Fatal(err)
	}
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
