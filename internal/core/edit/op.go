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

// ErrGone means the operation is about a member of a list that is not there, any
// more or at all. It wraps [ErrPath].
var ErrGone = fmt.Errorf("%w: what it is about is not there any more", ErrPath)

// Op is one change: put Value at Path, or remove what is there when Value is
// null. Objects and lists missing on the way are made. A member of a list is named by its
// id, "@" and the id, so that it is found wherever it stands by then; by its
// position only where members have none. "-" as the last part of a path puts a
// new member in.
type Op struct {
	Path  string          `json:"path"`           // RFC 6901 JSON Pointer, never the root
	Value json.RawMessage `json:"value"`          // null removes
	Null  bool            `json:"null,omitempty"` // put an explicit null, which is not the same as nothing
	// Order, instead of Value, puts the members of the object at Path in this
	// order; members not named keep their place at the end.
	Order []string `json:"order,omitempty"`
	// Before names the member a new or moved one goes in front of ("@" and its id
	// in a list); without it, or when there is no such member, it goes last.
	Before string `json:"before,omitempty"`
	// Move, instead of Value, puts the member at Path in front of Before.
	Move bool `json:"move,omitempty"`
	// All, instead of everything else, are several changes made in order as one.
	All []Op `json:"all,omitempty"`
}

// Removes reports whether the operation takes something away.
func (o Op) Removes() bool {
	return len(o.Order) == 0 && len(o.All) == 0 && !o.Null && !o.Move && (len(o.Value) == 0 || string(o.Value) == "null")
}

// Done is an operation as it was made.
type Done struct {
	Op      Op       // with members of lists named by their ids
	Inverse Op       // what changes it back
	Paths   []string // what it touched, for [Overlap]
}

// Apply changes doc in place and returns the operation that changes it back.
func Apply(doc *Object, op Op) (inverse Op, err error) {
	d, err := Do(doc, op)
	return d.Inverse, err
}

// Do changes doc in place. When it fails the document is as it was.
func Do(doc *Object, op Op) (Done, error) {
	if len(op.All) > 0 {
		return doAll(doc, op.All)
	}
	parts, err := pointer(op.Path)
	if err != nil {
		return Done{}, fmt.Errorf("%w: %v", ErrPath, err)
	}
	if len(parts) == 0 || len(parts) > 16 {
		return Done{}, fmt.Errorf("%w: path %q: a document is never replaced whole", ErrPath, op.Path)
	}
	if len(op.Order) > 0 {
		return reorder(doc, op, parts)
	}
	c := change{op: op}
	if !op.Removes() && !op.Move && !op.Null {
		if c.value, err = Parse(op.Value); err != nil {
			return Done{}, fmt.Errorf("%w: value for %s: %v", ErrPath, op.Path, err)
		}
		if c.value == nil {
			return Done{}, fmt.Errorf("%w: value for %s: it is null", ErrPath, op.Path)
		}
	}
	w := walk{doc: doc, path: op.Path, make: !op.Removes() && !op.Move}
	parent, put, err := w.to(parts[:len(parts)-1])
	if err != nil {
		w.takeBack()
		if errors.Is(err, errNothing) {
			return Done{Op: op, Inverse: Op{Path: op.Path}, Paths: []string{op.Path}}, nil
		}
		return Done{}, err
	}
	last := parts[len(parts)-1]
	c.at = w.names
	switch p := parent.(type) {
	case *Object:
		err = c.inObject(p, last)
	case []any:
		err = c.inList(p, last, put)
	default:
		err = fmt.Errorf("%w: %s goes through a plain value", ErrPath, op.Path)
	}
	if err != nil {
		w.takeBack()
		return Done{}, err
	}
	c.op.Path = join(append(slices.Clone(w.names), c.name))
	touched := c.op.Path
	if w.made > 0 { // undoing also takes back what was made on the way
		c.inverse = Op{Path: join(w.names[:w.made])}
	}
	switch {
	case w.listed > 0: // somewhere in a list whose members have no ids
		touched = join(w.names[:w.listed])
	case c.whole:
		touched = join(w.names)
	}
	if c.op.Move {
		touched += orderMark
	}
	return Done{Op: c.op, Inverse: c.inverse, Paths: []string{touched}}, nil
}

// orderMark ends the path of a change of order: it touches the place of a member,
// not what is in it. No JSON Pointer has such a part.
const orderMark = "/~order"

// doAll makes several changes as one; when one does not fit, those before it
// are taken back.
func doAll(doc *Object, list []Op) (Done, error) {
	var d Done
	for _, op := range list {
		one, err := Do(doc, op)
		if err != nil {
			if len(d.Inverse.All) > 0 {
				_, _ = Do(doc, d.Inverse)
			}
			return Done{}, err
		}
		d.Op.All = append(d.Op.All, one.Op)
		d.Inverse.All = slices.Insert(d.Inverse.All, 0, one.Inverse)
		d.Paths = append(d.Paths, one.Paths...)
	}
	return d, nil
}

