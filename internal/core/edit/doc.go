// Package edit holds documents as ordered JSON trees and the operations that
// change them. A kit or a brief is never written whole: every change is an
// [Op] on one path, with an inverse, so it can be undone, merged with another
// person's change elsewhere in the document, and replayed after a crash.
//
// Objects keep the order of their members, since order counts in a kit, and
// members nobody here knows about are carried along untouched.
package edit

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"reflect"
	"slices"
	"strings"
)

// Object is a JSON object that keeps the order of its members.
type Object struct {
	keys   []string
	values map[string]any
}

// NewObject makes an empty object.
func NewObject() *Object { return &Object{values: map[string]any{}} }

// Keys lists the members in order.
func (o *Object) Keys() []string { return o.keys }

// Get returns a member, nil when absent. A nil object has no members.
func (o *Object) Get(key string) any {
	if o == nil {
		return nil
	}
	return o.values[key]
}

// Object returns a member that is an object, else nil.
func (o *Object) Object(key string) *Object { c, _ := o.Get(key).(*Object); return c }

// insert sets a member, a new one in front of another.
func (o *Object) insert(key string, v any, before string) {
	_, had := o.values[key]
	o.Set(key, v)
	if at := slices.Index(o.keys, before); !had && at >= 0 && before != key {
		o.keys = slices.Insert(o.keys[:len(o.keys)-1], at, key)
	}
}

// Set adds or replaces a member.
func (o *Object) Set(key string, v any) {
	if _, ok := o.values[key]; !ok {
		o.keys = append(o.keys, key)
	}
	o.values[key] = v
}

// Delete removes a member.
func (o *Object) Delete(key string) {
	delete(o.values, key)
	for i, k := range o.keys {
		if k == key {
			o.keys = append(o.keys[:i:i], o.keys[i+1:]...)
			return
		}
	}
}

// MarshalJSON writes the members in order.
func (o *Object) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	b.WriteByte('{')
	for i, k := range o.keys {
		if i > 0 {
			b.WriteByte(',')
		}
		key, err := marshal(k)
		if err != nil {
			return nil, err
		}
		val, err := marshal(o.values[k])
		if err != nil {
			return nil, err
		}
		b.Write(key)
		b.WriteByte(':')
		b.Write(val)
	}
	b.WriteByte('}')
	return b.Bytes(), nil
}

func marshal(v any) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(v); err != nil {
		return nil, err
	}
	return bytes.TrimRight(b.Bytes(), "\n"), nil
}

// Marshal writes a tree as compact JSON, characters as they are.
func Marshal(v any) ([]byte, error) { return marshal(v) }

const (
	maxDepth = 64
	// deepest is how deep even a document that is too deep is read, to mend it.
	deepest = 1000
	// MaxBytes is the largest document that is read.
	MaxBytes = 4 << 20
)

// Parse reads JSON into nil, bool, json.Number, string, []any and [*Object].
// Syntax errors name the line.
func Parse(data []byte) (any, error) { return parseTo(data, maxDepth) }

// ParseDeep is [ParseObject] for a document that may be nested deeper than is
// taken, to mend it.
func ParseDeep(data []byte) (*Object, error) {
	v, err := parseTo(data, deepest)
	if err != nil {
		return nil, err
	}
	o, ok := v.(*Object)
	if !ok {
		return nil, fmt.Errorf("want a JSON object at the top")
	}
	return o, nil
}

func parseTo(data []byte, depth int) (any, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("document of %d bytes: at most %d", len(data), MaxBytes)
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.UseNumber()
	v, err := parse(dec, depth)
	if err == nil {
		if _, more := dec.Token(); more != io.EOF {
			err = fmt.Errorf("something follows the document")
		}
	}
	if err != nil {
		line := 1 + bytes.Count(data[:min(int(dec.InputOffset()), len(data))], []byte("\n"))
		if err == io.EOF || err == io.ErrUnexpectedEOF {
			err = fmt.Errorf("it ends too early")
		}
		return nil, fmt.Errorf("not JSON, line %d: %v", line, err)
	}
	return v, nil
}

