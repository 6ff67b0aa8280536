package edit

import (
	"encoding/json"
	"testing"
)

// FuzzParse reads anything: what is taken is written and read again as the same.
func FuzzParse(f *testing.F) {
	for _, s := range []string{`{}`, `{"a":null,"b":[1,{"id":"x"}],"é":"\u0000"}`, `[[[[]]]]`, `{"a":1e400}`, `{"a":"\ud800"}`, "\xef\xbb\xbf{}", `{"a":1}x`, `nul`, ``} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		o, err := ParseObject(data)
		if err != nil {
			return
		}
		first, err := Marshal(o)
		if err != nil {
			t.Fatal(err)
		}
		again, err := ParseObject(first)
		if err != nil {
			t.Fatalf("what was written cannot be read: %v", err)
		}
		if second, _ := Marshal(again); string(second) != string(first) {
			t.Errorf("%s became %s", first, second)
		}
		_ = Limits{{Path: "/a/*", Most: 3}}.Check(o)
		Limits{{Path: "/a", Most: 1}, {Path: "/*/b", Most: 1}}.Trim(o)
	})
}

// FuzzDo makes any change to a document: it is refused and leaves no trace, or
// its inverse brings the document back.
func FuzzDo(f *testing.F) {
	for _, s := range []string{
		`{"path":"/cards/@c1","value":null}`, `{"path":"/cards/-","value":{"id":"n"},"before":"@c2"}`, `{"path":"/cards/@c2","move":true,"before":"@c1"}`,
		`{"path":"/name","null":true}`, `{"path":"/a/b/c","value":1}`, `{"path":"/cards/9/x","value":1}`, `{"all":[{"path":"/name","value":"x"},{"path":"/nope/x/-","value":2}]}`,
		`{"path":"/cards","order":["a"]}`, `{"path":"/","value":{}}`, `{"path":"/cards/@c1/@x/@y","value":{"id":5}}`, `{"path":"/list/0","value":null}`,
	} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		var op Op
		if json.Unmarshal(data, &op) != nil {
			return
		}
		const in = `{"name":"n","cards":[{"id":"c1","x":[1]},{"id":"c2"}],"list":["a",null],"nothing":null}`
		d, err := ParseObject([]byte(in))
		if err != nil {
			t.Fatal(err)
		}
		op, err = Lists{"/cards", "/cards/*/pictures"}.Prepare(op, func() string { return "fresh" })
		if err != nil {
			return
		}
		done, err := Do(d, op)
		if err == nil {
			if _, err = Do(d, done.Inverse); err != nil {
				t.Fatalf("%s: its inverse %+v: %v", data, done.Inverse, err)
			}
		}
		if got := members(d); got != members(doc(t, in)) {
			t.Errorf("%s leaves %s", data, got)
		}
	})
}