// errNothing means there is nothing on the way to what is to be removed.
var errNothing = errors.New("nothing there")

// walk goes down a path and notes how it is written with ids.
type walk struct {
	doc    *Object
	path   string
	make   bool     // objects and lists that are missing on the way
	names  []string // the parts gone so far
	made   int      // how many parts there are up to the first that had to be made, 0 for none
	listed int      // how many parts there are up to the first list whose members have no ids, 0 for none
}

// to returns what stands at a path, and how a list there is written back.
func (w *walk) to(parts []string) (at any, put func(any), err error) {
	at, put = w.doc, func(any) {}
	for i, p := range parts {
		switch c := at.(type) {
		case *Object:
			next := c.Get(p)
			if next == nil {
				if !w.make {
					return nil, nil, errNothing
				}
				next = NewObject()
				if after := append(slices.Clone(parts), lastOf(w.path)); i+1 < len(after) && (after[i+1] == "-" || after[i+1] == "0" || strings.HasPrefix(after[i+1], "@")) {
					next = []any{}
				}
				c.Set(p, next)
				if w.made == 0 {
					w.made = i + 1
				}
			}
			put = func(v any) { c.Set(p, v) }
			at, w.names = next, append(w.names, p)
		case []any:
			n, name, err := member(c, p)
			if err == nil && n == len(c) && w.made > 0 { // a list that was just made
				c = append(c, NewObject())
				put(c)
			} else if err != nil || n == len(c) {
				return nil, nil, fmt.Errorf("%w: %s has no item %q", ErrGone, w.path, p)
			}
			if !strings.HasPrefix(name, "@") && w.listed == 0 {
				w.listed = i
			}
			put = func(v any) { c[n] = v }
			at, w.names = c[n], append(w.names, name)
		default:
			return nil, nil, fmt.Errorf("%w: %s goes through a plain value", ErrPath, w.path)
		}
	}
	return at, put, nil
}

func lastOf(path string) string { return path[strings.LastIndexByte(path, '/')+1:] }

// takeBack leaves no traces of what was made on the way.
func (w *walk) takeBack() {
	if w.made > 0 {
		_, _ = Do(w.doc, Op{Path: join(w.names[:min(w.made, len(w.names))])})
	}
}

// member finds a member of a list by "@id", by position (one past the end for a
// new one) or "-" (a new one), and says how it is named: by its id where it has
// one.
func member(list []any, part string) (n int, name string, err error) {
	if part == "-" {
		return len(list), "-", nil
	}
	if id, ok := strings.CutPrefix(part, "@"); ok {
		n := slices.IndexFunc(list, func(v any) bool { return idOf(v) == id })
		if n < 0 || id == "" {
			return len(list), part, ErrGone
		}
		return n, part, nil
	}
	n, err = strconv.Atoi(part)
	if err != nil || n < 0 || n > len(list) || part != strconv.Itoa(n) {
		return 0, part, fmt.Errorf("%w: the list has %d items", ErrGone, len(list))
	}
	if n < len(list) {
		if id := idOf(list[n]); id != "" {
			return n, "@" + id, nil
		}
	}
	return n, part, nil
}

// idOf is the id of a member of a list, "" for none.
func idOf(v any) string {
	o, _ := v.(*Object)
	id, _ := o.Get("id").(string)
	return id
}

// change is an operation at the place it is about.
type change struct {
	op      Op
	value   any
	at      []string // the way there
	name    string   // of the member, by its id in a list
	whole   bool     // it touches the list as a whole
	inverse Op
}

func (c *change) path() string { return join(append(slices.Clone(c.at), c.name)) }

// old makes the inverse put a value back.
func (c *change) old(v any) error {
	if v == nil {
		c.inverse.Null = true
		return nil
	}
	data, err := Marshal(v)
	c.inverse.Value = data
	return err
}

func (c *change) inObject(o *Object, key string) error {
	c.name = key
	c.inverse = Op{Path: c.path()}
	was, had := o.values[key]
	next := ""
	if i := slices.Index(o.keys, key); i >= 0 && i+1 < len(o.keys) {
		next = o.keys[i+1]
	}
	if c.op.Move {
		if !had {
			return fmt.Errorf("%w: %s is not there", ErrGone, c.op.Path)
		}
		c.inverse.Move, c.inverse.Before = true, next
		o.Delete(key)
		o.insert(key, was, c.op.Before)
		return nil
	}
	if had {
		if err := c.old(was); err != nil {
			return err
		}
	}
	switch {
	case c.op.Removes():
		c.inverse.Before = next
		o.Delete(key)
	case c.op.Before != "":
		o.insert(key, c.value, c.op.Before)
	default:
		o.Set(key, c.value)
	}
	return nil
}

