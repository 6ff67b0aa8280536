package edit

import (
	"fmt"
	"slices"
	"strings"
)

// Lists names the lists of a kind of document whose members have ids, as
// patterns of paths in which "*" stands for a member: "/cards/*/pictures".
type Lists []string

// Identify gives every member of the lists that has no id, or one another
// member has already, an id of next. It reports whether there was any.
func (l Lists) Identify(doc *Object, next func() string) (changed bool) {
	return l.identify(doc, "", next)
}

// identify walks a value that stands at a place, written as a pattern.
func (l Lists) identify(v any, at string, next func() string) (changed bool) {
	switch v := v.(type) {
	case *Object:
		for _, k := range v.Keys() {
			if under := at + "/" + Escape(k); l.holds(under) {
				changed = l.identify(v.Get(k), under, next) || changed
			}
		}
	case []any:
		have := map[string]bool{}
		for _, m := range v {
			if o, ok := m.(*Object); ok && slices.Contains(l, at) {
				if id := idOf(o); id == "" || have[id] || !validID(id) {
					o.Set("id", next())
					changed = true
				}
				have[idOf(o)] = true
			}
			changed = l.identify(m, at+"/*", next) || changed
		}
	}
	return changed
}

// validID keeps ids to what a path can hold without escapes.
func validID(id string) bool {
	for _, r := range id {
		if (r < 'a' || r > 'z') && (r < 'A' || r > 'Z') && (r < '0' || r > '9') && r != '-' && r != '_' {
			return false
		}
	}
	return len(id) <= 40
}

// holds reports whether a place is one of the lists, or on the way to one.
func (l Lists) holds(at string) bool {
	return slices.ContainsFunc(l, func(p string) bool { return p == at || strings.HasPrefix(p, at+"/") })
}

// Prepare gives the members an operation puts in their ids, so that it says what
// it does once and for all.
func (l Lists) Prepare(op Op, next func() string) (Op, error) {
	if len(op.All) > 0 {
		all := make([]Op, len(op.All))
		for i, o := range op.All {
			var err error
			if all[i], err = l.Prepare(o, next); err != nil {
				return op, err
			}
		}
		op.All = all
		return op, nil
	}
	if op.Removes() || len(op.Order) > 0 || op.Move || op.Null {
		return op, nil
	}
	parts, err := pointer(op.Path)
	if err != nil {
		return op, fmt.Errorf("%w: %v", ErrPath, err)
	}
	if len(parts) == 0 {
		return op, fmt.Errorf("%w: path %q: a document is never replaced whole", ErrPath, op.Path)
	}
	at := ""
	for i, p := range parts {
		if slices.Contains(l, at) {
			if id, ok := strings.CutPrefix(p, "@"); ok && !validID(id) {
				return op, fmt.Errorf("%w: id %q: want up to 40 letters, digits, - and _", ErrPath, id)
			}
			at += "/*"
		} else {
			at += "/" + Escape(p)
		}
		if !l.holds(at) && !(i+1 == len(parts) && strings.HasSuffix(at, "/*")) {
			return op, nil
		}
	}
	v, err := Parse(op.Value)
	if err != nil {
		return op, fmt.Errorf("%w: value for %s: %v", ErrPath, op.Path, err)
	}
	changed := false
	if o, ok := v.(*Object); ok && parts[len(parts)-1] == "-" && strings.HasSuffix(at, "/*") && !validOrNone(o) {
		o.Set("id", next())
		changed = true
	}
	if l.identify(v, at, next) || changed {
		op.Value, err = Marshal(v)
	}
	return op, err
}

func validOrNone(o *Object) bool { id := idOf(o); return id != "" && validID(id) }