// ParseObject is [Parse] for a document that must be an object.
func ParseObject(data []byte) (*Object, error) {
	v, err := Parse(data)
	if err != nil {
		return nil, err
	}
	o, ok := v.(*Object)
	if !ok {
		return nil, fmt.Errorf("want a JSON object at the top")
	}
	return o, nil
}

// parse reads a value that may be nested depth levels deep.
func parse(dec *json.Decoder, depth int) (any, error) {
	if depth < 0 {
		return nil, fmt.Errorf("nested deeper than is taken (%d levels)", maxDepth)
	}
	t, err := dec.Token()
	if err != nil {
		return nil, err
	}
	switch t {
	case json.Delim('{'):
		o := NewObject()
		for dec.More() {
			k, err := dec.Token()
			if err != nil {
				return nil, err
			}
			v, err := parse(dec, depth-1)
			if err != nil {
				return nil, err
			}
			o.Set(k.(string), v)
		}
		_, err = dec.Token()
		return o, err
	case json.Delim('['):
		list := []any{}
		for dec.More() {
			v, err := parse(dec, depth-1)
			if err != nil {
				return nil, err
			}
			list = append(list, v)
		}
		_, err = dec.Token()
		return list, err
	}
	return t, nil
}

// Decode copies a tree into a typed value through JSON. Lists that are to have so many members
// have them, see [Fits].
func Decode(v any, into any) error {
	data, err := marshal(v)
	if err != nil {
		return err
	}
	if err := json.Unmarshal(data, into); err != nil {
		return err
	}
	return Fits(v, into)
}

// Fits refuses a tree with a list of another length than the array it is read into:
// encoding/json fills up what is missing with zeros and drops what is too much, without a word.
func Fits(v any, into any) error { return fits(v, reflect.TypeOf(into), "") }

var readsItself = reflect.TypeFor[json.Unmarshaler]()

func fits(v any, t reflect.Type, at string) error {
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if reflect.PointerTo(t).Implements(readsItself) {
		return nil
	}
	switch v := v.(type) {
	case []any:
		if t.Kind() == reflect.Array && t.Len() != len(v) {
			return fmt.Errorf("%s has %d members, want %d", strings.TrimPrefix(at, "."), len(v), t.Len())
		}
		if t.Kind() != reflect.Array && t.Kind() != reflect.Slice {
			return nil
		}
		for i, item := range v {
			if err := fits(item, t.Elem(), fmt.Sprintf("%s[%d]", at, i)); err != nil {
				return err
			}
		}
	case *Object:
		switch t.Kind() {
		case reflect.Map:
			for _, k := range v.Keys() {
				if err := fits(v.Get(k), t.Elem(), at+"."+k); err != nil {
					return err
				}
			}
		case reflect.Struct:
			for i := range t.NumField() {
				f := t.Field(i)
				name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
				inside, path := any(v), at
				if !f.Anonymous || name != "" {
					if name == "" {
						name = f.Name
					}
					inside, path = v.Get(name), at+"."+name
				}
				if err := fits(inside, f.Type, path); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// pointer splits an RFC 6901 JSON Pointer.
func pointer(path string) ([]string, error) {
	if path == "" {
		return nil, nil
	}
	if path[0] != '/' {
		return nil, fmt.Errorf("path %q: want a JSON Pointer beginning with /", path)
	}
	parts := strings.Split(path[1:], "/")
	for i, p := range parts {
		parts[i] = strings.ReplaceAll(strings.ReplaceAll(p, "~1", "/"), "~0", "~")
	}
	return parts, nil
}

// Escape makes a member name safe inside a JSON Pointer.
func Escape(key string) string {
	return strings.ReplaceAll(strings.ReplaceAll(key, "~", "~0"), "/", "~1")
}

// Lookup finds the value at a path.
func Lookup(doc any, path string) (any, bool) {
	parts, err := pointer(path)
	if err != nil {
		return nil, false
	}
	for _, p := range parts {
		switch at := doc.(type) {
		case *Object:
			if at == nil {
				return nil, false
			}
			v, ok := at.values[p]
			if !ok {
				return nil, false
			}
			doc = v
		case []any:
			n, _, err := member(at, p)
			if err != nil || n >= len(at) {
				return nil, false
			}
			doc = at[n]
		default:
			return nil, false
		}
	}
	return doc, true
}
