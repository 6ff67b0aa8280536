package edit_test

import (
	"errors"
	"testing"

	"aspenridge/internal/core/edit"
)

// A step is taken back after others: what came later stays, and what was built on
// it keeps it.
func TestUnmakeTakesBackOneStepOfMany(t *testing.T) {
	start := `{"name":"Old","tags":["a"],"colours":{"river":"#0F3D4C"}}`
	for name, c := range map[string]struct {
		step, later edit.Op
		want        string // "" when it is refused
	}{
		"a text, others later":                {edit.Op{Path: "/name", Value: []byte(`"New"`)}, edit.Op{Path: "/tags/-", Value: []byte(`"b"`)}, `{"name":"Old","tags":["a","b"],"colours":{"river":"#0F3D4C"}}`},
		"a text that was changed again":       {edit.Op{Path: "/name", Value: []byte(`"New"`)}, edit.Op{Path: "/name", Value: []byte(`"Newer"`)}, ""},
		"a member of a plain list that moved": {edit.Op{Path: "/tags/-", Value: []byte(`"b"`)}, edit.Op{Path: "/tags/0"}, `{"name":"Old","tags":[],"colours":{"river":"#0F3D4C"}}`},
		"a list that was made for it":         {edit.Op{Path: "/logos/-", Value: []byte(`{"id":"x"}`)}, edit.Op{Path: "/logos/-", Value: []byte(`{"id":"y"}`)}, `{"name":"Old","tags":["a"],"colours":{"river":"#0F3D4C"},"logos":[{"id":"y"}]}`},
		"something taken away":                {edit.Op{Path: "/colours/river"}, edit.Op{Path: "/name", Value: []byte(`"New"`)}, `{"name":"New","tags":["a"],"colours":{"river":"#0F3D4C"}}`},
		"several at once":                     {edit.Op{All: []edit.Op{{Path: "/name", Value: []byte(`"New"`)}, {Path: "/colours/sand", Value: []byte(`"#F6EBD6"`)}}}, edit.Op{Path: "/colours/ink", Value: []byte(`"#000000"`)}, `{"name":"Old","tags":["a"],"colours":{"river":"#0F3D4C","ink":"#000000"}}`},
		"something that was put into it":      {edit.Op{Path: "/more", Value: []byte(`{"a":1}`)}, edit.Op{Path: "/more/b", Value: []byte(`2`)}, ""},
	} {
		doc, err := edit.ParseObject([]byte(start))
		if err != nil {
			t.Fatal(err)
		}
		made, err := edit.Do(doc, c.step)
		if err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		if _, err := edit.Do(doc, c.later); err != nil {
			t.Fatalf("%s: %v", name, err)
		}
		ops, err := edit.Unmake(doc, edit.Step{Op: made.Op, Inverse: made.Inverse})
		if c.want == "" {
			if !errors.Is(err, edit.ErrBuiltOn) {
				t.Errorf("%s: %v, want a refusal", name, err)
			}
			continue
		}
		if err == nil {
			_, err = edit.Do(doc, edit.Op{All: ops})
		}
		if got, _ := edit.Marshal(doc); err != nil || compact(t, got) != compact(t, []byte(c.want)) {
			t.Errorf("%s: %s (%v), want %s", name, got, err, c.want)
		}
	}
}

func compact(t *testing.T, data []byte) string {
	t.Helper()
	doc, err := edit.ParseObject(data)
	if err != nil {
		t.Fatal(err)
	}
	out, err := edit.Marshal(doc)
	if err != nil {
		t.Fatal(err)
	}
	return string(out)
}