func (c *change) inList(list []any, part string, put func(any)) error {
	n, name, err := member(list, part)
	if err != nil && (!errors.Is(err, ErrGone) || !strings.HasPrefix(part, "@")) {
		return fmt.Errorf("%w: %s: the list has %d items", err, c.op.Path, len(list))
	}
	there := n < len(list)
	if !there {
		if name, err = c.newName(list, part); err != nil {
			return err
		}
	}
	c.name = name
	byID := strings.HasPrefix(name, "@")
	c.inverse = Op{Path: c.path()}
	// next is what stands behind the member, for putting it back
	next := ""
	if there && n+1 < len(list) {
		if next = idOf(list[n+1]); next != "" {
			next = "@" + next
		}
	}
	rest := func() []any { return append(append([]any{}, list[:n]...), list[n+1:]...) }
	switch {
	case c.op.Move && (!there || !byID):
		return fmt.Errorf("%w: %s is no member that could be moved", ErrGone, c.op.Path)
	case c.op.Move:
		c.inverse.Move, c.inverse.Before = true, next
		put(place(rest(), list[n], c.op.Before))
	case c.op.Removes() && !there:
	case c.op.Removes() && byID:
		c.inverse.Before = next
		if err := c.old(list[n]); err != nil {
			return err
		}
		put(rest())
	case c.op.Removes():
		// taking an item out moves the others, so the inverse is the list as it was
		c.whole = true
		c.inverse.Path = join(c.at)
		if c.inverse.Value, err = Marshal(list); err != nil {
			return err
		}
		put(rest())
	case there:
		if err := c.old(list[n]); err != nil {
			return err
		}
		if byID {
			if err := named(c.value, name); err != nil {
				return err
			}
		}
		c.whole = !byID
		list[n] = c.value
	default:
		if byID {
			if err := named(c.value, name); err != nil {
				return err
			}
		}
		c.whole = !byID
		put(place(slices.Clone(list), c.value, c.op.Before))
	}
	return nil
}

// newName is what a member that is put in is called.
func (c *change) newName(list []any, part string) (string, error) {
	if id, ok := strings.CutPrefix(part, "@"); ok {
		if id == "" || !validID(id) {
			return "", fmt.Errorf("%w: id %q: want 1 to 40 letters, digits, - and _", ErrPath, id)
		}
		return part, nil
	}
	if id := idOf(c.value); id != "" {
		if _, _, err := member(list, "@"+id); err == nil {
			return "", fmt.Errorf("%w: %s: the list has a member with the id %q", ErrPath, c.op.Path, id)
		}
		return "@" + id, nil
	}
	return strconv.Itoa(len(list)), nil
}

// named makes sure a member put in under an id carries it.
func named(v any, name string) error {
	o, ok := v.(*Object)
	if !ok {
		return fmt.Errorf("%w: a member with an id is an object", ErrPath)
	}
	o.Set("id", strings.TrimPrefix(name, "@"))
	return nil
}

// place puts a member in front of another, or last.
func place(list []any, v any, before string) []any {
	if before != "" && before != "-" {
		if n, _, err := member(list, before); err == nil {
			return slices.Insert(list, n, v)
		}
	}
	return append(list, v)
}

// join writes a JSON Pointer.
func join(parts []string) string {
	var b strings.Builder
	for _, p := range parts {
		b.WriteByte('/')
		b.WriteString(Escape(p))
	}
	return b.String()
}

func reorder(doc *Object, op Op, parts []string) (Done, error) {
	w := walk{doc: doc, path: op.Path}
	at, _, err := w.to(parts)
	o, ok := at.(*Object)
	if err != nil || !ok {
		return Done{}, fmt.Errorf("%w: %s is not an object to put in order", ErrPath, op.Path)
	}
	op.Path = join(w.names)
	inverse := Op{Path: op.Path, Order: slices.Clone(o.keys)}
	var keys []string
	taken := map[string]bool{}
	for _, k := range append(slices.Clone(op.Order), o.keys...) {
		if _, ok := o.values[k]; ok && !taken[k] {
			keys, taken[k] = append(keys, k), true
		}
	}
	o.keys = keys
	return Done{op, inverse, []string{op.Path + orderMark}}, nil
}

// Overlaps reports whether two paths touch the same part of a document: one is
// the other, or holds it. The empty path, of several changes as one, touches
// everything.
func Overlaps(a, b string) bool {
	return a == b || a == "" || b == "" || strings.HasPrefix(a, b+"/") || strings.HasPrefix(b, a+"/")
}

// Overlap finds a path of one change that touches what another one touched.
func Overlap(mine, theirs []string) (path string, ok bool) {
	for _, a := range mine {
		for _, b := range theirs {
			if Overlaps(a, b) {
				return strings.TrimSuffix(a, orderMark), true
			}
		}
	}
	return "", false
}
