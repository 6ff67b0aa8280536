package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

var testLists = Lists{"/cards", "/cards/*/pictures", "/adjustments"}

// counter makes ids one after the other.
func counter(prefix string) func() string {
	n := 0
	return func() string { n++; return fmt.Sprintf("%s%d", prefix, n) }
}

func TestMembersWithoutIDsAreGivenThem(t *testing.T) {
	d := doc(t, `{"cards":[{"headline":"A","pictures":[{"file":"x"},{"id":"p","file":"y"},{"id":"p","file":"z"}]},{"id":"a b"}],"other":[{"x":1}],"looks":[3]}`)
	if !testLists.Identify(d, counter("n")) {
		t.Error("nothing was said to change")
	}
	want := `{"cards":[{"headline":"A","pictures":[{"file":"x","id":"n2"},{"id":"p","file":"y"},{"id":"n3","file":"z"}],"id":"n1"},{"id":"n4"}],"other":[{"x":1}],"looks":[3]}`
	if got := text(t, d); got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
	if testLists.Identify(d, counter("m")) {
		t.Error("ids are given twice")
	}
}

func TestPathsByIDFindTheirMemberWhereverItStands(t *testing.T) {
	d := doc(t, `{"adjustments":[{"id":"a","value":"1"},{"id":"b","value":"2"},{"id":"c","value":"3"}]}`)
	mustDo := func(op Op) Done {
		t.Helper()
		got, err := Do(d, op)
		if err != nil {
			t.Fatalf("%+v: %v", op, err)
		}
		return got
	}
	gone := mustDo(Op{Path: "/adjustments/0"})
	if !slices.Equal(gone.Paths, []string{"/adjustments/@a"}) {
		t.Errorf("lifting the first touches %v", gone.Paths)
	}
	mustDo(Op{Path: "/adjustments/@b/value", Value: json.RawMessage(`"two"`)})
	if got := text(t, d); got != `{"adjustments":[{"id":"b","value":"two"},{"id":"c","value":"3"}]}` {
		t.Error(got)
	}
	if _, err := Do(d, Op{Path: "/adjustments/@a/value", Value: json.RawMessage(`"x"`)}); !errors.Is(err, ErrGone) {
		t.Errorf("changing what is gone: %v", err)
	}
	mustDo(gone.Inverse)
	moved := mustDo(Op{Path: "/adjustments/@c", Move: true, Before: "@a"})
	if got := text(t, d); got != `{"adjustments":[{"id":"c","value":"3"},{"id":"a","value":"1"},{"id":"b","value":"two"}]}` {
		t.Error(got)
	}
	if _, ok := Overlap(moved.Paths, []string{"/adjustments/@c/value"}); ok {
		t.Error("moving a member conflicts with changing it")
	}
	if _, ok := Overlap(moved.Paths, []string{"/adjustments/@c"}); !ok {
		t.Error("moving a member does not conflict with taking it away")
	}
	mustDo(moved.Inverse)
	if got := text(t, d); got != `{"adjustments":[{"id":"a","value":"1"},{"id":"b","value":"two"},{"id":"c","value":"3"}]}` {
		t.Error(got)
	}
	if _, err := Do(d, Op{Path: "/adjustments/-", Value: json.RawMessage(`{"id":"a"}`)}); err == nil {
		t.Error("two members with one id")
	}
}

func TestExplicitNullsComeBack(t *testing.T) {
	const in = `{"a":null,"b":[null,1],"c":{"d":null}}`
	for _, op := range []Op{{Path: "/a"}, {Path: "/a", Value: json.RawMessage("1")}, {Path: "/c/d"}, {Path: "/c"}, {Path: "/b/0"}, {Path: "/b/0", Value: json.RawMessage(`2`)}} {
		d := doc(t, in)
		inv, err := Apply(d, op)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Apply(d, inv); err != nil || text(t, d) != in {
			t.Errorf("%+v undone to %s (%v)", op, text(t, d), err)
		}
	}
}

// randomOp is a change somebody could make to a document of the shape below.
func randomOp(rng *rand.Rand, next func() string) Op {
	list := []string{"/adjustments", "/cards", "/cards/@c1/pictures", "/cards/@c2/pictures"}[rng.IntN(4)]
	ids := map[string][]string{"/adjustments": {"a", "b", "c", "d"}, "/cards": {"c1", "c2", "c3"}, "/cards/@c1/pictures": {"p1", "p2"}, "/cards/@c2/pictures": {"q1", "q2", "q3"}}[list]
	id := ids[rng.IntN(len(ids))]
	other := "@" + ids[rng.IntN(len(ids))]
	value := json.RawMessage(fmt.Sprintf(`{"v":%d}`, rng.IntN(1000)))
	switch rng.IntN(11) {
	case 0:
		return Op{Path: list + "/@" + id}
	case 1:
		return Op{Path: list + "/@" + id, Value: value}
	case 2:
		return Op{Path: list + "/@" + id + "/value", Value: json.RawMessage(fmt.Sprint(rng.IntN(1000)))}
	case 3:
		return Op{Path: list + "/@" + id + "/deep/er", Value: json.RawMessage(`"x"`)}
	case 4:
		return Op{Path: list + "/-", Value: json.RawMessage(fmt.Sprintf(`{"id":%q}`, next())), Before: other}
	case 5:
		return Op{Path: list + "/@" + id, Move: true, Before: other}
	case 6:
		return Op{Path: list + "/" + fmt.Sprint(rng.IntN(len(ids)))}
	case 8: // lists and objects that are not there yet
		return Op{Path: "/facts/@" + []string{"f1", "f2"}[rng.IntN(2)], Value: value}
	case 9:
		return Op{Path: "/cards/@c3/when/" + []string{"date", "from", "to"}[rng.IntN(3)], Value: json.RawMessage(`"x"`)}
	case 7:
		return Op{Path: "/cards/@c3/lines", Value: json.RawMessage(`["one","two"]`)}
	}
	return Op{Path: "/name", Value: json.RawMessage(fmt.Sprintf(`"n%d"`, rng.IntN(1000)))}
}

