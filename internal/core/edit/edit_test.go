package edit

import (
	"encoding/json"
	"math/rand/v2"
	"testing"
)

func doc(t *testing.T, s string) *Object {
	t.Helper()
	o, err := ParseObject([]byte(s))
	if err != nil {
		t.Fatal(err)
	}
	return o
}

func text(t *testing.T, v any) string {
	t.Helper()
	b, err := Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

func TestOrderAndUnknownMembersSurvive(t *testing.T) {
	const in = `{"z":1.50,"a":{"later":true,"before":[1,{"x":"<é>"}]},"m":null}`
	if got := text(t, doc(t, in)); got != in {
		t.Errorf("came back as %s", got)
	}
}

// RFC 6901, section 5: the worked example's escapes.
func TestPointerEscapes(t *testing.T) {
	d := doc(t, `{"a/b":1,"m~n":8,"foo":["bar","baz"],"":0}`)
	for path, want := range map[string]string{"/a~1b": "1", "/m~0n": "8", "/foo/0": `"bar"`, "/": "0"} {
		if v, ok := Lookup(d, path); !ok || text(t, v) != want {
			t.Errorf("%s: %v", path, v)
		}
	}
}

func TestEveryOperationHasAnInverse(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	paths := []string{"/name", "/a/b/c", "/a/b", "/list/0", "/list/1", "/list/-", "/deep/list/0/x", "/a", "/cards/0/headline", "/gone"}
	values := []string{`"x"`, `null`, `{"k":[1,2]}`, `3`, `["p","q"]`, `{"b":{"c":1}}`}
	for range 2000 {
		d := doc(t, `{"name":"n","a":{"b":{"c":true}},"list":["one","two","three"],"cards":[{}]}`)
		var inverses []Op
		before := []string{text(t, d)}
		for range 6 {
			op := Op{Path: paths[rng.IntN(len(paths))], Value: json.RawMessage(values[rng.IntN(len(values))])}
			inv, err := Apply(d, op)
			if err != nil {
				continue
			}
			inverses = append(inverses, inv)
			before = append(before, text(t, d))
		}
		for i := len(inverses) - 1; i >= 0; i-- {
			if _, err := Apply(d, inverses[i]); err != nil {
				t.Fatalf("undo %+v: %v", inverses[i], err)
			}
			if got := sorted(t, d); got != sorted(t, doc(t, before[i])) {
				t.Fatalf("undo gave %s, want %s", got, before[i])
			}
		}
	}
}

// sorted ignores the order of members: an undone removal returns at the end.
func sorted(t *testing.T, o *Object) string {
	var v any
	if err := Decode(o, &v); err != nil {
		t.Fatal(err)
	}
	b, _ := json.Marshal(v)
	return string(b)
}

func TestReorderIsUndoable(t *testing.T) {
	d := doc(t, `{"c":{"x":1,"y":2,"z":3}}`)
	inv, err := Apply(d, Op{Path: "/c", Order: []string{"z", "x"}})
	if err != nil || text(t, d) != `{"c":{"z":3,"x":1,"y":2}}` {
		t.Fatalf("%s, %v", text(t, d), err)
	}
	if _, err := Apply(d, inv); err != nil || text(t, d) != `{"c":{"x":1,"y":2,"z":3}}` {
		t.Errorf("undone to %s, %v", text(t, d), err)
	}
}

func TestBadInputIsNamed(t *testing.T) {
	for _, s := range []string{"", "{", `{"a":}`, "[1]", `{"a":1} x`, "nope"} {
		if _, err := ParseObject([]byte(s)); err == nil {
			t.Errorf("%q was taken", s)
		}
	}
	d := doc(t, `{"name":"n","list":[1]}`)
	for _, op := range []Op{{Path: ""}, {Path: "name", Value: []byte("1")}, {Path: "/name/x", Value: []byte("1")},
		{Path: "/list/7", Value: []byte("1")}, {Path: "/list/a/b", Value: []byte("1")}, {Path: "/name", Value: []byte("{")}} {
		if _, err := Apply(d, op); err == nil {
			t.Errorf("%+v was applied", op)
		}
	}
	if text(t, d) != `{"name":"n","list":[1]}` {
		t.Errorf("a refused change left traces: %s", text(t, d))
	}
}

func TestOverlaps(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{{"/a", "/a", true}, {"/a", "/a/b", true}, {"/a/b", "/a", true}, {"/a", "/ab", false}, {"/a/b", "/a/c", false}} {
		if Overlaps(c.a, c.b) != c.want {
			t.Errorf("%s and %s", c.a, c.b)
		}
	}
}
