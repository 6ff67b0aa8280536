package app

import (
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"

	"github.com/google/uuid"

	"aspenridge/internal/core/brand"
	"aspenridge/internal/core/edit"
	"aspenridge/internal/store"
)

// Ancestor is a kit another one follows, with the state it was read in.
type Ancestor struct {
	ID   ID
	Name string
	Seq  int64
}

// lineage is a kit document with everything it takes over.
type lineage struct {
	own    *edit.Object
	parent *edit.Object // as it stands, its own parents in it; nil for none
	whole  *edit.Object
	chain  []Ancestor // parent first
}

// joinParents joins a kit's document with its parents'. A parent that is gone is left
// out; a kit that would follow itself is refused with ErrInvalid.
func joinParents(ctx context.Context, read documents, id ID, own *edit.Object) (lineage, error) {
	s := lineage{own: own, whole: own}
	var docs []*edit.Object
	seen := []ID{id}
	for next := brand.Parent(own); next != ""; {
		pid, err := uuid.Parse(next)
		if err != nil {
			break // somebody else's way to name one
		}
		d, err := read.Document(ctx, pid)
		if errors.Is(err, ErrNotFound) {
			break
		}
		if err != nil {
			return s, err
		}
		if d.Kind != "kit" {
			break
		}
		if slices.Contains(seen, pid) {
			names := []string{}
			for _, c := range s.chain {
				names = append(names, orNew(c.Name))
			}
			return s, wrong(fmt.Errorf("%w: a kit cannot follow itself, not by way of %s either", ErrInvalid, strings.Join(names, ", ")))
		}
		if len(docs) == brand.MaxGenerations {
			return s, wrong(fmt.Errorf("%w: more than %d kits follow one another", ErrInvalid, brand.MaxGenerations))
		}
		doc, err := edit.ParseObject(d.Doc)
		if err != nil {
			return s, wrong(err)
		}
		seen, docs = append(seen, pid), append(docs, doc)
		s.chain = append(s.chain, Ancestor{pid, d.Name, d.Seq})
		next = brand.Parent(doc)
	}
	if len(docs) == 0 {
		return s, nil
	}
	s.parent = docs[len(docs)-1]
	for i := len(docs) - 2; i >= 0; i-- {
		s.parent = brand.Inherit(s.parent, docs[i])
	}
	s.whole = brand.Inherit(s.parent, own)
	return s, nil
}

// kit reads the document as it stands.
func (s lineage) kit() (*brand.Kit, error) {
	if s.parent != nil {
		return brand.ParseJoined(s.whole)
	}
	return brand.Parse(s.whole)
}

func orNew(name string) string {
	if name == "" {
		return "a new kit"
	}
	return name
}

// kitDocument reads a kit's document, as stored and as it stands.
func (a *house) kitDocument(ctx context.Context, m Member, id ID) (store.Document, lineage, error) {
	d, err := a.store.Document(ctx, m.Workspace, id)
	if err != nil {
		return d, lineage{}, err
	}
	if d.Kind != "kit" {
		return d, lineage{}, ErrNotFound
	}
	own, err := edit.ParseObject(d.Doc)
	if err != nil {
		return d, lineage{}, wrong(err)
	}
	s, err := joinParents(ctx, a.store.Reading(m.Workspace), id, own)
	return d, s, err
}

// Origin tells where an item of the kit comes from, by its path.
func (k *Kit) Origin(path string) brand.Origin {
	return brand.OriginOf(k.stands.parent, k.stands.own, path)
}

// Parent is the kit this one follows; ok is false for none.
func (k *Kit) Parent() (Ancestor, bool) {
	if len(k.stands.chain) == 0 {
		return Ancestor{}, false
	}
	return k.stands.chain[0], true
}

// Ancestors are the kits this one follows, parent first.
func (k *Kit) Ancestors() []Ancestor { return k.stands.chain }

// Stamp is another one whenever the kit or one it follows changes, and whenever it follows another:
// a hash of all of them and how far they have come, a whole number a page can hold (53 bits).
func (k *Kit) Stamp() int64 {
	h := fnv.New64a()
	fmt.Fprintf(h, "%s %d", k.ID, k.Seq)
	for _, p := range k.stands.chain {
		fmt.Fprintf(h, " %s %d", p.ID, p.Seq)
	}
	return int64(h.Sum64() >> 11)
}

// OwnFiles is how many items of a list of files (logos, fonts, pictures) are the
// kit's own; they come before the inherited ones.
func (k *Kit) OwnFiles(list string) int {
	items, _ := ownOf(k.stands.own).Get(list).([]any)
	return len(items)
}

// InheritedText is what a field of words says in the parent, by its path.
func (k *Kit) InheritedText(path string) string {
	v, _ := edit.Lookup(k.stands.parent, path)
	switch v := v.(type) {
	case string:
		return v
	case []any:
		var list []string
		for _, s := range v {
			list = append(list, fmt.Sprint(s))
		}
		return strings.Join(list, ", ")
	}
	return ""
}