const randomDoc = `{"name":"n","cards":[{"id":"c1","pictures":[{"id":"p1"},{"id":"p2"}]},{"id":"c2","pictures":[{"id":"q1"},{"id":"q2"},{"id":"q3"}]},{"id":"c3","lines":["a"]}],"adjustments":[{"id":"a"},{"id":"b"},{"id":"c"},{"id":"d"}]}`

// members writes a document with its lists in order of ids: where two people put
// something in the same place, or move one thing and take away its neighbour,
// the order is open, what there is is not.
func members(v any) string {
	switch v := v.(type) {
	case *Object:
		var out []string
		for _, k := range slices.Sorted(slices.Values(v.Keys())) {
			out = append(out, k+":"+members(v.Get(k)))
		}
		return "{" + strings.Join(out, ",") + "}"
	case []any:
		var out []string
		for _, m := range v {
			out = append(out, members(m))
		}
		slices.Sort(out)
		return "[" + strings.Join(out, ",") + "]"
	}
	return fmt.Sprint(v)
}

// Any two changes made on the same base come to the same in either order, or are
// a conflict; and neither ever touches a member the other was not about.
func TestChangesCommuteOrConflict(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 9))
	conflicts := 0
	for n := range 8_000 {
		next := counter(fmt.Sprintf("new%d-", n))
		a, b := randomOp(rng, next), randomOp(rng, next)
		base := doc(t, randomDoc)
		da, errA := Do(base, a)
		db, errB := Do(doc(t, randomDoc), b)
		if errA != nil || errB != nil {
			continue // neither could have been made on the base
		}
		if _, ok := Overlap(da.Paths, db.Paths); ok {
			conflicts++
			continue
		}
		// as the server does: each is applied as it was written down on the base
		first, second := doc(t, randomDoc), doc(t, randomDoc)
		var last Done
		for i, op := range []Op{da.Op, db.Op} {
			var err error
			if last, err = Do(first, op); err != nil {
				t.Fatalf("%+v then %+v (%d): %v", a, b, i, err)
			}
		}
		for i, op := range []Op{db.Op, da.Op} {
			if _, err := Do(second, op); err != nil {
				t.Fatalf("%+v then %+v (%d): %v", b, a, i, err)
			}
		}
		if members(first) != members(second) {
			t.Fatalf("%+v and %+v\none way   %s\nthe other %s", a, b, text(t, first), text(t, second))
		}
		// and the one made last can be undone without the other's work
		if _, err := Do(first, last.Inverse); err != nil {
			t.Fatal(err)
		}
		alone := doc(t, randomDoc)
		if _, err := Do(alone, da.Op); err != nil {
			t.Fatal(err)
		}
		if members(first) != members(alone) {
			t.Fatalf("undoing %+v after %+v leaves %s, want %s", b, a, text(t, first), text(t, alone))
		}
	}
	if conflicts < 100 {
		t.Errorf("only %d of the pairs conflict: the documents are too wide for the test", conflicts)
	}
}

func TestPreparedChangesCarryTheirIDs(t *testing.T) {
	for _, c := range []struct {
		op   Op
		want string
	}{
		{Op{Path: "/adjustments/-", Value: json.RawMessage(`{"value":"x"}`)}, `{"value":"x","id":"n1"}`},
		{Op{Path: "/adjustments/@k", Value: json.RawMessage(`{"value":"x"}`)}, `{"value":"x"}`},
		{Op{Path: "/cards", Value: json.RawMessage(`[{"pictures":[{"file":"f"}]}]`)}, `[{"pictures":[{"file":"f","id":"n2"}],"id":"n1"}]`},
		{Op{Path: "/cards/@c/pictures", Value: json.RawMessage(`[{"file":"f","id":"own"}]`)}, `[{"file":"f","id":"own"}]`},
		{Op{Path: "/cards/0/lines", Value: json.RawMessage(`["a"]`)}, `["a"]`},
		{Op{Path: "/cards/-", Value: json.RawMessage(`{"pictures":[{}]}`)}, `{"pictures":[{"id":"n2"}],"id":"n1"}`},
	} {
		got, err := testLists.Prepare(c.op, counter("n"))
		if err != nil || string(got.Value) != c.want {
			t.Errorf("%s: %s, want %s (%v)", c.op.Path, got.Value, c.want, err)
		}
	}
}
