package edit

import "bytes"

// Diff lists the changes that turn one document into another: members within
// members, lists and plain values as wholes. The order of members is not
// compared. An empty result means both say the same.
func Diff(from, to *Object) []Op { return diff(nil, "", from, to) }

func diff(out []Op, at string, from, to *Object) []Op {
	for _, key := range from.Keys() {
		if to.Get(key) == nil && from.Get(key) != nil {
			out = append(out, Op{Path: at + "/" + Escape(key)})
		}
	}
	for _, key := range to.Keys() {
		path := at + "/" + Escape(key)
		want := to.Get(key)
		if want == nil {
			continue
		}
		have, isObject := from.Object(key), to.Object(key) != nil
		if have != nil && isObject {
			out = diff(out, path, have, to.Object(key))
			continue
		}
		value := mustMarshal(want)
		if from.Get(key) == nil || !bytes.Equal(value, mustMarshal(from.Get(key))) {
			out = append(out, Op{Path: path, Value: value})
		}
	}
	return out
}

func mustMarshal(v any) []byte {
	b, err := Marshal(v)
	if err != nil {
		panic(err) // values of a document are JSON
	}
	return b
}