// OwnText is what a field of words says in the kit itself, by its path.
func (k *Kit) OwnText(path string) string {
	_, own := edit.Lookup(k.stands.own, path)
	if !own {
		return ""
	}
	whole := Kit{stands: lineage{parent: k.stands.own}}
	return whole.InheritedText(path)
}

// Follow makes a kit follow another one, or nobody when parent is empty.
func (a Kits) Follow(ctx context.Context, m Member, kit ID, client, parent string) error {
	op := edit.Op{Path: "/$extensions/aspenridge/parent"}
	if parent != "" {
		id, err := uuid.Parse(parent)
		if err == nil {
			_, err = a.Kit(ctx, m, id)
		}
		if err != nil {
			return fmt.Errorf("%w: %q is no kit of this workspace", ErrInvalid, parent)
		}
		op.Value = raw(id)
	}
	_, err := a.documents.Edit(ctx, m, kit, Change{Client: client, Base: Latest, Op: op})
	return err
}

// LeaveOut takes an item out of a kit: one of its own is removed, which hands an
// overridden one back to the parent; an inherited one is not taken over any
// more. path is a JSON Pointer; items of a list of files are named by their file
// ([brand.FilePath]).
func (a Kits) LeaveOut(ctx context.Context, m Member, kit ID, c Change, path string) (int64, error) {
	k, err := a.Kit(ctx, m, kit)
	if err != nil {
		return 0, err
	}
	c.Op = edit.Op{Path: path}
	if k.Origin(path) == brand.Inherited || isFilePath(path) {
		c.Op = edit.Op{Path: "/$extensions/aspenridge/without/-", Value: raw(path)}
	}
	return a.documents.Edit(ctx, m, kit, c)
}

// isFilePath reports whether a path names an item of a list by its file.
func isFilePath(path string) bool {
	for _, list := range []string{"logos", "fonts", "pictures"} {
		if rest, ok := strings.CutPrefix(path, "/$extensions/aspenridge/"+list+"/"); ok {
			return strings.Contains(rest, "~1")
		}
	}
	return false
}

// CopyTo copies a palette, a logo or a type set of one kit into another, as its
// own: what is "color/<palette>", "logo/<id>" or "type/<set>".
func (a Kits) CopyTo(ctx context.Context, m Member, from, to ID, client, what string) error {
	k, err := a.Kit(ctx, m, from)
	if err != nil {
		return err
	}
	target, err := a.Kit(ctx, m, to)
	if err != nil {
		return err
	}
	kind, key, _ := strings.Cut(what, "/")
	var op edit.Op
	switch kind {
	case "color":
		group, _ := edit.Lookup(k.stands.whole, "/color/"+edit.Escape(key))
		i := slices.IndexFunc(k.Palettes, func(p brand.Palette) bool { return p.ID == key })
		if group == nil || i < 0 {
			return ErrNotFound
		}
		id := freeName(key, func(s string) bool {
			return slices.ContainsFunc(target.Palettes, func(p brand.Palette) bool { return p.ID == s })
		})
		if id != key { // say whose it was
			o, err := edit.ParseObject(raw(group))
			if err != nil {
				return err
			}
			ext, own := edit.NewObject(), edit.NewObject()
			own.Set("name", fmt.Sprintf("%s of %s", k.Palettes[i].Name, orNew(k.Name)))
			ext.Set("aspenridge", own)
			o.Set("$extensions", ext)
			group = o
		}
		op = edit.Op{Path: "/color/" + edit.Escape(id), Value: raw(group)}
	case "logo":
		n := slices.IndexFunc(k.Logos, func(l brand.Logo) bool { return l.ID == key })
		if n < 0 {
			return ErrNotFound
		}
		l := k.Logos[n]
		if slices.ContainsFunc(target.Logos, func(o brand.Logo) bool { return o.File == l.File }) {
			return fmt.Errorf("%w: %s has this logo already", ErrInvalid, orNew(target.Name))
		}
		op = edit.Op{Path: "/$extensions/aspenridge/logos/-", Value: raw(map[string]any{"file": l.File, "lockup": l.Lockup, "tone": l.Tone, "clearSpace": l.ClearSpace, "minWidth": l.MinWidth, "ownColours": l.OwnColours})}
	case "type":
		set := k.Kit.TypeSet(key)
		id := freeName(tokenName(set.Name), func(s string) bool {
			return slices.ContainsFunc(target.TypeSets, func(t brand.TypeSet) bool { return t.ID == s })
		})
		op = edit.Op{Path: brand.TypePath(id), Value: raw(brand.TypeSetGroup(set, set.Name))}
	default:
		return fmt.Errorf("%w: %q cannot be copied", ErrInvalid, what)
	}
	_, err = a.documents.Edit(ctx, m, to, Change{Client: client, Base: Latest, Op: op})
	return err
}
