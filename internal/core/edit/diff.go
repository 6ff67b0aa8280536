package edit

import (
	"bytes"
	"slices"
)

// Diff lists the changes that turn one document into another: members within
// members, lists and plain values as wholes. The order of members is not
// compared. An empty result means both say the same.
func Diff(from, to *Object) []Op { return Lists(nil).Diff(from, to) }

// Diff is [Diff] that looks into those lists of which all members have ids, in
// both documents: what was put in, taken out, moved and changed of them.
func (l Lists) Diff(from, to *Object) []Op { return l.diff(nil, "", from, to) }

func (l Lists) diff(out []Op, at string, from, to *Object) []Op {
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
			out = l.diff(out, path, have, to.Object(key))
			continue
		}
		if slices.Contains(l, path) {
			before, ok := namedList(from.Get(key))
			after, ok2 := namedList(want)
			if ok && ok2 {
				out = l.diffLists(out, path, before, after)
				continue
			}
		}
		value := mustMarshal(want)
		if from.Get(key) == nil || !bytes.Equal(value, mustMarshal(from.Get(key))) {
			out = append(out, Op{Path: path, Value: value})
		}
	}
	return out
}

// namedList is a list of members that all have ids; false for any other value.
func namedList(v any) ([]*Object, bool) {
	list, ok := v.([]any)
	if !ok || len(list) == 0 {
		return nil, false
	}
	out := make([]*Object, len(list))
	for i, m := range list {
		if o, ok := m.(*Object); !ok || !validOrNone(o) {
			return nil, false
		} else {
			out[i] = o
		}
	}
	return out, true
}

func (l Lists) diffLists(out []Op, at string, from, to []*Object) []Op {
	in := func(list []*Object, id string) int {
		return slices.IndexFunc(list, func(o *Object) bool { return idOf(o) == id })
	}
	var stay []string // of those that are in both, as they were
	for _, m := range from {
		switch id := idOf(m); {
		case in(to, id) < 0:
			out = append(out, Op{Path: at + "/@" + id})
		default:
			stay = append(stay, id)
			out = l.diff(out, at+"/@"+id, m, to[in(to, id)])
		}
	}
	var then []int // where those stood, in the order they stand now
	for _, m := range to {
		if n := slices.Index(stay, idOf(m)); n >= 0 {
			then = append(then, n)
		}
	}
	kept := longestRise(then)
	before := "" // what stands behind, going from the end
	for _, m := range slices.Backward(to) {
		id := idOf(m)
		switch n := slices.Index(stay, id); {
		case n < 0:
			out = append(out, Op{Path: at + "/-", Value: mustMarshal(m), Before: before})
		case !slices.Contains(kept, n):
			out = append(out, Op{Path: at + "/@" + id, Move: true, Before: before})
		}
		before = "@" + id
	}
	return out
}

// longestRise is the longest part of a list in which every number is larger than the one before.
func longestRise(list []int) []int {
	var best []int
	ends := make([][]int, len(list)) // the longest that ends at each
	for i, n := range list {
		for j := range i {
			if list[j] < n && len(ends[j]) > len(ends[i]) {
				ends[i] = ends[j]
			}
		}
		ends[i] = append(slices.Clone(ends[i]), n)
		if len(ends[i]) > len(best) {
			best = ends[i]
		}
	}
	return best
}

func mustMarshal(v any) []byte {
	b, err := Marshal(v)
	if err != nil {
		panic(err) // values of a document are JSON
	}
	return b
}
