package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// ErrPath is wrapped by errors about an operation that does not fit the
// document.
var ErrPath = errors.New("the change does not fit the document")

// Op is one change: put Value at Path, or remove what is there when Value is
// null. Putting at an index one past the end of a list, or at "-", appends;
// members missing on the way are made.
type Op struct {
	Path  string          `json:"path"`  // RFC 6901 JSON Pointer, never the root
	Value json.RawMessage `json:"value"` // null removes
	// Order, instead of Value, puts the members of the object at Path in this
	// order; members not named keep their place at the end.
	Order []string `json:"order,omitempty"`
	// Before names the member a new one goes in front of; without it, or when
	// there is no such member, it goes last.
	Before string `json:"before,omitempty"`
	// All, instead of everything else, are several changes made in order as one.
	All []Op `json:"all,omitempty"`
}

// Removes reports whether the operation takes something away.
func (o Op) Removes() bool {
	return len(o.Order) == 0 && len(o.All) == 0 && (len(o.Value) == 0 || string(o.Value) == "null")
}

// Apply changes doc in place and returns the operation that changes it back.
func Apply(doc *Object, op Op) (inverse Op, err error) {
	if len(op.All) > 0 {
		return applyAll(doc, op.All)
	}
	parts, err := pointer(op.Path)
	if err != nil {
		return Op{}, fmt.Errorf("%w: %v", ErrPath, err)
	}
	if len(parts) == 0 || len(parts) > 16 {
		return Op{}, fmt.Errorf("%w: path %q: a document is never replaced whole", ErrPath, op.Path)
	}
	if len(op.Order) > 0 {
		return reorder(doc, op)
	}
	var value any
	if !op.Removes() {
		if value, err = Parse(op.Value); err != nil {
			return Op{}, fmt.Errorf("%w: value for %s: %v", ErrPath, op.Path, err)
		}
	}
	// walk to the parent; put is how a changed list is written back
	var at any = doc
	put := func(any) {}
	made := 0 // how many parts of the path there are up to the first that had to be made
	fail := func(err error) (Op, error) {
		if made > 0 {
			_, _ = Apply(doc, Op{Path: "/" + strings.Join(escaped(parts[:made]), "/")}) // leave no traces
		}
		return Op{}, err
	}
	for i, p := range parts[:len(parts)-1] {
		switch c := at.(type) {
		case *Object:
			next := c.Get(p)
			if next == nil {
				if op.Removes() {
					return Op{Path: op.Path}, nil
				}
				if i+1 < len(parts) && (parts[i+1] == "-" || parts[i+1] == "0") {
					next = []any{}
				} else {
					next = NewObject()
				}
				c.Set(p, next)
				if made == 0 {
					made = i + 1
				}
			}
			put = func(v any) { c.Set(p, v) }
			at = next
		case []any:
			n, err := strconv.Atoi(p)
			if err != nil || n < 0 || n > len(c) || (n == len(c) && op.Removes()) {
				return fail(fmt.Errorf("%w: %s has no item %q", ErrPath, op.Path, p))
			}
			if n == len(c) {
				c = append(c, NewObject())
				put(c)
				if made == 0 {
					made = i + 1
				}
			}
			put = func(v any) { c[n] = v }
			at = c[n]
		default:
			return fail(fmt.Errorf("%w: %s goes through a plain value", ErrPath, op.Path))
		}
	}
	last := parts[len(parts)-1]
	inverse = Op{Path: op.Path}
	switch c := at.(type) {
	case *Object:
		if old, ok := c.values[last]; ok {
			if inverse.Value, err = Marshal(old); err != nil {
				return Op{}, err
			}
		}
		switch {
		case op.Removes():
			if i := slices.Index(c.keys, last); i >= 0 && i+1 < len(c.keys) {
				inverse.Before = c.keys[i+1]
			}
			c.Delete(last)
		case op.Before != "":
			c.insert(last, value, op.Before)
		default:
			c.Set(last, value)
		}
	case []any:
		n := len(c)
		if last != "-" {
			if n, err = strconv.Atoi(last); err != nil || n < 0 || n > len(c) {
				return fail(fmt.Errorf("%w: %s: the list has %d items", ErrPath, op.Path, len(c)))
			}
		}
		inverse.Path = strings.TrimSuffix(op.Path, last) + strconv.Itoa(n)
		switch {
		case n == len(c) && op.Removes():
			return inverse, nil
		case n == len(c):
			put(append(c, value))
		case op.Removes():
			// taking an item out moves the others, so the inverse is the list as it was
			inverse.Path = strings.TrimSuffix(op.Path, "/"+last)
			if inverse.Value, err = Marshal(c); err != nil {
				return Op{}, err
			}
			put(append(append([]any{}, c[:n]...), c[n+1:]...))
		default:
			if inverse.Value, err = Marshal(c[n]); err != nil {
				return Op{}, err
			}
			c[n] = value
		}
	default:
		return fail(fmt.Errorf("%w: %s goes through a plain value", ErrPath, op.Path))
	}
	if made > 0 { // undoing also takes back what was made on the way
		inverse = Op{Path: "/" + strings.Join(escaped(parts[:made]), "/")}
	}
	return inverse, nil
}

// applyAll makes several changes as one; when one does not fit, those before it
// are taken back.
func applyAll(doc *Object, list []Op) (inverse Op, err error) {
	for _, op := range list {
		back, err := Apply(doc, op)
		if err != nil {
			if len(inverse.All) > 0 {
				_, _ = Apply(doc, inverse)
			}
			return Op{}, err
		}
		inverse.All = slices.Insert(inverse.All, 0, back)
	}
	return inverse, nil
}

func escaped(parts []string) []string {
	out := make([]string, len(parts))
	for i, p := range parts {
		out[i] = Escape(p)
	}
	return out
}

func reorder(doc *Object, op Op) (Op, error) {
	v, _ := Lookup(doc, op.Path)
	o, ok := v.(*Object)
	if !ok {
		return Op{}, fmt.Errorf("%w: %s is not an object to put in order", ErrPath, op.Path)
	}
	inverse := Op{Path: op.Path, Order: append([]string{}, o.keys...)}
	var keys []string
	taken := map[string]bool{}
	for _, k := range append(append([]string{}, op.Order...), o.keys...) {
		if _, ok := o.values[k]; ok && !taken[k] {
			keys, taken[k] = append(keys, k), true
		}
	}
	o.keys = keys
	return inverse, nil
}

// Overlaps reports whether two paths touch the same part of a document: one is
// the other, or holds it. The empty path, of several changes as one, touches
// everything.
func Overlaps(a, b string) bool {
	return a == b || a == "" || b == "" || strings.HasPrefix(a, b+"/") || strings.HasPrefix(b, a+"/")
}
