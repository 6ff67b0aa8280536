package edit

import (
	"bytes"
	"errors"
	"slices"
	"strconv"
)

// ErrBuiltOn means that what a change put there was changed since.
var ErrBuiltOn = errors.New("it was changed since")

// Step is a change as it was made, with what changes it back right after.
type Step struct{ Op, Inverse Op }

// Unmake are the changes that take a step back from a document in which other
// things have been done since: what it put there goes, what it replaced or took
// away comes back. [ErrBuiltOn] when that is not as the step left it.
func Unmake(doc *Object, s Step) ([]Op, error) {
	if n := len(s.Op.All); n > 0 {
		var out []Op
		for i, op := range slices.Backward(s.Op.All) {
			var inverse Op
			if n == len(s.Inverse.All) {
				inverse = s.Inverse.All[n-1-i]
			}
			one, err := Unmake(doc, Step{op, inverse})
			if err != nil {
				return nil, err
			}
			out = append(out, one...)
		}
		return out, nil
	}
	now, ok := Lookup(doc, s.Op.Path)
	switch {
	case s.Op.Move, len(s.Op.Order) > 0:
		return []Op{s.Inverse}, nil
	case s.Op.Removes():
		if ok {
			return nil, ErrBuiltOn
		}
		return []Op{s.Inverse}, nil
	}
	path := s.Op.Path
	if !ok || !same(now, s.Op.Value) {
		if path, ok = movedTo(doc, s.Op); !ok {
			return nil, ErrBuiltOn
		}
	}
	if s.Inverse.Removes() { // it may also take away what was made on the way, and others use that now
		return []Op{{Path: path}}, nil
	}
	return []Op{s.Inverse}, nil
}

// same reports whether a value is written as raw says.
func same(v any, raw []byte) bool {
	other, err := Parse(raw)
	if err != nil {
		return false
	}
	a, err1 := Marshal(v)
	b, err2 := Marshal(other)
	return err1 == nil && err2 == nil && bytes.Equal(a, b)
}

// movedTo finds a member of a list without ids that has moved since it was put
// in.
func movedTo(doc *Object, op Op) (path string, ok bool) {
	parts, err := pointer(op.Path)
	if err != nil || len(parts) == 0 {
		return "", false
	}
	if _, err := strconv.Atoi(parts[len(parts)-1]); err != nil {
		return "", false
	}
	within := join(parts[:len(parts)-1])
	v, _ := Lookup(doc, within)
	list, _ := v.([]any)
	for i, m := range list {
		if same(m, op.Value) {
			return within + "/" + strconv.Itoa(i), true
		}
	}
	return "", false
}
